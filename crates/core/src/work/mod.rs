//! Work: what raises it ([`source`]), [`raising`] it, what is [`alike`], work [`arriving`] from elsewhere, and whether it is [`occurring`] again, its [`states`], the
//! [`moves`] between them and [`moving`] it, the same for [`several`], how long it stood in each ([`time_in_states`]) and may stand ([`state_limits`]), by when
//! it is to be done ([`windows`]), photos and papers that stand with it ([`attaching`]), who is [`away`], a [`week`] of it by crew and day, a [`shift`] of it on one line of time, what a job sheet says ([`job_sheets`]), how [`rounds`] are walked, and when its [`parts`] are there, where its [hours lie](shared_ms) that are left, what [`check_sheets`] ask, decisions on risk ([`deciding`]), what [`closing`] needs, time that runs while somebody works ([`running_time`]), what people say about it ([`commenting`]), and what is spent on it ([`entries`]).

mod alike;
mod arriving;
mod attaching;
mod away;
pub mod check_sheets;
mod closing;
mod commenting;
mod deciding;
pub mod entries;
mod job_sheets;
mod left_hours;
mod moves;
mod moving;
mod occurring;
mod parts;
pub mod plans;
mod raising;
pub mod rounds;
mod running_time;
mod several;
pub mod shift;
mod source;
mod state_limits;
mod states;
#[cfg(test)]
mod tests;
mod time_in_states;
pub mod week;
mod windows;

pub use alike::{Kin, Likeness, Other, RAISED_WITHIN_MS, most_alike};
pub use arriving::{WayDates, way_to};
pub use attaching::{Attaching, MOST_ATTACHED, NewAttachment, check_attach, may_detach};
pub use away::{Away, NoDays};
pub use closing::{NotClosable, ToClose, asks_for_failure, check_close, missing};
pub use commenting::{NewComment, is_colleague, may_comment};
pub use deciding::{NewRiskAnswer, NewWithdrawal, RiskAnswer, RunOnEnd, RunOnSince, is_overdue, may_answer};
pub use job_sheets::{JobPart, JobSheet, JobStep, MOST_STEPS};
pub use left_hours::shared_ms;
pub use moves::{
    Ask, AskField, AskedAbout, MoveRefused, Mover, MovesFrom, OfferedMove, asks, check_move, may_start_in, moves,
    offered, offered_ahead,
};
pub use moving::{CheckedMove, DroppedDowntime, MovedFrom, ReadingAfter, StateMove};
pub use occurring::{CheckedOccurrence, NewOccurrence};
pub use parts::{PartAction, PartMove, Shelf, Stock, There, all_there_on};
pub use raising::{Clearable, NewWork, WorkChange, check_hours, check_rank};
pub use running_time::{LONGEST_RUN_HOURS, NewHours, TimeChange, check_stop};
pub use several::{MOST_AT_ONCE, Placed, Several, WorkDifference};
pub use source::{CycleOf, RungEntered, SourceWord, WorkSource};
pub use state_limits::{InState, StateLimit, StateStep};
pub use states::{Verdict, WaitingFor, WorkKind, WorkState};
pub use time_in_states::{TimeInState, times_in_states};
pub use windows::RankWindows;
