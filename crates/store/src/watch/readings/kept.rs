//! A reading as it is kept, in a row or in a block.

use super::blocks::Block;
use rusqlite::Row;
use tally_core::{ground::time::Instant, watch::readings::Reading};

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
    pub(super) fn counts(&self) -> bool {
        self.flags & QUARANTINED == 0
    }

    pub(super) fn is_late(&self) -> bool {
        self.flags & LATE != 0
    }

    pub(super) fn reading(&self) -> Reading {
        Reading { at: self.at, value: self.value }
    }
}

pub(super) fn kept(row: &Row) -> rusqlite::Result<KeptReading> {
    Ok(KeptReading { at: row.get(0)?, value: row.get(1)?, flags: row.get(2)? })
}

pub(super) fn of_block(block: &Block, place: usize) -> KeptReading {
    KeptReading { at: Instant::from_ms(block.at[place]), value: block.value[place], flags: block.flags[place] }
}
