//! What an order still needs before it can be closed.

use super::{checks, job_sheets};
use crate::ground::error::Result;
use rusqlite::{Connection, OptionalExtension};
use serde::Serialize;
use tally_core::{
    ground::ids::WorkOrderId,
    work::{NotClosable, ToClose},
};
use utoipa::ToSchema;

/// Something that is missing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct MissingRow {
    /// Where it is given: `failure.problem`, `downtime`, `checks` or `visits`.
    pub field: String,
    pub text: String,
}

impl From<NotClosable> for MissingRow {
    fn from(missing: NotClosable) -> Self {
        Self { field: missing.field().into(), text: missing.to_string() }
    }
}

/// What an order has, and what of it is open.
pub(super) fn to_close(conn: &Connection, work: WorkOrderId) -> Result<ToClose> {
    let has_problem = conn
        .prepare_cached("SELECT 1 FROM failure_reports WHERE work_order = ?1 AND problem_id IS NOT NULL")?
        .exists([work])?;
    let downtime = conn
        .prepare_cached("SELECT id FROM downtimes WHERE work_order = ?1 AND end_at IS NULL LIMIT 1")?
        .query_row([work], |row| row.get(0))
        .optional()?;
    let check = checks::not_answered(conn, work)?;
    Ok(ToClose { has_problem, downtime, check, visit: job_sheets::open_visit(conn, work)? })
}
