//! Running-hours counters as facts.

use crate::{
    ground::error::Result,
    watch::readings::{exchanges, history},
};
use rusqlite::Connection;
use std::collections::HashSet;
use tally_core::{
    facts::{RunningCounter, Snapshot},
    ground::{
        ids::{AssetId, MeterId},
        time::{Instant, Span},
    },
    watch::readings::Columns,
};

/// Running-hours counters by meter id, as hours since their first reading, across rollovers and exchanges. Where nothing but
/// newer readings came, only those are read; one that is none any more goes.
pub(super) fn read(conn: &Connection, snapshot: &mut Snapshot, counters: &HashSet<i64>) -> Result<()> {
    let mut meter = conn.prepare_cached("SELECT * FROM meters WHERE id = ?1")?;
    for id in counters {
        let meter_id = MeterId(*id);
        let mut found = meter.query([id])?;
        let row = match found.next()? {
            Some(row) if row.get::<_, bool>("running_hours")? => row,
            _ => {
                snapshot.remove_running(meter_id);
                continue;
            }
        };
        let (asset, rules): (AssetId, _) = (row.get("asset_id")?, crate::watch::meters::rules(row)?);
        let Some(asset) = snapshot.tree.index(asset).and_then(|index| u32::try_from(index).ok()) else { continue };
        let until = row.get::<_, Option<Instant>>("retired_at")?.unwrap_or(Instant::LATEST);
        let revised = history::counts(conn, meter_id)?.revised;
        let known = snapshot.take_running(meter_id).filter(|known| known.revised == revised);
        let mut counter = known.unwrap_or(RunningCounter {
            meter: meter_id,
            readings: Vec::new(),
            last: None,
            revised,
            until: Instant::LATEST,
        });
        counter.until = until;
        let from = counter.last.map_or(Instant::EARLIEST, |last| last.at.plus(1));
        let newer = match Span::new(from, Instant::LATEST) {
            Ok(span) => history::columns(conn, meter_id, span)?,
            Err(_) => Columns::default(),
        };
        let exchanges = exchanges::of(conn, meter_id)?;
        for reading in newer.iter() {
            counter.push(&rules, reading, &exchanges);
        }
        snapshot.put_running(asset, counter);
    }
    Ok(())
}
