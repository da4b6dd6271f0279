//! Text files from other programs: which signs a file uses, and what its cells mean.
//!
//! [`Table`] reads a file with a head line, row by row, and a [`RowSink`] takes such rows; [`number`], [`instant`] and [`duration`] read a cell.

mod cells;
mod guard;
mod sink;
mod table;

pub use cells::{CellError, Decimal, duration, duration_text, instant, number};
pub use guard::{CsvOut, guarded, unguarded};
pub use sink::{JsonOut, NUMBERS, RowSink, SinkError};
pub use table::{Encoding, FileError, Line, MOST_COLUMNS, Table};
