//! What is due by the clock: work that is raised, cycles that are missed.

use super::courses::{Course, Which, courses};
use crate::{
    ground::{error::Result, sql::Rows, tx::Tx},
    plant::settings,
    work::raise::{Draft, insert},
};
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use rusqlite::params;
use std::collections::HashSet;
use tally_core::{
    ground::{
        ids::{AssetId, PlanId, WorkOrderId},
        period::midnight,
        time::Instant,
    },
    work::{
        CycleOf, WorkSource,
        plans::{Cycle, CycleOutcome, ToSettle},
    },
};

/// Plans on assets that have something to do by the clock.
///
/// # Errors
/// SQLite's own.
pub fn due(rows: &dyn Rows, now: Instant) -> Result<Vec<(PlanId, AssetId)>> {
    let zone = settings::time_zone(rows)?;
    let today = now.in_zone(&zone).date();
    let all = courses(rows.sql().conn, Which::Active, now, &zone)?;
    let is_due = |course: &&Course| course.recurrence.to_settle(&course.standing, today) != ToSettle::default();
    Ok(all.iter().filter(is_due).map(|course| (course.plan, course.asset)).collect())
}

/// What is due of these by now is raised or missed; the numbers of the new work. What they look like is asked again here, so that
/// nothing is done twice.
///
/// # Errors
/// SQLite's own.
pub fn settle(tx: &mut Tx, due: &[(PlanId, AssetId)]) -> Result<Vec<WorkOrderId>> {
    let zone = settings::time_zone(tx)?;
    let today = tx.now.in_zone(&zone).date();
    let mut plans: Vec<PlanId> = due.iter().map(|(plan, _)| *plan).collect();
    plans.dedup();
    let wanted: HashSet<&(PlanId, AssetId)> = due.iter().collect();
    let mut raised = Vec::new();
    let of_plans = courses(tx.conn, Which::These(&plans), tx.now, &zone)?;
    for course in of_plans.iter().filter(|course| wanted.contains(&(course.plan, course.asset))) {
        let ToSettle { missed, raise } = course.recurrence.to_settle(&course.standing, today);
        for cycle in &missed {
            write(tx, course, cycle, Outcome::Missed)?;
        }
        if !missed.is_empty() {
            let dates: Vec<String> = missed.iter().map(|cycle| cycle.due.to_string()).collect();
            let told = serde_json::json!({ "asset": course.asset_code, "due": dates });
            tx.audit("missed", "upkeep plan", &course.code, &told)?;
        }
        if let Some(cycle) = raise {
            raised.push(self::raise(tx, course, &cycle, &zone, None)?);
        }
    }
    Ok(raised)
}

pub(super) enum Outcome {
    Missed,
    Raised { work: WorkOrderId, brought_forward: bool },
}

/// Writes down what became of a cycle; of one that was moved, too.
pub(super) fn write(tx: &Tx, course: &Course, cycle: &Cycle, outcome: Outcome) -> Result<()> {
    let (outcome, work, brought_forward) = match outcome {
        Outcome::Missed => (CycleOutcome::Missed, None, false),
        Outcome::Raised { work, brought_forward } => (CycleOutcome::Raised, Some(work), brought_forward),
    };
    tx.conn
        .prepare_cached(
            "INSERT INTO upkeep_cycles (plan_id, asset_id, number, due, mark, grace_days, outcome, work_order, brought_forward,
                 recorded_at, recorded_by)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11)
             ON CONFLICT (plan_id, asset_id, number) DO UPDATE SET due = ?4, mark = ?5, grace_days = ?6, outcome = ?7,
                 work_order = ?8, brought_forward = ?9, recorded_at = ?10, recorded_by = ?11 WHERE outcome IS NULL",
        )?
        .execute(params![
            course.plan,
            course.asset,
            cycle.number,
            cycle.due.to_string(),
            cycle.mark,
            course.recurrence.grace_days(course.per_day()),
            outcome,
            work,
            brought_forward,
            tx.now,
            tx.actor.id,
        ])?;
    Ok(())
}

/// Raises the work of a cycle: to be done on its day, or today where it is brought forward, with the reason.
pub(super) fn raise(
    tx: &mut Tx,
    course: &Course,
    cycle: &Cycle,
    zone: &TimeZone,
    brought_forward: Option<&str>,
) -> Result<WorkOrderId> {
    let today = tx.now.in_zone(zone).date();
    let on = if brought_forward.is_some() { today } else { cycle.on };
    let end_of = |date: Date| midnight(date.saturating_add(1.day()), zone);
    let grace = i64::from(course.recurrence.grace_days(course.per_day()));
    let mut text = course.work.text.clone();
    if let Some(reason) = brought_forward.filter(|reason| !reason.is_empty()) {
        text = if text.is_empty() { reason.to_owned() } else { format!("{text}\n{reason}") };
    }
    let draft = Draft {
        title: course.work.title.clone(),
        text,
        kind: course.work.kind,
        asset: course.asset,
        risk_rank: course.work.risk_rank,
        target_start: Some(midnight(on, zone)),
        target_finish: Some(end_of(on)),
        crew: course.work.crew,
        assignee: None,
        estimated_hours: course.work.estimated_hours,
        state: course.work.first_state,
        raised_at: tx.now,
        source: WorkSource::Plan(CycleOf { plan: course.plan, number: cycle.number }),
        // What is raised well ahead of its day is not late before that.
        lasts_until: Some(end_of(on.saturating_add(grace.days()))),
        job_version: course.work.job_version,
    };
    let work = insert(tx, draft)?;
    write(tx, course, cycle, Outcome::Raised { work, brought_forward: brought_forward.is_some() })?;
    Ok(work)
}
