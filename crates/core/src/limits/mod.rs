//! Limit ladders: what is set ([`ladder`]), when a rung is entered and left ([`machine`]), what that sets off
//! ([`respond`]), and how it is said ([`words`]).

pub mod ladder;
pub mod machine;
pub mod respond;
pub mod words;

pub use ladder::{Ladder, LadderError, RaiseIntervalOf, Response, ResponseKind, Rung, RungSide};
pub use machine::{Change, Machine, RungState, Transition};
pub use respond::{Decision, HeldBy, Situation, respond};
