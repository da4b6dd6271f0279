//! Readings: taking batches in, and reading them back for drawing.

use crate::{
    act::Act,
    alarms,
    error::{Result, StoreError},
    master::Watch,
    meter_states::MeterState,
    meters,
    rows::{instant, word},
};
use rusqlite::{CachedStatement, Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use tally_core::{
    ids::{AlarmId, MeterId, WorkOrderId},
    meters::MeterKind,
    people::Action,
    readings::{Accepted, Neighbours, Reading, Source, check},
    time::{Instant, Span},
};
use utoipa::ToSchema;

/// A value as it comes in: a number, or the name of a grade.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub enum IncomingValue {
    Number(f64),
    Name(String),
}

/// A reading as it comes in, or why its row could not be understood.
#[derive(Debug, Clone, PartialEq)]
pub struct Incoming {
    pub meter: String,
    pub at: Instant,
    pub value: IncomingValue,
}

/// A row that was not kept.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RefusedRow {
    /// Place of the row in the batch, from 0.
    pub index: usize,
    pub reason: String,
}

/// What became of a batch.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Receipt {
    /// Rows kept, late and quarantined ones among them.
    pub accepted: usize,
    /// Rows that were there already, with the same value.
    pub duplicates: usize,
    pub late: usize,
    pub quarantined: usize,
    pub refused: Vec<RefusedRow>,
    /// Alarms that began.
    pub alarms: Vec<AlarmId>,
    /// Work orders raised or joined.
    pub work_orders: Vec<WorkOrderId>,
}

/// How a batch is taken.
#[derive(Debug, Clone, Copy)]
pub struct Batch<'a> {
    pub source: Source,
    /// Such as a file's name.
    pub name: Option<&'a str>,
    /// All or nothing.
    pub strict: bool,
}

pub(crate) const LATE: i64 = 1;
pub(crate) const QUARANTINED: i64 = 2;

/// A row of a batch: understood, or refused with its reason before it came here.
pub type Row = std::result::Result<Incoming, String>;

/// Takes a batch: checks each row, stores the good ones, evaluates the limits and does what they set off, all in the
/// open transaction. Rows are taken meter by meter in order of time, whatever their order in the batch.
///
/// # Errors
/// [`StoreError::MayNot`]; [`StoreError::Strict`] when all or nothing was asked and a row is refused. A refused row
/// otherwise stands in the receipt, and is no error.
pub fn ingest(act: &mut Act, rows: &[Row], batch: Batch) -> Result<Receipt> {
    ingest_watched(act, rows, batch, &mut |_, _| true)
}

/// As [`ingest`], telling `watch` how many rows of how many are done.
///
/// # Errors
/// As [`ingest`]; and [`StoreError::Cancelled`] when `watch` says so.
pub fn ingest_watched(act: &mut Act, rows: &[Row], batch: Batch, watch: &mut Watch) -> Result<Receipt> {
    act.require(Action::SendReadings)?;
    let mut receipt = Receipt::default();
    let mut by_meter: HashMap<&str, Vec<usize>> = HashMap::new();
    let mut order: Vec<&str> = Vec::new();
    for (index, row) in rows.iter().enumerate() {
        match row {
            Ok(incoming) => {
                let of_meter = by_meter.entry(&incoming.meter).or_insert_with(|| {
                    order.push(&incoming.meter);
                    Vec::new()
                });
                of_meter.push(index);
            }
            Err(reason) => receipt.refused.push(RefusedRow { index, reason: reason.clone() }),
        }
    }
    if !order.is_empty() {
        let batch_id = add_batch(act, batch)?;
        let mut done = 0;
        for code in order {
            if !watch(done, rows.len()) {
                return Err(StoreError::Cancelled);
            }
            let mut indexes = by_meter.remove(code).unwrap_or_default();
            done += indexes.len();
            indexes.sort_by_key(|&index| rows[index].as_ref().ok().map(|row| (row.at, index)));
            ingest_meter(act, code, &indexes, rows, batch_id, &mut receipt)?;
        }
    }
    receipt.refused.sort_by_key(|refused| refused.index);
    receipt.work_orders.sort_unstable();
    receipt.work_orders.dedup();
    if batch.strict && !receipt.refused.is_empty() {
        return Err(StoreError::Strict(Box::new(receipt)));
    }
    Ok(receipt)
}

fn add_batch(act: &Act, batch: Batch) -> Result<i64> {
    let mut insert = act
        .conn
        .prepare_cached("INSERT INTO batches (source, name, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4)")?;
    insert.execute(params![word(&batch.source), batch.name, act.now.ms(), act.actor.id.0])?;
    Ok(act.conn.last_insert_rowid())
}

/// The rows of one meter, in order of time.
fn ingest_meter(
    act: &mut Act,
    code: &str,
    indexes: &[usize],
    rows: &[Row],
    batch_id: i64,
    receipt: &mut Receipt,
) -> Result<()> {
    let (conn, now) = (act.conn, act.now);
    let meter = match act.meters.get(conn, code) {
        Ok(meter) => meter,
        Err(StoreError::NotFound { .. }) => {
            let reason = format!("there is no meter {code:?}");
            receipt.refused.extend(indexes.iter().map(|&index| RefusedRow { index, reason: reason.clone() }));
            return Ok(());
        }
        Err(error) => return Err(error),
    };
    let mut statements = Statements::new(conn)?;
    // Evaluated readings that changed a rung, with what changed; handled after the meter is no longer borrowed.
    let mut set_off = Vec::new();
    let mut counted = false;
    let mut changed = Vec::new();
    for &index in indexes {
        let Ok(incoming) = &rows[index] else { continue };
        match take_row(&mut statements, meter, incoming, batch_id, now)? {
            Outcome::Refused(reason) => receipt.refused.push(RefusedRow { index, reason }),
            Outcome::Duplicate => receipt.duplicates += 1,
            Outcome::Kept(reading, accepted) => {
                receipt.accepted += 1;
                counted = true;
                match accepted {
                    Accepted::Late => receipt.late += 1,
                    Accepted::Quarantined => receipt.quarantined += 1,
                    Accepted::InOrder => {
                        if let Some(ladder) = &mut meter.ladder {
                            ladder.step(reading, &mut changed);
                            if !changed.is_empty() {
                                set_off.push((reading, std::mem::take(&mut changed)));
                            }
                        }
                    }
                }
            }
        }
    }
    if counted && meter.running_hours {
        conn.prepare_cached("INSERT INTO changes (kind, id) VALUES ('running', ?1)")?.execute([meter.id.0])?;
    }
    drop(statements);
    for (reading, changed) in set_off {
        alarms::set_off(act, code, reading, &changed, receipt)?;
    }
    let meter = act.meters.get(conn, code)?;
    if let Some(ladder) = &mut meter.ladder {
        ladder.keep(conn, meter.id)?;
    }
    Ok(())
}

enum Outcome {
    Kept(Reading, Accepted),
    Duplicate,
    Refused(String),
}

struct Statements<'c> {
    insert: CachedStatement<'c>,
    same: CachedStatement<'c>,
    before: CachedStatement<'c>,
    after: CachedStatement<'c>,
}

impl<'c> Statements<'c> {
    fn new(conn: &'c Connection) -> Result<Self> {
        Ok(Self {
            insert: conn.prepare_cached(
                "INSERT INTO readings (meter_id, at, value, batch_id, flags) VALUES (?1, ?2, ?3, ?4, ?5)",
            )?,
            same: conn.prepare_cached("SELECT value FROM readings WHERE meter_id = ?1 AND at = ?2")?,
            before: conn.prepare_cached(
                "SELECT at, value FROM readings WHERE meter_id = ?1 AND at < ?2 AND flags & 2 = 0 ORDER BY at DESC LIMIT 1",
            )?,
            after: conn.prepare_cached(
                "SELECT at, value FROM readings WHERE meter_id = ?1 AND at > ?2 AND flags & 2 = 0 ORDER BY at LIMIT 1",
            )?,
        })
    }
}

fn take_row(
    statements: &mut Statements,
    meter: &mut MeterState,
    incoming: &Incoming,
    batch_id: i64,
    now: Instant,
) -> Result<Outcome> {
    let value = match value_of(meter, &incoming.value) {
        Ok(value) => value,
        Err(reason) => return Ok(Outcome::Refused(reason)),
    };
    let reading = Reading { at: incoming.at, value };
    if meter.retired_at.is_some_and(|at| reading.at >= at) {
        return Ok(Outcome::Refused(format!("the meter {} is retired", meter.code)));
    }
    let id = meter.id.0;
    let is_newest = meter.newest_stored.is_none_or(|newest| reading.at > newest);
    let mut around = Neighbours { before: meter.last, after: None, newest_evaluated: meter.last.map(|last| last.at) };
    if !is_newest {
        let kept: Option<f64> = statements.same.query_row([id, reading.at.ms()], |row| row.get(0)).optional()?;
        if let Some(kept) = kept {
            return Ok(if kept == value {
                Outcome::Duplicate
            } else {
                Outcome::Refused(format!(
                    "conflict: at {} the value {} is kept already, not {}",
                    reading.at,
                    meter.rules.shown(kept),
                    meter.rules.shown(value)
                ))
            });
        }
        if meter.rules.kind == MeterKind::Counter {
            let neighbour = |row: &rusqlite::Row| Ok(Reading { at: Instant::from_ms(row.get(0)?), value: row.get(1)? });
            around.before = statements.before.query_row([id, reading.at.ms()], neighbour).optional()?;
            around.after = statements.after.query_row([id, reading.at.ms()], neighbour).optional()?;
        }
    }
    let accepted = match check(&meter.rules, reading, around, now) {
        Ok(accepted) => accepted,
        Err(refused) => return Ok(Outcome::Refused(refused.to_string())),
    };
    let flags = match accepted {
        Accepted::InOrder => 0,
        Accepted::Late => LATE,
        Accepted::Quarantined => QUARANTINED,
    };
    statements.insert.execute(params![id, reading.at.ms(), value, batch_id, flags])?;
    if is_newest {
        meter.newest_stored = Some(reading.at);
    }
    if accepted == Accepted::InOrder {
        meter.last = Some(reading);
    }
    Ok(Outcome::Kept(reading, accepted))
}

fn value_of(meter: &MeterState, value: &IncomingValue) -> std::result::Result<f64, String> {
    match value {
        IncomingValue::Number(value) => Ok(*value),
        IncomingValue::Name(name) if meter.rules.kind == MeterKind::Grade => {
            let place = meter.rules.grades.iter().position(|grade| grade.eq_ignore_ascii_case(name.trim()));
            place
                .map(|place| place as f64)
                .ok_or_else(|| format!("{name:?} is none of the named values: {}", meter.rules.grades.join(", ")))
        }
        IncomingValue::Name(text) => Err(format!("{text:?} is not a number")),
    }
}

/// Readings for drawing: at most about `points` of them, with the least and the greatest of each part kept.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Series {
    /// Instant in milliseconds since 1970 and value, in order of time.
    pub points: Vec<(i64, f64)>,
    /// How many readings the points stand for.
    pub of: usize,
    /// Readings outside the plausible range, kept apart.
    pub quarantined: Vec<(i64, f64)>,
}

/// Quarantined readings drawn at the most.
const MOST_QUARANTINED: usize = 500;

/// Every reading that counts of the meters of a scope, meter by meter in order of time, grades by name.
///
/// # Errors
/// What `take` answers, or SQLite's own.
pub fn each(
    conn: &Connection,
    scope: Option<&[i64]>,
    span: Span,
    mut take: impl FnMut(&str, Instant, &str) -> Result<()>,
) -> Result<()> {
    let ids: std::rc::Rc<Vec<rusqlite::types::Value>> =
        std::rc::Rc::new(scope.unwrap_or_default().iter().map(|id| (*id).into()).collect());
    let mut meters = conn.prepare("SELECT * FROM meters WHERE ?1 OR asset_id IN rarray(?2) ORDER BY code")?;
    let mut select = conn.prepare(
        "SELECT at, value FROM readings WHERE meter_id = ?1 AND at >= ?2 AND at < ?3 AND flags & 2 = 0 ORDER BY at",
    )?;
    let mut found = meters.query(params![scope.is_none(), ids])?;
    while let Some(meter) = found.next()? {
        let (id, code): (i64, String) = (meter.get("id")?, meter.get("code")?);
        let rules = meters::rules(meter)?;
        let mut rows = select.query([id, span.start().ms(), span.end().ms()])?;
        while let Some(row) = rows.next()? {
            let value: f64 = row.get(1)?;
            let text = match rules.kind {
                MeterKind::Grade => rules.shown(value),
                MeterKind::Counter | MeterKind::Measurement => value.to_string(),
            };
            take(&code, instant(row, "at")?, &text)?;
        }
    }
    Ok(())
}

/// Readings of a span, thinned: each of `points / 2` equal parts of the span gives its least and its greatest value.
///
/// Cost grows with the readings of the span.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn series(conn: &Connection, code: &str, span: Span, points: usize) -> Result<Series> {
    let MeterId(meter) = meters::require(conn, code)?;
    let parts = i64::try_from((points / 2).max(1)).unwrap_or(i64::MAX);
    let part_ms = (span.ms() / parts).max(1);
    let mut select = conn.prepare_cached(
        "SELECT at, value, flags FROM readings WHERE meter_id = ?1 AND at >= ?2 AND at < ?3 ORDER BY at",
    )?;
    let mut rows = select.query([meter, span.start().ms(), span.end().ms()])?;
    let mut thinned = Thinned::default();
    let mut series = Series { points: Vec::new(), of: 0, quarantined: Vec::new() };
    while let Some(row) = rows.next()? {
        let (at, value, flags): (i64, f64, i64) = (row.get(0)?, row.get(1)?, row.get(2)?);
        if flags & QUARANTINED != 0 {
            if series.quarantined.len() < MOST_QUARANTINED {
                series.quarantined.push((at, value));
            }
            continue;
        }
        series.of += 1;
        thinned.add((at - span.start().ms()) / part_ms, at, value);
    }
    series.points = thinned.finish();
    Ok(series)
}

/// An instant in milliseconds and a value.
type Point = (i64, f64);

/// Keeps the least and the greatest of each part, in order of time.
#[derive(Default)]
struct Thinned {
    points: Vec<Point>,
    /// The part under way: its number, least and greatest.
    part: Option<(i64, Point, Point)>,
}

impl Thinned {
    fn add(&mut self, part: i64, at: i64, value: f64) {
        match &mut self.part {
            Some((current, least, greatest)) if *current == part => {
                if value < least.1 {
                    *least = (at, value);
                }
                if value > greatest.1 {
                    *greatest = (at, value);
                }
            }
            _ => {
                self.flush();
                self.part = Some((part, (at, value), (at, value)));
            }
        }
    }

    fn flush(&mut self) {
        if let Some((_, least, greatest)) = self.part.take() {
            let (first, second) = if least.0 <= greatest.0 { (least, greatest) } else { (greatest, least) };
            self.points.push(first);
            if first.0 != second.0 {
                self.points.push(second);
            }
        }
    }

    fn finish(mut self) -> Vec<Point> {
        self.flush();
        self.points
    }
}

/// Hands every reading of a span to `each`, raw and in order of time.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn raw(conn: &Connection, code: &str, span: Span, mut each: impl FnMut(Instant, f64)) -> Result<()> {
    let MeterId(meter) = meters::require(conn, code)?;
    let mut select =
        conn.prepare_cached("SELECT at, value FROM readings WHERE meter_id = ?1 AND at >= ?2 AND at < ?3 ORDER BY at")?;
    let mut rows = select.query([meter, span.start().ms(), span.end().ms()])?;
    while let Some(row) = rows.next()? {
        each(instant(row, "at")?, row.get(1)?);
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn thinning_keeps_the_extremes_of_every_part(values in prop::collection::vec(-50i32..50, 1..200), per in 1i64..20) {
            let mut thinned = Thinned::default();
            for (at, value) in values.iter().enumerate() {
                thinned.add(at as i64 / per, at as i64, f64::from(*value));
            }
            let points = thinned.finish();
            prop_assert!(points.windows(2).all(|pair| pair[0].0 < pair[1].0), "in order of time");
            for (part, chunk) in values.chunks(per as usize).enumerate() {
                let of_part: Vec<f64> =
                    points.iter().filter(|p| p.0 / per == part as i64).map(|p| p.1).collect();
                let least = chunk.iter().min().map(|v| f64::from(*v));
                let greatest = chunk.iter().max().map(|v| f64::from(*v));
                prop_assert!(of_part.len() <= 2);
                prop_assert_eq!(of_part.iter().copied().reduce(f64::min), least);
                prop_assert_eq!(of_part.iter().copied().reduce(f64::max), greatest);
            }
        }
    }
}
