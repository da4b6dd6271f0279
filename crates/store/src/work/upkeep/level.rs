//! How the year ahead could be levelled, crew by crew.

use super::year::{Ahead, capacity, look, named, part_of, week_at};
use crate::{
    ground::{error::Result, view::View},
    plant::assets::NamedAsset,
    work::week::as_hours,
};
use jiff::ToSpan;
use serde::Serialize;
use std::collections::BTreeMap;
use tally_core::{
    ground::ids::CrewId,
    work::plans::{
        levelling::{self, Movable},
        year::{MovableCycles, WEEKS},
    },
};
use utoipa::ToSchema;

/// A move that levelling proposes.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LevellingMove {
    pub plan: String,
    pub name: String,
    pub asset: NamedAsset,
    /// Of what stands below the whole, the part it is in.
    pub within: Option<String>,
    /// Of the cycle.
    pub number: i64,
    pub from: String,
    pub to: String,
    pub from_week: usize,
    pub to_week: usize,
    pub hours: f64,
    /// Code.
    pub crew: Option<String>,
    /// How much its crew has to do in the two weeks, as it stands.
    pub from_load_hours: f64,
    pub to_load_hours: f64,
}

/// A crew's year, before and after.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LevelledCrew {
    pub code: Option<String>,
    pub name: String,
    pub capacity_hours: f64,
    pub peak_before_hours: f64,
    pub peak_after_hours: f64,
    /// Hours beyond what it can do, in all weeks.
    pub over_before_hours: f64,
    pub over_after_hours: f64,
    pub load_after_hours: Vec<f64>,
    /// Everything was tried: nothing is better.
    pub is_proven: bool,
}

/// A proposal to level the year ahead. Nothing is moved by it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Levelling {
    pub moves: Vec<LevellingMove>,
    pub crews: Vec<LevelledCrew>,
    /// The fullest week of any crew.
    pub peak_before_hours: f64,
    pub peak_after_hours: f64,
    pub over_before_hours: f64,
    pub over_after_hours: f64,
}

/// What could be moved, each within its tolerance, so that crews have less to do than they can in as many weeks as possible.
///
/// # Errors
/// [`crate::StoreError::Invalid`] for a scope there is not.
pub fn level(view: &View, scope: Option<&str>) -> Result<Levelling> {
    let looked = look(view, scope)?;
    let (all, monday, today) = (&looked.all, looked.monday, looked.today);
    let mut of_crews: BTreeMap<Option<CrewId>, Vec<(&Ahead, MovableCycles)>> = BTreeMap::new();
    for one in all {
        let Ahead { course, cycles } = one;
        let movables = course.recurrence.movable(&course.standing, cycles, course.work_ms(), today, monday);
        of_crews.entry(course.work.crew).or_default().extend(movables.into_iter().map(|movable| (one, movable)));
    }
    let (mut moves, mut crews) = (Vec::new(), Vec::new());
    for (crew, of_crew) in of_crews {
        view.go_on()?;
        let capacity = capacity(view, crew, monday)?;
        let mut fixed = vec![0; WEEKS];
        for one in all.iter().filter(|one| one.course.work.crew == crew) {
            if let Some(week) = one.course.standing.open.and_then(|open| week_at(open, monday)) {
                fixed[week] += one.course.work_ms();
            }
        }
        let movables: Vec<Movable> = of_crew.iter().map(|(_, of)| of.movable.clone()).collect();
        let levelled = levelling::level(&capacity, &fixed, &movables);
        let load = |chosen: &dyn Fn(usize) -> usize| {
            let mut load = fixed.clone();
            for (at, movable) in movables.iter().enumerate() {
                movable.places[chosen(at)].load.iter().for_each(|(week, ms)| load[*week] += ms);
            }
            load
        };
        let (before, after) = (load(&|at| movables[at].stands), load(&|at| levelled.chosen[at]));
        let (code, name) = named(view, crew)?;
        for ((one, cycles), chosen) in of_crew.iter().zip(&levelled.chosen) {
            let shift = cycles.movable.places[*chosen].shift;
            let to = cycles.on.saturating_add((shift * 7).days());
            let weeks = week_at(cycles.on, monday).zip(week_at(to, monday));
            let Some((from_week, to_week)) = weeks.filter(|_| shift != 0) else { continue };
            moves.push(LevellingMove {
                plan: one.course.code.clone(),
                name: one.course.work.title.clone(),
                asset: NamedAsset { code: one.course.asset_code.clone(), name: one.course.asset_name.clone() },
                within: part_of(view, &looked.reached, &one.course)?,
                number: cycles.number,
                from: cycles.on.to_string(),
                to: to.to_string(),
                from_week,
                to_week,
                hours: as_hours(one.course.work_ms()),
                crew: code.clone(),
                from_load_hours: as_hours(before[from_week]),
                to_load_hours: as_hours(before[to_week]),
            });
        }
        let peak = |load: &[i64]| as_hours(load.iter().copied().max().unwrap_or(0));
        let over = |load: &[i64]| as_hours(load.iter().zip(&capacity).map(|(ms, most)| (ms - most).max(0)).sum());
        crews.push(LevelledCrew {
            code,
            name,
            capacity_hours: as_hours(capacity[0]),
            peak_before_hours: peak(&before),
            peak_after_hours: peak(&after),
            over_before_hours: over(&before),
            over_after_hours: over(&after),
            load_after_hours: after.iter().map(|ms| as_hours(*ms)).collect(),
            is_proven: levelled.is_proven,
        });
    }
    moves.sort_by(|a, b| (a.from_week, &a.plan, &a.asset.code).cmp(&(b.from_week, &b.plan, &b.asset.code)));
    let most = |of: fn(&LevelledCrew) -> f64| crews.iter().map(of).fold(0.0, f64::max);
    Ok(Levelling {
        peak_before_hours: most(|crew| crew.peak_before_hours),
        peak_after_hours: most(|crew| crew.peak_after_hours),
        over_before_hours: crews.iter().map(|crew| crew.over_before_hours).sum(),
        over_after_hours: crews.iter().map(|crew| crew.over_after_hours).sum(),
        moves,
        crews,
    })
}
