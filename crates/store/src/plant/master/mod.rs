//! Master data as tables of text: one way in and out for files, for forms and for many at once.
//!
//! A [`Kind`] has [`columns`]. [`list`] shows its rows, [`take`] adds and changes them by code, all with what would become
//! of each line. A new column of an existing kind is one line in its module under `kinds/`.

mod columns;
mod forms;
mod given;
mod history;
mod kind;
mod kinds;
mod list;
mod pieces;
mod receipt;
mod take;

pub use columns::Column;
pub(crate) use forms::Writing;
pub use forms::{Form, money_text};
pub use given::{Given, GivenRow};
pub use history::{AskedChanges, ChangeRow, history};
pub use kind::Kind;
pub use kinds::columns;
pub use list::{Facet, MasterPage, MasterRow, Query, export, list};
pub use pieces::{InPieces, Watch, whole};
pub use receipt::{FieldChange, FieldReason, MOST_REFUSED, MasterReceipt, Outcome, RowReport};
pub use take::{Taking, take};
