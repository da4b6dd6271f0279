//! Alarms: what a reading sets off ([`set_off`]) and what an entered rung does ([`answer`], in its [`situation`], with what is
//! [`said`]); again when it is due ([`again`], [`repairs`]), anew when readings were corrected ([`remake`], [`late`]); meters
//! that fall silent ([`silence`]), what people do about them ([`acknowledge`], [`shelves`], [`out_of_use`]), the list
//! ([`list`], [`now`]) and how well it all does ([`performance`]).

mod acknowledge;
mod again;
mod answer;
mod late;
mod list;
mod now;
mod out_of_use;
pub mod performance;
mod remake;
mod repairs;
mod said;
mod set_off;
mod shelves;
mod silence;
mod situation;
mod subject;

pub use acknowledge::{acknowledge, take_back};
pub use again::{answer_due, next_due};
pub(crate) use again::{before as answer_before, work_moved};
pub use late::{Judgement, LateKind, LateRow, judge_late, late, note_late};
pub(crate) use list::of_work;
pub use list::{AlarmRow, EarlierAnswer, of_meter, standing};
pub use now::{AlarmsNow, Show, ShowCounts, now};
pub use out_of_use::{OutOfUseRow, back_in_use, out_of_use, put_out_of_use};
pub(crate) use remake::{Cause, remake};
pub use remake::{end_retired, retired_stand};
pub(crate) use repairs::waiting_meters;
pub use repairs::{RepairRow, WaitingMeter};
pub(crate) use set_off::set_off;
pub(crate) use shelves::shelf_of;
pub use shelves::{ShelfRow, shelve, unshelve};
pub(crate) use silence::heard as silence_heard;
pub use silence::{fell_silent, note_silence};
