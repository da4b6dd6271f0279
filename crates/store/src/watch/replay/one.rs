//! The replay of one meter.

use crate::{
    ground::{
        error::{Result, StoreError},
        view::View,
    },
    watch::{
        limits, meters,
        replay::{JudgedBy, ProblemCount, UsualWork, load::load},
    },
};
use rusqlite::Connection;
use serde::Serialize;
use tally_core::{
    ground::{
        ids::WorkOrderId,
        severity::Severity,
        time::{DAY, Span},
    },
    watch::{
        limits::{
            Ladder,
            replay::{Assumptions, Spell, WouldBeWork, replay},
            stretches::{Stretch, stretches},
            verdict::{Judged, fate},
            warnings::{JudgedFailure, JudgedWarning},
        },
        meters::Meter,
    },
};
use utoipa::ToSchema;

/// A coded failure with the warning it would have had.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FailureView {
    #[serde(flatten)]
    pub judged: JudgedFailure,
    pub work_order: WorkOrderId,
    pub title: String,
    pub problem: Option<String>,
    /// What became of it, in words: `12 days before`.
    pub fate: String,
}

/// What a ladder would have done in a span.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ReplayView {
    /// In one sentence.
    pub verdict: String,
    pub span: Span,
    pub readings: usize,
    /// Entered and left by rung of the ladder, in the part that is drawn; many near together as one.
    pub alarms: Vec<Stretch>,
    /// By rung: how often it would have been entered.
    pub entered: Vec<usize>,
    pub in_severity_ms: [i64; 4],
    /// Orders that would have been raised: how many, and the first of them.
    pub work_count: usize,
    pub work: Vec<WouldBeWork>,
    pub joined: usize,
    pub held: usize,
    /// Entries that were chattering.
    pub chattering: usize,
    /// Stretches at or above the least severity of one side: how many, and the first of them.
    pub spell_count: usize,
    pub spells: Vec<Spell>,
    /// Spells that people would take for one: how many, and the first of them.
    pub warning_count: usize,
    pub warnings: Vec<JudgedWarning>,
    pub failures: Vec<FailureView>,
    /// Failures that were warned of in time, too late to act, and not at all.
    pub caught: usize,
    pub too_late: usize,
    pub missed: usize,
    /// How often warnings were for nothing.
    pub nuisance: usize,
    /// Warnings whose real alarm found something.
    pub averted: usize,
    pub median_warning_ms: Option<i64>,
    pub usual_work: UsualWork,
    /// Hours and minor units that the work would come to.
    pub work_hours: f64,
    pub work_cost: f64,
    pub horizon_days: u32,
    pub calm_days: f64,
    pub lead_days: f64,
    pub least: Severity,
    /// What the failures of the span were coded with, chosen or not, the most frequent first.
    pub problems: Vec<ProblemCount>,
    /// In words, what was taken as given.
    pub assumptions: Vec<String>,
}

/// Spells and work listed at the most.
const MOST: usize = 500;

/// The ladder given, or the meter's newest.
pub(super) fn ladder_of(conn: &Connection, code: &str, given: Option<Ladder>, rules: &Meter) -> Result<Ladder> {
    let ladder = match given {
        Some(ladder) => ladder,
        None => limits::newest(conn, meters::require(conn, code)?)?,
    };
    ladder.check(rules).map_err(|error| StoreError::invalid(format!("ladder.{}", error.field()), error))?;
    Ok(ladder)
}

/// So many days in words.
pub(super) fn days(ms: i64) -> String {
    let days = ms as f64 / DAY as f64;
    format!("{} day{}", tally_core::ground::units::number(days), if days == 1.0 { "" } else { "s" })
}

/// In words, what a verdict takes as given.
pub(super) fn given(assumptions: &Assumptions, asked: &JudgedBy, lasts: String) -> Vec<String> {
    let (horizon, calm, lead) = (days(assumptions.horizon_ms), days(assumptions.calm_ms), days(assumptions.lead_ms));
    vec![
        format!(
            "Spells of one side at {} or above make one warning while the next begins within {calm} after the last was left, or \
             while the work that the warning raised is open; a failure ends it.",
            assumptions.least
        ),
        format!(
            "A failure is caught when a warning reaches into the {horizon} before it, counted from the start of the earliest \
             such warning since the failure before; one of less than {lead} is too late."
        ),
        format!(
            "A warning is nuisance when no failure comes up to {horizon} after its end, unless its work found something; one \
             that stands on counts once for each {horizon} without a failure, and one cut by the end of the period is neither."
        ),
        match &asked.problems {
            None => "Failures are the coded ones, critical or degraded, of the meter's asset and all below it.".into(),
            Some(problems) => format!(
                "Failures are those coded as {}, critical or degraded, of the meter's asset and all below it.",
                problems.join(" or ")
            ),
        },
        lasts,
    ]
}

/// Runs a ladder over a meter's readings of the span, and judges it by the failures that came. Its alarms are listed for
/// the part that is `drawn`, all of the span without it.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter, [`StoreError::Invalid`] for a ladder that can't be.
pub fn of_meter(
    view: &View,
    code: &str,
    span: Span,
    ladder: Option<Ladder>,
    asked: &JudgedBy,
    drawn: Option<Span>,
) -> Result<ReplayView> {
    let loaded = load(view, code, span, asked)?;
    let ladder = ladder_of(view.conn, code, ladder, &loaded.rules)?;
    let until = view.now.min(span.end());
    let seen = loaded.looked_at(view, &ladder, span)?;
    let run = replay(&ladder, &seen.history(&loaded, until), &loaded.assumptions);
    let mut entered = vec![0; ladder.rungs.len()];
    run.alarms.iter().for_each(|alarm| entered[alarm.rung] += 1);
    let (caught, too_late, missed) = (run.caught(), run.too_late(), run.missed());
    let median_warning_ms = run.median_warning_ms();
    let failures = run.failures.iter().zip(loaded.rows).map(|(judged, of)| FailureView {
        judged: *judged,
        work_order: of.work,
        title: of.title,
        problem: of.problem,
        fate: fate(judged.verdict, judged.warning_ms),
    });
    let verdict = Judged { caught, too_late, missed, nuisance: run.nuisance, work: run.work.len(), median_warning_ms };
    let orders = run.work.len() as f64;
    Ok(ReplayView {
        verdict: verdict.verdict(),
        span,
        readings: run.readings,
        alarms: stretches(&run.alarms, drawn.unwrap_or(span)),
        entered,
        in_severity_ms: run.in_severity_ms,
        joined: run.joined,
        held: run.held,
        chattering: run.chattering,
        spell_count: run.spells.len(),
        spells: run.spells.into_iter().take(MOST).collect(),
        warning_count: run.warnings.len(),
        warnings: run.warnings.into_iter().take(MOST).collect(),
        failures: failures.collect(),
        caught,
        too_late,
        missed,
        nuisance: run.nuisance,
        averted: run.averted,
        median_warning_ms,
        work_hours: orders * loaded.usual.hours,
        work_cost: orders * loaded.usual.cost,
        work_count: run.work.len(),
        work: run.work.into_iter().take(MOST).collect(),
        assumptions: given(&loaded.assumptions, asked, loaded.usual.words()),
        usual_work: loaded.usual,
        horizon_days: loaded.horizon_days,
        calm_days: loaded.assumptions.calm_ms as f64 / DAY as f64,
        lead_days: loaded.assumptions.lead_ms as f64 / DAY as f64,
        least: loaded.assumptions.least,
        problems: loaded.problems,
    })
}
