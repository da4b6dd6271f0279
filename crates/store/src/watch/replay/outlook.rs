//! What a meter's readings say by themselves: setpoints that a baseline speaks for, and where it is heading.

use super::{
    load::{JudgedBy, load},
    many::Member,
    one::ladder_of,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        view::View,
    },
    plant::assets::NamedAsset,
    watch::{meters, readings, readings::exchanges},
};
use serde::{Deserialize, Serialize};
use tally_core::{
    ground::time::{DAY, Instant, Span},
    watch::{
        limits::{
            Ladder, forecast,
            forecast::{Line, Reached},
            proposals::{Choices, MachineGroup, Proposal, Warning, propose, warnings},
        },
        meters::{Meter, MeterKind},
        readings::{Reading, through},
    },
};
use utoipa::ToSchema;

/// Setpoints that a baseline window of one meter speaks for.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ProposalsView {
    pub span: Span,
    pub n: usize,
    pub proposals: Vec<Proposal>,
    pub warnings: Vec<Warning>,
}

/// What an engineer chooses besides the window.
#[derive(Debug, Clone, Default, Deserialize, ToSchema)]
pub struct ProposalsAsked {
    /// Standard deviations from the middle; 3 without it.
    pub k: Option<f64>,
    /// Share of readings on the good side of a percentile; 0.995 without it.
    pub share: Option<f64>,
    /// For broad-band vibration velocity in mm/s.
    pub machine: Option<MachineGroup>,
}

/// Setpoints and their choices, as the engineer made them.
fn choices(asked: &ProposalsAsked, rules: &Meter) -> Result<Choices> {
    if !matches!(rules.kind, MeterKind::Measurement(_)) {
        return Err(StoreError::invalid("meter", "proposals are made for measurements"));
    }
    if asked.machine.is_some() && rules.unit != "mm/s" {
        return Err(StoreError::invalid("machine", "the zones are of vibration velocity in mm/s"));
    }
    let usual = Choices::default();
    Ok(Choices {
        k: asked.k.filter(|k| k.is_finite() && *k > 0.0).unwrap_or(usual.k),
        share: asked.share.filter(|share| (0.5..1.0).contains(share)).unwrap_or(usual.share),
        machine: asked.machine,
        ..usual
    })
}

/// Proposals from a baseline window, with what speaks against trusting it.
///
/// # Errors
/// [`StoreError::NotFound`]; [`StoreError::Invalid`] for a grade, a counter, or a machine where the unit is not mm/s.
pub fn proposals(view: &View, code: &str, span: Span, asked: &ProposalsAsked) -> Result<ProposalsView> {
    let loaded = load(view, code, span, &JudgedBy::default())?;
    let choices = choices(asked, &loaded.rules)?;
    let baseline = &loaded.readings.values()[loaded.readings.places(span)];
    Ok(ProposalsView {
        span,
        n: baseline.len(),
        proposals: propose(baseline, &choices),
        warnings: warnings(baseline, loaded.past.failures.len()),
    })
}

/// Where a meter is heading.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ForecastView {
    pub span: Span,
    pub n: usize,
    /// None where fewer than three readings are in the window, and for grades.
    pub line: Option<Line>,
    /// Rungs it gets to, in the order of the ladder.
    pub reached: Vec<Reached>,
    /// For a counter: its mean growth in a day.
    pub use_per_day: Option<f64>,
    /// In words, what was taken as given.
    pub assumptions: Vec<String>,
}

/// The robust line through a window, and when it reaches the rungs of the ladder given, or of the meter's newest.
///
/// # Errors
/// As [`of_meter`].
pub fn forecast(view: &View, code: &str, span: Span, ladder: Option<Ladder>) -> Result<ForecastView> {
    let conn = view.conn;
    let id = meters::require(conn, code)?;
    let rules = meters::rules_of(conn, id)?;
    let ladder = ladder_of(conn, code, ladder, &rules)?;
    let span = Span::new(span.start(), span.end().min(view.now.plus(1))).unwrap_or(span);
    let all = readings::whole(view, id)?;
    let exchanges = exchanges::of(conn, id)?;
    let within = match through(&rules, &all, &exchanges, view.now) {
        // A counter goes on across exchanges and rollovers; what it reads now is what it reads.
        Some(through) => {
            let part = all.places(span);
            let at = all.at()[part.clone()].iter().zip(&through[part]);
            at.map(|(at, value)| Reading { at: Instant::from_ms(*at), value: *value }).collect()
        }
        None => all.within(span),
    };
    let line = if rules.is_grade() { None } else { forecast::line(&within) };
    let reached = line.map_or_else(Vec::new, |line| forecast::reached(&line, &ladder, view.now));
    let use_per_day = match (rules.counter(), within.at().first(), within.at().last()) {
        (Some(_), Some(first), Some(last)) if last > first => {
            let used = within.values()[within.len() - 1] - within.values()[0];
            Some(used * DAY as f64 / (last - first) as f64)
        }
        _ => None,
    };
    let assumptions = vec![
        "The line is the median of the slopes between all pairs of readings (Theil–Sen); where there are many, between \
         medians of 500 equal parts. It is taken to go on as it is."
            .into(),
        "The earliest and latest dates are those of the 95 % interval of the slope.".into(),
    ];
    Ok(ForecastView { span, n: within.len(), line, reached, use_per_day, assumptions })
}

/// Proposals from the baseline windows of several meters together, one after the other.
pub(crate) fn proposals_of_many(
    view: &View,
    members: &[Member],
    span: Span,
    asked: &ProposalsAsked,
) -> Result<ProposalsView> {
    let (mut baseline, mut failures, mut chosen) = (Vec::new(), 0, Choices::default());
    for member in members {
        let loaded = load(view, &member.code, span, &JudgedBy::default())?;
        chosen = choices(asked, &loaded.rules)?;
        failures += loaded.past.failures.len();
        baseline.extend_from_slice(&loaded.readings.values()[loaded.readings.places(span)]);
    }
    // From meter to meter the level leaps: a drift of the whole would say nothing.
    let mut doubts = warnings(&baseline, failures);
    doubts.retain(|doubt| !matches!(doubt, Warning::Drift { .. }));
    Ok(ProposalsView { span, n: baseline.len(), proposals: propose(&baseline, &chosen), warnings: doubts })
}

/// Where one meter of several is heading.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MeterForecast {
    pub meter: String,
    pub asset: NamedAsset,
    /// In the meter's unit per day.
    pub slope: f64,
    pub reached: Vec<Reached>,
}

/// Meters of several that get to a rung, the soonest first.
pub(crate) fn forecast_many(
    view: &View,
    members: &[Member],
    span: Span,
    ladder: &Ladder,
) -> Result<Vec<MeterForecast>> {
    let mut all = Vec::new();
    for member in members {
        let view = forecast(view, &member.code, span, Some(ladder.clone()))?;
        if let (Some(line), false) = (view.line, view.reached.is_empty()) {
            let (meter, asset) = (member.code.clone(), member.asset.clone());
            all.push(MeterForecast { meter, asset, slope: line.slope, reached: view.reached });
        }
    }
    all.sort_by_key(|one| one.reached.iter().map(|reached| reached.at).min());
    Ok(all)
}
