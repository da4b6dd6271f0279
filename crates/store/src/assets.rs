//! Assets and their places in time.

use crate::{
    act::Act,
    error::{Result, StoreError},
    people, pictures,
    rows::{from_json, from_word, instant, maybe_instant, maybe_word, optional, to_json, word},
    tally,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use std::{collections::HashMap, rc::Rc};
use tally_core::{
    assets::{AssetKind, Criticality, Level, ParentEffect, parse_code},
    ids::AssetId,
    people::Action,
    severity::Severity,
    tally::Snapshot,
    time::Instant,
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
    /// Required time and the place in the tree begin here; without it they always were.
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

/// An asset as it stands in the tree.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AssetNode {
    #[serde(skip)]
    pub id: AssetId,
    pub code: String,
    pub name: String,
    pub kind: AssetKind,
    pub level: Level,
    pub parent: Option<String>,
    pub class: Option<String>,
    pub criticality: Option<Criticality>,
    pub retired_at: Option<Instant>,
    /// Worst severity standing on it or below it.
    pub worst_severity: Option<Severity>,
    /// Open work on it and below it.
    pub open_work: u32,
    pub has_children: bool,
}

/// One asset with its place and what it stands for.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AssetDetail {
    #[serde(flatten)]
    pub node: AssetNode,
    /// From the root down to the parent: code and name.
    pub above: Vec<NamedAsset>,
    pub maker: Option<String>,
    pub model: Option<String>,
    pub serial: Option<String>,
    pub commissioned_at: Option<Instant>,
    pub replacement_value: Option<i64>,
    pub downtime_cost: Option<i64>,
    pub crew: Option<String>,
    pub placements: Vec<PlacementRow>,
    /// What its being down did to its parent, in order of time.
    pub effects: Vec<EffectRow>,
    /// Its own calendars, in order of time; where none stands it has that of its parent.
    pub calendars: Vec<CalendarRow>,
    pub old_codes: Vec<String>,
    pub has_picture: bool,
}

/// What an asset's being down did to its parent, from when to when.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct EffectRow {
    pub effect: ParentEffect,
    pub from: Instant,
    pub to: Option<Instant>,
}

/// A calendar an asset had, from when to when.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CalendarRow {
    pub code: String,
    pub name: String,
    pub from: Instant,
    pub to: Option<Instant>,
}

/// An asset as referred to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct NamedAsset {
    pub code: String,
    pub name: String,
}

/// Where an asset sat, from when to when, and why it was put there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct PlacementRow {
    pub parent: Option<NamedAsset>,
    pub from: Instant,
    pub to: Option<Instant>,
    pub reason: String,
}

/// A move of an asset below another parent.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Move {
    /// None makes it a root.
    pub parent: Option<String>,
    pub at: Instant,
    pub reason: String,
}

pub(crate) fn find(conn: &Connection, code: &str) -> Result<Option<AssetId>> {
    let mut find = conn.prepare_cached(
        "SELECT id FROM assets WHERE code = ?1 UNION ALL SELECT asset_id FROM old_asset_codes WHERE code = ?1 LIMIT 1",
    )?;
    Ok(find.query_row([code], |row| row.get(0)).optional()?.map(AssetId))
}

/// The asset of that code, or of that old code.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn require(conn: &Connection, code: &str) -> Result<AssetId> {
    find(conn, code)?.ok_or_else(|| StoreError::not_found("asset", code))
}

/// The asset that a field names.
pub(crate) fn require_in(conn: &Connection, code: &str, field: &str) -> Result<AssetId> {
    find(conn, code)?.ok_or_else(|| StoreError::invalid(field, format!("there is no asset {code:?}")))
}

/// Adds an equipment class.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code, [`StoreError::Conflict`] for one that is taken.
pub fn add_class(act: &mut Act, code: &str, name: &str) -> Result<()> {
    act.require(Action::ChangeMasterData)?;
    let code = parse_code(code).map_err(|error| StoreError::invalid("code", error))?;
    if class_id(act.conn, &code)?.is_some() {
        return Err(StoreError::Conflict(format!("there is an equipment class {code} already")));
    }
    act.conn.execute("INSERT INTO equipment_classes (code, name) VALUES (?1, ?2)", params![code, name.trim()])?;
    act.audit("added", "equipment class", &code, &name)
}

pub(crate) fn class_id(conn: &Connection, code: &str) -> Result<Option<i64>> {
    let mut find = conn.prepare_cached("SELECT id FROM equipment_classes WHERE code = ?1")?;
    Ok(find.query_row([code], |row| row.get(0)).optional()?)
}

/// Adds an asset with its first placement.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::Conflict`] for a code that is or was taken.
pub fn add(act: &mut Act, new: &NewAsset) -> Result<AssetId> {
    act.require(Action::ChangeMasterData)?;
    let code = parse_code(&new.code).map_err(|error| StoreError::invalid("code", error))?;
    if find(act.conn, &code)?.is_some() {
        return Err(StoreError::Conflict(format!("there is an asset {code} already")));
    }
    if new.name.trim().is_empty() {
        return Err(StoreError::invalid("name", "an asset needs a name"));
    }
    if let (Some(from), Some(to)) = (new.commissioned_at, new.retired_at)
        && from >= to
    {
        return Err(StoreError::invalid("retired_at", "must lie after commissioned_at"));
    }
    let parent = match &new.parent {
        Some(parent) => Some(require_in(act.conn, parent, "parent")?),
        None => None,
    };
    let class = match &new.class {
        Some(class) => Some(
            class_id(act.conn, class)?
                .ok_or_else(|| StoreError::invalid("class", format!("there is no equipment class {class:?}")))?,
        ),
        None => None,
    };
    let crew = match &new.crew {
        Some(crew) => Some(people::require_crew(act.conn, crew, "crew")?.0),
        None => None,
    };
    let mut insert = act.conn.prepare_cached(
        "INSERT INTO assets (code, name, kind, level, class_id, maker, model, serial, tags, commissioned_at, retired_at,
             replacement_value, downtime_cost, criticality, crew_id, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
    )?;
    insert.execute(params![
        code,
        new.name.trim(),
        word(&new.kind),
        word(&new.level),
        class,
        new.maker,
        new.model,
        new.serial,
        to_json(&new.tags),
        new.commissioned_at.map(Instant::ms),
        new.retired_at.map(Instant::ms),
        new.replacement_value,
        new.downtime_cost,
        new.criticality.map(|c| word(&c)),
        crew,
        act.now.ms(),
        act.actor.id.0,
    ])?;
    let id = AssetId(act.conn.last_insert_rowid());
    let from = new.commissioned_at.unwrap_or(Instant::EARLIEST);
    place(act, id, parent, from, "added")?;
    if new.parent_effect != ParentEffect::No {
        let mut insert = act.conn.prepare_cached(
            "INSERT INTO parent_effects (asset_id, from_at, effect, recorded_at, recorded_by)
             VALUES (?1, ?2, ?3, ?4, ?5)",
        )?;
        let effect = to_json(&new.parent_effect);
        insert.execute(params![id.0, from.ms(), effect, act.now.ms(), act.actor.id.0])?;
    }
    act.audit("added", "asset", &code, new)?;
    Ok(id)
}

fn place(act: &Act, asset: AssetId, parent: Option<AssetId>, from: Instant, reason: &str) -> Result<()> {
    let mut insert = act.conn.prepare_cached(
        "INSERT INTO placements (asset_id, parent_id, from_at, reason, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
    )?;
    insert.execute(params![asset.0, parent.map(|p| p.0), from.ms(), reason, act.now.ms(), act.actor.id.0])?;
    Ok(())
}

/// Gives an asset a code that it had before, so that it is found by it.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code or one that means another asset.
pub(crate) fn keep_old_code(act: &Act, asset: AssetId, old: &str, field: &str) -> Result<()> {
    let old = parse_code(old).map_err(|error| StoreError::invalid(field, error))?;
    match find(act.conn, &old)? {
        Some(found) if found == asset => Ok(()),
        Some(_) => Err(StoreError::invalid(field, format!("there is another asset {old}"))),
        None => {
            let mut insert = act.conn.prepare_cached("INSERT INTO old_asset_codes (code, asset_id) VALUES (?1, ?2)")?;
            insert.execute(params![old, asset.0])?;
            Ok(())
        }
    }
}

/// Gives an asset another code. The old one is kept, and still leads to it.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code or one that is or was another asset's.
pub fn rename(act: &mut Act, code: &str, new: &str) -> Result<()> {
    act.require(Action::ChangeMasterData)?;
    let asset = require(act.conn, code)?;
    let new = parse_code(new).map_err(|error| StoreError::invalid("new_code", error))?;
    match find(act.conn, &new)? {
        Some(found) if found != asset => {
            return Err(StoreError::invalid("new_code", format!("there is an asset {new} already")));
        }
        _ => {}
    }
    let current: String = act.conn.query_row("SELECT code FROM assets WHERE id = ?1", [asset.0], |row| row.get(0))?;
    // A code that comes back is the current one again, no old one.
    act.conn.execute("DELETE FROM old_asset_codes WHERE code = ?1", [&new])?;
    act.conn.execute("UPDATE assets SET code = ?2 WHERE id = ?1", params![asset.0, new])?;
    if current != new {
        keep_old_code(act, asset, &current, "code")?;
    }
    act.audit("code changed", "asset", &new, &serde_json::json!({ "from": current, "to": new }))
}

/// Lets an asset's first placement, effect and calendar begin at another instant, with its commissioning.
///
/// # Errors
/// [`StoreError::Invalid`] when it was moved before that.
pub(crate) fn begin_at(act: &Act, asset: AssetId, from: Instant) -> Result<()> {
    for table in ["placements", "parent_effects", "asset_calendars"] {
        let mut select = act
            .conn
            .prepare_cached(&format!("SELECT from_at FROM {table} WHERE asset_id = ?1 ORDER BY from_at LIMIT 2"))?;
        let starts = select.query_map([asset.0], |row| row.get(0))?.collect::<rusqlite::Result<Vec<i64>>>()?;
        let Some(first) = starts.first() else { continue };
        if starts.get(1).is_some_and(|second| *second <= from.ms()) {
            let reason = "the asset's place or calendar changed before that";
            return Err(StoreError::invalid("commissioned_at", reason));
        }
        // An effect or a calendar that came later than the asset itself keeps its date.
        if table == "placements" || *first < from.ms() {
            let sql = format!("UPDATE {table} SET from_at = ?3 WHERE asset_id = ?1 AND from_at = ?2");
            act.conn.prepare_cached(&sql)?.execute(params![asset.0, first, from.ms()])?;
        }
    }
    Ok(())
}

/// Moves an asset, now or from a past instant on. Earlier placements stay as they were.
///
/// # Errors
/// [`StoreError::Invalid`] for an empty reason, a time ahead, an unknown parent, or a parent that sits below the asset.
pub fn relocate(act: &mut Act, code: &str, to: &Move) -> Result<()> {
    act.require(Action::ChangeMasterData)?;
    let asset = require(act.conn, code)?;
    if to.reason.trim().is_empty() {
        return Err(StoreError::invalid("reason", "say why the asset is moved"));
    }
    if to.at > act.now {
        return Err(StoreError::invalid("at", "a move can be entered once it has happened"));
    }
    let parent = match &to.parent {
        Some(parent) => Some(require_in(act.conn, parent, "parent")?),
        None => None,
    };
    tally::load_tree(act.conn)?
        .check_move(asset, parent, to.at)
        .map_err(|error| StoreError::invalid(if to.parent.is_some() { "parent" } else { "at" }, error))?;
    let later: bool = act
        .conn
        .prepare("SELECT 1 FROM placements WHERE asset_id = ?1 AND from_at > ?2")?
        .exists(params![asset.0, to.at.ms()])?;
    if later {
        return Err(StoreError::invalid("at", "the asset was moved again after that; its later moves come first"));
    }
    replace(act, asset, parent, to.at, to.reason.trim())?;
    act.audit("moved", "asset", code, to)
}

/// Ends the asset's last placement at an instant and begins another.
fn replace(act: &Act, asset: AssetId, parent: Option<AssetId>, at: Instant, reason: &str) -> Result<()> {
    let mut gone = act.conn.prepare_cached("DELETE FROM placements WHERE asset_id = ?1 AND from_at = ?2")?;
    gone.execute(params![asset.0, at.ms()])?;
    let mut end = act.conn.prepare_cached("UPDATE placements SET to_at = ?2 WHERE asset_id = ?1 AND to_at IS NULL")?;
    end.execute(params![asset.0, at.ms()])?;
    place(act, asset, parent, at, reason)
}

/// Moves an asset now, as one of many: the way up from the new parent is walked, not the whole tree read.
///
/// # Errors
/// [`StoreError::Invalid`] for an unknown parent, one that sits below the asset, or an asset that is yet to come.
pub(crate) fn relocate_now(act: &Act, asset: AssetId, parent: Option<&str>, reason: &str) -> Result<()> {
    let parent = parent.map(|parent| require_in(act.conn, parent, "parent")).transpose()?;
    let mut ahead = act.conn.prepare_cached("SELECT 1 FROM placements WHERE asset_id = ?1 AND from_at > ?2")?;
    let mut up = act.conn.prepare_cached("SELECT parent_id FROM placements WHERE asset_id = ?1 AND to_at IS NULL")?;
    if ahead.exists(params![asset.0, act.now.ms()])? {
        return Err(StoreError::invalid("parent", "the asset's place begins later than now"));
    }
    let mut above = parent;
    while let Some(at) = above {
        if at == asset {
            return Err(StoreError::invalid("parent", "the new parent sits below the asset itself"));
        }
        above = optional(up.query_row([at.0], |row| row.get::<_, Option<i64>>(0)))?.flatten().map(AssetId);
    }
    replace(act, asset, parent, act.now, reason)
}

/// Changes from an instant on what an asset's being down does to its parent.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown asset.
pub fn set_parent_effect(act: &mut Act, code: &str, effect: &ParentEffect, from: Instant) -> Result<()> {
    act.require(Action::ChangeMasterData)?;
    let AssetId(asset) = require(act.conn, code)?;
    act.conn.execute("DELETE FROM parent_effects WHERE asset_id = ?1 AND from_at >= ?2", params![asset, from.ms()])?;
    act.conn.execute(
        "UPDATE parent_effects SET to_at = ?2 WHERE asset_id = ?1 AND (to_at IS NULL OR to_at > ?2)",
        params![asset, from.ms()],
    )?;
    act.conn.execute(
        "INSERT INTO parent_effects (asset_id, from_at, effect, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)",
        params![asset, from.ms(), to_json(effect), act.now.ms(), act.actor.id.0],
    )?;
    act.audit("parent effect changed", "asset", code, effect)
}

/// What stands and what is open on each asset and below it, by dense index of the tree.
fn marks(conn: &Connection, snapshot: &Snapshot, now: Instant) -> Result<(Vec<Option<Severity>>, Vec<u32>)> {
    let tree = &snapshot.tree;
    let (mut severity, mut open) = (vec![None; tree.len()], vec![0; tree.len()]);
    let mut standing = conn.prepare_cached(
        "SELECT m.asset_id, max(a.severity) FROM alarms a JOIN meters m ON m.id = a.meter_id
         WHERE a.left_at IS NULL GROUP BY m.asset_id",
    )?;
    let mut rows = standing.query([])?;
    while let Some(row) = rows.next()? {
        let Some(index) = tree.index(AssetId(row.get(0)?)) else { continue };
        let worst = Severity::from_strokes(row.get(1)?);
        for above in tree.line_at(index, now) {
            severity[above] = severity[above].max(worst);
        }
    }
    for work in snapshot.works.standing_at(now) {
        let Some(index) = tree.index(work.asset) else { continue };
        if work.state_at(now).is_some_and(|state| state.is_open()) {
            tree.line_at(index, now).for_each(|above| open[above] += 1);
        }
    }
    Ok((severity, open))
}

/// The tree below `scope` (or all roots), down to `depth` levels, parents before children.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown scope.
pub fn nodes(
    conn: &Connection,
    snapshot: &Snapshot,
    scope: Option<&str>,
    depth: u32,
    now: Instant,
) -> Result<Vec<AssetNode>> {
    let tree = &snapshot.tree;
    let tops: Vec<usize> = match scope {
        Some(code) => {
            let id = require(conn, code)?;
            vec![tree.index(id).ok_or_else(|| StoreError::not_found("asset", code))?]
        }
        None => (0..tree.len()).filter(|&index| tree.parent_at(index, now).is_none()).collect(),
    };
    let mut wanted = Vec::new();
    let mut level = tops;
    for _ in 0..=depth {
        let next = level.iter().flat_map(|&index| tree.children_at(index, now)).collect();
        wanted.append(&mut std::mem::replace(&mut level, next));
        if level.is_empty() {
            break;
        }
    }
    let (severity, open) = marks(conn, snapshot, now)?;
    let ids: Vec<i64> = wanted.iter().map(|&index| tree.node(index).id.0).collect();
    let mut named = describe(conn, &ids)?;
    let mut nodes: Vec<AssetNode> = wanted
        .into_iter()
        .filter_map(|index| {
            let mut node = named.remove(&tree.node(index).id.0)?;
            node.worst_severity = severity[index];
            node.open_work = open[index];
            node.has_children = tree.children_at(index, now).next().is_some();
            Some(node)
        })
        .collect();
    nodes.retain(|node| node.retired_at.is_none_or(|at| at > now));
    Ok(nodes)
}

fn describe(conn: &Connection, ids: &[i64]) -> Result<HashMap<i64, AssetNode>> {
    let values: Vec<rusqlite::types::Value> = ids.iter().map(|id| (*id).into()).collect();
    let mut select = conn.prepare_cached(
        "SELECT a.id, a.code, a.name, a.kind, a.level, a.criticality, a.retired_at, p.code AS parent, c.code AS class
         FROM rarray(?1) wanted JOIN assets a ON a.id = wanted.value
         LEFT JOIN placements pl ON pl.asset_id = a.id AND pl.to_at IS NULL
         LEFT JOIN assets p ON p.id = pl.parent_id
         LEFT JOIN equipment_classes c ON c.id = a.class_id",
    )?;
    let mut rows = select.query([Rc::new(values)])?;
    let mut found = HashMap::with_capacity(ids.len());
    while let Some(row) = rows.next()? {
        let id: i64 = row.get("id")?;
        let node = AssetNode {
            id: AssetId(id),
            code: row.get("code")?,
            name: row.get("name")?,
            kind: from_word("assets", row.get("kind")?)?,
            level: from_word("assets", row.get("level")?)?,
            parent: row.get("parent")?,
            class: row.get("class")?,
            criticality: maybe_word("assets", row, "criticality")?,
            retired_at: maybe_instant(row, "retired_at")?,
            worst_severity: None,
            open_work: 0,
            has_children: false,
        };
        found.insert(id, node);
    }
    Ok(found)
}

/// Code and name of assets, by id.
pub(crate) fn names(conn: &Connection, ids: impl IntoIterator<Item = AssetId>) -> Result<HashMap<AssetId, NamedAsset>> {
    let values: Vec<rusqlite::types::Value> = ids.into_iter().map(|id| id.0.into()).collect();
    let mut select = conn.prepare_cached(
        "SELECT DISTINCT a.id, a.code, a.name FROM rarray(?1) wanted JOIN assets a ON a.id = wanted.value",
    )?;
    let rows = select.query_map([Rc::new(values)], |row| {
        Ok((AssetId(row.get(0)?), NamedAsset { code: row.get(1)?, name: row.get(2)? }))
    })?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// The ids of `scope` and all below it now, to filter by; `None` where that is every asset.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown scope.
pub fn in_scope(conn: &Connection, snapshot: &Snapshot, scope: Option<&str>, now: Instant) -> Result<Option<Vec<i64>>> {
    let Some(code) = scope else { return Ok(None) };
    let tree = &snapshot.tree;
    let index = tree.index(require(conn, code)?).ok_or_else(|| StoreError::not_found("asset", code))?;
    let below = tree.below(index, now);
    Ok((below.len() < tree.len()).then(|| below.into_iter().map(|index| tree.node(index).id.0).collect()))
}

/// What is above an asset now, from the root down to its parent.
///
/// # Errors
/// SQLite's own.
pub fn above(conn: &Connection, snapshot: &Snapshot, asset: AssetId, now: Instant) -> Result<Vec<NamedAsset>> {
    let Some(index) = snapshot.tree.index(asset) else { return Ok(Vec::new()) };
    let line = snapshot.tree.line_at(index, now).skip(1);
    let line: Vec<AssetId> = line.map(|above| snapshot.tree.node(above).id).collect();
    let mut named = names(conn, line.iter().copied())?;
    Ok(line.iter().rev().filter_map(|id| named.remove(id)).collect())
}

/// One asset with its places.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn detail(conn: &Connection, snapshot: &Snapshot, code: &str, now: Instant) -> Result<AssetDetail> {
    let id = require(conn, code)?;
    let current: String = conn.query_row("SELECT code FROM assets WHERE id = ?1", [id.0], |row| row.get(0))?;
    let mut found = nodes(conn, snapshot, Some(&current), 0, now)?;
    let node = match found.pop() {
        Some(node) => node,
        // Retired assets are left out of the tree but can still be looked at.
        None => describe(conn, &[id.0])?.remove(&id.0).ok_or_else(|| StoreError::not_found("asset", code))?,
    };
    let above = above(conn, snapshot, id, now)?;
    let placements = {
        let mut select = conn.prepare_cached(
            "SELECT pl.from_at, pl.to_at, pl.reason, p.code, p.name FROM placements pl
             LEFT JOIN assets p ON p.id = pl.parent_id WHERE pl.asset_id = ?1 ORDER BY pl.from_at",
        )?;
        let rows = select.query_map([id.0], |row| {
            let parent = match (row.get("code")?, row.get("name")?) {
                (Some(code), Some(name)) => Some(NamedAsset { code, name }),
                _ => None,
            };
            let (from, to) = (instant(row, "from_at")?, maybe_instant(row, "to_at")?);
            Ok(PlacementRow { parent, from, to, reason: row.get("reason")? })
        })?;
        rows.collect::<rusqlite::Result<_>>()?
    };
    let effects = {
        let mut select = conn
            .prepare_cached("SELECT effect, from_at, to_at FROM parent_effects WHERE asset_id = ?1 ORDER BY from_at")?;
        let mut rows = select.query([id.0])?;
        let mut found = Vec::new();
        while let Some(row) = rows.next()? {
            let effect = from_json("parent_effects", &row.get::<_, String>("effect")?)?;
            found.push(EffectRow { effect, from: instant(row, "from_at")?, to: maybe_instant(row, "to_at")? });
        }
        found
    };
    let calendars = {
        let mut select = conn.prepare_cached(
            "SELECT c.code, c.name, s.from_at, s.to_at FROM asset_calendars s JOIN calendars c ON c.id = s.calendar_id
             WHERE s.asset_id = ?1 ORDER BY s.from_at",
        )?;
        let rows = select.query_map([id.0], |row| {
            let (from, to) = (instant(row, "from_at")?, maybe_instant(row, "to_at")?);
            Ok(CalendarRow { code: row.get("code")?, name: row.get("name")?, from, to })
        })?;
        rows.collect::<rusqlite::Result<_>>()?
    };
    let old_codes = conn
        .prepare_cached("SELECT code FROM old_asset_codes WHERE asset_id = ?1 ORDER BY code")?
        .query_map([id.0], |row| row.get(0))?
        .collect::<rusqlite::Result<_>>()?;
    let has_picture = pictures::has(conn, id.0)?;
    let mut select = conn.prepare_cached(
        "SELECT a.maker, a.model, a.serial, a.commissioned_at, a.replacement_value, a.downtime_cost, c.code AS crew
         FROM assets a LEFT JOIN crews c ON c.id = a.crew_id WHERE a.id = ?1",
    )?;
    Ok(select.query_row([id.0], |row| {
        Ok(AssetDetail {
            node,
            above,
            placements,
            effects,
            calendars,
            old_codes,
            has_picture,
            maker: row.get("maker")?,
            model: row.get("model")?,
            serial: row.get("serial")?,
            commissioned_at: maybe_instant(row, "commissioned_at")?,
            replacement_value: row.get("replacement_value")?,
            downtime_cost: row.get("downtime_cost")?,
            crew: row.get("crew")?,
        })
    })?)
}
