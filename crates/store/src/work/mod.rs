//! Work orders: raising and changing them, where they stand and moving them between states, listing them, one on its page
//! with its [`history`], what it is linked to ([`links`]) and whether it was reported again ([`occurrences`]), and the job sheet it follows
//! ([`job_sheets`]) with its [`parts`] and the [`checks`] to be filled in, what stands with it ([`attachments`]), what people say about it ([`comments`]), what is [`missing`] before it is closed, and what is spent on it ([`entries`], [`running_time`]) and [`bought`] for it; [`decisions`] on risk, and what ends those to [`run_on`]; the [`week`] of all crews, a [`shift`] of one, with what is [`taken_along`] from it,
//! work that recurs ([`upkeep`]), what calendar programs read ([`feeds`]), and work as
//! a [`file`].

mod already;
pub mod attachments;
pub mod bought;
pub mod checks;
pub mod comments;
mod current;
pub mod decisions;
mod detail;
pub mod entries;
pub mod feeds;
pub mod file;
pub mod history;
pub mod job_sheets;
pub mod links;
mod list;
mod missing;
mod moves;
pub mod occurrences;
mod parts;
mod raise;
pub(crate) mod run_on;
pub mod running_time;
mod several;
mod sheets;
pub mod shift;
pub mod taken_along;
pub mod upkeep;
pub mod week;

pub use already::{AlreadyRaised, AlreadyRow, already_raised};
pub(crate) use current::{Current, state};
pub use current::{WorkStanding, standing};
pub use detail::{WorkCycle, WorkDetail, WorkSpan, WorkWhy, beside_meter, detail};
pub use list::{Facets, Filter, Page, SortBy, Totals, WorkPage, WorkRow, list};
pub use missing::MissingRow;
pub use moves::set_state;
pub use parts::{SparePart, WorkPart, find as find_parts, move_part};
pub(crate) use raise::{Draft, escalate, insert};
pub use raise::{change, raise, raise_on_each};
pub use several::{SeveralDone, SeveralRow, put_back, several};
