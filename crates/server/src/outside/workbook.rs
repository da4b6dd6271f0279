//! Workbooks of spreadsheet programs (ISO/IEC 29500): written row by row in little memory, read cell by cell, and never
//! unpacked beyond a bound.

use crate::outside::format::Lines;
use calamine::{Data, DataRef, Reader, Xlsx};
use rust_xlsxwriter::{Workbook, XlsxError};
use std::{
    fs::File,
    io::{Cursor, Error, Read},
};
use tally_core::outside::files::{MOST_COLUMNS, NUMBERS, RowSink, SinkError};
use tally_store::StoreError;
use zip::ZipArchive;

/// Rows that a sheet has room for below its head: 2^20 in all (Excel's specification, from memory).
pub const MOST_ROWS: usize = (1 << 20) - 1;

/// What a workbook may unpack to: many times what a million rows need.
const MOST_UNPACKED: u64 = 1 << 30;

/// Rows written into the first sheet of a workbook.
pub struct WorkbookOut {
    book: Workbook,
    /// Place of the column whose cells are numbers.
    numbers: Option<usize>,
    rows: usize,
}

impl std::fmt::Debug for WorkbookOut {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("WorkbookOut").field("rows", &self.rows).finish_non_exhaustive()
    }
}

fn unwritten(error: XlsxError) -> SinkError {
    SinkError::Writing(Error::other(error))
}

impl WorkbookOut {
    /// An empty one with a sheet of that name.
    ///
    /// # Errors
    /// [`SinkError`].
    pub fn new(sheet: &str) -> Result<Self, SinkError> {
        let mut book = Workbook::new();
        let first = book.add_worksheet_with_constant_memory().map_err(unwritten)?;
        first.set_name(sheet).map_err(unwritten)?;
        Ok(Self { book, numbers: None, rows: 0 })
    }

    /// Writes all of it.
    ///
    /// # Errors
    /// [`SinkError`].
    pub fn save(mut self, to: File) -> Result<(), SinkError> {
        self.book.save_to_writer(to).map_err(unwritten)
    }
}

impl RowSink for WorkbookOut {
    fn row(&mut self, cells: &[&str]) -> Result<(), SinkError> {
        if self.rows > MOST_ROWS {
            return Err(SinkError::TooManyRows(MOST_ROWS));
        }
        let sheet = self.book.worksheet_from_index(0).map_err(unwritten)?;
        let row = u32::try_from(self.rows).unwrap_or(u32::MAX);
        for (place, cell) in (0_u16..).zip(cells) {
            let is_number = Some(usize::from(place)) == self.numbers;
            let number = if is_number { cell.parse::<f64>().ok() } else { None };
            match number.filter(|number| number.is_finite()) {
                Some(number) => sheet.write_number(row, place, number),
                None if cell.is_empty() => continue,
                None => sheet.write_string(row, place, *cell),
            }
            .map_err(unwritten)?;
        }
        if self.rows == 0 {
            self.numbers = cells.iter().position(|name| *name == NUMBERS);
        }
        self.rows += 1;
        Ok(())
    }
}

/// The first sheet of a workbook: its head, and the lines below it with their numbers.
///
/// # Errors
/// [`StoreError::Invalid`] for what is no workbook, is empty, too wide, or unpacks to more than is sensible.
pub fn read(bytes: &[u8]) -> Result<(Vec<String>, Lines), StoreError> {
    let unreadable = |error: &dyn std::fmt::Display| {
        StoreError::invalid("file", format!("is no workbook that can be read: {error}"))
    };
    bounded(bytes, MOST_UNPACKED)?;
    let mut book: Xlsx<_> = calamine::open_workbook_from_rs(Cursor::new(bytes))
        .map_err(|error| unreadable(&error as &calamine::XlsxError))?;
    let first = book.sheet_names().first().cloned().ok_or_else(|| unreadable(&"it has no sheet"))?;
    let mut cells = book.worksheet_cells_reader(&first).map_err(|error| unreadable(&error))?;
    let mut head: Option<Vec<String>> = None;
    let mut lines: Lines = Vec::new();
    let mut line: Option<(u32, Vec<String>)> = None;
    loop {
        let next = cells.next_cell().map_err(|error| unreadable(&error))?;
        let place = next.as_ref().map(|cell| cell.get_position());
        if let Some((number, texts)) = line.take_if(|(number, _)| place.is_none_or(|(row, _)| row != *number)) {
            end_line(number, texts, &mut head, &mut lines)?;
        }
        let (Some(cell), Some((row, column))) = (next, place) else { break };
        let text = text_of(cell.get_value());
        let column = usize::try_from(column).unwrap_or(usize::MAX);
        if text.is_empty() {
            continue;
        }
        if column >= MOST_COLUMNS {
            return Err(unreadable(&format!("a row has more than {MOST_COLUMNS} cells")));
        }
        let (_, texts) = line.get_or_insert_with(|| (row, Vec::new()));
        if texts.len() <= column {
            texts.resize(column + 1, String::new());
        }
        texts[column] = text;
    }
    let head = head
        .ok_or_else(|| StoreError::invalid("file", "the first sheet is empty; its first row must name the columns"))?;
    Ok((head, lines))
}

/// The first row that says something is the head.
fn end_line(
    number: u32,
    mut texts: Vec<String>,
    head: &mut Option<Vec<String>>,
    lines: &mut Lines,
) -> Result<(), StoreError> {
    let Some(columns) = head else {
        let names: Vec<String> = texts.iter().map(|name| name.to_lowercase()).collect();
        if let Some((_, twice)) = names.iter().enumerate().find(|(at, name)| names[..*at].contains(name)) {
            return Err(StoreError::invalid("file", format!("the first row names the column {twice:?} twice")));
        }
        *head = Some(names);
        return Ok(());
    };
    let line = u64::from(number) + 1;
    if texts.len() > columns.len() {
        let reason = format!("the row has {} cells, but the head names {} columns", texts.len(), columns.len());
        lines.push((line, Err(reason)));
        return Ok(());
    }
    texts.resize(columns.len(), String::new());
    lines.push((line, Ok(texts)));
    Ok(())
}

/// A cell as text: times without an offset, numbers with a point.
fn text_of(value: &DataRef) -> String {
    match Data::from(value.clone()) {
        Data::Empty => String::new(),
        Data::Bool(yes) => if yes { "yes" } else { "no" }.into(),
        Data::DateTime(at) if !at.is_duration() => {
            let (year, month, day, hour, minute, second, _) = at.to_ymd_hms_milli();
            format!("{year:04}-{month:02}-{day:02}T{hour:02}:{minute:02}:{second:02}")
        }
        other => other.to_string().trim().to_owned(),
    }
}

/// Unpacks all of it into nothing first: what a few kilobytes can become is known before anything is held.
fn bounded(bytes: &[u8], most: u64) -> Result<(), StoreError> {
    let unreadable = |error: &dyn std::fmt::Display| {
        StoreError::invalid("file", format!("is no workbook that can be read: {error}"))
    };
    let mut archive = ZipArchive::new(Cursor::new(bytes)).map_err(|error| unreadable(&error))?;
    let mut left = most;
    for place in 0..archive.len() {
        let part = archive.by_index(place).map_err(|error| unreadable(&error))?;
        let unpacked =
            std::io::copy(&mut part.take(left + 1), &mut std::io::sink()).map_err(|error| unreadable(&error))?;
        left = left.checked_sub(unpacked).ok_or_else(|| {
            StoreError::invalid("file", format!("unpacks to more than {} MB; take CSV for as much", most >> 20))
        })?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::{Seek, SeekFrom, Write};

    fn written(rows: &[&[&str]]) -> Vec<u8> {
        let mut out = WorkbookOut::new("readings").unwrap();
        for row in rows {
            out.row(row).unwrap();
        }
        let mut file = tempfile::tempfile().unwrap();
        out.save(file.try_clone().unwrap()).unwrap();
        file.seek(SeekFrom::Start(0)).unwrap();
        let mut bytes = Vec::new();
        file.read_to_end(&mut bytes).unwrap();
        bytes
    }

    #[test]
    fn what_is_written_is_read() {
        let rows: [&[&str]; 4] =
            [&["meter", "note", "value"], &["007", "=1+1", "1.5"], &["M-2", "", "worn"], &["Kühler €", " ", "-3"]];
        let (head, lines) = read(&written(&rows)).unwrap();
        assert_eq!(head, rows[0]);
        let lines: Vec<_> = lines.into_iter().map(|(number, cells)| (number, cells.unwrap())).collect();
        let cells = |texts: [&str; 3]| texts.map(str::to_owned).to_vec();
        assert_eq!(
            lines,
            [(2, cells(["007", "=1+1", "1.5"])), (3, cells(["M-2", "", "worn"])), (4, cells(["Kühler €", "", "-3"]))]
        );
    }

    #[test]
    fn a_sheet_has_room_for_so_many_rows() {
        let mut out = WorkbookOut::new("readings").unwrap();
        out.row(&["meter"]).unwrap();
        out.rows = MOST_ROWS;
        out.row(&["the last"]).unwrap();
        let said = out.row(&["one more"]).unwrap_err().to_string();
        assert_eq!(said, "this form of file has room for 1048575 rows; take CSV for more");
    }

    #[test]
    fn what_unpacks_to_too_much_is_refused_before_it_is_read() {
        let mut bomb = zip::ZipWriter::new(Cursor::new(Vec::new()));
        bomb.start_file("xl/workbook.xml", zip::write::SimpleFileOptions::default()).unwrap();
        bomb.write_all(&vec![0; (4 << 20) + 1]).unwrap();
        let bytes = bomb.finish().unwrap().into_inner();
        assert!(bytes.len() < 64 << 10, "it is small: {} bytes", bytes.len());
        assert!(bounded(&bytes, (4 << 20) + 1).is_ok());
        let said = bounded(&bytes, 4 << 20).unwrap_err().to_string();
        assert!(said.starts_with("file: unpacks to more than 4 MB"), "{said}");
    }

    #[test]
    fn what_is_no_workbook_says_so() {
        let said = read(b"code,name").unwrap_err().to_string();
        assert!(said.starts_with("file: is no workbook that can be read"), "{said}");
        let said = read(&written(&[&["code", "CODE"]])).unwrap_err().to_string();
        assert!(said.contains("names the column \"code\" twice"), "{said}");
        let (_, lines) = read(&written(&[&["code"], &["a", "b"]])).unwrap();
        assert_eq!(lines[0].1, Err("the row has 2 cells, but the head names 1 columns".into()));
    }
}
