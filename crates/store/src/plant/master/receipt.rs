//! What became, or would become, of each row.

use serde::{Deserialize, Serialize};
use tally_core::outside::files::CsvOut;
use utoipa::ToSchema;

/// What became of a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Outcome {
    Added,
    Changed,
    Unchanged,
    Refused,
}

/// A field before and after.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct FieldChange {
    pub field: String,
    pub from: String,
    pub to: String,
}

/// What is wrong with one field of a row; of the whole row where it is empty.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct FieldReason {
    pub field: String,
    pub reason: String,
}

/// One row's fate.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RowReport {
    /// Of the file, the head line counted; the row's place where there is no file.
    pub line: u64,
    pub code: String,
    pub outcome: Outcome,
    pub changes: Vec<FieldChange>,
    pub reasons: Vec<FieldReason>,
}

/// The fate of all rows.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct MasterReceipt {
    pub rows: usize,
    pub added: usize,
    pub changed: usize,
    pub unchanged: usize,
    pub refused: usize,
    /// Classes and crews that rows name and that were not there: `equipment class pump`.
    pub also_added: Vec<String>,
    /// Columns of the file that mean nothing here.
    pub ignored_columns: Vec<String>,
    /// Rows that were refused, added or changed, in the order of the file.
    pub lines: Vec<RowReport>,
    /// Rows like these that are not listed.
    pub more_lines: usize,
    /// So many rows were refused that the rest was not read.
    pub given_up: bool,
}

/// Refused rows after which a source is given up: it is not what it was taken for.
pub const MOST_REFUSED: usize = 100_000;

/// Lines that are listed at the most, so that no source can fill the memory.
const MOST_LINES: usize = 20_000;

impl MasterReceipt {
    /// Takes one row down.
    pub fn note(&mut self, report: RowReport) {
        self.rows += 1;
        match report.outcome {
            Outcome::Added => self.added += 1,
            Outcome::Changed => self.changed += 1,
            Outcome::Unchanged => {
                self.unchanged += 1;
                return;
            }
            Outcome::Refused => self.refused += 1,
        }
        if self.lines.len() < MOST_LINES {
            self.lines.push(report);
        } else {
            self.more_lines += 1;
        }
    }

    /// Its lines in the order of the file.
    #[must_use]
    pub fn in_order(mut self) -> Self {
        self.lines.sort_by_key(|report| report.line);
        self
    }

    /// Takes a row down that is refused as a whole, of rows that are counted already.
    pub fn refuse_counted(&mut self, line: u64, code: &str, reason: &str) {
        let reasons = vec![FieldReason { field: String::new(), reason: reason.into() }];
        self.refuse(line, code, reasons);
        self.rows -= 1;
    }

    pub(crate) fn refuse(&mut self, line: u64, code: &str, reasons: Vec<FieldReason>) {
        self.note(RowReport { line, code: code.into(), outcome: Outcome::Refused, changes: vec![], reasons });
    }

    /// As a file: one line a row, with all that changes and all that is wrong.
    #[must_use]
    pub fn to_csv(&self) -> String {
        let mut out = CsvOut::new(Vec::new());
        let head = ["line", "code", "outcome", "field", "from", "to", "reason"];
        // Writing into memory does not fail.
        out.line(head).ok();
        for report in &self.lines {
            let line = report.line.to_string();
            let outcome = crate::ground::rows::word(&report.outcome);
            let first = [line.as_str(), &report.code, &outcome];
            let mut write = |rest: [&str; 4]| out.line(first.into_iter().chain(rest)).ok();
            if report.changes.is_empty() && report.reasons.is_empty() {
                write(["", "", "", ""]);
            }
            for change in &report.changes {
                write([&change.field, &change.from, &change.to, ""]);
            }
            for reason in &report.reasons {
                write([&reason.field, "", "", &reason.reason]);
            }
        }
        out.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
    }
}
