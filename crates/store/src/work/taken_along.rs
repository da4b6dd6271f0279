//! What whoever does the work takes along to where there is no network: their jobs of the coming days with all they need.

use crate::{
    codes::codebooks::{self, CodebookView},
    ground::{error::Result, view::View},
    plant::settings,
    work::{
        WorkDetail,
        checks::{self, CheckView},
        detail,
        shift::{Shift, Whose, shift},
    },
};
use jiff::civil::Date;
use serde::Serialize;
use std::collections::BTreeSet;
use tally_core::work::shift::is_taken_along;
use utoipa::ToSchema;

/// Orders at the most: what nobody does before there is a network again.
const MOST: usize = 60;

/// What is taken along.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TakenAlong {
    /// The whole line of time.
    pub shift: Shift,
    /// Orders on it that are late, under way, of today or of the coming days, in its order.
    pub orders: Vec<WorkDetail>,
    /// Check sheets of theirs that are not finished.
    pub checks: Vec<CheckView>,
    /// Codebooks of their assets.
    pub codebooks: Vec<CodebookView>,
}

/// What whoever looks takes along.
///
/// # Errors
/// SQLite's own.
pub fn taken_along(view: &View) -> Result<TakenAlong> {
    let shift = shift(view, Whose::Own)?;
    let today = view.now.in_zone(&settings::time_zone(view)?).date();
    let day_of = |day: &Option<String>| day.as_deref().and_then(|day| day.parse::<Date>().ok());
    let taken = shift.parts.iter().filter(|part| is_taken_along(part.at, day_of(&part.day), today));
    let numbers = taken.flat_map(|part| &part.orders).map(|order| order.number).take(MOST);
    let orders = numbers.map(|number| detail(view, number)).collect::<Result<Vec<_>>>()?;
    let mut found = Vec::new();
    for order in &orders {
        for check in order.checks.iter().filter(|check| check.finished_at.is_none()) {
            found.push(checks::view(view, order.row.number, check.id)?);
        }
    }
    let books: BTreeSet<&str> = orders.iter().filter_map(|order| order.codebook.as_deref()).collect();
    let codebooks = books.into_iter().map(|book| codebooks::view(view, book)).collect::<Result<_>>()?;
    Ok(TakenAlong { shift, orders, checks: found, codebooks })
}
