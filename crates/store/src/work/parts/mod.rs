//! Parts of a job sheet as the storeroom has them, and the spare parts of an asset.

use crate::ground::{error::Result, rows::list_of, view::View};
use jiff::civil::Date;
use rusqlite::Connection;
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    ground::ids::AssetId,
    work::{JobPart, Stock, There, all_there_on},
};
use utoipa::ToSchema;

/// A part that work needs, with what the storeroom says of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WorkPart {
    pub item: String,
    pub quantity: f64,
    /// Its part number; none where the storeroom does not keep it.
    pub code: Option<String>,
    pub place: Option<String>,
    pub on_hand: Option<f64>,
    pub lead_days: Option<u32>,
    /// There is less of it than work needs.
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

/// What the storeroom keeps of an item.
struct Kept {
    code: String,
    place: Option<String>,
    stock: Stock,
}

/// What the storeroom keeps of items, by their names in small letters.
pub(super) struct Storeroom {
    kept: HashMap<String, Kept>,
}

impl Storeroom {
    /// Of the items of those names.
    pub(super) fn of<'a>(conn: &Connection, items: impl Iterator<Item = &'a str>) -> Result<Self> {
        let mut select = conn.prepare_cached(
            "SELECT i.name, k.code, k.place, ifnull(k.stock, 0), CAST(k.lead_days AS INTEGER) FROM rarray(?1) wanted
             CROSS JOIN items i ON i.name = wanted.value JOIN storeroom k ON k.item_id = i.id",
        )?;
        let rows = select.query_map([list_of(items.map(str::to_owned))], |row| {
            let stock = Stock { on_hand: row.get(3)?, lead_days: row.get(4)? };
            Ok((row.get::<_, String>(0)?.to_lowercase(), Kept { code: row.get(1)?, place: row.get(2)?, stock }))
        })?;
        Ok(Self { kept: rows.collect::<rusqlite::Result<_>>()? })
    }

    fn of_item(&self, item: &str) -> Option<&Kept> {
        self.kept.get(&item.to_lowercase())
    }

    /// When so much of a part is there.
    pub(super) fn there(&self, part: &JobPart, today: Date) -> There {
        There::of(part.quantity, self.of_item(&part.item).map(|kept| kept.stock), today)
    }
}

/// Parts as the storeroom has them, and when the last of those that are missing would be there.
pub(super) fn of_job(conn: &Connection, parts: &[JobPart], today: Date) -> Result<(Vec<WorkPart>, Option<String>)> {
    let storeroom = Storeroom::of(conn, parts.iter().map(|part| part.item.as_str()))?;
    let there: Vec<There> = parts.iter().map(|part| storeroom.there(part, today)).collect();
    let told = parts.iter().zip(&there).map(|(part, there)| {
        let kept = storeroom.of_item(&part.item);
        WorkPart {
            item: part.item.clone(),
            quantity: part.quantity,
            code: kept.map(|kept| kept.code.clone()),
            place: kept.and_then(|kept| kept.place.clone()),
            on_hand: kept.map(|kept| kept.stock.on_hand),
            lead_days: kept.and_then(|kept| kept.stock.lead_days),
            is_missing: there.is_missing_on(today) || matches!(there, There::On(_)),
            expected_on: match there {
                There::On(date) => Some(date.to_string()),
                There::NotKept | There::Now | There::Unknown => None,
            },
        }
    });
    Ok((told.collect(), all_there_on(&there).map(|date| date.to_string())))
}

/// Spare parts of an asset, by their names.
pub(super) fn that_fit(view: &View, asset: AssetId) -> Result<Vec<SparePart>> {
    let mut select = view.conn.prepare_cached(
        "SELECT k.code, i.name, k.place, ifnull(k.stock, 0), CAST(k.lead_days AS INTEGER) FROM storeroom_fits f
         JOIN storeroom k ON k.id = f.part_id JOIN items i ON i.id = k.item_id WHERE f.asset_id = ?1 ORDER BY i.name",
    )?;
    let rows = select.query_map([asset], |row| {
        Ok(SparePart {
            code: row.get(0)?,
            item: row.get(1)?,
            place: row.get(2)?,
            on_hand: row.get(3)?,
            lead_days: row.get(4)?,
        })
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}
