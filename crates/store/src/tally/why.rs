//! What a figure is made of, in words and links.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        sql::Rows,
    },
    plant::{assets, assets::NamedAsset},
};
use rusqlite::Connection;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap};
use tally_core::{
    ground::{
        ids::{AssetId, WorkOrderId},
        time::{Instant, Span},
    },
    tally::indicators::{Figure, Input, RowKind, RowUnit, TraceRow, Why},
};
use utoipa::ToSchema;

/// One row behind a figure, with its words.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WhyRow {
    pub kind: RowKind,
    pub id: i64,
    pub asset: NamedAsset,
    pub work_order: Option<WorkOrderId>,
    pub text: String,
    pub at: Instant,
    /// What it adds to the part's total, in the part's unit.
    pub amount: i64,
    /// What it would add if nothing overlapped and nothing were cut, where that is another figure.
    pub whole: Option<i64>,
    pub settled: Option<bool>,
}

/// Rows that add up to one total.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WhyPart {
    pub name: String,
    pub unit: RowUnit,
    pub total: i64,
    /// The rows that add most first, as many as were asked for.
    pub rows: Vec<WhyRow>,
    /// Rows beyond those, and what they add.
    pub more_rows: usize,
    pub more_amount: i64,
}

/// All that a figure is made of, with its words.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WhyView {
    pub asset: NamedAsset,
    pub indicator: tally_core::tally::indicators::Indicator,
    pub name: String,
    pub unit: tally_core::tally::indicators::Unit,
    pub formula: String,
    pub source: String,
    pub from: Instant,
    pub to: Instant,
    pub figure: Figure,
    pub inputs: Vec<Input>,
    pub parts: Vec<WhyPart>,
    /// The change of the database that this is true for.
    pub change: i64,
}

/// A why with names and titles for its rows, at most `most` rows a part.
///
/// # Errors
/// SQLite's own.
pub fn describe(rows: &dyn Rows, why: Why, asset: AssetId, period: Span, change: i64, most: usize) -> Result<WhyView> {
    let conn = rows.sql().conn;
    let mut parts = Vec::new();
    for part in why.parts {
        let mut rows = part.rows;
        let biggest_first = |row: &TraceRow| (std::cmp::Reverse(row.amount.abs()), row.at, row.id);
        rows.sort_by_key(biggest_first);
        let more = rows.split_off(rows.len().min(most));
        let names = assets::names(conn, rows.iter().map(|row| row.asset))?;
        let texts = texts(conn, &rows)?;
        let described = rows.into_iter().filter_map(|row| {
            Some(WhyRow {
                kind: row.kind,
                id: row.id,
                asset: names.get(&row.asset)?.clone(),
                work_order: row.work_order,
                text: texts.get(&(row.kind as u8, row.id)).cloned().unwrap_or_default(),
                at: row.at,
                amount: row.amount,
                whole: row.whole,
                settled: row.settled,
            })
        });
        parts.push(WhyPart {
            name: part.name,
            unit: part.unit,
            total: part.total,
            rows: described.collect(),
            more_rows: more.len(),
            more_amount: more.iter().map(|row| row.amount).sum(),
        });
    }
    let definition = why.indicator.definition();
    let asset = assets::names(conn, [asset])?.remove(&asset).ok_or_else(|| StoreError::not_found("asset", asset))?;
    Ok(WhyView {
        asset,
        indicator: why.indicator,
        name: definition.name.into(),
        unit: definition.unit,
        formula: definition.formula.into(),
        source: definition.source.into(),
        from: period.start(),
        to: period.end(),
        figure: why.figure,
        inputs: why.inputs,
        parts,
        change,
    })
}

const OF_DOWNTIME: &str =
    "SELECT d.id, CASE WHEN d.note <> '' THEN d.note ELSE ifnull(w.title, d.kind || ' downtime') END
     FROM downtimes d LEFT JOIN work_orders w ON w.number = d.work_order WHERE d.id IN rarray(?1)";

/// What is said of rows of downtime, by their ids: the note, or the title of their work.
///
/// # Errors
/// SQLite's own.
pub fn texts_of_downtime(rows: &dyn Rows, ids: impl IntoIterator<Item = i64>) -> Result<BTreeMap<i64, String>> {
    let mut select = rows.sql().conn.prepare_cached(OF_DOWNTIME)?;
    let found = select.query_map([list_of(ids)], |row| Ok((row.get(0)?, row.get(1)?)))?;
    Ok(found.collect::<rusqlite::Result<_>>()?)
}

fn texts(conn: &Connection, rows: &[TraceRow]) -> Result<HashMap<(u8, i64), String>> {
    let mut texts = HashMap::new();
    for (kind, sql) in [
        (
            RowKind::Entry,
            "SELECT e.id, CASE WHEN e.description <> '' THEN e.description ELSE e.quantity || ' h, ' || ifnull(p.name, '') END
             FROM entries e LEFT JOIN people p ON p.id = e.person_id WHERE e.id IN rarray(?1)",
        ),
        (RowKind::Downtime, OF_DOWNTIME),
        (
            RowKind::Failure,
            "SELECT f.id, ifnull(c.name, w.title) FROM failure_reports f JOIN work_orders w ON w.number = f.work_order
             LEFT JOIN codes c ON c.id = f.problem_id WHERE f.id IN rarray(?1)",
        ),
        (
            RowKind::Alarm,
            "SELECT a.id, m.name FROM alarms a JOIN meters m ON m.id = a.meter_id WHERE a.id IN rarray(?1)",
        ),
        (
            RowKind::Cycle,
            "SELECT c.id, p.name || iif(c.outcome = 'missed', ', missed', '') FROM upkeep_cycles c
             JOIN upkeep_plans p ON p.id = c.plan_id WHERE c.id IN rarray(?1)",
        ),
        (RowKind::WorkOrder, "SELECT number, title FROM work_orders WHERE number IN rarray(?1)"),
    ] {
        let ids = list_of(rows.iter().filter(|row| row.kind == kind).map(|row| row.id));
        if ids.is_empty() {
            continue;
        }
        let mut select = conn.prepare_cached(sql)?;
        let found = select.query_map([ids], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?)))?;
        for row in found {
            let (id, text) = row?;
            texts.insert((kind as u8, id), text);
        }
    }
    Ok(texts)
}
