//! Check sheets: the [`sheets`] with their versions and [`pictures`], those [`of_work`], what is [`asked`] and answered of one, and
//! finishing it ([`finish`]): readings go to their meters, answers raise work.

mod asked;
mod finish;
mod meters;
mod of_work;
mod pictures;
mod sheets;

pub use asked::{Answering, AskedQuestion, CheckView, EarlierNumber, answer, file_of, view};
pub use finish::{FinishedCheck, finish};
pub use meters::AskedMeter;
pub(super) use meters::to_read;
pub use of_work::{NewCheck, RecommendedSheet, WorkCheck, add, leave_out, to_fill_in};
pub(super) use of_work::{forget_of_job, not_answered, of_job, of_work, recommended};
pub use pictures::picture_of;
pub(super) use sheets::require_sheet;
pub use sheets::{CheckSheetRow, CheckSheetView, list, put, questions, sheet};
