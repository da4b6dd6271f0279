//! Single readings of one meter, wherever they are kept.

use super::{
    blocks::Block,
    kept::{KeptReading, kept, of_block},
};
use crate::ground::error::Result;
use rusqlite::{Connection, OptionalExtension, params};
use std::rc::Rc;
use tally_core::{
    ground::{ids::MeterId, time::Instant},
    watch::readings::Reading,
};

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

    pub(super) fn decoded(&mut self, id: i64, whole: bool) -> Result<Rc<Block>> {
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
