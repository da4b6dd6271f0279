//! Parts on their way: set aside for an order, taken from the storeroom, given back.

use super::storeroom::Storeroom;
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    work::{current::state, entries},
};
use rusqlite::{OptionalExtension, params};
use rust_decimal::Decimal;
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{EntryId, WorkOrderId},
        time::Instant,
    },
    work::{
        PartAction, PartMove,
        entries::{EntryKind, NewEntry},
    },
};

/// Moves a part between the storeroom and an order. What is taken is an entry at the price of now.
///
/// # Errors
/// [`StoreError::Invalid`] by field, as [`tally_core::work::Shelf::after`] says and for a part there is not;
/// [`StoreError::Conflict`] where the order is over.
pub fn move_part(tx: &mut Tx, work: WorkOrderId, wanted: &PartMove) -> Result<()> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(work)?;
    if state(tx.conn, work)?.state.is_over() {
        return Err(StoreError::Conflict(format!("work order {work} is over")));
    }
    let mut select =
        tx.conn.prepare_cached("SELECT i.name FROM storeroom k JOIN items i ON i.id = k.item_id WHERE k.code = ?1")?;
    let item: Option<String> = select.query_row([&wanted.part], |row| row.get(0)).optional()?;
    drop(select);
    let item = item.ok_or_else(|| StoreError::invalid("part", "the storeroom has no such part"))?;
    let storeroom = Storeroom::of(tx.conn, &[work], std::iter::once(item.as_str()))?;
    let kept = storeroom.of_item(&item).ok_or_else(|| StoreError::not_found("part", &wanted.part))?;
    let after = storeroom.shelf(work, kept).after(wanted.action, wanted.quantity)?;
    match wanted.action {
        PartAction::Reserve | PartAction::Release => {}
        PartAction::Take => {
            let price = kept.price.ok_or_else(|| {
                StoreError::invalid("part", "the storeroom says no price for it: enter it as material")
            })?;
            let new = NewEntry { at: wanted.at, ..material(&item, wanted.quantity, price.into())? };
            entries::add_taken(tx, work, &new, kept.id)?;
        }
        PartAction::GiveBack => give_back(tx, work, &item, kept.id, wanted.quantity)?,
    }
    tx.conn
        .prepare_cached("DELETE FROM reserved_parts WHERE work_order = ?1 AND part_id = ?2")?
        .execute(params![work, kept.id])?;
    if after.reserved > 0.0 {
        tx.conn
            .prepare_cached(
                "INSERT INTO reserved_parts (work_order, part_id, quantity, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)",
            )?
            .execute(params![work, kept.id, after.reserved, tx.now, tx.actor.id])?;
    }
    tx.touch("work order");
    let did = match wanted.action {
        PartAction::Reserve => "part reserved",
        PartAction::Release => "part freed",
        PartAction::Take => "part taken",
        PartAction::GiveBack => "part given back",
    };
    tx.audit(
        did,
        "work order",
        &work.to_string(),
        &serde_json::json!({ "part": wanted.part, "quantity": wanted.quantity }),
    )
}

fn decimal(quantity: f64) -> Result<Decimal> {
    let exact = Decimal::try_from(quantity).map_err(|error| StoreError::invalid("quantity", error))?;
    Ok(exact.round_dp(6).normalize())
}

fn material(item: &str, quantity: f64, price: Decimal) -> Result<NewEntry> {
    Ok(NewEntry {
        kind: EntryKind::Material,
        asset: None,
        person: None,
        quantity: decimal(quantity)?,
        unit_price: Some(price),
        description: item.into(),
        item: Some(item.into()),
        supplier: None,
        at: None,
    })
}

/// Takes entries of a part back, the newest first; of the last only what is given back, so that the rest stands at its price and its
/// time.
fn give_back(tx: &mut Tx, work: WorkOrderId, item: &str, part: i64, quantity: f64) -> Result<()> {
    let mut select = tx.conn.prepare_cached(
        "SELECT id, quantity, unit_price, at FROM entries e WHERE part_id = ?1 AND work_order = ?2 AND reverses IS NULL
             AND NOT EXISTS (SELECT 1 FROM entries r WHERE r.reverses = e.id) ORDER BY id DESC",
    )?;
    let rows = select.query_map(params![part, work], |row| {
        Ok((row.get::<_, EntryId>(0)?, row.get::<_, String>(1)?, row.get::<_, String>(2)?, row.get::<_, Instant>(3)?))
    })?;
    let taken = rows.collect::<rusqlite::Result<Vec<_>>>()?;
    drop(select);
    let mut left = decimal(quantity)?;
    for (entry, some, price, at) in taken {
        if left <= Decimal::ZERO {
            break;
        }
        let number = |text: &str| text.parse::<Decimal>().map_err(|error| StoreError::corrupt("entries", error));
        let some = number(&some)?;
        entries::reverse(tx, work, entry, "given back to the storeroom")?;
        if some > left {
            let rest = NewEntry { quantity: some - left, at: Some(at), ..material(item, 1.0, number(&price)?)? };
            entries::add_taken(tx, work, &rest, part)?;
        }
        left -= some.min(left);
    }
    Ok(())
}
