//! Looking at assets: the tree with what stands and is open on it, and one asset with its places.

use super::{NamedAsset, find, names, require};
use crate::{
    ground::{
        error::{Result, StoreError},
        reach,
        reach::Named,
        rows::{from_json, list_of},
        sql::Rows,
        view::View,
    },
    plant::pictures,
};
use rusqlite::Connection;
use serde::Serialize;
use std::collections::{BTreeSet, HashMap, HashSet};
use tally_core::{
    facts::{Snapshot, columns::Part},
    ground::{
        ids::AssetId,
        severity::Severity,
        time::{Instant, Span},
    },
    plant::assets::{AssetKind, Criticality, Level, NOBODY, ParentEffect, outermost, reached},
};
use utoipa::ToSchema;

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

/// Where an asset sat, from when to when, and why it was put there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct PlacementRow {
    pub parent: Option<NamedAsset>,
    pub from: Instant,
    pub to: Option<Instant>,
    pub reason: String,
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
        let Some(index) = tree.index(row.get(0)?) else { continue };
        let worst = Severity::from_strokes(row.get(1)?);
        for above in tree.line_at(index, now) {
            severity[above] = severity[above].max(worst);
        }
    }
    let moment = Span::new(now, now.plus(1)).map_err(|error| StoreError::corrupt("the clock", error))?;
    for part in snapshot.works.overlapping(moment) {
        for place in (0..part.len()).filter(|place| part.until.of(*place) == Instant::LATEST.ms()) {
            open[part.asset[place] as usize] += 1;
        }
    }
    let shape = tree.shape_at(now);
    for &asset in shape.order().iter().rev().filter(|asset| shape.parent(**asset) != NOBODY) {
        open[shape.parent(asset) as usize] += open[asset as usize];
    }
    Ok((severity, open))
}

/// Assets by id, retired ones too, as they are called; without their place and what stands on them.
///
/// # Errors
/// SQLite's own.
pub fn described(rows: &dyn Rows, ids: impl IntoIterator<Item = AssetId>) -> Result<HashMap<AssetId, AssetNode>> {
    let conn = rows.sql().conn;
    describe(conn, ids)
}

/// The tree below `scope` (or all roots), down to `depth` levels, and what is right below the assets of `open` that are
/// reached so; parents before children. Codes of `open` that are unknown mean nothing.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown scope.
pub fn nodes(view: &View, scope: Option<&str>, depth: u32, open: &[&str]) -> Result<Vec<AssetNode>> {
    let conn = view.conn;
    let now = view.now;
    let snapshot = view.facts()?;
    let tree = &snapshot.tree;
    let bounds = view.viewer.bounds();
    let tops: Vec<usize> = match scope {
        Some(code) => {
            let id = require_reached(view, code)?;
            vec![tree.index(id).ok_or_else(|| StoreError::not_found("asset", code))?]
        }
        None if bounds.is_bounded() => outermost(tree, bounds),
        None => (0..tree.len()).filter(|&index| tree.parent_at(index, now).is_none()).collect(),
    };
    let mut opened = HashSet::new();
    for code in open {
        opened.extend(find(conn, code)?.and_then(|id| tree.index(id)));
    }
    let mut wanted = Vec::new();
    let mut level = tops;
    for below in 0.. {
        let is_open = |index: &&usize| below < depth || opened.contains(*index);
        let next = level.iter().filter(is_open).flat_map(|&index| tree.children_at(index, now)).collect();
        wanted.append(&mut std::mem::replace(&mut level, next));
        if level.is_empty() {
            break;
        }
    }
    let (severity, open) = marks(conn, snapshot, now)?;
    let mut named = describe(conn, wanted.iter().map(|&index| tree.node(index).id))?;
    let mut nodes: Vec<AssetNode> = wanted
        .into_iter()
        .filter_map(|index| {
            let mut node = named.remove(&tree.node(index).id)?;
            node.worst_severity = severity[index];
            node.open_work = open[index];
            node.has_children = tree.children_at(index, now).next().is_some();
            Some(node)
        })
        .collect();
    nodes.retain(|node| node.retired_at.is_none_or(|at| at > now));
    if let Some(reached) = reached(tree, bounds) {
        for node in &mut nodes {
            let above = tree.index(node.id).and_then(|index| tree.parent_at(index, now));
            node.parent = node.parent.take().filter(|_| above.is_some_and(|above| reached[above]));
        }
    }
    Ok(nodes)
}

fn describe(conn: &Connection, ids: impl IntoIterator<Item = AssetId>) -> Result<HashMap<AssetId, AssetNode>> {
    let mut select = conn.prepare_cached(
        "SELECT a.id, a.code, a.name, a.kind, a.level, a.criticality, a.retired_at, p.code AS parent, c.code AS class
         FROM rarray(?1) wanted JOIN assets a ON a.id = wanted.value
         LEFT JOIN placements pl ON pl.asset_id = a.id AND pl.to_at IS NULL
         LEFT JOIN assets p ON p.id = pl.parent_id
         LEFT JOIN equipment_classes c ON c.id = a.class_id",
    )?;
    let mut rows = select.query([list_of(ids)])?;
    let mut found = HashMap::new();
    while let Some(row) = rows.next()? {
        let id = row.get("id")?;
        let node = AssetNode {
            id,
            code: row.get("code")?,
            name: row.get("name")?,
            kind: row.get("kind")?,
            level: row.get("level")?,
            parent: row.get("parent")?,
            class: row.get("class")?,
            criticality: row.get("criticality")?,
            retired_at: row.get("retired_at")?,
            worst_severity: None,
            open_work: 0,
            has_children: false,
        };
        found.insert(id, node);
    }
    Ok(found)
}

/// The asset of that code, where the viewer reaches it.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Beyond`].
pub fn require_reached(view: &View, code: &str) -> Result<AssetId> {
    reach::require(view, view.viewer.bounds(), &Named::Asset(code.into()))?;
    require(view, code)
}

/// The ids of `scope` (or of all that the viewer reaches) and all below it now, to filter by; `None` where that is every asset.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown scope, [`StoreError::Beyond`] for one elsewhere.
pub fn in_scope(view: &View, scope: Option<&str>) -> Result<Option<Vec<AssetId>>> {
    let now = view.now;
    let snapshot = view.facts()?;
    let tree = &snapshot.tree;
    let id = |index: usize| tree.node(index).id;
    let Some(code) = scope else {
        let reached = reached(tree, view.viewer.bounds());
        return Ok(reached.map(|reached| (0..tree.len()).filter(|index| reached[*index]).map(id).collect()));
    };
    let index = tree.index(require_reached(view, code)?).ok_or_else(|| StoreError::not_found("asset", code))?;
    let below = tree.below(index, now);
    Ok((below.len() < tree.len()).then(|| below.into_iter().map(id).collect()))
}

/// What is above an asset now, as far as the viewer reaches, from the outermost down to its parent.
///
/// # Errors
/// SQLite's own.
pub fn above(view: &View, asset: AssetId) -> Result<Vec<NamedAsset>> {
    Ok(above_each(view, [asset])?.remove(&asset).unwrap_or_default())
}

/// The same of several, each by its own.
///
/// # Errors
/// SQLite's own.
pub fn above_each(view: &View, assets: impl IntoIterator<Item = AssetId>) -> Result<HashMap<AssetId, Vec<NamedAsset>>> {
    let snapshot = view.facts()?;
    let tree = &snapshot.tree;
    let reached = reached(tree, view.viewer.bounds());
    let is_reached = |above: &usize| reached.as_ref().is_none_or(|reached| reached[*above]);
    let mut lines: HashMap<AssetId, Vec<AssetId>> = HashMap::new();
    for asset in assets {
        let Some(index) = tree.index(asset) else { continue };
        lines.entry(asset).or_insert_with(|| {
            tree.line_at(index, view.now).skip(1).filter(is_reached).map(|above| tree.node(above).id).collect()
        });
    }
    let all: BTreeSet<AssetId> = lines.values().flatten().copied().collect();
    let named = names(view.conn, all)?;
    let told = |line: Vec<AssetId>| line.iter().rev().filter_map(|id| named.get(id).cloned()).collect();
    Ok(lines.into_iter().map(|(asset, line)| (asset, told(line))).collect())
}

/// One asset with its places.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn detail(view: &View, code: &str) -> Result<AssetDetail> {
    let conn = view.conn;
    let id = require(conn, code)?;
    let current: String = conn.query_row("SELECT code FROM assets WHERE id = ?1", [id.0], |row| row.get(0))?;
    let mut found = nodes(view, Some(&current), 0, &[])?;
    let node = match found.pop() {
        Some(node) => node,
        // Retired assets are left out of the tree but can still be looked at.
        None => describe(conn, [id])?.remove(&id).ok_or_else(|| StoreError::not_found("asset", code))?,
    };
    let above = above(view, id)?;
    let placements = {
        let mut select = conn.prepare_cached(&format!(
            "SELECT pl.from_at, pl.to_at, pl.reason, p.code, p.name FROM placements pl
             LEFT JOIN assets p ON p.id = pl.parent_id
             WHERE pl.asset_id = ?1 AND (pl.parent_id IS NULL OR {}) ORDER BY pl.from_at",
            view.viewer.reaches("pl.parent_id")
        ))?;
        let rows = select.query_map([id], |row| {
            let parent = match (row.get("code")?, row.get("name")?) {
                (Some(code), Some(name)) => Some(NamedAsset { code, name }),
                _ => None,
            };
            let (from, to) = (row.get("from_at")?, row.get("to_at")?);
            Ok(PlacementRow { parent, from, to, reason: row.get("reason")? })
        })?;
        rows.collect::<rusqlite::Result<_>>()?
    };
    let effects = {
        let mut select = conn
            .prepare_cached("SELECT effect, from_at, to_at FROM parent_effects WHERE asset_id = ?1 ORDER BY from_at")?;
        let mut rows = select.query([id])?;
        let mut found = Vec::new();
        while let Some(row) = rows.next()? {
            let effect = from_json("parent_effects", &row.get::<_, String>("effect")?)?;
            found.push(EffectRow { effect, from: row.get("from_at")?, to: row.get("to_at")? });
        }
        found
    };
    let calendars = {
        let mut select = conn.prepare_cached(
            "SELECT c.code, c.name, s.from_at, s.to_at FROM asset_calendars s JOIN calendars c ON c.id = s.calendar_id
             WHERE s.asset_id = ?1 ORDER BY s.from_at",
        )?;
        let rows = select.query_map([id], |row| {
            let (from, to) = (row.get("from_at")?, row.get("to_at")?);
            Ok(CalendarRow { code: row.get("code")?, name: row.get("name")?, from, to })
        })?;
        rows.collect::<rusqlite::Result<_>>()?
    };
    let old_codes = conn
        .prepare_cached("SELECT code FROM old_asset_codes WHERE asset_id = ?1 ORDER BY code")?
        .query_map([id], |row| row.get(0))?
        .collect::<rusqlite::Result<_>>()?;
    let has_picture = pictures::has(conn, id.0)?;
    let mut select = conn.prepare_cached(
        "SELECT a.maker, a.model, a.serial, a.commissioned_at, a.replacement_value, a.downtime_cost, c.code AS crew
         FROM assets a LEFT JOIN crews c ON c.id = a.crew_id WHERE a.id = ?1",
    )?;
    Ok(select.query_row([id], |row| {
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
            commissioned_at: row.get("commissioned_at")?,
            replacement_value: row.get("replacement_value")?,
            downtime_cost: row.get("downtime_cost")?,
            crew: row.get("crew")?,
        })
    })?)
}
