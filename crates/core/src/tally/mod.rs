//! The tally: indicators for any asset in any period, over a snapshot of facts held in memory.
//!
//! A [`Snapshot`](crate::facts::Snapshot) holds tree, calendars and facts in columns. [`measures`] go over their rows once and say
//! of each what it adds where; [`slots`] know for which rows of an answer that counts; a [`formula`] says which of the sums an
//! indicator is, and how they are [`combined`]. [`figures`] are those for many assets at once, and [`why`] shows the rows behind
//! one, by the same measures. [`Places`] are the rows of a tally, of which [`figures_of`] and [`why_of`] give the same, maybe
//! [held](held) to some work and some assets.
//!
//! Over the same measures: what [`changed`] between two periods, the [`backlog`], a [`timeline`] of downtime, [`headlines`], a
//! year's [`forecast`], and a [`ranking`] of all assets.
//!
//! To add an indicator: its name in [`indicators::Indicator`], its entry with formula and source in
//! [`indicators::CATALOGUE`]; what no term adds up yet is a new [measure](measures::Measure).

mod backlog;
mod changed;
mod combined;
mod dimension;
mod figures;
mod forecast;
mod formula;
mod headlines;
mod held;
pub mod indicators;
mod measures;
mod of_work;
mod passes;
mod places;
mod question;
mod ranking;
mod required;
mod required_days;
mod set;
mod slots;
#[cfg(test)]
mod tests;
mod timeline;
mod times;
mod traced_rows;
mod why;

pub use backlog::{Backlog, BacklogAt, BacklogCut, BacklogGroup, HeldBack, backlog};
pub use changed::{Change, ChangeOf, ChangePart, changed};
pub use dimension::Dimension;
pub use figures::{figures, figures_held, figures_of, figures_of_each, values};
pub use forecast::{Forecast, PastYear, forecast};
pub use headlines::{Headline, HeadlineKind, RunsOn, VerdictOn, has_no_date, headlines};
pub use held::{Held, HeldTo};
pub use places::{Place, PlaceKind, Places, Scope, Way};
pub use question::Question;
pub use ranking::ranking;
pub use required_days::RequiredDays;
pub use timeline::{Lane, LongStop, Stop, StoppedBy, Timeline, timeline};
pub use why::{why, why_of};
