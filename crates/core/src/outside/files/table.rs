//! A file taken apart into lines and cells.

use super::{Decimal, guard::unguarded};
use serde::Serialize;
use std::borrow::Cow;

/// How a file's letters are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Encoding {
    #[serde(rename = "UTF-8")]
    Utf8,
    #[serde(rename = "Windows-1252")]
    Windows1252,
}

/// Why a file can't be read at all.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FileError {
    #[error("the file is empty; its first line must name the columns")]
    Empty,
    #[error("the file is UTF-16; save it as UTF-8")]
    Utf16,
    #[error("the first line names the column {0:?} twice")]
    ColumnTwice(String),
    #[error("the first line names {0} columns; {MOST_COLUMNS} are the most")]
    TooWide(usize),
    #[error("the first line must name the column {0:?}")]
    ColumnMissing(String),
}

/// Columns a file may have: many more than any kind of row has fields.
pub const MOST_COLUMNS: usize = 200;

/// A file with a head line. Comma, semicolon or tab between the cells; UTF-8 or Windows-1252.
#[derive(Debug)]
pub struct Table<'a> {
    text: Cow<'a, str>,
    /// Names of the columns, in small letters, in the file's order.
    pub columns: Vec<String>,
    pub delimiter: char,
    pub encoding: Encoding,
}

/// One line's cells.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Line {
    /// Counted from 1, the head line included, as editors do.
    pub number: u64,
    /// As many as there are columns, without blanks around them.
    pub cells: Vec<String>,
}

impl<'a> Table<'a> {
    /// Finds out how the file is written, and reads its head line.
    ///
    /// Bytes that are no UTF-8 are taken for Windows-1252, in which every byte stands for something.
    ///
    /// # Errors
    /// [`FileError`] for an empty file, UTF-16, or a column that is named twice.
    pub fn open(bytes: &'a [u8]) -> Result<Self, FileError> {
        if bytes.starts_with(&[0xff, 0xfe]) || bytes.starts_with(&[0xfe, 0xff]) {
            return Err(FileError::Utf16);
        }
        let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
        let (text, encoding) = match std::str::from_utf8(bytes) {
            Ok(text) => (Cow::Borrowed(text), Encoding::Utf8),
            Err(_not_utf8) => (encoding_rs::WINDOWS_1252.decode_without_bom_handling(bytes).0, Encoding::Windows1252),
        };
        let head = text.lines().find(|line| !line.trim().is_empty()).ok_or(FileError::Empty)?;
        let delimiter = [';', '\t'].into_iter().find(|sign| head.contains(*sign)).unwrap_or(',');
        let mut table = Self { text, columns: Vec::new(), delimiter, encoding };
        let head = table.reader().headers().map(|head| head.iter().map(str::to_lowercase).collect::<Vec<_>>());
        table.columns = head.unwrap_or_default();
        if table.columns.len() > MOST_COLUMNS {
            return Err(FileError::TooWide(table.columns.len()));
        }
        let twice = table.columns.iter().enumerate().find(|(at, name)| table.columns[..*at].contains(name));
        match twice {
            Some((_, name)) => Err(FileError::ColumnTwice(name.clone())),
            None => Ok(table),
        }
    }

    fn reader(&self) -> csv::Reader<&[u8]> {
        csv::ReaderBuilder::new()
            .delimiter(u8::try_from(self.delimiter).unwrap_or(b','))
            .flexible(true)
            .trim(csv::Trim::All)
            .from_reader(self.text.as_bytes())
    }

    /// The sign before the decimals. Between commas a comma can't be one.
    #[must_use]
    pub fn decimal(&self) -> Decimal {
        if self.delimiter == ',' { Decimal::Point } else { Decimal::PointOrComma }
    }

    /// The place of a column.
    ///
    /// # Errors
    /// [`FileError::ColumnMissing`].
    pub fn column(&self, name: &str) -> Result<usize, FileError> {
        self.columns.iter().position(|column| column == name).ok_or_else(|| FileError::ColumnMissing(name.into()))
    }

    /// The lines below the head, each with its cells or why it has none. Empty lines are passed over.
    pub fn lines(&self) -> impl Iterator<Item = (u64, Result<Line, String>)> {
        let wide = self.columns.len();
        let mut counted = LinesCounted { bytes: self.text.as_bytes(), upto: 0, line: 1 };
        self.reader().into_records().filter_map(move |record| match record {
            Ok(record) => {
                let number = counted.line_of(record.position());
                if record.iter().all(str::is_empty) {
                    return None;
                }
                if record.len() > wide && record.iter().skip(wide).any(|cell| !cell.is_empty()) {
                    let reason = format!("the line has {} cells, but the head names {wide} columns", record.len());
                    return Some((number, Err(reason)));
                }
                let control = |letter: char| letter.is_control() && !matches!(letter, '\n' | '\r' | '\t');
                if record.iter().any(|cell| cell.chars().any(control)) {
                    return Some((number, Err("there is a control character in the line".into())));
                }
                let mut cells: Vec<String> = record.iter().take(wide).map(|cell| unguarded(cell).into()).collect();
                cells.resize(wide, String::new());
                Some((number, Ok(Line { number, cells })))
            }
            // The text is valid UTF-8 and any number of cells is let through, so only a reader's own fault is left.
            Err(error) => Some((counted.line_of(error.position()), Err(error.to_string()))),
        })
    }
}

/// Lines counted as far as the reader has come. Its own count is one behind where lines end with CR and LF.
struct LinesCounted<'a> {
    bytes: &'a [u8],
    upto: usize,
    line: u64,
}

impl LinesCounted<'_> {
    fn line_of(&mut self, record: Option<&csv::Position>) -> u64 {
        let begins = record.and_then(|position| usize::try_from(position.byte()).ok()).unwrap_or(self.upto);
        let ends_before = |byte: &u8| matches!(byte, b'\r' | b'\n');
        let rest = self.bytes.get(begins..).unwrap_or_default();
        let begins = begins + rest.iter().take_while(|byte| ends_before(byte)).count();
        let passed = self.bytes.get(self.upto..begins).unwrap_or_default();
        self.line += passed.iter().filter(|byte| **byte == b'\n').count() as u64;
        self.upto = begins.max(self.upto);
        self.line
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn cells(bytes: &[u8]) -> Vec<Vec<String>> {
        let table = Table::open(bytes).unwrap();
        table.lines().map(|(_, line)| line.unwrap().cells).collect()
    }

    #[rstest]
    #[case::comma(b"Code,Name\nP-1,\"Pump, left\"\n", ',', Encoding::Utf8)]
    #[case::semicolon(b"code;name\r\nP-1;Pump, left\r\n", ';', Encoding::Utf8)]
    #[case::tab(b"code\tname\nP-1\tPump, left\n", '\t', Encoding::Utf8)]
    #[case::bom_and_blank_lines(b"\xef\xbb\xbfcode, name\n\n P-1 ,\"Pump, left\"\n\n", ',', Encoding::Utf8)]
    fn the_same_table_in_many_forms(#[case] bytes: &[u8], #[case] delimiter: char, #[case] encoding: Encoding) {
        let table = Table::open(bytes).unwrap();
        assert_eq!((table.delimiter, table.encoding), (delimiter, encoding));
        assert_eq!(table.columns, ["code", "name"]);
        assert_eq!(cells(bytes), [["P-1", "Pump, left"]]);
    }

    #[test]
    fn bytes_that_are_no_utf8_are_windows_1252() {
        // 0xFC is u with two dots and 0x80 the euro sign (Windows code page 1252, from memory).
        let table = Table::open(b"code;name\nP-1;K\xfchler \x80\n").unwrap();
        assert_eq!(table.encoding, Encoding::Windows1252);
        assert_eq!(table.lines().next().unwrap().1.unwrap().cells[1], "Kühler €");
    }

    #[test]
    fn lines_are_counted_as_an_editor_counts_them() {
        let table = Table::open(b"code,name\n\nP-1,\"two\nlines\"\nP-2,x,y\nP-3\n").unwrap();
        let lines: Vec<_> = table.lines().collect();
        assert_eq!(lines.iter().map(|(number, _)| *number).collect::<Vec<_>>(), [3, 5, 6]);
        let windows = Table::open(b"code,name\r\nP-1,a\r\n\r\nP-2,b\r\n").unwrap();
        assert_eq!(windows.lines().map(|(number, _)| number).collect::<Vec<_>>(), [2, 4]);
        assert_eq!(lines[1].1, Err("the line has 3 cells, but the head names 2 columns".into()));
        assert_eq!(lines[2].1.as_ref().unwrap().cells, ["P-3", ""], "cells that are left out are empty");
    }

    #[test]
    fn what_is_no_table_is_refused() {
        assert_eq!(Table::open(b" \n").unwrap_err(), FileError::Empty);
        assert_eq!(Table::open(b"\xff\xfec\0o\0").unwrap_err(), FileError::Utf16);
        assert_eq!(Table::open(b"code,CODE\n").unwrap_err(), FileError::ColumnTwice("code".into()));
        let wide = ",".repeat(200_000);
        assert_eq!(Table::open(wide.as_bytes()).unwrap_err(), FileError::TooWide(200_001));
        let bell = Table::open(b"code\nP\x071\n").unwrap().lines().next().unwrap().1;
        assert_eq!(bell, Err("there is a control character in the line".into()));
        let table = Table::open(b"code\n").unwrap();
        assert_eq!(table.column("name"), Err(FileError::ColumnMissing("name".into())));
    }
}
