//! Text files from other programs: which signs a file uses, and what its cells mean.
//!
//! [`Table`] reads a file with a head line, row by row; [`number`], [`instant`] and [`duration`] read a cell.

mod cells;
mod guard;
mod table;

pub use cells::{CellError, Decimal, duration, duration_text, instant, number};
pub use guard::{CsvOut, guarded, unguarded};
pub use table::{Encoding, FileError, Line, Table};
