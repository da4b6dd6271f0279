//! Parts of an order as the [`storeroom`] has them, those that are [`moving`] between the two, and the spare parts of an asset.

mod moving;
mod storeroom;

pub use moving::move_part;
pub(super) use storeroom::{Storeroom, put_on_shelf, release_all};

use crate::{
    ground::{error::Result, view::View},
    plant::assets,
};
use jiff::civil::Date;
use rusqlite::{Row, params};
use serde::Serialize;
use tally_core::{
    ground::ids::{AssetId, WorkOrderId},
    work::{JobPart, There, all_there_on},
};
use utoipa::ToSchema;

/// A part that work needs or took, with what the storeroom says of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WorkPart {
    pub item: String,
    /// What its job sheet says that it needs; 0 of what was not planned.
    pub quantity: f64,
    /// Its part number; none where the storeroom does not keep it.
    pub code: Option<String>,
    pub place: Option<String>,
    /// Of one, in minor units, by the storeroom's list.
    pub price: Option<i64>,
    pub on_hand: Option<f64>,
    /// What of that this order can have: less what is set aside for others.
    pub free: f64,
    /// Set aside for this order.
    pub reserved: f64,
    /// What this order took and did not give back.
    pub taken: f64,
    pub lead_days: Option<u32>,
    /// There is less of it than work still needs.
    pub is_missing: bool,
    /// When there would be enough, ordered today, as `2026-03-02`.
    pub expected_on: Option<String>,
}

/// Something that fits an asset.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SparePart {
    pub code: String,
    pub item: String,
    pub place: Option<String>,
    pub on_hand: f64,
    pub lead_days: Option<u32>,
}

/// Parts of an order: those that its job sheet names, then what else it reserved or took; and when the last of those that are
/// missing would be there.
pub(super) fn of_work(
    view: &View,
    work: WorkOrderId,
    planned: &[JobPart],
    today: Date,
) -> Result<(Vec<WorkPart>, Option<String>)> {
    let mut select = view.conn.prepare_cached(
        "SELECT DISTINCT i.name FROM (SELECT part_id FROM reserved_parts WHERE work_order = ?1 UNION
             SELECT part_id FROM entries WHERE work_order = ?1 AND part_id IS NOT NULL) u
         JOIN storeroom k ON k.id = u.part_id JOIN items i ON i.id = k.item_id ORDER BY i.name",
    )?;
    let had = select.query_map([work], |row| row.get(0))?.collect::<rusqlite::Result<Vec<String>>>()?;
    let is_planned = |item: &str| planned.iter().any(|part| part.item.to_lowercase() == item.to_lowercase());
    let beyond = had.into_iter().filter(|item| !is_planned(item)).map(|item| JobPart { item, quantity: 0.0 });
    let all: Vec<JobPart> = planned.iter().cloned().chain(beyond).collect();
    let storeroom = Storeroom::of(view.conn, &[work], all.iter().map(|part| part.item.as_str()))?;
    let there: Vec<There> = all.iter().map(|part| storeroom.there(work, part, today)).collect();
    let told = all.iter().zip(&there).map(|(part, there)| {
        let kept = storeroom.of_item(&part.item);
        let shelf = kept.map(|kept| storeroom.shelf(work, kept)).unwrap_or_default();
        WorkPart {
            item: part.item.clone(),
            quantity: part.quantity,
            code: kept.map(|kept| kept.code.clone()),
            place: kept.and_then(|kept| kept.place.clone()),
            price: kept.and_then(|kept| kept.price),
            on_hand: kept.map(|kept| kept.on_hand),
            free: shelf.free(),
            reserved: shelf.reserved,
            taken: shelf.taken,
            lead_days: kept.and_then(|kept| kept.lead_days),
            is_missing: there.is_missing_on(today) || matches!(there, There::On(_)),
            expected_on: match there {
                There::On(date) => Some(date.to_string()),
                There::NotKept | There::Now | There::Unknown => None,
            },
        }
    });
    let told: Vec<WorkPart> = told.filter(|part| part.quantity > 0.0 || part.reserved + part.taken > 0.0).collect();
    Ok((told, all_there_on(&there).map(|date| date.to_string())))
}

/// Spare parts of an asset, by their names.
pub(super) fn that_fit(view: &View, asset: AssetId) -> Result<Vec<SparePart>> {
    let mut select = view.conn.prepare_cached(
        "SELECT k.code, i.name, k.place, ifnull(k.stock, 0), CAST(k.lead_days AS INTEGER) FROM storeroom_fits f
         JOIN storeroom k ON k.id = f.part_id JOIN items i ON i.id = k.item_id WHERE f.asset_id = ?1 ORDER BY i.name",
    )?;
    Ok(select.query_map([asset], spare_part)?.collect::<rusqlite::Result<_>>()?)
}

/// Parts of the storeroom whose name or number has these letters, those that fit an asset first.
///
/// # Errors
/// [`crate::StoreError::NotFound`] for an asset there is not.
pub fn find(view: &View, text: &str, asset: Option<&str>) -> Result<Vec<SparePart>> {
    let asset = asset.map(|code| assets::require_reached(view, code)).transpose()?;
    let mut select = view.conn.prepare_cached(
        "SELECT k.code, i.name, k.place, ifnull(k.stock, 0), CAST(k.lead_days AS INTEGER),
             EXISTS (SELECT 1 FROM storeroom_fits f WHERE f.part_id = k.id AND f.asset_id = ?2) AS fits
         FROM storeroom k JOIN items i ON i.id = k.item_id
         WHERE instr(lower(i.name || ' ' || k.code), lower(?1)) > 0 ORDER BY fits DESC, i.name LIMIT 20",
    )?;
    Ok(select.query_map(params![text.trim(), asset], spare_part)?.collect::<rusqlite::Result<_>>()?)
}

fn spare_part(row: &Row) -> rusqlite::Result<SparePart> {
    Ok(SparePart {
        code: row.get(0)?,
        item: row.get(1)?,
        place: row.get(2)?,
        on_hand: row.get(3)?,
        lead_days: row.get(4)?,
    })
}
