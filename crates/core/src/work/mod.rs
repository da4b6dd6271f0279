//! Work: what raises it ([`source`]), [`raising`] it, its [`states`], the [`moves`] between them and [`moving`] it, what [`closing`] needs, how long it may stand in a state
//! ([`state_limits`]) and by when it is to be done ([`windows`]), and what is spent on it ([`entries`]).

mod closing;
pub mod entries;
mod moves;
mod moving;
mod raising;
mod source;
mod state_limits;
mod states;
#[cfg(test)]
mod tests;
mod windows;

pub use closing::{NotClosable, asks_for_failure, check_close};
pub use moves::{Ask, AskField, MoveRefused, Mover, OfferedMove, asks, check_move, may_start_in, moves, offered};
pub use moving::{CheckedMove, MovedFrom, ReadingAfter, StateMove};
pub use raising::{NewWork, WorkChange};
pub use source::{RungEntered, SourceWord, WorkSource};
pub use state_limits::{InState, StateLimit};
pub use states::{Verdict, WaitingFor, WorkKind, WorkState};
pub use windows::RankWindows;
