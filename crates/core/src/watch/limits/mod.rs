//! Limit ladders: what is set ([`ladder`], [`rung`] and [`response`]), when a rung is entered and left ([`machine`]) and how far that
//! is ([`distance`]), what that sets off
//! ([`respond`]) and when it does so again ([`again`]), how it is said
//! ([`words`]), what it would have done in the past ([`replay`]), judged by [`warnings`] in a sentence ([`verdict`]), and how
//! that is drawn ([`stretches`]), for many meters at once ([`family`]), where a setpoint might stand ([`proposals`], [`finder`]), when it will be reached
//! ([`forecast`]), and what an edit begins with ([`edits`]).

pub mod again;
pub mod changes;
pub mod chatter;
pub mod distance;
pub mod edits;
pub mod family;
pub mod finder;
pub mod forecast;
pub mod ladder;
pub mod machine;
pub mod proposals;
pub mod replay;
pub mod respond;
pub mod response;
pub mod rung;
pub mod stretches;
pub mod verdict;
pub mod warnings;
pub mod words;

pub use again::{Waits, waits_for_a_reading};
pub use ladder::{Ladder, LadderError, RaiseIntervalOf, Suspension};
pub use machine::{Change, Machine, RungState, Transition};
pub use respond::{AfterFinish, Decision, HeldBy, OutOfUse, Part, Situation, parts, respond};
pub use response::{Does, Response, ResponseFields, ResponseKind, Told, WorkTemplate};
pub use rung::{Rung, RungError, RungFields, RungOn, Watched};

pub use crate::ground::side::RungSide;
