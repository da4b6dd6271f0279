//! One history of a meter, wherever its readings are kept: recent ones as rows, older ones sealed into blocks.

use super::{
    blocks::Block,
    kept::{KeptReading, kept, of_block},
    lookup::Lookup,
};
use crate::ground::{error::Result, in_memory::Counts, tx::Tx};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    ground::{
        ids::MeterId,
        time::{Instant, Span},
    },
    watch::readings::{Columns, Reading},
};

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
pub(super) struct Added {
    pub(super) readings: i64,
    pub(super) rows: i64,
    /// Of the rows, those kept apart.
    pub(super) apart: i64,
    /// Something other than newer readings.
    pub(super) revised: bool,
}

pub(super) fn add_counts(conn: &Connection, meter: MeterId, added: Added) -> Result<()> {
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

pub(super) fn put_blocks(conn: &Connection, meter: MeterId, all: &Block) -> Result<()> {
    let mut insert = conn.prepare_cached(
        "INSERT INTO reading_blocks (meter_id, from_at, to_at, readings, columns) VALUES (?1, ?2, ?3, ?4, ?5)",
    )?;
    for part in all.cut() {
        let (first, last) = (part.at[0], part.at[part.len() - 1]);
        insert.execute(params![meter, first, last, part.len(), part.encode()?])?;
    }
    Ok(())
}
