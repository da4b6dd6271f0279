//! A meter with its ladder while its alarms are handled, and a rung of it that answers.

use crate::{
    ground::{error::Result, tx::Tx},
    watch::meter_states::Gate,
};
use tally_core::{
    ground::{
        ids::{AlarmId, AssetId, LadderVersionId, MeterId, WorkOrderId},
        time::Instant,
    },
    watch::{
        limits::{Ladder, Machine},
        meters::Meter,
    },
};

/// What is needed of a meter while its alarms are handled.
pub(super) struct Subject {
    pub id: MeterId,
    pub name: String,
    pub asset: AssetId,
    pub rules: Meter,
    /// The row of its newest version.
    pub version: LadderVersionId,
    pub starts_at: Instant,
    pub ladder: Ladder,
    pub machine: Machine,
    pub gate: Option<Gate>,
}

impl Subject {
    /// The meter with its newest ladder, where it has one.
    pub(super) fn of(tx: &mut Tx, code: &str) -> Result<Option<Self>> {
        let meter = tx.meter(code)?;
        let Some(running) = &meter.ladder else { return Ok(None) };
        Ok(Some(Self {
            id: meter.id,
            name: meter.name.clone(),
            asset: meter.asset,
            rules: meter.rules.clone(),
            version: running.version,
            starts_at: running.starts_at,
            ladder: running.ladder.clone(),
            machine: running.machine.clone(),
            gate: meter.gate,
        }))
    }
}

/// A rung that answers, with the reading it speaks of.
#[derive(Debug, Clone, Copy)]
pub(super) struct Entered {
    /// Place in the ladder.
    pub rung: usize,
    /// When it answers: the reading's instant, or when it was due again.
    pub at: Instant,
    pub value: f64,
    /// For a rung on a rate or a change: what it looked at.
    pub looked_at: Option<f64>,
    /// The alarm that answers again; none for one that begins.
    pub alarm: Option<AlarmId>,
    /// The finished work that it answers after, because the first reading since is still beyond.
    pub after: Option<WorkOrderId>,
}
