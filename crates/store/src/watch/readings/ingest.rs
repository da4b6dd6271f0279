//! Takes batches in: every row is checked, kept, and evaluated, all in the open transaction.

use super::{
    history,
    kept::{KeptReading, LATE},
    take_row::{RowOutcome, Statements, take_row},
};
use crate::{
    ground::{
        error::{Result, StoreError},
        reach::Named,
        tx::Tx,
    },
    outside::tags,
    plant::master::Watch,
    watch::{alarms, limits::Running},
};
use rusqlite::params;
use std::collections::{BTreeSet, HashMap};
use tally_core::{
    access::roles::Action,
    ground::{time::Instant, units::Conversion},
    watch::{
        batch::{Batch, Receipt, RefusedRow, Row},
        readings::{Accepted, Reading},
    },
};

/// Takes a batch: checks each row, stores the good ones, evaluates the limits and does what they set off, all in the
/// open transaction. Rows are taken meter by meter in order of time, whatever their order in the batch.
///
/// # Errors
/// [`StoreError::MayNot`]; [`StoreError::Strict`] when all or nothing was asked and a row is refused. A refused row
/// otherwise stands in the receipt, and is no error.
pub fn ingest(tx: &mut Tx, rows: &[Row], batch: Batch) -> Result<Receipt> {
    ingest_watched(tx, rows, batch, &mut |_, _| true)
}

/// As [`ingest`], telling `watch` how many rows of how many are done.
///
/// # Errors
/// As [`ingest`]; and [`StoreError::Cancelled`] when `watch` says so.
pub fn ingest_watched(tx: &mut Tx, rows: &[Row], batch: Batch, watch: &mut Watch) -> Result<Receipt> {
    tx.require(Action::SendReadings)?;
    if !batch.source.may_be_said_by(tx.actor.role) {
        let (role, source) = (tx.actor.role.word(), batch.source.word());
        return Err(StoreError::NotTheirs(format!("a {role} may not send readings as {source}")));
    }
    let mut receipt = Receipt::default();
    let mut by_name: HashMap<&str, Vec<usize>> = HashMap::new();
    let mut names: Vec<&str> = Vec::new();
    for (index, row) in rows.iter().enumerate() {
        match row {
            Ok(incoming) => {
                let of_name = by_name.entry(&incoming.meter).or_insert_with(|| {
                    names.push(&incoming.meter);
                    Vec::new()
                });
                of_name.push(index);
            }
            Err(reason) => receipt.refused.push(RefusedRow { index, reason: reason.clone() }),
        }
    }
    if !names.is_empty() {
        let batch_id = add_batch(tx, batch)?;
        let mut done = 0;
        let mut stored = Vec::new();
        for mut meter in by_meter(tx, names, by_name)? {
            if !watch(done, rows.len()) {
                return Err(StoreError::Cancelled);
            }
            done += meter.rows.len();
            meter.rows.sort_by_key(|(index, _)| rows[*index].as_ref().ok().map(|row| (row.at, *index)));
            stored.extend(store_meter(tx, &meter, rows, batch_id, &mut receipt)?);
        }
        // All is kept before anything is evaluated: what suspends another meter's limits may stand anywhere in the batch.
        let anew = evaluated_too_soon(tx, &stored)?;
        for meter in &stored {
            evaluate_meter(tx, meter, &mut receipt)?;
        }
        for code in anew {
            alarms::remake(tx, &code, alarms::Cause::Came, &mut receipt)?;
        }
    }
    receipt.refused.sort_by_key(|refused| refused.index);
    receipt.work_orders.sort_unstable();
    receipt.work_orders.dedup();
    if batch.strict && !receipt.refused.is_empty() {
        return Err(StoreError::Strict(Box::new(receipt.told())));
    }
    Ok(receipt)
}

/// The rows of one meter, by their places, each with how its value becomes the meter's.
struct OfMeter {
    code: String,
    rows: Vec<(usize, Conversion)>,
}

/// Rows by meter, whatever name an outside system has for it, in the order in which meters come up first.
fn by_meter(tx: &mut Tx, names: Vec<&str>, mut by_name: HashMap<&str, Vec<usize>>) -> Result<Vec<OfMeter>> {
    let mut all: Vec<OfMeter> = Vec::new();
    let mut places: HashMap<String, usize> = HashMap::new();
    for name in names {
        let known = tx.meter(name);
        let (code, conversion) = match known {
            Err(StoreError::NotFound { .. }) => match tags::find(tx.conn, name)? {
                Some(tagged) => (tagged.meter, tagged.conversion),
                None => (name.to_owned(), Conversion::SAME),
            },
            // What can't be read of a meter is that meter's alone: its rows are refused where they are kept.
            Ok(_) | Err(StoreError::Corrupt { .. }) => (name.to_owned(), Conversion::SAME),
            Err(error) => return Err(error),
        };
        let place = *places.entry(code.clone()).or_insert_with(|| {
            all.push(OfMeter { code, rows: Vec::new() });
            all.len() - 1
        });
        let indexes = by_name.remove(name).unwrap_or_default();
        all[place].rows.extend(indexes.into_iter().map(|index| (index, conversion)));
    }
    Ok(all)
}

fn add_batch(tx: &Tx, batch: Batch) -> Result<i64> {
    let mut insert = tx
        .conn
        .prepare_cached("INSERT INTO batches (source, name, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4)")?;
    insert.execute(params![batch.source, batch.name, tx.now, tx.actor.id])?;
    Ok(tx.conn.last_insert_rowid())
}

/// What was kept of one meter.
struct Stored {
    code: String,
    /// In order of time, with what was evaluated last before them.
    in_order: Vec<Reading>,
    last: Option<Reading>,
    late: Vec<Reading>,
}

/// Checks and keeps the rows of one meter, in order of time. `None` where nothing was kept.
fn store_meter(
    tx: &mut Tx,
    of_meter: &OfMeter,
    rows: &[Row],
    batch_id: i64,
    receipt: &mut Receipt,
) -> Result<Option<Stored>> {
    let (conn, now, code) = (tx.conn, tx.now, of_meter.code.as_str());
    let found = tx.require_reach(&Named::Meter(code.into()));
    let meter = match found.and_then(|()| tx.meter(code)) {
        Ok(meter) => meter,
        Err(error @ (StoreError::NotFound { .. } | StoreError::Beyond { .. } | StoreError::Corrupt { .. })) => {
            let reason = match error {
                StoreError::NotFound { .. } => format!("there is no meter {code:?}"),
                StoreError::Beyond { .. } => error.to_string(),
                unreadable => format!("the meter {code} can't be read: {unreadable}"),
            };
            let refused = |(index, _): &(usize, Conversion)| RefusedRow { index: *index, reason: reason.clone() };
            receipt.refused.extend(of_meter.rows.iter().map(refused));
            return Ok(None);
        }
        Err(error) => return Err(error),
    };
    let mut statements = Statements::new(conn, meter)?;
    let mut stored = Stored { code: code.into(), in_order: Vec::new(), last: meter.last, late: Vec::new() };
    let mut apart = 0;
    for &(index, conversion) in &of_meter.rows {
        let Ok(incoming) = &rows[index] else { continue };
        match take_row(&mut statements, meter, incoming, conversion, batch_id, now)? {
            RowOutcome::Refused(reason) => receipt.refused.push(RefusedRow { index, reason }),
            RowOutcome::Duplicate => receipt.duplicates += 1,
            RowOutcome::Kept(reading, Accepted::InOrder) => stored.in_order.push(reading),
            RowOutcome::Kept(reading, Accepted::Late) => stored.late.push(reading),
            RowOutcome::Kept(_, Accepted::Quarantined) => apart += 1,
        }
    }
    let kept = stored.in_order.len() + stored.late.len() + apart;
    receipt.accepted += kept;
    receipt.late += stored.late.len();
    receipt.quarantined += apart;
    if kept == 0 {
        return Ok(None);
    }
    history::count(conn, meter.id, kept, apart, kept > stored.in_order.len())?;
    if meter.running_hours {
        conn.prepare_cached("INSERT INTO changes (kind, id) VALUES ('running', ?1)")?.execute([meter.id])?;
    }
    if let (true, Some(newest)) = (meter.silent, meter.newest_stored) {
        meter.silent = !alarms::silence_heard(conn, meter.id, newest, now)?;
    }
    drop(statements);
    tx.news.read(code);
    Ok(Some(stored))
}

/// Meters whose limits were looked at before it was known that something of the batch suspended them.
fn evaluated_too_soon(tx: &mut Tx, stored: &[Stored]) -> Result<BTreeSet<String>> {
    let mut anew = BTreeSet::new();
    for other in stored {
        let suspends = tx.meter(&other.code)?.suspends.clone();
        let first = other.in_order.iter().chain(&other.late).map(|reading| reading.at).min();
        for code in suspends {
            let last = match stored.iter().find(|one| one.code == code) {
                Some(one) => one.last,
                None => tx.meter(&code)?.last,
            };
            if last.zip(first).is_some_and(|(last, first)| last.at >= first) {
                anew.insert(code);
            }
        }
    }
    Ok(anew)
}

/// Makes anew the machines of meters whose limits another meter suspends, after a correction of its reading at an instant.
pub(super) fn remake_suspended_by(tx: &mut Tx, code: &str, at: Instant) -> Result<()> {
    for code in tx.meter(code)?.suspends.clone() {
        if tx.meter(&code)?.last.is_some_and(|last| last.at >= at) {
            alarms::remake(tx, &code, alarms::Cause::Came, &mut Receipt::default())?;
        }
    }
    Ok(())
}

/// Lets the ladder of one meter look at what was kept, and does what that sets off.
fn evaluate_meter(tx: &mut Tx, stored: &Stored, receipt: &mut Receipt) -> Result<()> {
    let (conn, code) = (tx.conn, stored.code.as_str());
    let meter = tx.meter(code)?;
    if meter.ladder.is_none() {
        return Ok(());
    }
    // How a counter goes on is counted from what was evaluated before.
    let newest = std::mem::replace(&mut meter.last, stored.last);
    let (mut set_off, mut changed) = (Vec::new(), Vec::new());
    for &reading in &stored.in_order {
        let through = meter.go_on(reading);
        meter.last = Some(reading);
        let runs = match &meter.gate {
            Some(gate) => gate.runs(conn, reading.at)?,
            None => true,
        };
        if let (true, Some(ladder)) = (runs, &mut meter.ladder) {
            ladder.step(reading, through, &mut changed);
        }
        if !changed.is_empty() {
            set_off.push((reading, std::mem::take(&mut changed)));
        }
    }
    meter.last = newest;
    let (id, awaits) = (meter.id, meter.awaits);
    // While it is suspended the newest reading is not the newest that was looked at.
    let hangs = |(newest, ladder): (Reading, &Running)| ladder.hangs_on_the_past(newest);
    let is_in_doubt =
        !stored.late.is_empty() && (meter.gate.is_some() || newest.zip(meter.ladder.as_ref()).is_some_and(hangs));
    tx.news.alarms |= !set_off.is_empty();
    for (reading, changed) in set_off {
        alarms::set_off(tx, code, reading, &changed, receipt)?;
    }
    if let Some(last) = stored.in_order.last().filter(|_| awaits) {
        alarms::answer_before(tx, code, last.at.plus(1), receipt)?;
    }
    if let Some(ladder) = &mut tx.meter(code)?.ladder {
        ladder.keep(conn, id)?;
        let beyond = stored.late.iter().filter_map(|one| Some((*one, ladder.beyond(one.value)?.clone())));
        let beyond: Vec<_> = beyond.collect();
        for (reading, rung) in beyond {
            alarms::note_late(tx, id, reading, &rung, alarms::LateKind::Beyond)?;
        }
    }
    if is_in_doubt {
        tx.forget_meter(code);
        alarms::remake(tx, code, alarms::Cause::Came, receipt)?;
    }
    Ok(())
}

/// A reading that was kept apart comes in as if it had just been read, its plausible range aside.
pub(super) fn released(tx: &mut Tx, code: &str, kept: KeptReading, batch: i64) -> Result<Receipt> {
    let _conn = tx.conn;
    let meter = tx.meter(code)?;
    let (id, last) = (meter.id, meter.last);
    let reading = Reading { at: kept.at, value: kept.value };
    let is_late = last.is_some_and(|last| reading.at < last.at);
    let mut receipt = Receipt { accepted: 1, late: usize::from(is_late), ..Receipt::default() };
    history::put_row(tx, id, KeptReading { flags: if is_late { LATE } else { 0 }, ..kept }, batch)?;
    tx.forget_meter(code);
    let stored = match is_late {
        true => Stored { code: code.into(), in_order: vec![], last, late: vec![reading] },
        false => Stored { code: code.into(), in_order: vec![reading], last, late: vec![] },
    };
    evaluate_meter(tx, &stored, &mut receipt)?;
    tx.news.read(code);
    Ok(receipt)
}
