//! One rung tried at many settings, all in one pass over the readings.
//!
//! Settings of one deadband stand in order of their setpoints, so a value is beyond the first so many of them and behind
//! the last so many. As bits of a word, where all of them stand follows from the word before in two operations; only what
//! changes is looked at. What each comes to is judged as it happens, as [`crate::watch::limits::replay`] would judge it.

use crate::watch::limits::{
    Ladder, Rung, RungOn, RungSide,
    finder::{FinderPoint, Setting, together::Together},
    replay::{Assumptions, History, replay},
};
use serde::Serialize;

/// What work and failures came to, in minor units, to weigh settings by.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Worth {
    /// Mean cost of such work.
    pub work: f64,
    /// Mean cost of such a failure, its downtime among it.
    pub failure: f64,
}

/// The setting that is worth most.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Best {
    /// Its place in the list.
    pub point: usize,
    /// Cost of the failures it caught less cost of the work it raised, in minor units; none where costs are not known.
    pub gain: Option<f64>,
}

/// The best of some settings: by money, where it is known what work and failures come to; otherwise most caught, then least
/// work, then least nuisance. The first of equals. `None` where nothing was caught. Own rule (common practice).
#[must_use]
pub fn best(points: &[FinderPoint], worth: Option<Worth>) -> Option<Best> {
    let gain =
        |point: &FinderPoint| worth.map(|worth| point.caught as f64 * worth.failure - point.work as f64 * worth.work);
    let caught = points.iter().enumerate().filter(|(_, point)| point.caught > 0);
    let better = caught.reduce(|best, other| {
        let order = match (gain(other.1), gain(best.1)) {
            (Some(other), Some(best)) => other.total_cmp(&best),
            _ => std::cmp::Ordering::Equal,
        };
        let order = order
            .then(other.1.caught.cmp(&best.1.caught))
            .then(best.1.work.cmp(&other.1.work))
            .then(best.1.nuisance.cmp(&other.1.nuisance));
        if order.is_gt() { other } else { best }
    })?;
    Some(Best { point: better.0, gain: gain(better.1) })
}

/// The best of each deadband, in the order in which they were tried first.
#[must_use]
pub fn best_of_each(points: &[FinderPoint], worth: Option<Worth>) -> Vec<Best> {
    let mut deadbands: Vec<Option<f64>> = Vec::new();
    for point in points {
        if !deadbands.contains(&point.deadband) {
            deadbands.push(point.deadband);
        }
    }
    let of = |deadband: Option<f64>| {
        let its: Vec<usize> = (0..points.len()).filter(|place| points[*place].deadband == deadband).collect();
        let alone: Vec<FinderPoint> = its.iter().map(|place| points[*place]).collect();
        best(&alone, worth).map(|best| Best { point: its[best.point], ..best })
    };
    deadbands.into_iter().filter_map(of).collect()
}

/// Replays one rung alone at each setting, its delays as they are. The other rungs are left out: what is chosen here is
/// where this one stands.
#[must_use]
pub fn find(
    ladder: &Ladder,
    rung: usize,
    tried: &[Setting],
    history: &History,
    assumptions: &Assumptions,
) -> Vec<FinderPoint> {
    let Some(chosen) = ladder.rungs.get(rung) else { return Vec::new() };
    let assumptions = Assumptions { least: chosen.severity.min(assumptions.least), ..assumptions.clone() };
    let own = chosen.setpoint.zip(chosen.clears_at()).map(|(setpoint, clears)| (setpoint - clears).abs());
    let tried: Vec<Setting> = tried.iter().map(|one| Setting { deadband: one.deadband.or(own), ..*one }).collect();
    let goes_on = chosen.on() == RungOn::Change && history.through.is_some();
    if chosen.on() == RungOn::Rate || chosen.side == RungSide::Grade || goes_on {
        return tried.iter().map(|one| alone(ladder, chosen, *one, history, &assumptions)).collect();
    }
    let mut points: Vec<Option<FinderPoint>> = vec![None; tried.len()];
    let mut order: Vec<usize> = (0..tried.len()).collect();
    let mirror = if chosen.side == RungSide::Low { -1.0 } else { 1.0 };
    let key = |place: &usize| (tried[*place].deadband.unwrap_or(0.0), mirror * tried[*place].setpoint);
    order.sort_by(|a, b| key(a).0.total_cmp(&key(b).0).then(key(a).1.total_cmp(&key(b).1)));
    for group in order.chunk_by(|a, b| key(a).0 == key(b).0) {
        for places in group.chunks(u64::BITS as usize) {
            let settings: Vec<Setting> = places.iter().map(|place| tried[*place]).collect();
            let together = Together::new(ladder, chosen, &settings, &assumptions);
            for (place, point) in places.iter().zip(together.run(history)) {
                points[*place] = Some(point);
            }
        }
    }
    points.into_iter().flatten().collect()
}

/// One setting by itself, through the whole replay.
pub(super) fn alone(
    ladder: &Ladder,
    chosen: &Rung,
    one: Setting,
    history: &History,
    assumptions: &Assumptions,
) -> FinderPoint {
    let mut rung = chosen.clone();
    (rung.setpoint, rung.deadband, rung.reset) = (Some(one.setpoint), one.deadband, None);
    let played = replay(&Ladder { rungs: vec![rung], ..ladder.clone() }, history, assumptions);
    FinderPoint {
        nuisance: played.nuisance,
        averted: played.averted,
        warnings: played.warnings.len(),
        ..FinderPoint::new(one, &played.failures, played.work.len())
    }
}
