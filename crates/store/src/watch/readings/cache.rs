//! Histories that were looked at, kept in memory: a replay while somebody drags a limit reads nothing.

use super::history::{self, Counts};
use crate::ground::error::Result;
use rusqlite::Connection;
use std::{
    collections::HashMap,
    sync::{Arc, Mutex, PoisonError},
};
use tally_core::{
    ground::{
        ids::MeterId,
        time::{Instant, Span},
    },
    watch::readings::Columns,
};

/// Readings held at the most: 16 bytes each.
const MOST_READINGS: usize = 24_000_000;

#[derive(Debug)]
struct Held {
    counts: Counts,
    columns: Arc<Columns>,
    used: u64,
}

/// Whole histories by meter, true as of the connection that asks.
#[derive(Debug, Default)]
pub struct Histories {
    held: Mutex<(u64, HashMap<MeterId, Held>)>,
}

impl Histories {
    /// All readings of a meter that count. Newer ones are added to what is held; after anything else it is read anew.
    ///
    /// # Errors
    /// SQLite's own.
    pub fn of(&self, conn: &Connection, meter: MeterId) -> Result<Arc<Columns>> {
        let counts = history::counts(conn, meter)?;
        let known = {
            let mut held = self.held.lock().unwrap_or_else(PoisonError::into_inner);
            held.0 += 1;
            let tick = held.0;
            held.1.get_mut(&meter).map(|known| {
                known.used = tick;
                (known.counts, known.columns.clone())
            })
        };
        let columns = match known {
            Some((same, columns)) if same == counts => return Ok(columns),
            Some((before, columns)) if before.revised == counts.revised && before.readings < counts.readings => {
                let after = columns.at().last().map_or(Instant::EARLIEST, |at| Instant::from_ms(*at + 1));
                let mut grown = (*columns).clone();
                if let Ok(span) = Span::new(after, Instant::LATEST) {
                    for reading in history::columns(conn, meter, span)?.iter() {
                        grown.push(reading);
                    }
                }
                Arc::new(grown)
            }
            _ => Arc::new(history::columns(conn, meter, Span::ALWAYS)?),
        };
        self.keep(meter, counts, columns.clone());
        Ok(columns)
    }

    fn keep(&self, meter: MeterId, counts: Counts, columns: Arc<Columns>) {
        let mut held = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        let (tick, by_meter) = &mut *held;
        *tick += 1;
        by_meter.insert(meter, Held { counts, columns, used: *tick });
        let mut readings: usize = by_meter.values().map(|held| held.columns.len()).sum();
        while readings > MOST_READINGS && by_meter.len() > 1 {
            let Some(oldest) = by_meter.iter().min_by_key(|(_, held)| held.used).map(|(meter, _)| *meter) else {
                break;
            };
            readings -= by_meter.remove(&oldest).map_or(0, |held| held.columns.len());
        }
    }
}
