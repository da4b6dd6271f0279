//! Limit ladders: what is set ([`ladder`]), when a rung is entered and left ([`machine`]), what that sets off
//! ([`respond`]), how it is said ([`words`]), and what it would have done in the past ([`replay`]).

pub mod ladder;
pub mod machine;
pub mod replay;
pub mod respond;
pub mod words;

pub use ladder::{Ladder, LadderError, RaiseIntervalOf, Response, ResponseKind, Rung, RungSide};
pub use machine::{Change, Machine, RungState, Transition};
pub use respond::{Decision, HeldBy, Situation, respond};
