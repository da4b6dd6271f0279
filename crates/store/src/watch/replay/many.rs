//! One ladder over the readings of several meters: what it would have done on each and together.

use super::{
    finder::{FinderAsked, FinderView, require_setpoint, settings},
    load::{JudgedBy, Loaded, ProblemCount, count_problem, load},
    one::given,
    worth,
};
use crate::{
    ground::{error::Result, view::View},
    plant::assets::NamedAsset,
};
use serde::Serialize;
use std::ops::AddAssign;
use tally_core::{
    ground::time::Span,
    watch::limits::{
        Ladder,
        finder::{FinderPoint, find},
        replay::{Replay, replay},
        verdict::Judged,
    },
};
use utoipa::ToSchema;

/// Counts of what a ladder would have done.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct ReplaySums {
    pub readings: usize,
    pub alarms: usize,
    pub work: usize,
    pub joined: usize,
    pub held: usize,
    pub warnings: usize,
    pub caught: usize,
    pub too_late: usize,
    pub missed: usize,
    pub nuisance: usize,
    pub averted: usize,
}

impl From<&Replay> for ReplaySums {
    fn from(run: &Replay) -> Self {
        Self {
            readings: run.readings,
            alarms: run.alarms.len(),
            work: run.work.len(),
            joined: run.joined,
            held: run.held,
            warnings: run.warnings.len(),
            caught: run.caught(),
            too_late: run.too_late(),
            missed: run.missed(),
            nuisance: run.nuisance,
            averted: run.averted,
        }
    }
}

impl AddAssign for ReplaySums {
    fn add_assign(&mut self, one: Self) {
        self.readings += one.readings;
        self.alarms += one.alarms;
        self.work += one.work;
        self.joined += one.joined;
        self.held += one.held;
        self.warnings += one.warnings;
        self.caught += one.caught;
        self.too_late += one.too_late;
        self.missed += one.missed;
        self.nuisance += one.nuisance;
        self.averted += one.averted;
    }
}

/// What a ladder would have done on one meter of several.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MeterReplay {
    pub meter: String,
    pub asset: NamedAsset,
    #[serde(flatten)]
    pub sums: ReplaySums,
    pub median_warning_ms: Option<i64>,
}

/// What one ladder would have done on several meters together.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ManyReplay {
    /// In one sentence.
    pub verdict: String,
    pub span: Span,
    #[serde(flatten)]
    pub sums: ReplaySums,
    /// Hours and cost in minor units of the work it would have raised, at what such work usually comes to.
    pub hours: f64,
    pub cost: f64,
    /// What the failures of the span were coded with, chosen or not, the most frequent first.
    pub problems: Vec<ProblemCount>,
    /// In words, what was taken as given.
    pub assumptions: Vec<String>,
    pub meters: Vec<MeterReplay>,
}

/// A meter of several, with the asset it is read on.
pub(crate) struct Member {
    pub code: String,
    pub asset: NamedAsset,
}

/// Runs one ladder over the readings of several meters. A failure that two of them can see counts for each.
pub(crate) fn of_many(
    view: &View,
    members: &[Member],
    span: Span,
    ladder: &Ladder,
    asked: &JudgedBy,
) -> Result<ManyReplay> {
    let mut all = ManyReplay {
        verdict: String::new(),
        span,
        sums: ReplaySums::default(),
        hours: 0.0,
        cost: 0.0,
        problems: Vec::new(),
        assumptions: Vec::new(),
        meters: Vec::with_capacity(members.len()),
    };
    let until = view.now.min(span.end());
    for member in members {
        view.go_on()?;
        let loaded = load(view, &member.code, span, asked)?;
        let seen = loaded.looked_at(view, ladder, span)?;
        let run = replay(ladder, &seen.history(&loaded, until), &loaded.assumptions);
        let sums = ReplaySums::from(&run);
        all.sums += sums;
        all.hours += sums.work as f64 * loaded.usual.hours;
        all.cost += sums.work as f64 * loaded.usual.cost;
        let (meter, asset) = (member.code.clone(), member.asset.clone());
        all.meters.push(MeterReplay { meter, asset, sums, median_warning_ms: run.median_warning_ms() });
        if all.assumptions.is_empty() {
            all.assumptions = given_together(&loaded, asked);
        }
        loaded.problems.into_iter().for_each(|problem| count_problem(&mut all.problems, problem));
    }
    let ReplaySums { caught, too_late, missed, nuisance, work, .. } = all.sums;
    let judged = Judged { caught, too_late, missed, nuisance, work, median_warning_ms: None };
    all.verdict = judged.verdict_together();
    all.problems.sort_by(|a, b| b.failures.cmp(&a.failures).then_with(|| a.name.cmp(&b.name)));
    Ok(all)
}

/// Tries one rung at many setpoints on several meters together: the counts add up, the warning is the mean of the meters'
/// medians.
pub(crate) fn find_many(
    view: &View,
    members: &[Member],
    span: Span,
    ladder: &Ladder,
    which: &FinderAsked,
    asked: &JudgedBy,
) -> Result<FinderView> {
    require_setpoint(ladder, which.rung)?;
    let until = view.now.min(span.end());
    let mut loaded = Vec::with_capacity(members.len());
    let mut edges = Vec::new();
    for member in members {
        view.go_on()?;
        let one = load(view, &member.code, span, asked)?;
        let seen = one.looked_at(view, ladder, span)?;
        let values = &seen.readings.values()[seen.part.clone()];
        edges.extend(values.iter().copied().reduce(f64::min));
        edges.extend(values.iter().copied().reduce(f64::max));
        loaded.push((one, seen));
    }
    let tried = settings(&edges, which);
    let mut sums: Vec<(FinderPoint, Vec<i64>)> = Vec::new();
    let mut worths = Vec::new();
    for (one, seen) in &loaded {
        view.go_on()?;
        let points = find(ladder, which.rung, &tried, &seen.history(one, until), &one.assumptions);
        worths.extend(worth::of(view, one)?);
        if sums.is_empty() {
            sums = points.into_iter().map(|point| (point, point.median_warning_ms.into_iter().collect())).collect();
            continue;
        }
        for ((sum, warnings), point) in sums.iter_mut().zip(points) {
            sum.caught += point.caught;
            sum.too_late += point.too_late;
            sum.warnings += point.warnings;
            sum.missed += point.missed;
            sum.nuisance += point.nuisance;
            sum.averted += point.averted;
            sum.work += point.work;
            warnings.extend(point.median_warning_ms);
        }
    }
    let points = sums.into_iter().map(|(point, warnings)| {
        let count = i64::try_from(warnings.len()).unwrap_or(i64::MAX);
        let median_warning_ms = (count > 0).then(|| warnings.iter().sum::<i64>() / count);
        FinderPoint { median_warning_ms, ..point }
    });
    let points: Vec<FinderPoint> = points.collect();
    let failures = loaded.iter().map(|(one, ..)| one.past.failures.len()).sum();
    let horizon_days = loaded.first().map_or(30, |(one, ..)| one.horizon_days);
    let assumptions = loaded.first().map_or_else(Vec::new, |(one, ..)| given_together(one, asked));
    let unit = loaded.first().map_or("1", |(one, ..)| &one.rules.unit);
    Ok(FinderView::of(span, unit, &points, worth::mean(&worths), failures, horizon_days, assumptions))
}

/// As for one meter, but that each has work of its own length.
fn given_together(one: &Loaded, asked: &JudgedBy) -> Vec<String> {
    let lasts =
        "Work is taken to last as long as each meter's, or its asset's, usually does; 14 days where there is none.";
    let mut all = given(&one.assumptions, asked, lasts.into());
    all.push("A failure that two of the meters can see counts for each of them.".into());
    all
}
