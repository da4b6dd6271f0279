//! Batches of readings: what comes in, and what became of it.

use crate::{
    ground::{
        ids::{AlarmId, WorkOrderId},
        time::Instant,
        value::IncomingValue,
    },
    watch::readings::Source,
};
use serde::{Deserialize, Serialize};

/// A reading as it comes in, or why its row could not be understood.
#[derive(Debug, Clone, PartialEq)]
pub struct Incoming {
    pub meter: String,
    pub at: Instant,
    pub value: IncomingValue,
}

/// A row of a batch: understood, or refused with its reason before it came here.
pub type Row = std::result::Result<Incoming, String>;

/// How a batch is taken.
#[derive(Debug, Clone, Copy)]
pub struct Batch<'a> {
    pub source: Source,
    /// Such as a file's name.
    pub name: Option<&'a str>,
    /// All or nothing.
    pub strict: bool,
}

/// A row that was not kept.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RefusedRow {
    /// Place of the row in the batch, from 0.
    pub index: usize,
    pub reason: String,
}

/// What became of a batch.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Receipt {
    /// Rows kept, late and quarantined ones among them.
    pub accepted: usize,
    /// Rows that were there already, with the same value.
    pub duplicates: usize,
    pub late: usize,
    pub quarantined: usize,
    pub refused: Vec<RefusedRow>,
    /// Refused rows beyond those that are listed.
    #[serde(default, skip_serializing_if = "is_none_more")]
    pub more_refused: usize,
    /// Alarms that began.
    pub alarms: Vec<AlarmId>,
    /// Work orders raised or joined.
    pub work_orders: Vec<WorkOrderId>,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "the shape that serde asks for")]
fn is_none_more(more: &usize) -> bool {
    *more == 0
}

/// Refused rows that are listed of a batch.
const MOST_LISTED: usize = 1_000;

impl Receipt {
    /// As it is told: refused rows are listed up to a bound, and counted beyond it.
    #[must_use]
    pub fn told(mut self) -> Self {
        self.more_refused = self.refused.len().saturating_sub(MOST_LISTED);
        self.refused.truncate(MOST_LISTED);
        self
    }
}
