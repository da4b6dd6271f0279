//! Sheets that are written as a whole and keep their versions: job sheets and check sheets alike.

use crate::ground::{
    error::{Result, StoreError},
    rows::word,
    tx::Tx,
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{status::Status, time::Instant},
    plant::assets::parse_code,
};

/// Sheets of one kind, by where they are kept.
pub(super) struct Sheets {
    /// What people call them.
    pub kind: &'static str,
    pub table: &'static str,
    pub versions: &'static str,
}

pub(super) const JOB_SHEETS: Sheets = Sheets { kind: "job sheet", table: "job_sheets", versions: "job_sheet_versions" };
pub(super) const CHECK_SHEETS: Sheets =
    Sheets { kind: "check sheet", table: "check_sheets", versions: "check_sheet_versions" };

/// The newest version of a sheet.
pub(super) struct Newest {
    sheet: i64,
    pub version: i64,
    pub number: i64,
    pub status: Status,
    /// JSON.
    pub text: String,
    pub at: Instant,
    pub by: String,
}

impl Sheets {
    /// The newest version of the sheet of that code.
    pub(super) fn newest(&self, conn: &Connection, code: &str) -> Result<Option<Newest>> {
        let mut select = conn.prepare_cached(&format!(
            "SELECT s.id, v.id, v.number, s.status, v.sheet, v.recorded_at, p.name FROM {} s JOIN {} v ON v.sheet_id = s.id
             JOIN people p ON p.id = v.recorded_by WHERE s.code = ?1 ORDER BY v.number DESC LIMIT 1",
            self.table, self.versions
        ))?;
        let found = select.query_row([code], |row| {
            Ok(Newest {
                sheet: row.get(0)?,
                version: row.get(1)?,
                number: row.get(2)?,
                status: row.get(3)?,
                text: row.get(4)?,
                at: row.get(5)?,
                by: row.get(6)?,
            })
        });
        Ok(found.optional()?)
    }

    /// The same of one that there is.
    pub(super) fn require(&self, conn: &Connection, code: &str) -> Result<Newest> {
        self.newest(conn, code)?.ok_or_else(|| StoreError::not_found(self.kind, code))
    }

    /// The same of one that is active; `field` names it in errors.
    pub(super) fn require_active(&self, conn: &Connection, code: &str, field: &str) -> Result<Newest> {
        let missing = || StoreError::invalid(field, format!("there is no {} {code:?}", self.kind));
        let found = self.newest(conn, code)?.ok_or_else(missing)?;
        match found.status {
            Status::Active => Ok(found),
            status => Err(StoreError::invalid(field, format!("{} {code:?} is {}", self.kind, word(&status)))),
        }
    }

    /// Writes a version, unless nothing differs from the newest.
    pub(super) fn put(&self, tx: &Tx, code: &str, title: &str, status: Status, text: &str) -> Result<()> {
        parse_code(code).map_err(|error| StoreError::invalid("code", error))?;
        let title = title.trim();
        let (sheet, number) = match self.newest(tx.conn, code)? {
            Some(newest) if newest.text == text => return Ok(()),
            Some(newest) => {
                tx.conn.execute(
                    &format!("UPDATE {} SET title = ?2, status = ?3 WHERE id = ?1", self.table),
                    params![newest.sheet, title, status],
                )?;
                (newest.sheet, newest.number + 1)
            }
            None => {
                tx.conn.execute(
                    &format!("INSERT INTO {} (code, title, status) VALUES (?1, ?2, ?3)", self.table),
                    params![code, title, status],
                )?;
                (tx.conn.last_insert_rowid(), 1)
            }
        };
        tx.conn.execute(
            &format!(
                "INSERT INTO {} (sheet_id, number, sheet, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)",
                self.versions
            ),
            params![sheet, number, text, tx.now, tx.actor.id],
        )?;
        let action = if number == 1 { "added" } else { "changed" };
        tx.audit(action, self.kind, code, &serde_json::json!({ "version": number, "title": title }))
    }
}
