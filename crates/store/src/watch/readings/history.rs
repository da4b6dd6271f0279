//! One history of a meter, wherever its readings are kept: recent ones as rows, older ones sealed into blocks.

use super::blocks::{Block, FULL};
use crate::ground::{error::Result, histories::Counts, sql::Rows, tx::Tx};
use rusqlite::{Connection, OptionalExtension, Row, params};
use std::rc::Rc;
use tally_core::{
    ground::{
        ids::MeterId,
        time::{Instant, Span},
    },
    watch::readings::{Columns, Reading},
};

/// Flags of a kept reading: it came late; it was kept apart.
pub(crate) const LATE: u32 = 1;
pub(crate) const QUARANTINED: u32 = 2;

/// A reading as it is kept.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct KeptReading {
    pub at: Instant,
    pub value: f64,
    pub flags: u32,
}

impl KeptReading {
    fn counts(&self) -> bool {
        self.flags & QUARANTINED == 0
    }

    fn reading(&self) -> Reading {
        Reading { at: self.at, value: self.value }
    }
}

/// Newest readings of a meter that stay rows: what asks for the last few need not decode.
const STAY: usize = 512;

/// Looks things up in one meter's history, remembering the block it looked at last.
pub(crate) struct Lookup<'c> {
    conn: &'c Connection,
    meter: MeterId,
    block: Option<(i64, Rc<Block>)>,
}

/// Which way from an instant.
#[derive(Clone, Copy, PartialEq)]
enum Way {
    Before,
    After,
}

impl<'c> Lookup<'c> {
    pub(crate) fn new(conn: &'c Connection, meter: MeterId) -> Self {
        Self { conn, meter, block: None }
    }

    fn decoded(&mut self, id: i64, whole: bool) -> Result<Rc<Block>> {
        if let Some((kept, block)) = &self.block
            && *kept == id
        {
            return Ok(block.clone());
        }
        let bytes: Vec<u8> = self
            .conn
            .prepare_cached("SELECT columns FROM reading_blocks WHERE id = ?1")?
            .query_row([id], |row| row.get(0))?;
        let block = Rc::new(Block::decode(&bytes, whole)?);
        self.block = Some((id, block.clone()));
        Ok(block)
    }

    /// The reading kept at an instant.
    pub(crate) fn at(&mut self, at: Instant) -> Result<Option<KeptReading>> {
        let row = self
            .conn
            .prepare_cached("SELECT at, value, flags FROM readings WHERE meter_id = ?1 AND at = ?2")?
            .query_row(params![self.meter, at], kept)
            .optional()?;
        if row.is_some() {
            return Ok(row);
        }
        let Some(id) = self.block_with(at)? else { return Ok(None) };
        let block = self.decoded(id, false)?;
        Ok(block.at.binary_search(&at.ms()).ok().map(|place| of_block(&block, place)))
    }

    /// The block whose span holds an instant.
    pub(super) fn block_with(&self, at: Instant) -> Result<Option<i64>> {
        let mut find = self.conn.prepare_cached(
            "SELECT id, to_at FROM reading_blocks WHERE meter_id = ?1 AND from_at <= ?2 ORDER BY from_at DESC LIMIT 1",
        )?;
        let found = find
            .query_row(params![self.meter, at], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, i64>(1)?)))
            .optional()?;
        Ok(found.filter(|(_, to)| at.ms() <= *to).map(|(id, _)| id))
    }

    /// The last reading that counts before an instant.
    pub(crate) fn before(&mut self, at: Instant) -> Result<Option<Reading>> {
        self.next(at, Way::Before)
    }

    /// The first reading that counts after an instant.
    pub(crate) fn after(&mut self, at: Instant) -> Result<Option<Reading>> {
        self.next(at, Way::After)
    }

    fn next(&mut self, at: Instant, way: Way) -> Result<Option<Reading>> {
        let sql = match way {
            Way::Before => {
                "SELECT at, value, flags FROM readings WHERE meter_id = ?1 AND at < ?2 AND flags & 2 = 0 ORDER BY at DESC LIMIT 1"
            }
            Way::After => {
                "SELECT at, value, flags FROM readings WHERE meter_id = ?1 AND at > ?2 AND flags & 2 = 0 ORDER BY at LIMIT 1"
            }
        };
        let row = self.conn.prepare_cached(sql)?.query_row(params![self.meter, at], kept).optional()?;
        let nearest = row.map(|kept| kept.reading());
        // Blocks in that direction, the nearest first, until one holds a reading that counts or all lie farther away.
        let sql = match way {
            Way::Before => {
                "SELECT id, to_at FROM reading_blocks WHERE meter_id = ?1 AND from_at < ?2 ORDER BY from_at DESC"
            }
            Way::After => "SELECT id, from_at FROM reading_blocks WHERE meter_id = ?1 AND to_at > ?2 ORDER BY from_at",
        };
        let conn = self.conn;
        let mut select = conn.prepare_cached(sql)?;
        let mut blocks = select.query(params![self.meter, at])?;
        while let Some(found) = blocks.next()? {
            let edge: i64 = found.get(1)?;
            let farther = nearest.is_some_and(|near| match way {
                Way::Before => edge <= near.at.ms(),
                Way::After => edge >= near.at.ms(),
            });
            if farther {
                break;
            }
            let block = self.decoded(found.get(0)?, false)?;
            let places = match way {
                Way::Before => 0..block.at.partition_point(|one| *one < at.ms()),
                Way::After => block.at.partition_point(|one| *one <= at.ms())..block.len(),
            };
            let counting = |place: &usize| of_block(&block, *place).counts();
            let found = match way {
                Way::Before => places.rev().find(counting),
                Way::After => { places }.find(counting),
            };
            if let Some(place) = found {
                let in_block = of_block(&block, place).reading();
                let is_nearer = nearest.is_none_or(|near| (in_block.at > near.at) == (way == Way::Before));
                return Ok(Some(if is_nearer { in_block } else { nearest.unwrap_or(in_block) }));
            }
        }
        Ok(nearest)
    }
}

fn kept(row: &Row) -> rusqlite::Result<KeptReading> {
    Ok(KeptReading { at: row.get(0)?, value: row.get(1)?, flags: row.get(2)? })
}

fn of_block(block: &Block, place: usize) -> KeptReading {
    KeptReading { at: Instant::from_ms(block.at[place]), value: block.value[place], flags: block.flags[place] }
}

/// The last reading that counts before an instant.
pub(crate) fn last_before(conn: &Connection, meter: MeterId, at: Instant) -> Result<Option<Reading>> {
    Lookup::new(conn, meter).before(at)
}

/// The newest reading kept, quarantined ones too. Never in a block: the newest stay rows.
pub(crate) fn newest_stored(conn: &Connection, meter: MeterId) -> Result<Option<Instant>> {
    let mut newest = conn.prepare_cached("SELECT at FROM readings WHERE meter_id = ?1 ORDER BY at DESC LIMIT 1")?;
    Ok(newest.query_row([meter], |row| row.get(0)).optional()?.map(Instant::from_ms))
}

/// When the first reading was taken.
pub(crate) fn first(conn: &Connection, meter: MeterId) -> Result<Option<Instant>> {
    let mut least = conn.prepare_cached(
        "SELECT min(at) FROM (SELECT min(at) AS at FROM readings WHERE meter_id = ?1
             UNION ALL SELECT min(from_at) FROM reading_blocks WHERE meter_id = ?1)",
    )?;
    Ok(least.query_row([meter], |row| row.get::<_, Option<i64>>(0))?.map(Instant::from_ms))
}

/// The counts of a meter.
pub(crate) fn counts(conn: &Connection, meter: MeterId) -> Result<Counts> {
    let mut select = conn.prepare_cached("SELECT readings, revised FROM reading_counts WHERE meter_id = ?1")?;
    let found =
        select.query_row([meter], |row| Ok(Counts { readings: row.get(0)?, revised: row.get(1)? })).optional()?;
    Ok(found.unwrap_or_default())
}

/// What is added to the counts of a meter, or taken from them.
#[derive(Debug, Clone, Copy, Default)]
struct Added {
    readings: i64,
    rows: i64,
    /// Of the rows, those kept apart.
    apart: i64,
    /// Something other than newer readings.
    revised: bool,
}

fn add_counts(conn: &Connection, meter: MeterId, added: Added) -> Result<()> {
    conn.prepare_cached(
        "INSERT INTO reading_counts (meter_id, readings, in_rows, apart, revised) VALUES (?1, ?2, ?3, ?4, ?5)
         ON CONFLICT (meter_id) DO UPDATE SET readings = readings + ?2, in_rows = in_rows + ?3, apart = apart + ?4,
             revised = revised + ?5",
    )?
    .execute(params![meter, added.readings, added.rows, added.apart, added.revised])?;
    Ok(())
}

/// Takes into the counts what was added as rows, some of it kept apart; `revised` where it was not only newer readings.
pub(crate) fn count(conn: &Connection, meter: MeterId, kept: usize, apart: usize, revised: bool) -> Result<()> {
    let rows = i64::try_from(kept).unwrap_or(i64::MAX);
    let apart = i64::try_from(apart).unwrap_or(i64::MAX);
    add_counts(conn, meter, Added { readings: rows, rows, apart, revised })
}

/// Something about a meter's readings is other than it was, such as an exchange of its device: what is held of them is old.
pub(crate) fn revise(conn: &Connection, meter: MeterId) -> Result<()> {
    add_counts(conn, meter, Added { revised: true, ..Added::default() })
}

/// Hands every kept reading of a span to `each`, in order of time.
pub(crate) fn each(
    conn: &Connection,
    meter: MeterId,
    span: Span,
    mut each: impl FnMut(KeptReading) -> Result<()>,
) -> Result<()> {
    let (from, to) = (span.start().ms(), span.end().ms());
    let mut select = conn.prepare_cached(
        "SELECT at, value, flags FROM readings WHERE meter_id = ?1 AND at >= ?2 AND at < ?3 ORDER BY at",
    )?;
    let mut rows = select.query(params![meter, from, to])?;
    let mut next_row = rows.next()?.map(kept).transpose()?;
    let mut blocks = conn.prepare_cached(
        "SELECT columns FROM reading_blocks WHERE meter_id = ?1 AND to_at >= ?2 AND from_at < ?3 ORDER BY from_at",
    )?;
    let mut found = blocks.query(params![meter, from, to])?;
    while let Some(row) = found.next()? {
        let block = Block::decode(row.get_ref(0)?.as_blob().map_err(rusqlite::Error::from)?, false)?;
        let places = block.at.partition_point(|at| *at < from)..block.at.partition_point(|at| *at < to);
        for place in places {
            let in_block = of_block(&block, place);
            while let Some(row) = next_row.filter(|row| row.at < in_block.at) {
                each(row)?;
                next_row = rows.next()?.map(kept).transpose()?;
            }
            each(in_block)?;
        }
    }
    while let Some(row) = next_row {
        each(row)?;
        next_row = rows.next()?.map(kept).transpose()?;
    }
    Ok(())
}

/// The readings of a span that count, as columns.
pub(crate) fn columns(conn: &Connection, meter: MeterId, span: Span) -> Result<Columns> {
    let expected = usize::try_from(counts(conn, meter)?.readings).unwrap_or(0);
    let mut columns = Columns::with_capacity(expected);
    each(conn, meter, span, |kept| {
        if kept.counts() {
            columns.push(kept.reading());
        }
        Ok(())
    })?;
    Ok(columns)
}

/// Readings before an instant with their batches, newest first, at most `limit`; only those kept apart, which are rows, where
/// `apart`.
pub(crate) fn newest_before(
    conn: &Connection,
    meter: MeterId,
    before: Instant,
    apart: bool,
    limit: usize,
) -> Result<Vec<(KeptReading, i64)>> {
    let mut select = conn.prepare_cached(
        "SELECT at, value, flags, batch_id FROM readings WHERE meter_id = ?1 AND at < ?2 AND (?3 = 0 OR flags & 2)
         ORDER BY at DESC LIMIT ?4",
    )?;
    let rows = select.query_map(params![meter, before, apart, limit], |row| Ok((kept(row)?, row.get(3)?)))?;
    let mut found = rows.collect::<rusqlite::Result<Vec<(KeptReading, i64)>>>()?;
    if apart {
        return Ok(found);
    }
    let mut blocks = conn.prepare_cached(
        "SELECT columns, to_at FROM reading_blocks WHERE meter_id = ?1 AND from_at < ?2 ORDER BY from_at DESC",
    )?;
    let mut rows = blocks.query(params![meter, before])?;
    while let Some(row) = rows.next()? {
        // Blocks do not overlap: once enough is found that is newer than all of this one, the rest is older still.
        let to_at = row.get(1)?;
        if found.len() >= limit && found[limit - 1].0.at >= to_at {
            break;
        }
        let block = Block::decode(row.get_ref(0)?.as_blob().map_err(rusqlite::Error::from)?, true)?;
        let end = block.at.partition_point(|at| *at < before.ms());
        found.extend((end.saturating_sub(limit)..end).map(|place| (of_block(&block, place), block.batch[place])));
        found.sort_by_key(|(kept, _)| std::cmp::Reverse(kept.at));
        found.truncate(limit);
    }
    Ok(found)
}

/// Takes one reading away, wherever it is kept, and says what it was and of which batch.
pub(crate) fn take_away(tx: &Tx, meter: MeterId, at: Instant) -> Result<Option<(KeptReading, i64)>> {
    let found = tx
        .conn
        .prepare_cached("SELECT at, value, flags, batch_id FROM readings WHERE meter_id = ?1 AND at = ?2")?
        .query_row(params![meter, at], |row| Ok((kept(row)?, row.get(3)?)))
        .optional()?;
    if let Some(found) = found {
        tx.conn.prepare_cached("DELETE FROM readings WHERE meter_id = ?1 AND at = ?2")?.execute(params![meter, at])?;
        let (kept, _) = &found;
        let apart = -i64::from(!kept.counts());
        add_counts(tx.conn, meter, Added { readings: -1, rows: -1, apart, revised: true })?;
        return Ok(Some(found));
    }
    let mut lookup = Lookup::new(tx.conn, meter);
    let Some(id) = lookup.block_with(at)? else { return Ok(None) };
    let mut block = (*lookup.decoded(id, true)?).clone();
    let Ok(place) = block.at.binary_search(&at.ms()) else { return Ok(None) };
    let found = (of_block(&block, place), block.batch[place]);
    block.at.remove(place);
    block.value.remove(place);
    block.batch.remove(place);
    block.flags.remove(place);
    tx.conn.execute("DELETE FROM reading_blocks WHERE id = ?1", [id])?;
    put_blocks(tx.conn, meter, &block)?;
    add_counts(tx.conn, meter, Added { readings: -1, revised: true, ..Added::default() })?;
    Ok(Some(found))
}

/// Puts one reading back as a row.
pub(crate) fn put_row(tx: &Tx, meter: MeterId, kept: KeptReading, batch: i64) -> Result<()> {
    let mut insert = tx
        .conn
        .prepare_cached("INSERT INTO readings (meter_id, at, value, batch_id, flags) VALUES (?1, ?2, ?3, ?4, ?5)")?;
    insert.execute(params![meter, kept.at, kept.value, batch, kept.flags])?;
    count(tx.conn, meter, 1, usize::from(!kept.counts()), true)
}

fn put_blocks(conn: &Connection, meter: MeterId, all: &Block) -> Result<()> {
    let mut insert = conn.prepare_cached(
        "INSERT INTO reading_blocks (meter_id, from_at, to_at, readings, columns) VALUES (?1, ?2, ?3, ?4, ?5)",
    )?;
    for part in all.cut() {
        let (first, last) = (part.at[0], part.at[part.len() - 1]);
        insert.execute(params![meter, first, last, part.len(), part.encode()?])?;
    }
    Ok(())
}

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

/// Whether a flag says that the reading came late.
pub(crate) fn is_late(flags: u32) -> bool {
    flags & LATE != 0
}
