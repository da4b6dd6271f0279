//! The rows of a file, whatever form it has.

use crate::outside::{
    format::{FileRead, Format, Lines, Numbered},
    workbook,
};
use serde_json::{Map, Value};
use std::collections::BTreeSet;
use tally_core::outside::files::{Decimal, Line, MOST_COLUMNS, Table};
use tally_store::StoreError;

/// A table as it comes out of a file.
pub struct Source<'a> {
    /// In small letters.
    pub columns: &'a [String],
    pub decimal: Decimal,
    /// For CSV.
    pub file: Option<FileRead>,
    pub lines: &'a mut dyn Iterator<Item = Numbered<Vec<String>>>,
}

/// Opens a file and lets its rows be taken.
///
/// # Errors
/// [`StoreError::Invalid`] for a file that can't be read at all, and what `take` answers.
pub fn read<T>(
    format: Format,
    bytes: &[u8],
    take: impl FnOnce(Source) -> Result<T, StoreError>,
) -> Result<T, StoreError> {
    if format == Format::Csv {
        let table = Table::open(bytes).map_err(|error| StoreError::invalid("file", error))?;
        let file = Some(FileRead::of(&table));
        let cells = |line: Result<Line, String>| line.map(|line| line.cells);
        let lines = &mut table.lines().map(|(number, line)| (number, cells(line)));
        return take(Source { columns: &table.columns, decimal: table.decimal(), file, lines });
    }
    let (columns, lines) = match format {
        Format::Xlsx => workbook::read(bytes)?,
        _ => objects(format, bytes)?,
    };
    take(Source { columns: &columns, decimal: Decimal::Point, file: None, lines: &mut lines.into_iter() })
}

/// Objects as rows: their columns are all names that come up, by their alphabet.
fn objects(format: Format, bytes: &[u8]) -> Result<(Vec<String>, Lines), StoreError> {
    let unreadable = |error: &dyn std::fmt::Display| StoreError::invalid("file", error.to_string());
    let values: Vec<Numbered<Value>> = if format == Format::NdJson {
        let text = std::str::from_utf8(bytes).map_err(|error| unreadable(&error))?;
        let lines = (1..).zip(text.lines()).filter(|(_, line)| !line.trim().is_empty());
        lines
            .map(|(number, line)| (number, serde_json::from_str(line).map_err(|error| format!("no JSON: {error}"))))
            .collect()
    } else {
        let list: Vec<Value> = serde_json::from_slice(bytes)
            .map_err(|error| unreadable(&format!("a table is a JSON list of objects: {error}")))?;
        (1..).zip(list.into_iter().map(Ok)).collect()
    };
    let mut columns: BTreeSet<String> = BTreeSet::new();
    let mut rows: Vec<Numbered<Map<String, Value>>> = Vec::with_capacity(values.len());
    for (number, value) in values {
        let object = value.and_then(|value| match value {
            Value::Object(fields) => Ok(fields),
            other => Err(format!("a row is an object, not {other}")),
        });
        columns.extend(object.iter().flat_map(Map::keys).map(|name| name.to_lowercase()));
        if columns.len() > MOST_COLUMNS {
            return Err(unreadable(&format!("the rows name more than {MOST_COLUMNS} columns")));
        }
        rows.push((number, object));
    }
    let columns: Vec<String> = columns.into_iter().collect();
    let lines = rows.into_iter().map(|(number, object)| (number, object.and_then(|fields| cells(&columns, &fields))));
    let lines = lines.collect();
    Ok((columns, lines))
}

fn cells(columns: &[String], fields: &Map<String, Value>) -> Result<Vec<String>, String> {
    let mut cells = vec![String::new(); columns.len()];
    for (name, value) in fields {
        let text = match value {
            Value::Null => String::new(),
            Value::Bool(yes) => if *yes { "yes" } else { "no" }.into(),
            Value::Number(number) => number.to_string(),
            Value::String(text) => text.trim().to_owned(),
            Value::Array(_) | Value::Object(_) => {
                return Err(format!("{name} must be a text, a number, true, false or null"));
            }
        };
        if text.chars().any(|letter| letter.is_control() && !matches!(letter, '\n' | '\r' | '\t')) {
            return Err("there is a control character in the row".into());
        }
        if let Some(place) = columns.iter().position(|column| *column == name.to_lowercase()) {
            cells[place] = text;
        }
    }
    Ok(cells)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rows(format: Format, bytes: &[u8]) -> (Vec<String>, Lines) {
        read(format, bytes, |source| Ok((source.columns.to_vec(), source.lines.collect()))).unwrap()
    }

    #[test]
    fn every_form_gives_the_same_rows() {
        let csv = rows(Format::Csv, b"active,code,name\nyes,P-1,Pump\n,P-2,\n");
        let json = br#"[{"code":"P-1","name":"Pump","active":true},{"Code":"P-2","name":null}]"#;
        assert_eq!(rows(Format::Json, json).0, csv.0);
        let texts = |lines: &Lines| lines.iter().map(|(_, cells)| cells.clone().unwrap()).collect::<Vec<_>>();
        assert_eq!(texts(&rows(Format::Json, json).1), texts(&csv.1));
        let by_line = b"{\"code\":\"P-1\",\"name\":\"Pump\",\"active\":true}\n\n{\"code\":\"P-2\"}\n";
        assert_eq!(texts(&rows(Format::NdJson, by_line).1), texts(&csv.1));
    }

    #[test]
    fn rows_that_are_none_are_refused_alone_and_say_why() {
        let (_, lines) = rows(Format::Json, br#"[{"code":["P"]},7,{"code":"a\u0007"},{"code":1.5}]"#);
        let said = lines;
        assert_eq!(said[0], (1, Err("code must be a text, a number, true, false or null".into())));
        assert_eq!(said[1], (2, Err("a row is an object, not 7".into())));
        assert_eq!(said[2], (3, Err("there is a control character in the row".into())));
        assert_eq!(said[3], (4, Ok(vec!["1.5".into()])));
        let (_, lines) = rows(Format::NdJson, b"{\"code\":1}\n{oops\n");
        assert!(lines[1].1.as_ref().is_err_and(|reason| reason.starts_with("no JSON")));
        let said = read(Format::Json, b"{}", |_| Ok(())).unwrap_err().to_string();
        assert!(said.starts_with("file: a table is a JSON list of objects"), "{said}");
    }
}
