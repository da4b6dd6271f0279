//! What stands now across a scope.

use super::{
    late::{self, LateRow},
    list::{AlarmRow, SELECT, collect},
    out_of_use::{self, OutOfUseRow},
    repairs::{REPAIRS, RepairRow, repairs},
    shelves::{self, ShelfRow},
};
use crate::{
    ground::{error::Result, rows::list_of, view::View},
    work::decisions::{self, RiskDecision},
};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use tally_core::ground::{ids::AssetId, time::DAY};
use utoipa::ToSchema;

/// Standing longer than this is stale. IEC 62682 (from memory).
pub(super) const STALE_MS: i64 = DAY;

/// Which of the standing alarms to show.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Show {
    #[default]
    Standing,
    Unacknowledged,
    Held,
    Stale,
    Silent,
    /// A repair did not hold: the first reading after it was still beyond.
    NotHeld,
}

impl Show {
    /// The condition on `al`, with the instant as `?3`.
    fn condition(self) -> &'static str {
        match self {
            Self::Standing => "TRUE",
            Self::Unacknowledged => "al.acknowledged_at IS NULL",
            Self::Held => "al.response = 'held'",
            // Work that is open is the response an alarm asks for.
            Self::Stale => {
                "al.entered_at < ?3 AND al.kind = 'limit' AND NOT (al.waits_work IS NOT NULL AND al.finished_at IS NULL)"
            }
            Self::Silent => "al.kind = 'silent'",
            Self::NotHeld => {
                "(SELECT n.after_work FROM alarm_answers n WHERE n.alarm_id = al.id ORDER BY n.id DESC LIMIT 1) IS NOT NULL"
            }
        }
    }
}

/// How many there are of each.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct ShowCounts {
    pub standing: usize,
    pub unacknowledged: usize,
    pub held: usize,
    pub stale: usize,
    pub silent: usize,
    /// Repairs that did not hold.
    pub not_held: usize,
    /// Repairs not yet confirmed by a reading.
    pub unconfirmed: usize,
    pub shelved: usize,
    /// What runs on by decision.
    pub run_on: usize,
    pub late: usize,
}

/// What stands now across a scope.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AlarmsNow {
    pub counts: ShowCounts,
    /// Those asked for, the worst first, among them the newest.
    pub alarms: Vec<AlarmRow>,
    /// Repairs not yet confirmed: work is finished, the rung stands, and nothing was read since. The longest ago first.
    pub unconfirmed: Vec<RepairRow>,
    /// Meters whose alarms are held back by a person.
    pub shelves: Vec<ShelfRow>,
    /// Assets out of use.
    pub out_of_use: Vec<OutOfUseRow>,
    /// What runs on by decision though a rung stands: its limits are quiet.
    pub run_on: Vec<RiskDecision>,
    /// Late readings beyond a rung that nobody has judged.
    pub late: Vec<LateRow>,
}

/// What stands now across a scope, at most `limit` of each.
///
/// # Errors
/// SQLite's own.
pub fn now(view: &View, scope: Option<&[AssetId]>, show: Show, limit: usize) -> Result<AlarmsNow> {
    let conn = view.conn;
    let now = view.now;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let stale = now.plus(-STALE_MS).ms();
    let sums = [Show::Unacknowledged, Show::Held, Show::Stale, Show::Silent, Show::NotHeld]
        .map(|show| format!("ifnull(sum({}), 0)", show.condition()))
        .join(", ");
    let mut count = conn.prepare_cached(&format!(
        "SELECT count(*), {sums} FROM alarms al JOIN meters m ON m.id = al.meter_id
         WHERE al.left_at IS NULL AND (?1 OR m.asset_id IN rarray(?2))"
    ))?;
    let shelves = shelves::list(conn, scope, now)?;
    let late = late::late(conn, scope, limit)?;
    let mut counts = count.query_row(params![scope.is_none(), ids, stale], |row| {
        Ok(ShowCounts {
            standing: row.get(0)?,
            unacknowledged: row.get(1)?,
            held: row.get(2)?,
            stale: row.get(3)?,
            silent: row.get(4)?,
            not_held: row.get(5)?,
            ..ShowCounts::default()
        })
    })?;
    let mut select = conn.prepare_cached(&format!(
        "{REPAIRS} AND (?1 OR m.asset_id IN rarray(?2)) GROUP BY m.id ORDER BY finished_at, m.code LIMIT ?3"
    ))?;
    let unconfirmed = repairs(conn, select.query(params![scope.is_none(), ids, limit])?)?;
    let out_of_use = out_of_use::out_of_use(view, scope)?;
    let run_on = decisions::running(view, scope)?;
    counts.run_on = run_on.len();
    (counts.shelved, counts.late, counts.unconfirmed) = (shelves.len(), late.len(), unconfirmed.len());
    let mut select = conn.prepare_cached(&format!(
        "{SELECT} WHERE al.left_at IS NULL AND (?1 OR m.asset_id IN rarray(?2)) AND ?3 IS NOT NULL AND {}
         ORDER BY al.severity DESC, al.entered_at DESC LIMIT ?4",
        show.condition()
    ))?;
    let alarms = collect(select.query(params![scope.is_none(), ids, stale, limit])?)?;
    Ok(AlarmsNow { counts, alarms, unconfirmed, shelves, out_of_use, run_on, late })
}
