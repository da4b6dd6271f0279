//! Work as files: [`orders`] with their states, failures and downtime, and what was spent on them ([`entries`]). Orders are known
//! again by the number that another program has for them.

pub mod entries;
pub mod orders;
mod orders_out;

pub use orders_out::export as export_orders;

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::from_word,
        tx::Tx,
    },
    plant::master::{FieldReason, Form, Given, GivenRow, MOST_REFUSED, MasterReceipt, Outcome, RowReport, Writing},
};
use serde::de::DeserializeOwned;
use std::collections::HashMap;
use tally_core::ground::{texts, time::Instant};

/// A column of a file: its name, and what its cells hold.
pub type FileColumn = (&'static str, Form);

/// A line of a file, with its cells in the one way they are kept.
#[derive(Debug, Clone)]
struct Line {
    number: u64,
    texts: HashMap<&'static str, String>,
}

impl Line {
    fn text(&self, name: &str) -> &str {
        self.texts.get(name).map_or("", String::as_str)
    }

    fn some(&self, name: &str) -> Option<String> {
        Some(self.text(name).to_owned()).filter(|text| !text.is_empty())
    }

    /// Whether the file has the column, and nothing in it.
    fn says_none(&self, name: &str) -> bool {
        self.texts.get(name).is_some_and(String::is_empty)
    }

    fn needed(&self, name: &str) -> Result<String> {
        self.some(name).ok_or_else(|| StoreError::invalid(name, "is missing"))
    }

    fn instant(&self, name: &str) -> Option<Instant> {
        self.some(name).and_then(|text| Instant::parse(&text).ok())
    }

    fn number(&self, name: &str) -> Option<f64> {
        self.some(name).and_then(|text| text.parse().ok())
    }

    fn word<T: DeserializeOwned>(&self, name: &str) -> Result<Option<T>> {
        self.some(name).map(|word| from_word("a file", word)).transpose()
    }
}

/// Reads the lines of a file; what can't be read is refused in `receipt`.
fn lines(
    columns: &[FileColumn],
    needed: &[&str],
    Given { columns: given, rows, .. }: Given<'_, impl IntoIterator<Item = GivenRow>>,
    writing: &Writing,
    receipt: &mut MasterReceipt,
) -> Result<Vec<Line>> {
    if let Some(missing) = needed.iter().find(|name| !given.iter().any(|column| column == **name)) {
        return Err(StoreError::invalid(*missing, format!("the first line must name the column {missing:?}")));
    }
    let is_known = |name: &str| columns.iter().any(|(known, _)| *known == name);
    receipt.ignored_columns = given.iter().filter(|name| !name.is_empty() && !is_known(name)).cloned().collect();
    let places: Vec<Option<usize>> =
        columns.iter().map(|(name, _)| given.iter().position(|column| column == name)).collect();
    let mut found = Vec::new();
    for row in rows {
        if receipt.refused >= MOST_REFUSED {
            receipt.given_up = true;
            break;
        }
        let cells = match row.cells {
            Ok(cells) => cells,
            Err(reason) => {
                receipt.refuse(row.line, "", vec![FieldReason { field: String::new(), reason }]);
                continue;
            }
        };
        let (mut texts, mut reasons) = (HashMap::new(), Vec::new());
        for ((name, form), place) in columns.iter().zip(&places) {
            let Some(cell) = place.and_then(|place| cells.get(place)) else { continue };
            let tidy = match form {
                Form::Text if texts::takes_several_lines(name) => {
                    let text = cell.trim();
                    texts::check(name, text).map(|()| text.to_owned()).map_err(|error| error.to_string())
                }
                form => form.tidy(cell, writing),
            };
            match tidy {
                Ok(text) => drop(texts.insert(*name, text)),
                Err(reason) => reasons.push(FieldReason { field: (*name).into(), reason }),
            }
        }
        if reasons.is_empty() {
            found.push(Line { number: row.line, texts });
        } else {
            let code = texts.get("reference").cloned().unwrap_or_default();
            receipt.refuse(row.line, &code, reasons);
        }
    }
    Ok(found)
}

/// Does something whole or not at all, and takes down what became of it.
fn whole(
    tx: &mut Tx,
    receipt: &mut MasterReceipt,
    (line, code): (u64, &str),
    work: impl FnOnce(&mut Tx) -> Result<Outcome>,
) -> Result<()> {
    tx.conn.prepare_cached("SAVEPOINT one_line")?.execute([])?;
    let done = work(tx);
    if done.is_err() {
        tx.conn.prepare_cached("ROLLBACK TO one_line")?.execute([])?;
    }
    tx.conn.prepare_cached("RELEASE one_line")?.execute([])?;
    let (outcome, reasons) = match done {
        Ok(outcome) => (outcome, vec![]),
        Err(StoreError::Invalid { field, reason }) => (Outcome::Refused, vec![FieldReason { field, reason }]),
        Err(error) if error.is_refusal() => {
            (Outcome::Refused, vec![FieldReason { field: String::new(), reason: error.to_string() }])
        }
        Err(error) => return Err(error),
    };
    receipt.note(RowReport { line, code: code.into(), outcome, changes: vec![], reasons });
    Ok(())
}
