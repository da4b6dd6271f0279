//! Rows as a file or a form gives them, read as far as each can be by itself.

use super::{Column, FieldReason, Kind, MasterReceipt, columns, forms::Writing, receipt::MOST_REFUSED};
use crate::ground::error::{Result, StoreError};
use jiff::tz::TimeZone;
use std::collections::HashMap;
use tally_core::{outside::files::Decimal, plant::assets::depths};

/// A row as it is given: its line, its cells in the order of the columns, and what its fields are believed to hold now.
#[derive(Debug, Clone)]
pub struct GivenRow {
    pub line: u64,
    pub cells: Result<Vec<String>, String>,
    /// Field and value: where it is another by now, the row is refused rather than written over somebody's change.
    pub was: Vec<(String, String)>,
}

/// Rows to add or change, from a file or a form.
#[derive(Debug)]
pub struct Given<'a, R> {
    /// Names of the columns. Those that are left out stay as they are.
    pub columns: &'a [String],
    pub rows: R,
    pub decimal: Decimal,
    /// Of times without an offset.
    pub zone: Option<&'a TimeZone>,
    /// Where the rows come from, such as a file's name: the reason of moves.
    pub source: &'a str,
}

/// A row that could be read: one cell a column of the kind, `None` where the source has no such column.
#[derive(Debug)]
pub(super) struct Read {
    pub(super) line: u64,
    pub(super) code: String,
    pub(super) cells: Vec<Option<String>>,
    pub(super) was: Vec<(String, String)>,
}

/// Reads rows, and brings them into the order in which they are taken. What can't be read is refused in `receipt`.
///
/// # Errors
/// [`StoreError::Invalid`] when the source has no column of codes.
pub(super) fn ordered(
    kind: Kind,
    given: Given<'_, impl IntoIterator<Item = GivenRow>>,
    minor_digits: u8,
    receipt: &mut MasterReceipt,
) -> Result<Vec<Read>> {
    let writing = Writing { decimal: given.decimal, zone: given.zone, minor_digits };
    let places = places(kind, given.columns, receipt)?;
    let rows = read(kind, given.rows, &places, &writing, receipt);
    Ok(if kind == Kind::Assets { parents_first(rows, receipt) } else { rows })
}

/// For each column of the kind, its place in the source.
fn places(kind: Kind, given: &[String], receipt: &mut MasterReceipt) -> Result<Vec<Option<usize>>> {
    let known = columns(kind);
    let place = |column: &Column| given.iter().position(|name| name == column.name);
    let places: Vec<Option<usize>> = known.iter().map(place).collect();
    if places[0].is_none() {
        return Err(StoreError::invalid("code", "the first line must name the columns, one of them \"code\""));
    }
    let unknown = given.iter().filter(|name| !name.is_empty() && known.iter().all(|column| column.name != **name));
    receipt.ignored_columns = unknown.cloned().collect();
    Ok(places)
}

fn read(
    kind: Kind,
    rows: impl IntoIterator<Item = GivenRow>,
    places: &[Option<usize>],
    writing: &Writing,
    receipt: &mut MasterReceipt,
) -> Vec<Read> {
    let mut found: Vec<Read> = Vec::new();
    let mut lines: HashMap<String, u64> = HashMap::new();
    for row in rows {
        if receipt.refused >= MOST_REFUSED {
            receipt.given_up = true;
            break;
        }
        let whole = |reason: String| vec![FieldReason { field: String::new(), reason }];
        let cells = match row.cells {
            Ok(cells) => cells,
            Err(reason) => {
                receipt.refuse(row.line, "", whole(reason));
                continue;
            }
        };
        let mut reasons = Vec::new();
        let tidy: Vec<Option<String>> = columns(kind)
            .iter()
            .zip(places)
            .map(|(column, place)| {
                let cell = cells.get((*place)?)?;
                let text = column.form.tidy(cell, writing).unwrap_or_else(|reason| {
                    reasons.push(FieldReason { field: column.name.into(), reason });
                    cell.clone()
                });
                if text.is_empty() && column.required {
                    reasons.push(FieldReason { field: column.name.into(), reason: "is missing".into() });
                }
                Some(if text.is_empty() { column.default.into() } else { text })
            })
            .collect();
        let code = tidy[0].clone().unwrap_or_default();
        if reasons.is_empty()
            && let Some(first) = lines.insert(code.clone(), row.line)
        {
            reasons.push(FieldReason { field: "code".into(), reason: format!("line {first} gives {code} already") });
            lines.insert(code.clone(), first);
        }
        if reasons.is_empty() {
            found.push(Read { line: row.line, code, cells: tidy, was: row.was });
        } else {
            receipt.refuse(row.line, &code, reasons);
        }
    }
    found
}

/// Rows in an order in which a parent comes before what is below it. Rows whose parents lead back to themselves, and
/// rows below a refused one that is not there yet, are refused.
fn parents_first(rows: Vec<Read>, receipt: &mut MasterReceipt) -> Vec<Read> {
    let parent_at = columns(Kind::Assets).iter().position(|column| column.name == "parent").unwrap_or_default();
    let places: HashMap<&str, usize> = rows.iter().enumerate().map(|(at, row)| (row.code.as_str(), at)).collect();
    // Where no parents are given, none changes, and any order will do.
    let above: Vec<Option<usize>> =
        rows.iter().map(|row| places.get(row.cells[parent_at].as_deref()?).copied()).collect();
    let depths = depths(&above);
    let mut ordered: Vec<(usize, Read)> = Vec::with_capacity(rows.len());
    for (row, depth) in rows.into_iter().zip(depths) {
        match depth {
            Some(depth) => ordered.push((depth, row)),
            None => {
                let reason = "the parents of this row lead back to it".to_owned();
                receipt.refuse(row.line, &row.code, vec![FieldReason { field: "parent".into(), reason }]);
            }
        }
    }
    ordered.sort_by_key(|(depth, row)| (*depth, row.line));
    ordered.into_iter().map(|(_, row)| row).collect()
}
