//! Orders written out.

use super::orders::COLUMNS;
use crate::ground::{
    error::Result,
    rows::{list_of, word},
    view::View,
};
use rusqlite::{Row, params};
use std::collections::BTreeMap;
use tally_core::{
    codes::failures::{Effect, Noticed},
    ground::{ids::AssetId, time::Instant},
    outside::files::RowSink,
    plant::downtime::DowntimeKind,
    work::{WorkKind, WorkState},
};

/// Rows of something by the order that they are of.
type ByOrder = BTreeMap<i64, Vec<Vec<String>>>;

fn by_order(view: &View, sql: &str, row_of: impl Fn(&Row) -> rusqlite::Result<Vec<String>>) -> Result<ByOrder> {
    let mut found = ByOrder::new();
    let mut select = view.conn.prepare(sql)?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        view.go_on()?;
        found.entry(row.get(0)?).or_default().push(row_of(row)?);
    }
    Ok(found)
}

fn at(row: &Row, name: &str) -> rusqlite::Result<String> {
    Ok(row.get::<_, Option<Instant>>(name)?.map_or_else(String::new, |at| at.to_string()))
}

fn text(row: &Row, name: &str) -> rusqlite::Result<String> {
    Ok(row.get::<_, Option<String>>(name)?.unwrap_or_default())
}

/// Writes orders, below some assets or all: in the order of their numbers, each failure and each interval of downtime on a line.
///
/// # Errors
/// SQLite's own, and the writer's.
pub fn export(view: &View, scope: Option<&[AssetId]>, to: &mut dyn RowSink) -> Result<()> {
    to.row(&COLUMNS.iter().map(|(name, _)| *name).collect::<Vec<_>>())?;
    let failures = by_order(
        view,
        "SELECT f.work_order, a.code AS asset, b.code AS codebook, p.code AS problem, c.code AS cause, r.code AS remedy,
             f.effect, f.failed_at, f.noticed
         FROM failure_reports f JOIN assets a ON a.id = f.asset_id LEFT JOIN codebooks b ON b.id = f.codebook_id LEFT JOIN codes p ON p.id = f.problem_id
         LEFT JOIN codes c ON c.id = f.cause_id LEFT JOIN codes r ON r.id = f.remedy_id ORDER BY f.work_order, f.id",
        |row| {
            let mut cells = Vec::new();
            for name in ["asset", "codebook", "problem", "cause", "remedy"] {
                cells.push(text(row, name)?);
            }
            let noticed: Option<Noticed> = row.get("noticed")?;
            let noticed = noticed.map_or_else(String::new, |noticed| word(&noticed));
            cells.extend([word(&row.get::<_, Effect>("effect")?), at(row, "failed_at")?, noticed]);
            Ok(cells)
        },
    )?;
    let stops = by_order(
        view,
        "SELECT d.work_order, a.code AS asset, d.kind, d.start_at, d.end_at, d.share, d.note FROM downtimes d
         JOIN assets a ON a.id = d.asset_id WHERE d.work_order IS NOT NULL ORDER BY d.work_order, d.id",
        |row| {
            let kind = word(&row.get::<_, DowntimeKind>("kind")?);
            let share: f64 = row.get("share")?;
            let slowed = if share < 1.0 { share.to_string() } else { String::new() };
            Ok(vec![text(row, "asset")?, kind, at(row, "start_at")?, at(row, "end_at")?, slowed, text(row, "note")?])
        },
    )?;
    let sql = format!(
        "SELECT w.*, a.code AS asset, c.code AS crew,
             p.code AS assignee, q.code AS asked,
             (SELECT min(s.at) FROM state_changes s WHERE s.work_order = w.number AND s.to_state = 'under_way') AS started_at,
             (SELECT max(s.at) FROM state_changes s WHERE s.work_order = w.number AND s.to_state = 'done') AS done_at,
             (SELECT s.note FROM state_changes s WHERE s.work_order = w.number AND s.to_state = 'dropped'
                 ORDER BY s.id DESC LIMIT 1) AS note
         FROM work_orders w JOIN assets a ON a.id = w.asset_id LEFT JOIN crews c ON c.id = w.crew_id
         LEFT JOIN people p ON p.id = w.assignee_id LEFT JOIN people q ON q.id = w.asked_id
         WHERE (?1 IS NULL OR w.asset_id IN rarray(?2)) AND {} ORDER BY w.number",
        view.viewer.condition("w")
    );
    let mut select = view.conn.prepare(&sql)?;
    let some = scope.map(|_| 1);
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let mut rows = select.query(params![some, ids])?;
    while let Some(row) = rows.next()? {
        view.go_on()?;
        let number: i64 = row.get("number")?;
        let state: WorkState = row.get("state")?;
        let was_done = matches!(state, WorkState::Done | WorkState::Returned | WorkState::Closed);
        let was_begun = was_done || state == WorkState::UnderWay;
        let told = |is_told: bool, text: String| if is_told { text } else { String::new() };
        let order = vec![
            text(row, "reference")?,
            number.to_string(),
            text(row, "title")?,
            text(row, "asset")?,
            word(&row.get::<_, WorkKind>("kind")?),
            row.get::<_, i64>("risk_rank")?.to_string(),
            word(&state),
            at(row, "raised_at")?,
            told(was_begun, at(row, "started_at")?),
            told(was_done, at(row, "done_at")?),
            at(row, "state_since")?,
            text(row, "waiting_for")?,
            at(row, "expected_until")?,
            text(row, "question")?,
            text(row, "asked")?,
            told(state == WorkState::Dropped, text(row, "note")?),
            text(row, "crew")?,
            text(row, "assignee")?,
            row.get::<_, Option<f64>>("estimated_hours")?.map_or_else(String::new, |hours| hours.to_string()),
            at(row, "scheduled_start")?,
            at(row, "scheduled_end")?,
            text(row, "text")?,
        ];
        let (failed, stood) = (failures.get(&number), stops.get(&number));
        let (failed, stood) = (failed.map_or(&[][..], Vec::as_slice), stood.map_or(&[][..], Vec::as_slice));
        for place in 0..failed.len().max(stood.len()).max(1) {
            let mut cells: Vec<&str> = order.iter().map(String::as_str).collect();
            let add = |rows: &[Vec<String>], width: usize| {
                rows.get(place).cloned().unwrap_or_else(|| vec![String::new(); width])
            };
            let more = [add(failed, 8), add(stood, 6)].concat();
            cells.extend(more.iter().map(String::as_str));
            to.row(&cells)?;
        }
    }
    Ok(())
}
