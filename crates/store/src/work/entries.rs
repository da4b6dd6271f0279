//! Entries: what was spent on work. A correction is a reversing entry, never a change.

use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{assets, assets::NamedAsset},
    work,
    work::{
        bought::{Bought, id_of},
        parts::put_on_shelf,
    },
};
use rusqlite::{Connection, OptionalExtension, params};
use rust_decimal::prelude::ToPrimitive;
use serde::Serialize;
use tally_core::{
    access::refusal::said,
    ground::{
        ids::{EntryId, WorkOrderId},
        time::Instant,
    },
    work::entries::{CheckedEntry, EntryKind, NewEntry, may_report, may_take_back},
};
use utoipa::ToSchema;

/// An entry as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct EntryRow {
    pub id: EntryId,
    pub kind: EntryKind,
    pub asset: NamedAsset,
    pub person: Option<String>,
    pub item: Option<String>,
    pub supplier: Option<String>,
    pub quantity: String,
    pub unit_price: String,
    /// Minor units.
    pub amount: i64,
    pub description: String,
    pub at: Instant,
    /// When it was settled; provisional without.
    pub settled_at: Option<Instant>,
    pub adjustment: bool,
    /// The entry that this one takes back.
    pub reverses: Option<EntryId>,
    /// It was taken back.
    pub reversed: bool,
    /// The storeroom gave it.
    pub from_storeroom: bool,
    pub recorded_by: String,
    pub recorded_at: Instant,
}

/// Reports a line of cost on work. On closed work it is an adjustment, a planner's to make, and settled at once.
///
/// # Errors
/// [`StoreError::Invalid`] by field; [`StoreError::Conflict`] on dropped work.
pub fn add(tx: &mut Tx, number: WorkOrderId, new: &NewEntry) -> Result<EntryId> {
    enter(tx, number, new, None)
}

/// The same, of something that the storeroom gives for it.
pub(super) fn add_taken(tx: &mut Tx, number: WorkOrderId, new: &NewEntry, part: i64) -> Result<EntryId> {
    let pieces = new.quantity.to_f64().unwrap_or_default();
    let id = enter(tx, number, new, Some(part))?;
    put_on_shelf(tx, part, -pieces)?;
    Ok(id)
}

fn enter(tx: &mut Tx, number: WorkOrderId, new: &NewEntry, part: Option<i64>) -> Result<EntryId> {
    tx.require_seen(number)?;
    let current = work::state(tx.conn, number)?;
    let adjustment = may_report(current.state, tx.actor.role)?;
    let asset = match &new.asset {
        Some(code) => assets::require_reached_in(tx, code, "asset")?,
        None => current.asset,
    };
    let person = match (&new.person, new.kind) {
        (Some(code), _) => Some(people::require_person(tx.conn, code, "person")?.id),
        (None, EntryKind::Labour) => Some(tx.actor.id),
        (None, _) => None,
    };
    let rate = match person {
        Some(person) if new.kind == EntryKind::Labour => people::rate(tx.conn, person)?,
        _ => None,
    };
    let CheckedEntry { at, unit_price, amount, hours_ms } = new.check(rate, tx.now)?;
    let item = id_of(tx, Bought::Item, new.item())?;
    let supplier = id_of(tx, Bought::Supplier, new.supplier())?;
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO entries (work_order, asset_id, kind, at, person_id, quantity, unit_price, amount, hours_ms,
             description, adjustment, settled_at, recorded_at, recorded_by, item_id, supplier_id, part_id)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
    )?;
    insert.execute(params![
        number,
        asset,
        new.kind,
        at,
        person,
        new.quantity.normalize().to_string(),
        unit_price.normalize().to_string(),
        amount.0,
        hours_ms,
        new.description.trim(),
        adjustment,
        adjustment.then_some(tx.now),
        tx.now,
        tx.actor.id,
        item,
        supplier,
        part,
    ])?;
    let id = EntryId(tx.conn.last_insert_rowid());
    add_to_sums(tx, number, amount.0, hours_ms)?;
    Ok(id)
}

fn add_to_sums(tx: &Tx, number: WorkOrderId, amount: i64, hours_ms: i64) -> Result<()> {
    tx.touch("work order");
    let mut update = tx
        .conn
        .prepare_cached("UPDATE work_orders SET cost = cost + ?2, spent_ms = spent_ms + ?3 WHERE number = ?1")?;
    update.execute(params![number, amount, hours_ms])?;
    Ok(())
}

/// Takes an entry back by a line of the opposite sign, dated like it.
///
/// # Errors
/// [`StoreError::Conflict`] for one that was taken back already, or is itself a reversal.
pub fn reverse(tx: &mut Tx, number: WorkOrderId, entry: EntryId, reason: &str) -> Result<EntryId> {
    tx.require_seen(number)?;
    let current = work::state(tx.conn, number)?;
    let adjustment = may_take_back(current.state, tx.actor.role)?;
    let reason = said("reason", reason, "say why the entry is taken back")?;
    let found = tx
        .conn
        .query_row(
            "SELECT reverses, amount, hours_ms, EXISTS (SELECT 1 FROM entries r WHERE r.reverses = e.id), part_id,
                 CAST(quantity AS REAL)
             FROM entries e WHERE id = ?1 AND work_order = ?2",
            params![entry, number],
            |row| {
                Ok((
                    row.get::<_, Option<i64>>(0)?,
                    row.get::<_, i64>(1)?,
                    row.get::<_, i64>(2)?,
                    row.get::<_, bool>(3)?,
                    (row.get::<_, Option<i64>>(4)?, row.get::<_, f64>(5)?),
                ))
            },
        )
        .optional()?;
    let (reverses, amount, hours_ms, reversed, (part, pieces)) =
        found.ok_or_else(|| StoreError::not_found("entry", entry))?;
    if reversed || reverses.is_some() {
        return Err(StoreError::Conflict(format!("entry {entry} was taken back already, or takes one back itself")));
    }
    tx.conn.execute(
        "INSERT INTO entries (work_order, asset_id, kind, at, person_id, quantity, unit_price, amount, hours_ms,
             description, reverses, adjustment, settled_at, recorded_at, recorded_by, item_id, supplier_id, part_id)
         SELECT work_order, asset_id, kind, at, person_id, '-' || quantity, unit_price, -amount, -hours_ms,
             ?2, id, ?3, ?4, ?5, ?6, item_id, supplier_id, part_id FROM entries WHERE id = ?1",
        params![entry, reason, adjustment, adjustment.then_some(tx.now), tx.now, tx.actor.id],
    )?;
    let id = EntryId(tx.conn.last_insert_rowid());
    add_to_sums(tx, number, -amount, -hours_ms)?;
    if let Some(part) = part {
        put_on_shelf(tx, part, pieces)?;
    }
    tx.audit(
        "entry reversed",
        "work order",
        &number.to_string(),
        &serde_json::json!({ "entry": entry, "reason": reason }),
    )?;
    Ok(id)
}

pub(crate) fn of_work(conn: &Connection, number: WorkOrderId) -> Result<Vec<EntryRow>> {
    let mut select = conn.prepare_cached(
        "SELECT e.*, a.code AS asset, a.name AS asset_name, p.name AS person, r.name AS recorder, i.name AS item, s.name AS supplier,
             EXISTS (SELECT 1 FROM entries b WHERE b.reverses = e.id) AS reversed
         FROM entries e JOIN assets a ON a.id = e.asset_id JOIN people r ON r.id = e.recorded_by
         LEFT JOIN people p ON p.id = e.person_id LEFT JOIN items i ON i.id = e.item_id
         LEFT JOIN suppliers s ON s.id = e.supplier_id WHERE e.work_order = ?1 ORDER BY e.at, e.id",
    )?;
    let mut rows = select.query([number])?;
    let mut entries = Vec::new();
    while let Some(row) = rows.next()? {
        entries.push(EntryRow {
            id: row.get("id")?,
            kind: row.get("kind")?,
            asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
            person: row.get("person")?,
            item: row.get("item")?,
            supplier: row.get("supplier")?,
            quantity: row.get("quantity")?,
            unit_price: row.get("unit_price")?,
            amount: row.get("amount")?,
            description: row.get("description")?,
            at: row.get("at")?,
            settled_at: row.get("settled_at")?,
            adjustment: row.get("adjustment")?,
            reverses: row.get("reverses")?,
            reversed: row.get("reversed")?,
            from_storeroom: row.get::<_, Option<i64>>("part_id")?.is_some(),
            recorded_by: row.get("recorder")?,
            recorded_at: row.get("recorded_at")?,
        });
    }
    Ok(entries)
}
