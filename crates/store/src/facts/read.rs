//! Rows that happened, from the database into columns.

use super::known;
use crate::ground::{
    error::{Result, StoreError},
    rows::{date, list_of},
};
use jiff::ToSpan;
use rusqlite::{Connection, Row};
use std::collections::{HashMap, HashSet};
use tally_core::{
    facts::{
        AlarmFact, CycleFact, DowntimeFact, EntryFact, FailureFact, FieldsFact, MoveFact, Names, STOP, Snapshot,
        WorkFact, columns::fits,
    },
    ground::{
        ids::{AlarmId, AssetId, CycleId, DowntimeId, EntryId, FailureId, WorkOrderId},
        period::midnight,
        time::{HOUR, Instant},
    },
    plant::assets::Tree,
};

/// Hands every row of a query to `take`, or only those whose `key` is one of some ids.
fn each(
    conn: &Connection,
    all: &str,
    key: &str,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(&Row) -> Result<()>,
) -> Result<()> {
    match ids {
        None => {
            let mut select = conn.prepare(all)?;
            let mut rows = select.query([])?;
            while let Some(row) = rows.next()? {
                take(row)?;
            }
        }
        Some(ids) => {
            let mut select = conn.prepare_cached(&format!("{all} WHERE {key} IN rarray(?1)"))?;
            let mut rows = select.query([list_of(ids.iter().copied())])?;
            while let Some(row) = rows.next()? {
                take(row)?;
            }
        }
    }
    Ok(())
}

/// Which rows of a table are read: all or some, as they are or as they were known at an instant.
#[derive(Clone, Copy, Default)]
pub(super) struct Wanted<'a> {
    pub(super) ids: Option<&'a HashSet<i64>>,
    pub(super) known: Option<Instant>,
}

impl<'a> Wanted<'a> {
    pub(super) fn of(ids: &'a HashSet<i64>) -> Self {
        Self { ids: Some(ids), known: None }
    }
}

/// The number of an asset in the tree.
fn number(tree: &Tree, asset: i64) -> Result<u32> {
    let index = tree.index(AssetId(asset)).and_then(|index| u32::try_from(index).ok());
    index.ok_or_else(|| StoreError::corrupt("assets", format!("there is no asset {asset}")))
}

/// An id that fits into its column.
fn id(table: &'static str, row: &Row) -> Result<i64> {
    let id = row.get(0)?;
    if fits(id) { Ok(id) } else { Err(StoreError::corrupt(table, format!("its id {id} is too great"))) }
}

pub(super) fn entries(
    conn: &Connection,
    tree: &Tree,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(EntryFact),
) -> Result<()> {
    let sql =
        "SELECT id, asset_id, work_order, kind, at, amount, hours_ms, settled_at, recorded_at, person_id, item_id, supplier_id,
            CASE kind WHEN 'labour' THEN NULL ELSE quantity * 1000 END FROM entries";
    each(conn, sql, "id", ids, |row| {
        // Thousandths, where it is no time.
        let pieces: Option<f64> = row.get(12)?;
        take(EntryFact {
            id: id("entries", row).map(EntryId)?,
            asset: number(tree, row.get(1)?)?,
            work: row.get(2)?,
            kind: row.get(3)?,
            at: row.get(4)?,
            cost: row.get(5)?,
            quantity: pieces.map_or_else(|| row.get(6), |pieces| Ok(pieces.round() as i64))?,
            settled_at: row.get::<_, Option<Instant>>(7)?.unwrap_or(Instant::LATEST),
            recorded_at: row.get(8)?,
            person: row.get(9)?,
            item: row.get(10)?,
            supplier: row.get(11)?,
        });
        Ok(())
    })
}

pub(super) fn downtimes(
    conn: &Connection,
    tree: &Tree,
    rows: Wanted,
    mut take: impl FnMut(DowntimeFact),
) -> Result<()> {
    let columns = "id, asset_id, work_order, kind, start_at, end_at, recorded_at, share";
    let from = known::rows("downtimes", &["id"], columns, rows.known);
    each(conn, &format!("SELECT {columns} FROM {from}"), "id", rows.ids, |row| {
        take(DowntimeFact {
            id: id("downtimes", row).map(DowntimeId)?,
            asset: number(tree, row.get(1)?)?,
            work: row.get(2)?,
            kind: row.get(3)?,
            start: row.get(4)?,
            end: row.get::<_, Option<Instant>>(5)?.unwrap_or(Instant::LATEST),
            share: (row.get::<_, f64>(7)? * f64::from(STOP)).round() as u32,
            recorded_at: row.get(6)?,
        });
        Ok(())
    })
}

pub(super) fn failures(conn: &Connection, tree: &Tree, rows: Wanted, mut take: impl FnMut(FailureFact)) -> Result<()> {
    let columns = "id, asset_id, work_order, failed_at, effect, problem_id, cause_id, remedy_id, coded_at, recorded_at";
    let from = known::rows("failure_reports", &["id"], columns, rows.known);
    each(conn, &format!("SELECT {columns} FROM {from}"), "id", rows.ids, |row| {
        take(FailureFact {
            id: id("failure_reports", row).map(FailureId)?,
            asset: number(tree, row.get(1)?)?,
            work: row.get(2)?,
            at: row.get(3)?,
            effect: row.get(4)?,
            problem: row.get(5)?,
            cause: row.get(6)?,
            remedy: row.get(7)?,
            coded_at: row.get(8)?,
            recorded_at: row.get(9)?,
        });
        Ok(())
    })
}

/// Work without its `until` and `done_at`, which its moves say, and the versions of fields that were changed. Departments are called by their
/// names.
pub(super) fn works(
    conn: &Connection,
    tree: &Tree,
    names: &mut Names,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(WorkFact),
    mut version: impl FnMut(FieldsFact),
) -> Result<()> {
    former_fields(conn, tree, names, ids, &mut version)?;
    let sql = "SELECT number, asset_id, kind, source, source_severity, raised_at, raised_by, recorded_at, risk_rank, window_end,
            target_start, target_finish, scheduled_start, scheduled_end, crew_id, department, assignee_id, asked_id,
            estimated_hours, state, state_since, waiting_for, verdict, spent_ms, cost, fields_since, fields_recorded_at,
            expected_until
        FROM work_orders";
    each(conn, sql, "number", ids, |row| {
        let since: Option<Instant> = row.get(25)?;
        let work = WorkFact {
            number: id("work_orders", row).map(WorkOrderId)?,
            asset: number(tree, row.get(1)?)?,
            kind: row.get(2)?,
            source: row.get(3)?,
            source_severity: row.get(4)?,
            raised_at: row.get(5)?,
            raised_by: row.get(6)?,
            recorded_at: row.get(7)?,
            rank: row.get(8)?,
            window_end: row.get(9)?,
            target_start: row.get(10)?,
            target_finish: row.get(11)?,
            scheduled_start: row.get(12)?,
            scheduled_end: row.get(13)?,
            crew: row.get(14)?,
            department: department(row, 15, names)?,
            assignee: row.get(16)?,
            asked: row.get(17)?,
            estimated_ms: hours_ms(row, 18)?,
            state: row.get(19)?,
            state_since: row.get(20)?,
            waiting_for: row.get(21)?,
            expected_until: row.get(27)?,
            verdict: row.get(22)?,
            spent_ms: row.get(23)?,
            cost: row.get(24)?,
            done_at: Instant::LATEST,
            until: Instant::LATEST,
            changed: since.is_some(),
            coded: false,
        };
        if let (Some(since), Some(recorded_at)) = (since, row.get(26)?) {
            version(work.newest_fields(since, recorded_at));
        }
        take(work);
        Ok(())
    })
}

/// Estimated hours, in milliseconds.
fn hours_ms(row: &Row, place: usize) -> Result<Option<i64>> {
    let hours: Option<f64> = row.get(place)?;
    Ok(hours.map(|hours| (hours * HOUR as f64).round() as i64))
}

/// The place of a department among the names.
fn department(row: &Row, place: usize, names: &mut Names) -> Result<Option<u32>> {
    Ok(match row.get_ref(place)? {
        rusqlite::types::ValueRef::Null => None,
        text => Some(names.department(text.as_str().map_err(rusqlite::Error::from)?)),
    })
}

/// What fields were before they were changed, in the order in which they were.
fn former_fields(
    conn: &Connection,
    tree: &Tree,
    names: &mut Names,
    ids: Option<&HashSet<i64>>,
    version: &mut impl FnMut(FieldsFact),
) -> Result<()> {
    let sql =
        "SELECT work_order, since, recorded_at, asset_id, kind, risk_rank, window_end, target_start, target_finish,
            scheduled_start, scheduled_end, crew_id, department, assignee_id, estimated_hours, id, source_severity
        FROM former_fields";
    let mut found: Vec<(i64, FieldsFact)> = Vec::new();
    each(conn, sql, "work_order", ids, |row| {
        let fields = FieldsFact {
            work: id("former_fields", row).map(WorkOrderId)?,
            version: 0,
            since: row.get(1)?,
            recorded_at: row.get(2)?,
            asset: number(tree, row.get(3)?)?,
            kind: row.get(4)?,
            source_severity: row.get(16)?,
            rank: row.get(5)?,
            window_end: row.get(6)?,
            target_start: row.get(7)?,
            target_finish: row.get(8)?,
            scheduled_start: row.get(9)?,
            scheduled_end: row.get(10)?,
            crew: row.get(11)?,
            department: department(row, 12, names)?,
            assignee: row.get(13)?,
            estimated_ms: hours_ms(row, 14)?,
        };
        found.push((row.get(15)?, fields));
        Ok(())
    })?;
    found.sort_by_key(|(id, fields)| (fields.work, *id));
    let mut before: Option<FieldsFact> = None;
    for (_, fields) in found {
        let same = before.filter(|before| before.work == fields.work);
        let numbered = FieldsFact { version: same.map_or(0, |before| before.version.saturating_add(1)), ..fields };
        version(numbered);
        before = Some(numbered);
    }
    Ok(())
}

/// Whether rungs do more than record, by version and place.
struct Asking<'a> {
    select: rusqlite::CachedStatement<'a>,
    known: HashMap<(i64, i64), bool>,
}

impl<'a> Asking<'a> {
    fn new(conn: &'a Connection) -> Result<Self> {
        let select = conn.prepare_cached(
            "SELECT json_extract(definition, '$.rungs[' || ?2 || '].response.kind') IS NOT 'record'
             FROM ladder_versions WHERE id = ?1",
        )?;
        Ok(Self { select, known: HashMap::new() })
    }

    /// An alarm that is of no rung asks.
    fn asks(&mut self, version: Option<i64>, rung: Option<i64>) -> Result<bool> {
        let (Some(version), Some(rung)) = (version, rung) else { return Ok(true) };
        if let Some(known) = self.known.get(&(version, rung)) {
            return Ok(*known);
        }
        let asks = self.select.query_row([version, rung], |row| row.get(0))?;
        self.known.insert((version, rung), asks);
        Ok(asks)
    }
}

/// Alarms, each with the newest order that it raised or joined.
pub(super) fn alarms(conn: &Connection, tree: &Tree, rows: Wanted, mut take: impl FnMut(AlarmFact)) -> Result<()> {
    let columns = "id, meter_id, work_order, kind, side, severity, entered_at, left_at, left_by, acknowledged_at,
        acknowledged_by, response, recorded_at";
    let from = known::rows("alarms", &["id"], columns, rows.known);
    let mut assets: HashMap<i64, u32> = HashMap::new();
    let mut asset_of = conn.prepare_cached("SELECT asset_id FROM meters WHERE id = ?1")?;
    let mut asking = Asking::new(conn)?;
    let all =
        format!("SELECT x.*, a.version_id, a.rung FROM (SELECT {columns} FROM {from}) x JOIN alarms a ON a.id = x.id");
    each(conn, &all, "x.id", rows.ids, |row| {
        let meter: i64 = row.get(1)?;
        let asset = match assets.get(&meter) {
            Some(asset) => *asset,
            None => number(tree, asset_of.query_row([meter], |row| row.get(0))?)?,
        };
        assets.insert(meter, asset);
        take(AlarmFact {
            id: id("alarms", row).map(AlarmId)?,
            meter: row.get(1)?,
            asset,
            work: row.get(2)?,
            kind: row.get(3)?,
            side: row.get(4)?,
            severity: row.get(5)?,
            entered_at: row.get(6)?,
            left_at: row.get::<_, Option<Instant>>(7)?.unwrap_or(Instant::LATEST),
            left_by: row.get(8)?,
            acknowledged_at: row.get(9)?,
            acknowledged_by: row.get(10)?,
            response: row.get(11)?,
            asks: asking.asks(row.get(13)?, row.get(14)?)?,
            recorded_at: row.get(12)?,
        });
        Ok(())
    })
}

/// Cycles of upkeep that were settled, with their days in the plant's time zone.
pub(super) fn cycles(
    conn: &Connection,
    facts: &Snapshot,
    ids: Option<&HashSet<i64>>,
    mut take: impl FnMut(CycleFact),
) -> Result<()> {
    let sql = "SELECT x.* FROM (SELECT id, plan_id, asset_id, due, grace_days, outcome, work_order, recorded_at FROM upkeep_cycles
            WHERE outcome IS NOT NULL) x";
    each(conn, sql, "x.id", ids, |row| {
        let due = date("upkeep_cycles", &row.get::<_, String>(3)?)?;
        let after_grace = due.saturating_add((row.get::<_, i64>(4)? + 1).days());
        take(CycleFact {
            id: id("upkeep_cycles", row).map(CycleId)?,
            plan: row.get(1)?,
            asset: number(&facts.tree, row.get(2)?)?,
            due: midnight(due, &facts.zone),
            in_time_until: midnight(after_grace, &facts.zone),
            outcome: row.get(5)?,
            work: row.get(6)?,
            recorded_at: row.get(7)?,
        });
        Ok(())
    })
}

fn step_of(row: &Row, work: i64, step: u16) -> Result<MoveFact> {
    let (work, at, to) = (WorkOrderId(work), row.get(1)?, row.get(2)?);
    Ok(MoveFact { work, step, at, to, waiting_for: row.get(3)?, recorded_at: row.get(4)? })
}

/// Moves between states, each work order's in the order in which they count: where the instant is the same, the one made later.
pub(super) fn moves(conn: &Connection, works: Option<&HashSet<i64>>, mut take: impl FnMut(MoveFact)) -> Result<()> {
    let sql = "SELECT work_order, at, to_state, waiting_for, recorded_at, id FROM state_changes";
    match works {
        // In order of the index by work, at and id, which is how they count.
        None => {
            let (mut of, mut step) = (0, 0u16);
            each(conn, &format!("{sql} ORDER BY work_order, at, id"), "work_order", None, |row| {
                let work = id("state_changes", row)?;
                step = if of == work { step.saturating_add(1) } else { 0 };
                of = work;
                take(step_of(row, work, step)?);
                Ok(())
            })
        }
        Some(_) => {
            let mut found: HashMap<i64, Vec<(Instant, i64, MoveFact)>> = HashMap::new();
            each(conn, sql, "work_order", works, |row| {
                let work = id("state_changes", row)?;
                let fact = step_of(row, work, 0)?;
                found.entry(work).or_default().push((fact.at, row.get(5)?, fact));
                Ok(())
            })?;
            for mut of_work in found.into_values() {
                of_work.sort_by_key(|(at, id, _)| (*at, *id));
                for ((_, _, fact), step) in of_work.into_iter().zip(0u16..) {
                    take(MoveFact { step, ..fact });
                }
            }
            Ok(())
        }
    }
}
