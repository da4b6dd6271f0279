//! Cycles that are moved to another day, one or many at once, and back.

use super::{
    courses::{Course, Which, courses},
    forward::{require_active, require_reached},
};
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{assets, settings},
};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use rusqlite::params;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use tally_core::{
    access::roles::Action,
    ground::ids::PlanId,
    work::plans::{CountsFrom, Cycle},
};
use utoipa::ToSchema;

/// A cycle and the day it shall be done on.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct MoveRow {
    /// Code of the plan.
    pub plan: String,
    /// Code of the asset.
    pub asset: String,
    /// Of the cycle.
    pub number: i64,
    /// As `2026-03-02`; on the day it is due without it.
    pub to: Option<String>,
}

/// Cycles to move, all or none.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct CycleMove {
    pub moves: Vec<MoveRow>,
}

/// What was moved.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CyclesMoved {
    /// The moves that put everything back.
    pub back: Vec<MoveRow>,
}

/// Cycles moved at once at the most.
const MOST_MOVES: usize = 2_000;

/// Moves cycles that lie ahead, all or none.
///
/// # Errors
/// [`StoreError::Invalid`] by field for a plan, an asset or a cycle there is not, or a day that is over or beyond the cycle before or
/// after.
pub fn move_cycles(tx: &mut Tx, asked: &CycleMove) -> Result<CyclesMoved> {
    tx.require(Action::PlanWork)?;
    if asked.moves.len() > MOST_MOVES {
        return Err(StoreError::invalid("moves", format!("at most {MOST_MOVES} at once")));
    }
    let zone = settings::time_zone(tx)?;
    let mut plans: HashMap<&str, (PlanId, Vec<Course>)> = HashMap::new();
    let mut back = Vec::with_capacity(asked.moves.len());
    let mut told: HashMap<&str, Vec<&MoveRow>> = HashMap::new();
    for (place, row) in asked.moves.iter().enumerate() {
        let field = |name: &str| format!("moves[{place}].{name}");
        if !plans.contains_key(row.plan.as_str()) {
            require_reached(tx.conn, &tx.actor.bounds, &row.plan)
                .map_err(|beyond| StoreError::invalid(field("plan"), beyond))?;
            let plan = require_active(tx.conn, &row.plan, &field("plan"))?;
            plans.insert(&row.plan, (plan, courses(tx.conn, Which::These(&[plan]), tx.now, &zone)?));
        }
        let asset = assets::require_reached_in(tx, &row.asset, &field("asset"))?;
        let course = plans.get_mut(row.plan.as_str()).and_then(|(_, of)| of.iter_mut().find(|c| c.asset == asset));
        let course = course.ok_or_else(|| StoreError::invalid(field("asset"), "the plan is not for it"))?;
        back.push(one(tx, course, row, &zone, &field)?);
        told.entry(&row.plan).or_default().push(row);
    }
    for (plan, moves) in told {
        tx.audit("moved", "upkeep plan", plan, &moves)?;
    }
    // What is moved back last was moved first.
    back.reverse();
    Ok(CyclesMoved { back })
}

fn one(
    tx: &Tx,
    course: &mut Course,
    row: &MoveRow,
    zone: &TimeZone,
    field: &dyn Fn(&str) -> String,
) -> Result<MoveRow> {
    let today = tx.now.in_zone(zone).date();
    let to = match &row.to {
        Some(text) => Some(
            text.parse::<Date>().map_err(|error| StoreError::invalid(field("to"), format!("is no date: {error}")))?,
        ),
        None => None,
    };
    let (cycle, before, after) = around(course, row.number, today)
        .ok_or_else(|| StoreError::invalid(field("number"), "is no cycle ahead that can be moved"))?;
    let on = to.unwrap_or(cycle.due);
    if to.is_some() && on < today {
        return Err(StoreError::invalid(field("to"), "is over"));
    }
    if before.is_some_and(|before| on <= before) || after.is_some_and(|after| on >= after) {
        return Err(StoreError::invalid(field("to"), "lies beyond the cycle before or after"));
    }
    let was = course.standing.moved.get(&row.number).map(Date::to_string);
    let moved_to = to.filter(|to| *to != cycle.due);
    tx.conn
        .prepare_cached(
            "INSERT INTO upkeep_cycles (plan_id, asset_id, number, due, moved_to, mark, grace_days, recorded_at, recorded_by)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)
             ON CONFLICT (plan_id, asset_id, number) DO UPDATE SET due = ?4, moved_to = ?5, recorded_at = ?8, recorded_by = ?9
                 WHERE outcome IS NULL",
        )?
        .execute(params![
            course.plan,
            course.asset,
            row.number,
            cycle.due.to_string(),
            moved_to.map(|to| to.to_string()),
            cycle.mark,
            course.recurrence.grace_days(course.per_day()),
            tx.now,
            tx.actor.id,
        ])?;
    match moved_to {
        Some(to) => course.standing.moved.insert(row.number, to),
        None => course.standing.moved.remove(&row.number),
    };
    Ok(MoveRow { to: was, ..row.clone() })
}

/// A cycle ahead with the days of those before and after it.
fn around(course: &Course, number: i64, today: Date) -> Option<(Cycle, Option<Date>, Option<Date>)> {
    let recurrence = &course.recurrence;
    if recurrence.counts_from == CountsFrom::LastDone {
        let next = recurrence.next_cycle(&course.standing, today);
        return (next.number == number && course.standing.open.is_none()).then_some((next, None, None));
    }
    let until = today.saturating_add(3.years());
    let ahead = recurrence.ahead(&course.standing, today, until);
    let place = ahead.iter().position(|cycle| cycle.number == number)?;
    let before = place.checked_sub(1).map(|before| ahead[before].on);
    let before = before.or(course.standing.settled.map(|settled| settled.due));
    Some((ahead[place], before, ahead.get(place + 1).map(|after| after.on)))
}
