//! What the storeroom keeps.

use super::{
    source::{Joined, Source},
    wanted::Wanted,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{
        assets,
        master::{
            columns::Column,
            forms::{Form, parts},
        },
    },
    work::{bought, bought::Bought},
};
use rusqlite::{OptionalExtension, params};

pub(super) const COLUMNS: &[Column] = &[
    Column::new("code", "Part number", Form::Code).required().apart(),
    Column::new("name", "Item", Form::Text).required().apart().hint("as entries and job sheets call it"),
    Column::new("place", "Place", Form::Text).many(),
    Column::new("stock", "In stock", Form::Number).default("0"),
    Column::new("lead_days", "Days to get it", Form::Number).hint("from ordering it to having it").many(),
    Column::new("price", "Price of one", Form::Money),
    Column::new("fits", "Fits", Form::List).hint("assets that it is a spare part of, with | between").apart().many(),
];

pub(super) const SOURCE: Source = Source {
    own: "k.id, NULL AS asset_id, k.code, k.place, k.stock, k.lead_days, k.price, i.name",
    from: "storeroom k JOIN items i ON i.id = k.item_id",
    joined: &[Joined {
        column: "fits",
        is: "(SELECT json_group_array(a.code ORDER BY a.code) FROM storeroom_fits f JOIN assets a ON a.id = f.asset_id
             WHERE f.part_id = k.id)",
        join: "",
    }],
};

fn check(wanted: &Wanted) -> Result<()> {
    if wanted.real("stock").is_some_and(|stock| !(0.0..=1e9).contains(&stock)) {
        return Err(StoreError::invalid("stock", "must be 0 or more"));
    }
    if wanted.real("lead_days").is_some_and(|days| !(0.0..=3_650.0).contains(&days) || days.fract() != 0.0) {
        return Err(StoreError::invalid("lead_days", "must be a whole number of days, ten years at the most"));
    }
    Ok(())
}

/// The item of that name, where no other part is it.
fn item(tx: &Tx, wanted: &Wanted) -> Result<i64> {
    let name = wanted.text("name");
    let item = bought::id_of(tx, Bought::Item, Some(name))?;
    let item = item.ok_or_else(|| StoreError::invalid("name", "is missing"))?;
    let mut other = tx.conn.prepare_cached("SELECT code FROM storeroom WHERE item_id = ?1 AND code <> ?2")?;
    match other.query_row(params![item, wanted.text("code")], |row| row.get::<_, String>(0)).optional()? {
        Some(code) => Err(StoreError::invalid("name", format!("{name:?} is part {code}"))),
        None => Ok(item),
    }
}

fn set_fits(tx: &Tx, part: i64, wanted: &Wanted) -> Result<()> {
    tx.conn.prepare_cached("DELETE FROM storeroom_fits WHERE part_id = ?1")?.execute([part])?;
    let mut insert =
        tx.conn.prepare_cached("INSERT OR IGNORE INTO storeroom_fits (part_id, asset_id) VALUES (?1, ?2)")?;
    for asset in parts(wanted.text("fits")) {
        insert.execute(params![part, assets::require_in(tx.conn, asset, "fits")?])?;
    }
    Ok(())
}

pub(super) fn add(tx: &mut Tx, wanted: &Wanted) -> Result<()> {
    check(wanted)?;
    let item = item(tx, wanted)?;
    tx.conn
        .prepare_cached(
            "INSERT INTO storeroom (code, item_id, place, stock, lead_days, price) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?
        .execute(params![
            wanted.text("code"),
            item,
            wanted.kept("place"),
            wanted.kept("stock"),
            wanted.kept("lead_days"),
            wanted.kept("price"),
        ])?;
    set_fits(tx, tx.conn.last_insert_rowid(), wanted)?;
    tx.audit("added", "part", wanted.text("code"), &serde_json::json!({ "name": wanted.text("name") }))
}

pub(super) fn change(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    check(wanted)?;
    if changed.iter().any(|column| column.name == "name") {
        let item = item(tx, wanted)?;
        tx.conn.execute("UPDATE storeroom SET item_id = ?2 WHERE id = ?1", params![id, item])?;
    }
    if changed.iter().any(|column| column.name == "fits") {
        set_fits(tx, id, wanted)?;
    }
    Ok(())
}
