//! One rung of a ladder, tried at many setpoints.

use super::{
    load::{JudgedBy, load},
    one::{given, ladder_of},
    worth,
};
use crate::ground::{
    error::{Result, StoreError},
    view::View,
};
use serde::{Deserialize, Serialize};
use tally_core::{
    ground::time::Span,
    watch::limits::{
        Ladder,
        finder::{Best, FinderPoint, Setting, Worth, best, best_of_each, deadbands, find, grid},
        verdict::Judged,
    },
};
use utoipa::ToSchema;

/// What a finder leaves out.
pub(super) const ALONE: &str = "Each setting is tried with its rung alone, its delays and response as they are; no other rung joins or \
                     holds its work.";

/// What one setting would have come to.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Tried {
    #[serde(flatten)]
    pub point: FinderPoint,
    /// In words.
    pub says: String,
}

/// What each setpoint of one rung would have come to.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FinderView {
    pub span: Span,
    pub points: Vec<Tried>,
    /// The point that is worth most; none where nothing is caught.
    pub best: Option<Best>,
    /// The same of each deadband that was tried.
    pub of_each_deadband: Vec<Best>,
    /// What such work and such failures came to here, where both are known: what the best is weighed by.
    pub worth: Option<Worth>,
    pub failures: usize,
    pub horizon_days: u32,
    /// In words, what was taken as given.
    pub assumptions: Vec<String>,
}

impl FinderView {
    /// Of what each setting came to, with the best of them. `unit` is a UCUM code.
    pub(super) fn of(
        span: Span,
        unit: &str,
        points: &[FinderPoint],
        worth: Option<Worth>,
        failures: usize,
        horizon_days: u32,
        mut assumptions: Vec<String>,
    ) -> Self {
        assumptions.push(ALONE.into());
        assumptions.push(worth::words(worth).into());
        let tried = points.iter().map(|point| {
            let FinderPoint { caught, too_late, missed, nuisance, work, median_warning_ms, .. } = *point;
            let judged = Judged { caught, too_late, missed, nuisance, work, median_warning_ms };
            Tried { point: *point, says: judged.of_setpoint(point.setpoint, unit) }
        });
        let (best, of_each_deadband) = (best(points, worth), best_of_each(points, worth));
        Self { span, points: tried.collect(), best, of_each_deadband, worth, failures, horizon_days, assumptions }
    }
}

/// Which rung a finder moves.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct FinderAsked {
    /// Place in the ladder's list.
    pub rung: usize,
    /// Setpoints tried; 50 without it.
    pub steps: Option<usize>,
    /// Tries other deadbands with each setpoint as well, by the range of the readings; the rung's own alone without it.
    #[serde(default)]
    pub compare_deadbands: bool,
}

/// The settings that a finder tries: every setpoint with every deadband.
pub(super) fn settings(values: &[f64], which: &FinderAsked) -> Vec<Setting> {
    let setpoints = grid(values, which.steps.unwrap_or(50).clamp(2, 200));
    let deadbands: Vec<Option<f64>> = match which.compare_deadbands {
        true => deadbands(&setpoints).into_iter().map(Some).collect(),
        false => vec![None],
    };
    let with = |deadband: &Option<f64>| {
        let deadband = *deadband;
        setpoints.iter().map(move |&setpoint| Setting { setpoint, deadband })
    };
    deadbands.iter().flat_map(with).collect()
}

pub(super) fn require_setpoint(ladder: &Ladder, rung: usize) -> Result<()> {
    match ladder.rungs.get(rung) {
        Some(rung) if rung.setpoint.is_some() => Ok(()),
        _ => Err(StoreError::invalid("rung", "the ladder has no such rung with a setpoint")),
    }
}

/// Tries one rung at many setpoints.
///
/// # Errors
/// As [`of_meter`]; [`StoreError::Invalid`] for a rung without a setpoint.
pub fn finder(
    view: &View,
    code: &str,
    span: Span,
    ladder: Option<Ladder>,
    which: &FinderAsked,
    asked: &JudgedBy,
) -> Result<FinderView> {
    let loaded = load(view, code, span, asked)?;
    let ladder = ladder_of(view.conn, code, ladder, &loaded.rules)?;
    require_setpoint(&ladder, which.rung)?;
    let until = view.now.min(span.end());
    let seen = loaded.looked_at(view, &ladder, span)?;
    let tried = settings(&seen.readings.values()[seen.part.clone()], which);
    let points = find(&ladder, which.rung, &tried, &seen.history(&loaded, until), &loaded.assumptions);
    let assumptions = given(&loaded.assumptions, asked, loaded.usual.words());
    let (worth, failures) = (worth::of(view, &loaded)?, loaded.past.failures.len());
    Ok(FinderView::of(span, &loaded.rules.unit, &points, worth, failures, loaded.horizon_days, assumptions))
}
