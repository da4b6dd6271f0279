//! Readings: taking batches in ([`ingest`]), correcting them ([`corrections`]), exchanging devices ([`exchanges`]), and
//! reading them back: one history ([`history`]) of rows and sealed blocks ([`blocks`]), in memory ([`cache`]) or drawn
//! ([`drawing`]).

mod blocks;
mod cache;
mod corrections;
mod drawing;
pub(crate) mod exchanges;
pub(crate) mod history;
mod ingest;

pub use cache::Histories;
pub use corrections::{ReadingRow, Release, VoidedRow, Voiding, newest, release, void, voided};
pub use drawing::{Series, each, raw, series};
pub use exchanges::{ExchangeRow, NewExchange, exchange, list as exchange_list, usage};
pub use history::{fill_blocks, seal, to_seal};
pub use ingest::{ingest, ingest_watched};

use serde::{Deserialize, Serialize};
use tally_core::{
    ids::{AlarmId, WorkOrderId},
    readings::Source,
    time::Instant,
};
use utoipa::ToSchema;

/// A value as it comes in: a number, or the name of a grade.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub enum IncomingValue {
    Number(f64),
    Name(String),
}

/// A reading as it comes in, or why its row could not be understood.
#[derive(Debug, Clone, PartialEq)]
pub struct Incoming {
    pub meter: String,
    pub at: Instant,
    pub value: IncomingValue,
}

/// A row that was not kept.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RefusedRow {
    /// Place of the row in the batch, from 0.
    pub index: usize,
    pub reason: String,
}

/// What became of a batch.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
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

/// How a batch is taken.
#[derive(Debug, Clone, Copy)]
pub struct Batch<'a> {
    pub source: Source,
    /// Such as a file's name.
    pub name: Option<&'a str>,
    /// All or nothing.
    pub strict: bool,
}

pub(crate) const LATE: u32 = 1;
pub(crate) const QUARANTINED: u32 = 2;

/// A row of a batch: understood, or refused with its reason before it came here.
pub type Row = std::result::Result<Incoming, String>;
