//! A family's ladder that waits for a second engineer.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, to_json},
        tx::Tx,
    },
    watch::families::{
        FamilyReceipt, FamilyReceiptRow,
        write::{Family, withdraw, write},
    },
};
use rusqlite::{Connection, params};
use tally_core::{
    access::{approval::second, roles::Action},
    ground::{ids::PersonId, time::Instant},
    watch::limits::family::{FamilyFate, FamilyLadder},
};

pub(super) fn propose(tx: &Tx, family: &Family, new: &FamilyLadder) -> Result<FamilyReceipt> {
    tx.conn.execute(
        "INSERT INTO proposed_family_ladders (class_id, meter_name, reason, definition, also, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)
         ON CONFLICT (class_id, meter_name) DO UPDATE SET reason = excluded.reason, definition = excluded.definition,
             also = excluded.also, recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by",
        params![
            family.class_id,
            family.name,
            new.reason.trim(),
            to_json(&new.ladder),
            to_json(&new.also),
            tx.now,
            tx.actor.id,
        ],
    )?;
    tx.audit("family limits proposed", "family", &family.path(), new)?;
    let mut rows: Vec<FamilyReceiptRow> = family.members.iter().map(|one| family.row(one, new)).collect();
    for row in rows.iter_mut().filter(|row| row.fate == FamilyFate::Changed) {
        row.fate = FamilyFate::Proposed;
    }
    Ok(FamilyReceipt { number: family.before.as_ref().map_or(0, |before| before.number), pending: true, rows })
}

/// A second engineer's yes to what was proposed for a family: its meters get their new versions now.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed, [`StoreError::NotTheirs`] for whoever proposed it.
pub fn approve(tx: &mut Tx, class: &str, name: &str) -> Result<FamilyReceipt> {
    tx.require(Action::SetLimits)?;
    let family = Family::of(tx.conn, class, name)?;
    let (new, author) = proposed(tx.conn, &family)?;
    second(&author, &tx.actor.id, tx.actor.account)?;
    withdraw(tx, &family)?;
    tx.audit("family limits approved", "family", &family.path(), &new)?;
    write(tx, &family, &new, author, Some(tx.actor.id))
}

/// Takes back or turns down what was proposed for a family. Nothing of it was on its meters.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed.
pub fn turn_down(tx: &mut Tx, class: &str, name: &str) -> Result<()> {
    tx.require(Action::SetLimits)?;
    let family = Family::of(tx.conn, class, name)?;
    let (new, _) = proposed(tx.conn, &family)?;
    withdraw(tx, &family)?;
    tx.audit("proposed family limits turned down", "family", &family.path(), &new)
}

pub(super) fn proposed(conn: &Connection, family: &Family) -> Result<(FamilyLadder, PersonId)> {
    let found = proposed_row(conn, family.class_id, &family.name)?;
    let (new, by, ..) = found.ok_or_else(|| StoreError::not_found("proposed ladder of family", family.path()))?;
    Ok((new, by))
}

/// What is proposed, by whom, with their code and name, and when.
type ProposedRow = (FamilyLadder, PersonId, String, String, Instant);

pub(super) fn proposed_row(conn: &Connection, class: i64, name: &str) -> Result<Option<ProposedRow>> {
    let mut select = conn.prepare_cached(
        "SELECT f.reason, f.definition, f.also, f.recorded_by, f.recorded_at, p.code, p.name
         FROM proposed_family_ladders f JOIN people p ON p.id = f.recorded_by
         WHERE f.class_id = ?1 AND f.meter_name = ?2",
    )?;
    let mut rows = select.query(params![class, name])?;
    let Some(row) = rows.next()? else { return Ok(None) };
    let new = FamilyLadder {
        reason: row.get("reason")?,
        ladder: from_json("proposed_family_ladders", &row.get::<_, String>("definition")?)?,
        also: from_json("proposed_family_ladders", &row.get::<_, String>("also")?)?,
    };
    let by = row.get("recorded_by")?;
    Ok(Some((new, by, row.get("code")?, row.get("name")?, row.get("recorded_at")?)))
}
