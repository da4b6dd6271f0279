//! What the storeroom has of items, and what of them stands with orders.

use crate::ground::{error::Result, rows::list_of, tx::Tx};
use jiff::civil::Date;
use rusqlite::{Connection, params};
use std::collections::HashMap;
use tally_core::{
    ground::ids::WorkOrderId,
    work::{JobPart, Shelf, Stock, There},
};

/// What the storeroom keeps of an item.
pub(super) struct Kept {
    pub id: i64,
    pub code: String,
    pub place: Option<String>,
    pub on_hand: f64,
    pub lead_days: Option<u32>,
    /// Of one, in minor units.
    pub price: Option<i64>,
}

/// What the storeroom keeps of items, by their names in small letters, and what orders have of it.
pub(crate) struct Storeroom {
    kept: HashMap<String, Kept>,
    /// By part: orders for which some is set aside.
    reserved: HashMap<i64, Vec<(WorkOrderId, f64)>>,
    /// By part and order: what it took and did not give back.
    taken: HashMap<(i64, WorkOrderId), f64>,
}

impl Storeroom {
    /// Of the items of those names, as some orders have them.
    pub(crate) fn of<'a>(
        conn: &Connection,
        works: &[WorkOrderId],
        items: impl Iterator<Item = &'a str>,
    ) -> Result<Self> {
        let mut select = conn.prepare_cached(
            "SELECT i.name, k.id, k.code, k.place, ifnull(k.stock, 0), CAST(k.lead_days AS INTEGER), k.price FROM rarray(?1) wanted
             CROSS JOIN items i ON i.name = wanted.value JOIN storeroom k ON k.item_id = i.id",
        )?;
        let rows = select.query_map([list_of(items.map(str::to_owned))], |row| {
            let kept = Kept {
                id: row.get(1)?,
                code: row.get(2)?,
                place: row.get(3)?,
                on_hand: row.get(4)?,
                lead_days: row.get(5)?,
                price: row.get(6)?,
            };
            Ok((row.get::<_, String>(0)?.to_lowercase(), kept))
        })?;
        let kept: HashMap<String, Kept> = rows.collect::<rusqlite::Result<_>>()?;
        let parts = list_of(kept.values().map(|kept| kept.id));
        let mut select = conn
            .prepare_cached("SELECT part_id, work_order, quantity FROM reserved_parts WHERE part_id IN rarray(?1)")?;
        let rows = select.query_map([parts.clone()], |row| Ok((row.get(0)?, (row.get(1)?, row.get(2)?))))?;
        let mut reserved: HashMap<i64, Vec<_>> = HashMap::new();
        for row in rows {
            let (part, of_work) = row?;
            reserved.entry(part).or_default().push(of_work);
        }
        let mut select = conn.prepare_cached(
            "SELECT part_id, work_order, sum(CAST(quantity AS REAL)) FROM entries
             WHERE part_id IN rarray(?1) AND work_order IN rarray(?2) GROUP BY part_id, work_order",
        )?;
        let works = list_of(works.iter().map(|work| work.0));
        let rows = select.query_map(params![parts, works], |row| Ok(((row.get(0)?, row.get(1)?), row.get(2)?)))?;
        Ok(Self { kept, reserved, taken: rows.collect::<rusqlite::Result<_>>()? })
    }

    pub(super) fn of_item(&self, item: &str) -> Option<&Kept> {
        self.kept.get(&item.to_lowercase())
    }

    /// A part as it stands for an order.
    pub(super) fn shelf(&self, work: WorkOrderId, kept: &Kept) -> Shelf {
        let all = self.reserved.get(&kept.id).map_or(&[][..], Vec::as_slice);
        let sum = |own: bool| {
            all.iter()
                .filter(|(other, _)| (*other == work) == own)
                .map(|(_, some)| some)
                .fold(0.0, |sum, some| sum + some)
        };
        let taken = self.taken.get(&(kept.id, work)).copied().unwrap_or(0.0);
        Shelf { on_hand: kept.on_hand, reserved: sum(true), elsewhere: sum(false), taken }
    }

    /// When what an order still needs of a part is there.
    pub(crate) fn there(&self, work: WorkOrderId, part: &JobPart, today: Date) -> There {
        let Some(kept) = self.of_item(&part.item) else { return There::NotKept };
        let shelf = self.shelf(work, kept);
        let stock = Stock { on_hand: shelf.free(), lead_days: kept.lead_days };
        There::of((part.quantity - shelf.taken).max(0.0), Some(stock), today)
    }
}

/// So many of a part come to the storeroom, or go.
pub(crate) fn put_on_shelf(tx: &Tx, part: i64, quantity: f64) -> Result<()> {
    let mut update =
        tx.conn.prepare_cached("UPDATE storeroom SET stock = round(ifnull(stock, 0) + ?2, 6) WHERE id = ?1")?;
    update.execute(params![part, quantity])?;
    Ok(())
}

/// What was set aside for an order that is over is free again.
pub(crate) fn release_all(tx: &Tx, work: WorkOrderId) -> Result<()> {
    tx.conn.prepare_cached("DELETE FROM reserved_parts WHERE work_order = ?1")?.execute([work])?;
    Ok(())
}
