//! What a replay is run over: a meter's readings, the failures it could see, and how long such work usually takes ([`load`]);
//! replays of one meter ([`one`]) and of many ([`many`]), settings that are tried ([`finder`]), what a baseline and a trend
//! speak for ([`outlook`]), and what it would have been worth ([`worth`]).

mod finder;
mod load;
mod many;
mod one;
mod outlook;
mod worth;

pub use finder::{FinderAsked, FinderView, Tried, finder};
pub use load::{JudgedBy, ProblemCount, UsualWork};
pub use many::{ManyReplay, MeterReplay};
pub(crate) use many::{Member, find_many, of_many};
pub use one::{FailureView, ReplayView, of_meter};
pub use outlook::{ForecastView, MeterForecast, ProposalsAsked, ProposalsView, forecast, proposals};
pub(crate) use outlook::{forecast_many, proposals_of_many};
