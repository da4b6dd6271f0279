//! Batches of readings as they come: JSON, NDJSON, CSV or a workbook, row by row, each good or with its reason.

use crate::outside::{
    format::Format,
    source::{self, Source},
};
use jiff::tz::TimeZone;
use serde::{
    Deserialize, Deserializer,
    de::{SeqAccess, Visitor},
};
use tally_core::{
    ground::{time::Instant, value::IncomingValue},
    outside::files::{instant, number},
    watch::batch::{Incoming, Row},
};
use tally_store::StoreError;

/// A reading as it is sent.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[allow(dead_code, reason = "describes the body; rows are read one by one so that a bad one is refused alone")]
pub struct ReadingBody {
    meter: String,
    at: Instant,
    value: IncomingValue,
}

/// Rows in the order they came, and for each the line it stood on.
#[derive(Debug, Default)]
pub struct Rows {
    pub rows: Vec<Row>,
    pub lines: Vec<u64>,
    /// Rows that could not be understood.
    refused: usize,
    /// So many could not that the rest was not read.
    pub given_up: bool,
}

/// Rows of one body.
pub const MOST_ROWS: usize = 5_000_000;

impl Rows {
    /// Takes a row down; says whether to go on.
    fn push(&mut self, line: u64, row: Row, most_refused: usize) -> bool {
        self.refused += usize::from(row.is_err());
        self.rows.push(row);
        self.lines.push(line);
        self.given_up = self.refused >= most_refused || self.rows.len() >= MOST_ROWS;
        !self.given_up
    }
}

/// Takes a body apart. `zone` is that of times without an offset, in CSV; after `most_refused` rows that can't be
/// understood the rest is not read: it is not what it was taken for.
///
/// # Errors
/// [`StoreError::Invalid`] for a body that is no batch at all.
pub fn parse(format: Format, body: &[u8], zone: Option<&TimeZone>, most_refused: usize) -> Result<Rows, StoreError> {
    let unreadable = |error: &dyn std::fmt::Display| StoreError::invalid("body", error.to_string());
    let mut found = Rows::default();
    match format {
        Format::Csv | Format::Xlsx => {
            source::read(format, body, |table| rows_of(table, zone, most_refused, &mut found)).map_err(|error| {
                if let StoreError::Invalid { reason, .. } = error { unreadable(&reason) } else { error }
            })?;
        }
        Format::NdJson => {
            let text = std::str::from_utf8(body).map_err(|error| unreadable(&error))?;
            for (line, text) in (1..).zip(text.lines()).filter(|(_, line)| !line.trim().is_empty()) {
                let row = serde_json::from_str(text).map_err(|error| format!("no JSON: {error}")).and_then(json_row);
                if !found.push(line, row, most_refused) {
                    break;
                }
            }
        }
        Format::Json => {
            let mut reader = serde_json::Deserializer::from_slice(body);
            let list = reader.deserialize_seq(RowByRow { found: &mut found, most_refused });
            let read = list.and_then(|()| reader.end());
            read.map_err(|error| unreadable(&format!("a batch is a JSON list of {{meter, at, value}}: {error}")))?;
        }
    }
    Ok(found)
}

/// Takes a JSON list apart row by row, so that no more than one of them is held as JSON.
struct RowByRow<'a> {
    found: &'a mut Rows,
    most_refused: usize,
}

impl<'de> Visitor<'de> for RowByRow<'_> {
    type Value = ();

    fn expecting(&self, f: &mut std::fmt::Formatter) -> std::fmt::Result {
        f.write_str("a list")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<(), A::Error> {
        let mut line = 0;
        while let Some(row) = list.next_element::<serde_json::Value>()? {
            line += 1;
            if !self.found.push(line, json_row(row), self.most_refused) {
                // The rest is passed over unread.
                while list.next_element::<serde::de::IgnoredAny>()?.is_some() {}
            }
        }
        Ok(())
    }
}

fn json_row(row: serde_json::Value) -> Row {
    let field = |name: &str| row.get(name).filter(|value| !value.is_null()).ok_or_else(|| format!("{name} is missing"));
    let text =
        |name: &str| -> Result<&str, String> { field(name)?.as_str().ok_or_else(|| format!("{name} must be a text")) };
    let value = match field("value")? {
        serde_json::Value::Number(number) => {
            IncomingValue::Number(number.as_f64().ok_or_else(|| format!("value {number} is out of range"))?)
        }
        serde_json::Value::String(name) => IncomingValue::Name(name.clone()),
        other => return Err(format!("value must be a number or a grade's name, not {other}")),
    };
    let at = Instant::parse(text("at")?).map_err(|error| format!("at: {error}"))?;
    Ok(Incoming { meter: text("meter")?.into(), at, value })
}

fn rows_of(table: Source, zone: Option<&TimeZone>, most_refused: usize, found: &mut Rows) -> Result<(), StoreError> {
    let column = |name: &str| {
        let missing = || format!("the first line must name the columns meter, at and value; {name} is missing");
        let place = table.columns.iter().position(|column| column == name);
        place.ok_or_else(|| StoreError::invalid("body", missing()))
    };
    let (meter, at, value) = (column("meter")?, column("at")?, column("value")?);
    let decimal = table.decimal;
    for (number_of_line, line) in table.lines {
        let row = line.and_then(|cells| -> Row {
            let cell = |place: usize, name: &str| {
                let cell = cells.get(place).filter(|cell| !cell.is_empty());
                cell.ok_or_else(|| format!("{name} is missing"))
            };
            let text = cell(value, "value")?;
            let value = number(text, decimal)
                .map_or_else(|_no_number| IncomingValue::Name(text.clone()), IncomingValue::Number);
            let at = instant(cell(at, "at")?, zone).map_err(|error| format!("at: {error}"))?;
            Ok(Incoming { meter: cell(meter, "meter")?.clone(), at, value })
        });
        if !found.push(number_of_line, row, most_refused) {
            break;
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    fn reading(value: IncomingValue) -> Incoming {
        Incoming { meter: "M-1".into(), at: Instant::parse("2026-01-01T00:00:00Z").unwrap(), value }
    }

    fn rows(kind: &str, body: &[u8]) -> Vec<Row> {
        parse(Format::of_media_type(kind), body, None, usize::MAX).unwrap().rows
    }

    #[test]
    fn every_form_gives_the_same_rows_and_bad_ones_are_refused_alone() {
        let good = reading(IncomingValue::Number(1.5));
        let json = json!([
            {"meter": "M-1", "at": "2026-01-01T00:00:00Z", "value": 1.5},
            {"meter": "M-1", "at": "yesterday", "value": 1.5},
            {"at": "2026-01-01T00:00:00Z", "value": true},
        ]);
        let found = rows("application/json", json.to_string().as_bytes());
        assert_eq!(found[0], Ok(good.clone()));
        assert_eq!(found[1], Err("at: \"yesterday\" is no time with an offset, such as 2026-03-01T08:00:00Z".into()));
        assert_eq!(found[2], Err("value must be a number or a grade's name, not true".into()));
        let lines = "{\"meter\":\"M-1\",\"at\":\"2026-01-01T00:00:00Z\",\"value\":1.5}\n{oops\n";
        let found = rows("application/x-ndjson", lines.as_bytes());
        assert_eq!(found[0], Ok(good.clone()));
        assert!(found[1].as_ref().is_err_and(|reason| reason.starts_with("no JSON")));
        let comma = "\u{feff}value,meter,at\n1.5,M-1,2026-01-01T00:00:00Z\n,M-1,2026-01-01T00:00:00Z\n";
        assert_eq!(rows("text/csv", comma.as_bytes()), [Ok(good.clone()), Err("value is missing".into())]);
        let semicolon = "meter;at;value\nM-1;2026-01-01T00:00:00Z;1,5\nM-1;2026-01-01T00:00:00Z;worn\n";
        let worn = reading(IncomingValue::Name("worn".into()));
        assert_eq!(rows("text/csv; charset=utf-8", semicolon.as_bytes()), [Ok(good), Ok(worn)]);
    }

    #[test]
    fn times_without_an_offset_are_those_of_the_named_zone() {
        let zone = tally_core::ground::calendar::zone("Europe/Vienna").unwrap();
        let local = b"meter;at;value\nM-1;01.01.2026 01:00;1,5\n";
        let named = parse(Format::Csv, local, Some(&zone), usize::MAX).unwrap();
        assert_eq!(named.rows, [Ok(reading(IncomingValue::Number(1.5)))]);
        assert_eq!(named.lines, [2]);
        let reason = parse(Format::Csv, local, None, usize::MAX).unwrap().rows[0].clone().unwrap_err();
        assert_eq!(reason, "at: \"01.01.2026 01:00\" has no offset; name the time zone of the file");
    }

    #[test]
    fn a_body_that_is_no_batch_says_what_one_is() {
        let error = parse(Format::Json, b"{\"meter\":1}", None, usize::MAX).unwrap_err();
        assert!(error.to_string().starts_with("body: a batch is a JSON list of {meter, at, value}"), "{error}");
        let error = parse(Format::Csv, b"a,b\n1,2\n", None, usize::MAX).unwrap_err();
        assert_eq!(
            error.to_string(),
            "body: the first line must name the columns meter, at and value; meter is missing"
        );
    }
}
