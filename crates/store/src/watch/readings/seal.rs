//! Sealing: the oldest rows of a meter become a block.

use super::{
    blocks::{Block, FULL},
    history::{Added, add_counts, put_blocks},
    lookup::Lookup,
};
use crate::ground::{error::Result, sql::Rows, tx::Tx};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{ids::MeterId, time::Instant},
    watch::readings::Columns,
};

/// Newest readings of a meter that stay rows: what asks for the last few need not decode.
const STAY: usize = 512;

/// Meters with enough rows to seal some, the fullest first.
///
/// # Errors
/// SQLite's own.
pub fn to_seal(rows: &dyn Rows, most: usize) -> Result<Vec<MeterId>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT meter_id FROM reading_counts WHERE in_rows - apart >= ?1 ORDER BY in_rows - apart DESC LIMIT ?2",
    )?;
    let rows = select.query_map(params![FULL + STAY, most], |row| row.get(0))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Seals the oldest rows of a meter into a block (those kept apart stay rows until somebody judges them), together with the block they fall into where they came late; says how
/// many rows that were. One small transaction's worth.
///
/// # Errors
/// SQLite's own.
pub fn seal(tx: &mut Tx, meter: MeterId) -> Result<usize> {
    let conn = tx.conn;
    let stays: Option<i64> = conn
        .prepare_cached(
            "SELECT at FROM readings WHERE meter_id = ?1 AND flags & 2 = 0 ORDER BY at DESC LIMIT 1 OFFSET ?2",
        )?
        .query_row(params![meter, STAY - 1], |row| row.get(0))
        .optional()?;
    let Some(stays) = stays else { return Ok(0) };
    let mut oldest = conn.prepare_cached(
        "SELECT at, value, batch_id, flags FROM readings WHERE meter_id = ?1 AND at < ?2 AND flags & 2 = 0
         ORDER BY at LIMIT ?3",
    )?;
    let mut rows = Block::default();
    let mut found = oldest.query(params![meter, stays, FULL])?;
    while let Some(row) = found.next()? {
        rows.push(row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?);
    }
    drop(found);
    let (Some(first), Some(last)) = (rows.at.first().copied(), rows.at.last().copied()) else { return Ok(0) };
    // Late rows: only those up to the end of the first block they touch, and that block with them.
    let touched = conn
        .prepare_cached(
            "SELECT id, to_at FROM reading_blocks WHERE meter_id = ?1 AND to_at >= ?2 AND from_at <= ?3
             ORDER BY from_at LIMIT 1",
        )?
        .query_row(params![meter, first, last], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, i64>(1)?)))
        .optional()?;
    let mut end = last;
    let mut all = rows.clone();
    if let Some((id, to)) = touched {
        end = to.min(last);
        let until = rows.at.partition_point(|at| *at <= end);
        let cut = Block {
            at: rows.at[..until].to_vec(),
            value: rows.value[..until].to_vec(),
            batch: rows.batch[..until].to_vec(),
            flags: rows.flags[..until].to_vec(),
        };
        all = Lookup::new(conn, meter).decoded(id, true)?.merged(&cut);
        conn.execute("DELETE FROM reading_blocks WHERE id = ?1", [id])?;
    }
    put_blocks(conn, meter, &all)?;
    let moved = conn
        .prepare_cached("DELETE FROM readings WHERE meter_id = ?1 AND at <= ?2 AND flags & 2 = 0")?
        .execute(params![meter, end])?;
    add_counts(conn, meter, Added { rows: -i64::try_from(moved).unwrap_or(i64::MAX), ..Added::default() })?;
    Ok(moved)
}

/// Writes readings straight into blocks: for benches, which need more of them than there is time to send. Their batch
/// is 0.
///
/// # Errors
/// SQLite's own.
pub fn fill_blocks(tx: &mut Tx, meter: MeterId, readings: &Columns) -> Result<()> {
    let count_of = readings.len();
    let all = Block {
        at: readings.at().to_vec(),
        value: readings.values().to_vec(),
        batch: vec![0; count_of],
        flags: vec![0; count_of],
    };
    put_blocks(tx.conn, meter, &all)?;
    let readings = i64::try_from(count_of).unwrap_or(i64::MAX);
    add_counts(tx.conn, meter, Added { readings, revised: true, ..Added::default() })
}

/// Blocks that can't be read, or say something else of themselves than is in them; so many at the most, as a sentence each.
pub(crate) fn check_blocks(conn: &Connection, most: usize) -> Result<Vec<String>> {
    let mut select = conn.prepare(
        "SELECT m.code, b.from_at, b.to_at, b.readings, b.columns FROM reading_blocks b JOIN meters m ON m.id = b.meter_id",
    )?;
    let (mut rows, mut faults) = (select.query([])?, Vec::new());
    while let Some(row) = rows.next()? {
        let (code, from, to): (String, Instant, Instant) = (row.get(0)?, row.get(1)?, row.get(2)?);
        let (readings, columns): (usize, Vec<u8>) = (row.get(3)?, row.get(4)?);
        let fault = match Block::decode(&columns, true) {
            Err(error) => Some(error.to_string()),
            Ok(block) => {
                let ends = (block.at.first().copied(), block.at.last().copied());
                let fits = block.at.len() == readings && ends == (Some(from.ms()), Some(to.ms()));
                (!fits)
                    .then(|| format!("{} readings are in it, not {readings}, or from other instants", block.at.len()))
            }
        };
        faults.extend(fault.map(|fault| format!("the block of meter {code} from {from}: {fault}")));
        if faults.len() == most {
            break;
        }
    }
    Ok(faults)
}
