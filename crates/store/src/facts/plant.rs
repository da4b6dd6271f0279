//! The plant as facts know it: assets with their places and names, calendars, crews, people and classes.

use super::{known, read::Wanted};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, list_of},
    },
    plant::{settings, values},
};
use rusqlite::{Connection, ToSql};
use std::collections::{HashMap, HashSet};
use tally_core::{
    facts::{AssetFact, Assignment, Named, Names, Snapshot},
    ground::{
        calendar::zone,
        time::{Instant, Span},
    },
    plant::assets::{EffectSpan, Node, Placement, Tree},
};

/// One asset as it was read.
struct Read {
    fact: AssetFact,
    node: Node,
    assignments: Vec<Assignment>,
}

/// Assets in the order of their ids: all, or some; where they stood, what they did and which calendars they had as it was known.
fn assets(conn: &Connection, Wanted { ids, known }: Wanted) -> Result<Vec<Read>> {
    let (narrow, wanted) = match ids {
        Some(ids) => ("IN rarray(?1)", list_of(ids.iter().copied())),
        None => ("IS NOT ?1", list_of::<i64>([])),
    };
    let given: [&dyn ToSql; 1] = [if ids.is_some() { &wanted } else { &rusqlite::types::Null }];
    let mut read: Vec<Read> = Vec::new();
    let mut places: HashMap<i64, usize> = HashMap::new();
    let mut select = conn.prepare_cached(&format!(
        "SELECT id, commissioned_at, retired_at, code, name, level, class_id, criticality, crew_id, tags FROM {}
         WHERE id {narrow} ORDER BY id",
        known::lives(known)
    ))?;
    let mut rows = select.query(&given[..])?;
    while let Some(row) = rows.next()? {
        let from = row.get::<_, Option<Instant>>(1)?.unwrap_or(Instant::EARLIEST);
        let to = row.get::<_, Option<Instant>>(2)?.unwrap_or(Instant::LATEST);
        let life = Span::new(from, to).map_err(|error| StoreError::corrupt("assets", error))?;
        places.insert(row.get(0)?, read.len());
        let tags: String = row.get(9)?;
        let fact = AssetFact {
            id: row.get(0)?,
            code: row.get(3)?,
            name: row.get(4)?,
            level: row.get(5)?,
            class: row.get(6)?,
            criticality: row.get(7)?,
            crew: row.get(8)?,
            tags: if tags == "[]" { Vec::new() } else { from_json("assets", &tags)? },
        };
        let node = Node { id: fact.id, placements: Vec::new(), effects: Vec::new(), life };
        read.push(Read { fact, node, assignments: Vec::new() });
    }
    let until = |row: &rusqlite::Row, place| -> Result<Instant> {
        Ok(row.get::<_, Option<Instant>>(place)?.unwrap_or(Instant::LATEST))
    };
    let mut select = conn.prepare_cached(&format!(
        "SELECT asset_id, parent_id, from_at, to_at FROM {} WHERE asset_id {narrow} ORDER BY asset_id, from_at",
        known::rows("placements", &["asset_id", "from_at"], "asset_id, parent_id, from_at, to_at", known)
    ))?;
    let mut rows = select.query(&given[..])?;
    while let Some(row) = rows.next()? {
        if let Some(&place) = places.get(&row.get::<_, i64>(0)?) {
            let placement = Placement { parent: row.get(1)?, from: row.get(2)?, to: until(row, 3)? };
            read[place].node.placements.push(placement);
        }
    }
    let mut select = conn.prepare_cached(&format!(
        "SELECT asset_id, effect, from_at, to_at FROM {} WHERE asset_id {narrow} ORDER BY asset_id, from_at",
        known::rows("parent_effects", &["asset_id", "from_at"], "asset_id, effect, from_at, to_at", known)
    ))?;
    let mut rows = select.query(&given[..])?;
    while let Some(row) = rows.next()? {
        if let Some(&place) = places.get(&row.get::<_, i64>(0)?) {
            let effect = from_json("parent_effects", &row.get::<_, String>(1)?)?;
            read[place].node.effects.push(EffectSpan { effect, from: row.get(2)?, to: until(row, 3)? });
        }
    }
    let mut select = conn.prepare_cached(&format!(
        "SELECT asset_id, calendar_id, from_at, to_at FROM {} WHERE asset_id {narrow}",
        known::rows("asset_calendars", &["asset_id", "from_at"], "asset_id, calendar_id, from_at, to_at", known)
    ))?;
    let mut rows = select.query(&given[..])?;
    while let Some(row) = rows.next()? {
        if let Some(&place) = places.get(&row.get::<_, i64>(0)?) {
            let assignment = Assignment { calendar: row.get(1)?, from: row.get(2)?, to: until(row, 3)? };
            read[place].assignments.push(assignment);
        }
    }
    Ok(read)
}

/// Where each asset stands in the order of names.
fn ranks(facts: &[AssetFact]) -> Vec<usize> {
    let mut order: Vec<usize> = (0..facts.len()).collect();
    order.sort_by(|a, b| (&facts[*a].name, facts[*a].id).cmp(&(&facts[*b].name, facts[*b].id)));
    let mut ranks = vec![0; facts.len()];
    order.into_iter().enumerate().for_each(|(rank, asset)| ranks[asset] = rank);
    ranks
}

/// The tree with all its placements, effects and lives.
pub(crate) fn load_tree(conn: &Connection) -> Result<Tree> {
    let (facts, nodes): (Vec<AssetFact>, Vec<Node>) =
        assets(conn, Wanted::default())?.into_iter().map(|read| (read.fact, read.node)).unzip();
    Ok(Tree::in_order(nodes, &ranks(&facts)))
}

/// All assets, as they are known now or were at an instant.
pub(super) fn reload_assets(conn: &Connection, snapshot: &mut Snapshot, known: Option<Instant>) -> Result<()> {
    let mut facts = Vec::new();
    let mut nodes = Vec::new();
    let mut assignments = Vec::new();
    for read in assets(conn, Wanted { ids: None, known })? {
        facts.push(read.fact);
        nodes.push(read.node);
        assignments.push(read.assignments);
    }
    put(snapshot, facts, nodes, assignments);
    Ok(())
}

fn put(snapshot: &mut Snapshot, facts: Vec<AssetFact>, nodes: Vec<Node>, assignments: Vec<Vec<Assignment>>) {
    snapshot.tree = Tree::in_order(nodes, &ranks(&facts)).into();
    snapshot.assets = facts.into();
    snapshot.assignments = assignments.into();
    snapshot.plant_changed();
}

/// Assets that were added or changed. Numbers stay, because ids only grow: false where one does not come after those there are.
pub(super) fn refresh_assets(conn: &Connection, snapshot: &mut Snapshot, ids: &HashSet<i64>) -> Result<bool> {
    let mut facts = snapshot.assets.to_vec();
    let mut nodes: Vec<Node> = (0..facts.len()).map(|index| snapshot.tree.node(index).clone()).collect();
    let mut assignments = snapshot.assignments.to_vec();
    let read = assets(conn, Wanted::of(ids))?;
    if read.len() < ids.len() {
        return Ok(false);
    }
    for Read { fact, node, assignments: given } in read {
        match snapshot.tree.index(fact.id) {
            Some(index) => (facts[index], nodes[index], assignments[index]) = (fact, node, given),
            None if facts.last().is_none_or(|last| last.id < fact.id) => {
                facts.push(fact);
                nodes.push(node);
                assignments.push(given);
            }
            None => return Ok(false),
        }
    }
    put(snapshot, facts, nodes, assignments);
    Ok(true)
}

pub(super) fn reload_calendars(conn: &Connection, snapshot: &mut Snapshot, known: Option<Instant>) -> Result<()> {
    let mut calendars = HashMap::new();
    let mut select = conn.prepare_cached(&format!("SELECT id, definition FROM {}", known::calendars(known)))?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        calendars.insert(row.get(0)?, from_json("calendars", &row.get::<_, String>(1)?)?);
    }
    snapshot.calendars = calendars.into();
    Ok(())
}

pub(super) fn reload_settings(conn: &Connection, snapshot: &mut Snapshot) -> Result<()> {
    let settings = settings::get(conn)?;
    snapshot.zone = zone(&settings.time_zone).map_err(|error| StoreError::corrupt("settings", error))?;
    snapshot.fiscal_month = i8::try_from(settings.fiscal_month).unwrap_or(1);
    snapshot.state_limits = settings.state_limits.into();
    snapshot.headline_days = settings.headline_days;
    snapshot.stay_gap_days = settings.stay_gap_days;
    Ok(())
}

/// What is set for assets and crews.
pub(super) fn reload_worth(conn: &Connection, snapshot: &mut Snapshot) -> Result<()> {
    snapshot.worth = values::worth(conn, &snapshot.tree)?.into();
    Ok(())
}

/// Names of crews, people, classes and codes; departments stay as they are numbered.
pub(super) fn reload_names(conn: &Connection, names: &mut Names) -> Result<()> {
    let named = |sql: &str| -> Result<Vec<Named>> {
        let mut select = conn.prepare_cached(sql)?;
        let rows = select.query_map([], |row| Ok(Named { id: row.get(0)?, code: row.get(1)?, name: row.get(2)? }))?;
        Ok(rows.collect::<rusqlite::Result<_>>()?)
    };
    names.crews = named("SELECT id, code, name FROM crews ORDER BY id")?;
    names.people = named("SELECT id, code, name FROM people ORDER BY id")?;
    names.classes = named("SELECT id, code, name FROM equipment_classes ORDER BY id")?;
    names.meters = named("SELECT id, code, name FROM meters ORDER BY id")?;
    names.plans = named("SELECT id, code, name FROM upkeep_plans ORDER BY id")?;
    names.codes = named("SELECT id, code, name FROM codes ORDER BY id")?;
    names.items = named("SELECT id, name, name FROM items ORDER BY id")?;
    names.suppliers = named("SELECT id, name, name FROM suppliers ORDER BY id")?;
    Ok(())
}
