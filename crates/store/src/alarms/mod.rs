//! Alarms: what entered and left rungs set off ([`respond`]), again when it is due ([`again`]), meters that fall silent
//! ([`silence`]), what people do about them ([`act_on`], [`shelves`]), the list ([`list`]) and how well it all does
//! ([`performance`]).

mod act_on;
mod again;
mod list;
pub mod performance;
mod respond;
mod shelves;
mod silence;

pub use act_on::{Judgement, LateRow, acknowledge, judge_late, late, note_late};
pub use again::{answer_due, next_due};
pub use list::{AlarmKind, AlarmRow, AlarmsNow, EarlierAnswer, Show, ShowCounts, now, of_meter, standing};
pub use respond::ResponseGiven;
pub use shelves::{NewShelf, ShelfRow, shelve, unshelve};
pub use silence::{fell_silent, note_silence};

pub(crate) use again::work_moved;
pub(crate) use list::of_work;
pub(crate) use respond::set_off;
pub(crate) use shelves::shelf_of;
pub(crate) use silence::{heard as silence_heard, stands as silence_stands};
