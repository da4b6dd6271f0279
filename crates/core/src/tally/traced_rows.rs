//! The rows behind a figure.

use crate::ground::{
    ids::{AssetId, WorkOrderId},
    time::Instant,
};
use serde::Serialize;

/// What kind of row stands behind a figure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RowKind {
    Entry,
    Downtime,
    Failure,
    WorkOrder,
    Alarm,
    Cycle,
}

/// What the amounts of rows are counted in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RowUnit {
    Money,
    /// Milliseconds.
    Ms,
    Count,
}

/// One row behind a figure, with what it adds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TraceRow {
    pub kind: RowKind,
    pub id: i64,
    pub asset: AssetId,
    pub work_order: Option<WorkOrderId>,
    pub at: Instant,
    /// What it adds to the part's total.
    pub amount: i64,
    /// What it would add if nothing overlapped and nothing were cut, where that is another figure.
    pub whole: Option<i64>,
    pub settled: Option<bool>,
}

/// A group of rows that add up to one total exactly.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Part {
    pub name: String,
    pub unit: RowUnit,
    pub total: i64,
    pub rows: Vec<TraceRow>,
}

impl Part {
    /// A part whose total is the sum of its rows.
    #[must_use]
    pub fn of(name: &str, unit: RowUnit, rows: Vec<TraceRow>) -> Self {
        Self { name: name.into(), unit, total: rows.iter().map(|row| row.amount).sum(), rows }
    }
}
