//! People say that they have seen alarms, and take that back.

use crate::ground::{
    error::{Result, StoreError},
    reach::Named,
    tx::Tx,
};
use rusqlite::{OptionalExtension, params};
use tally_core::{
    access::roles::Action,
    ground::{ids::AlarmId, time::SECOND},
};

/// Says that alarms have been seen; says of how many that was new.
///
/// # Errors
/// [`StoreError::NotFound`] for the first that there is not.
pub fn acknowledge(tx: &mut Tx, alarms: &[AlarmId]) -> Result<usize> {
    tx.require(Action::AcknowledgeAlarms)?;
    let mut seen = 0;
    for alarm in alarms {
        require(tx, *alarm)?;
        let was_new = tx.conn.execute(
            "UPDATE alarms SET acknowledged_at = ?2, acknowledged_by = ?3 WHERE id = ?1 AND acknowledged_at IS NULL",
            params![alarm, tx.now, tx.actor.id],
        )?;
        if was_new > 0 {
            tx.audit("acknowledged", "alarm", &alarm.to_string(), &())?;
        }
        seen += was_new;
    }
    Ok(seen)
}

/// How long who acknowledged an alarm can take that back.
const TAKEN_BACK_WITHIN: i64 = 10 * 60 * SECOND;

/// Takes back what this person acknowledged a short while ago, all or none.
///
/// # Errors
/// [`StoreError::NotFound`] for the first alarm that there is not, [`StoreError::Conflict`] for the first that this person
/// did not acknowledge just now.
pub fn take_back(tx: &mut Tx, alarms: &[AlarmId]) -> Result<()> {
    tx.require(Action::AcknowledgeAlarms)?;
    let since = tx.now.plus(-TAKEN_BACK_WITHIN).ms();
    for alarm in alarms {
        require(tx, *alarm)?;
        let taken = tx.conn.execute(
            "UPDATE alarms SET acknowledged_at = NULL, acknowledged_by = NULL
             WHERE id = ?1 AND acknowledged_by = ?2 AND acknowledged_at >= ?3",
            params![alarm, tx.actor.id, since],
        )?;
        if taken == 0 {
            return Err(StoreError::Conflict(format!(
                "alarm {alarm} was not acknowledged by you in the last ten minutes"
            )));
        }
        tx.audit("acknowledgement taken back", "alarm", &alarm.to_string(), &())?;
    }
    Ok(())
}

/// Whether an alarm exists, and is reached.
fn require(tx: &Tx, alarm: AlarmId) -> Result<()> {
    let conn = tx.conn;
    tx.require_reach(&Named::Alarm(alarm.0))?;
    let found: Option<i64> =
        conn.prepare_cached("SELECT 1 FROM alarms WHERE id = ?1")?.query_row([alarm], |row| row.get(0)).optional()?;
    found.map(|_| ()).ok_or_else(|| StoreError::not_found("alarm", alarm))
}
