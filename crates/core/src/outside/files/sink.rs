//! Where the rows of a table go, one by one, whatever form the file has.

use super::CsvOut;
use std::io::{Error, Write};

/// Why a row can't be written.
#[derive(Debug, thiserror::Error)]
pub enum SinkError {
    #[error("the file can't be written: {0}")]
    Writing(#[from] Error),
    /// The form of the file has room for so many only.
    #[error("this form of file has room for {0} rows; take CSV for more")]
    TooManyRows(usize),
}

impl From<csv::Error> for SinkError {
    fn from(error: csv::Error) -> Self {
        Self::Writing(error.into())
    }
}

/// Takes the rows of a table one by one; the first names the columns.
pub trait RowSink {
    /// Takes a row.
    ///
    /// # Errors
    /// [`SinkError`], after which no more is to be written.
    fn row(&mut self, cells: &[&str]) -> Result<(), SinkError>;
}

/// The column whose cells are numbers where they look like one: of readings.
pub const NUMBERS: &str = "value";

impl<W: Write> RowSink for CsvOut<W> {
    fn row(&mut self, cells: &[&str]) -> Result<(), SinkError> {
        Ok(self.line(cells)?)
    }
}

/// Rows as JSON: a list of objects, or an object a line.
#[derive(Debug)]
pub struct JsonOut<W: Write> {
    to: W,
    by_line: bool,
    columns: Option<Vec<String>>,
    rows: usize,
}

impl<W: Write> JsonOut<W> {
    #[must_use]
    pub fn new(to: W, by_line: bool) -> Self {
        Self { to, by_line, columns: None, rows: 0 }
    }

    /// What was written to, with everything in it.
    ///
    /// # Errors
    /// The writer's.
    pub fn finish(mut self) -> Result<W, Error> {
        if !self.by_line {
            self.to.write_all(if self.rows == 0 { b"[]\n" } else { b"]\n" })?;
        }
        self.to.flush()?;
        Ok(self.to)
    }
}

impl<W: Write> RowSink for JsonOut<W> {
    fn row(&mut self, cells: &[&str]) -> Result<(), SinkError> {
        let Some(columns) = &self.columns else {
            self.columns = Some(cells.iter().map(|name| (*name).to_owned()).collect());
            return Ok(());
        };
        let value = |column: &str, cell: &str| match cell.parse().ok().and_then(serde_json::Number::from_f64) {
            Some(number) if column == NUMBERS => serde_json::Value::Number(number),
            _ => serde_json::Value::String(cell.into()),
        };
        let object: serde_json::Map<String, serde_json::Value> =
            columns.iter().zip(cells).map(|(column, cell)| (column.clone(), value(column, cell))).collect();
        let before: &[u8] = match (self.by_line, self.rows) {
            (true, _) => b"",
            (false, 0) => b"[",
            (false, _) => b",\n",
        };
        self.to.write_all(before)?;
        serde_json::to_writer(&mut self.to, &object).map_err(Error::from)?;
        if self.by_line {
            self.to.write_all(b"\n")?;
        }
        self.rows += 1;
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn written(by_line: bool, rows: &[&[&str]]) -> String {
        let mut out = JsonOut::new(Vec::new(), by_line);
        for row in rows {
            out.row(row).unwrap();
        }
        String::from_utf8(out.finish().unwrap()).unwrap()
    }

    #[test]
    fn rows_are_objects_and_only_values_are_numbers() {
        let rows: [&[&str]; 3] = [&["meter", "value"], &["7", "1.5"], &["=x", "worn"]];
        assert_eq!(
            written(false, &rows),
            "[{\"meter\":\"7\",\"value\":1.5},\n{\"meter\":\"=x\",\"value\":\"worn\"}]\n"
        );
        assert_eq!(written(true, &rows), "{\"meter\":\"7\",\"value\":1.5}\n{\"meter\":\"=x\",\"value\":\"worn\"}\n");
        assert_eq!((written(false, &rows[..1]), written(true, &rows[..1])), ("[]\n".into(), String::new()));
    }
}
