//! Adding an asset with its first place.

use super::{class_id, find, places::place, require_in};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        rows::to_json,
        tx::Tx,
    },
};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use tally_core::{
    access::roles::Action,
    ground::{ids::AssetId, time::Instant},
    plant::assets::{AssetKind, Criticality, Level, ParentEffect, check_life, parse_code},
};
use utoipa::ToSchema;

/// An asset to add.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct NewAsset {
    pub code: String,
    pub name: String,
    #[serde(default = "position")]
    pub kind: AssetKind,
    pub level: Level,
    /// Code of the parent; none for a root.
    pub parent: Option<String>,
    /// Code of the equipment class.
    pub class: Option<String>,
    pub maker: Option<String>,
    pub model: Option<String>,
    pub serial: Option<String>,
    #[serde(default)]
    pub tags: Vec<String>,
    /// Required time begins here; without it, it always was. What was spent before counts all the same.
    pub commissioned_at: Option<Instant>,
    pub retired_at: Option<Instant>,
    /// Minor units.
    pub replacement_value: Option<i64>,
    /// Minor units per hour of unplanned downtime.
    pub downtime_cost: Option<i64>,
    pub criticality: Option<Criticality>,
    /// Code of the crew that looks after it.
    pub crew: Option<String>,
    /// What its being down does to its parent.
    #[serde(default = "no_effect")]
    pub parent_effect: ParentEffect,
}

fn position() -> AssetKind {
    AssetKind::Position
}

fn no_effect() -> ParentEffect {
    ParentEffect::No
}

/// Adds an asset with its first placement.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::Conflict`] for a code that is or was taken.
pub fn add(tx: &mut Tx, new: &NewAsset) -> Result<AssetId> {
    tx.require(Action::ChangeMasterData)?;
    let code = parse_code(&new.code).map_err(|error| StoreError::invalid("code", error))?;
    if find(tx.conn, &code)?.is_some() {
        return Err(StoreError::Conflict(format!("there is an asset {code} already")));
    }
    if new.name.trim().is_empty() {
        return Err(StoreError::invalid("name", "an asset needs a name"));
    }
    check_life(new.commissioned_at, new.retired_at)?;
    people::not_negative("replacement_value", new.replacement_value)?;
    people::not_negative("downtime_cost", new.downtime_cost)?;
    let parent = match &new.parent {
        Some(parent) => Some(require_in(tx.conn, parent, "parent")?),
        None => None,
    };
    let class = match &new.class {
        Some(class) => Some(
            class_id(tx.conn, class)?
                .ok_or_else(|| StoreError::invalid("class", format!("there is no equipment class {class:?}")))?,
        ),
        None => None,
    };
    let crew = match &new.crew {
        Some(crew) => Some(people::require_crew(tx.conn, crew, "crew")?.0),
        None => None,
    };
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO assets (code, name, kind, level, class_id, maker, model, serial, tags, commissioned_at, retired_at,
             replacement_value, downtime_cost, criticality, crew_id, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
    )?;
    insert.execute(params![
        code,
        new.name.trim(),
        new.kind,
        new.level,
        class,
        new.maker,
        new.model,
        new.serial,
        to_json(&new.tags),
        new.commissioned_at,
        new.retired_at,
        new.replacement_value,
        new.downtime_cost,
        new.criticality,
        crew,
        tx.now,
        tx.actor.id,
    ])?;
    let id = AssetId(tx.conn.last_insert_rowid());
    // Its life bounds required time; its place and its effect reach back to the beginning, as its cost may.
    let from = Instant::EARLIEST;
    place(tx, id, parent, from, "added")?;
    if new.parent_effect != ParentEffect::No {
        let mut insert = tx.conn.prepare_cached(
            "INSERT INTO parent_effects (asset_id, from_at, effect, recorded_at, recorded_by)
             VALUES (?1, ?2, ?3, ?4, ?5)",
        )?;
        let effect = to_json(&new.parent_effect);
        insert.execute(params![id, from, effect, tx.now, tx.actor.id])?;
    }
    tx.audit("added", "asset", &code, new)?;
    Ok(id)
}
