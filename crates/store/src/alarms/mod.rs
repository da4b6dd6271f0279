//! Alarms: what entered and left rungs set off ([`respond`]), again when it is due ([`again`]), anew when readings were
//! corrected ([`remake`]); meters that fall silent ([`silence`]), what people do about them ([`act_on`], [`shelves`],
//! [`out_of_use`]), the list ([`list`]) and how well it all does ([`performance`]).

mod act_on;
mod again;
mod list;
mod out_of_use;
pub mod performance;
mod remake;
mod respond;
mod shelves;
mod silence;

pub use act_on::{Judgement, LateKind, LateRow, acknowledge, judge_late, late, note_late, take_back};
pub use again::{answer_due, next_due};
pub use list::{
    AlarmKind, AlarmRow, AlarmsNow, EarlierAnswer, RepairRow, Show, ShowCounts, WaitingMeter, now, of_meter, standing,
};
pub use out_of_use::{NewOutOfUse, OutOfUseRow, back_in_use, out_of_use, put_out_of_use};
pub use remake::{end_retired, retired_stand};
pub use respond::ResponseGiven;
pub use shelves::{NewShelf, ShelfRow, shelve, unshelve};
pub use silence::{fell_silent, note_silence};

pub(crate) use again::{awaits_reading, before as answer_before, work_moved};
pub(crate) use list::{of_work, waiting_meters};
pub(crate) use remake::{Cause, remake};
pub(crate) use respond::set_off;
pub(crate) use shelves::shelf_of;
pub(crate) use silence::{heard as silence_heard, stands as silence_stands};
