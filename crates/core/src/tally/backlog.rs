//! Open work by where it stands, whose it is, how old, how pressing: as of several instants at once. Each cut counts what all
//! other conditions let through, so that a choice in one holds the rest to it.

use super::{
    Held,
    headlines::within,
    measures::{Near, OpenWork, open_in, open_parts},
};
use crate::{
    facts::{Names, Snapshot, Works},
    ground::{
        bands::{AGE_BANDS, band_of},
        ids::AssetId,
        time::Instant,
        words::word,
    },
    work::WorkState,
};
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

/// What open work is cut by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum BacklogCut {
    State,
    Crew,
    Department,
    Age,
    Rank,
}

impl BacklogCut {
    /// All there are.
    pub const ALL: [Self; 5] = [Self::State, Self::Crew, Self::Department, Self::Age, Self::Rank];
}

/// What open work is held to, beside what a tally can be.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct HeldBack {
    pub states: Vec<WorkState>,
    /// Bands of age, from 0 for the youngest.
    pub ages: Vec<usize>,
}

/// Open work of one value of a cut.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BacklogGroup {
    /// As a filter takes it; empty for none.
    pub value: String,
    /// As it is called; empty for none.
    pub name: String,
    pub count: u64,
    /// Hours still to do, in milliseconds, of what has an estimate.
    pub ms: i64,
    pub past_window: u64,
    pub over_limit: u64,
}

/// Open work as of an instant.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BacklogAt {
    pub at: Instant,
    pub count: u64,
    pub ms: i64,
    pub without_estimate: u64,
    pub past_window: u64,
    pub over_limit: u64,
    /// In the order of [`BacklogCut::ALL`].
    pub cuts: Vec<Vec<BacklogGroup>>,
}

/// Open work as of several instants.
pub type Backlog = Vec<BacklogAt>;

#[derive(Debug, Clone, Copy, Default)]
struct Sum {
    count: u64,
    ms: i64,
    without_estimate: u64,
    past: u64,
    over: u64,
}

impl Sum {
    fn take(&mut self, other: Self) {
        self.count += other.count;
        self.ms += other.ms;
        self.without_estimate += other.without_estimate;
        self.past += other.past;
        self.over += other.over;
    }
}

/// No crew, no department.
const NONE: i64 = -1;

fn key(cut: BacklogCut, open: &OpenWork, at: Instant) -> i64 {
    match cut {
        BacklogCut::State => open.standing.state as i64,
        BacklogCut::Crew => open.standing.crew.map_or(NONE, |crew| crew.0),
        BacklogCut::Department => open.department.map_or(NONE, i64::from),
        BacklogCut::Age => band_of(at.ms() - open.part.raised_at.of(open.place), &AGE_BANDS) as i64,
        BacklogCut::Rank => i64::from(open.standing.rank),
    }
}

/// Whether an order passes the condition on one cut.
fn passes(cut: BacklogCut, key: i64, open: &OpenWork, held: Option<&Held>, back: &HeldBack) -> bool {
    match cut {
        BacklogCut::State => back.states.is_empty() || back.states.contains(&open.standing.state),
        BacklogCut::Age => back.ages.is_empty() || back.ages.iter().any(|age| *age as i64 == key),
        BacklogCut::Crew => held.is_none_or(|held| held.conditions.has_crew(open.standing.crew)),
        BacklogCut::Department => held.is_none_or(|held| held.conditions.has_department(open.department)),
        BacklogCut::Rank => held.is_none_or(|held| held.conditions.has_rank(open.standing.rank)),
    }
}

/// What is open at one instant.
#[derive(Clone)]
struct Sums {
    whole: Sum,
    /// In the order of [`BacklogCut::ALL`], by its values.
    cuts: [FxHashMap<i64, Sum>; BacklogCut::ALL.len()],
}

impl Sums {
    fn new() -> Self {
        Self { whole: Sum::default(), cuts: BacklogCut::ALL.map(|_| FxHashMap::default()) }
    }

    /// What one order adds; each cut counts what all other conditions let through.
    fn add(
        &mut self,
        facts: &Snapshot,
        open: &OpenWork,
        at: Instant,
        held: Option<&Held>,
        back: &HeldBack,
        counts: impl Fn(u32) -> bool,
    ) {
        let keys = BacklogCut::ALL.map(|cut| key(cut, open, at));
        let failed = |place: &usize| !passes(BacklogCut::ALL[*place], keys[*place], open, held, back);
        let mut failed = (0..keys.len()).filter(failed);
        let (first, second) = (failed.next(), failed.next());
        if second.is_some() {
            return;
        }
        // The order counts where it is, its hours where its open steps are.
        let is_here = counts(open.asset);
        let left = open.left_by_asset(facts, at);
        let ms: i64 = left.iter().flatten().filter(|(asset, _)| counts(*asset)).map(|(_, ms)| ms).sum();
        if !is_here && ms == 0 {
            return;
        }
        let sum = Sum {
            count: u64::from(is_here),
            ms,
            without_estimate: u64::from(is_here && left.is_none()),
            past: u64::from(is_here && open.window_end < at),
            over: u64::from(is_here && facts.is_over_limit(open.part, open.place, open.standing, at)),
        };
        if first.is_none() {
            self.whole.take(sum);
        }
        for (place, sums) in self.cuts.iter_mut().enumerate() {
            if first.is_none_or(|failed| failed == place) {
                sums.entry(keys[place]).or_default().take(sum);
            }
        }
    }

    fn take(&mut self, other: Self) {
        self.whole.take(other.whole);
        for (sums, others) in self.cuts.iter_mut().zip(other.cuts) {
            others.into_iter().for_each(|(key, sum)| sums.entry(key).or_default().take(sum));
        }
    }
}

/// Open work of a scope (everything without one) as of each of some instants, as it stood in the tree then. One pass over
/// the orders, on all cores.
#[must_use]
pub fn backlog(
    facts: &Snapshot,
    scope: Option<AssetId>,
    at: &[Instant],
    held: Option<&Held>,
    back: &HeldBack,
) -> Backlog {
    let within: Vec<Option<Vec<bool>>> = at.iter().map(|at| within(facts, scope, *at)).collect();
    let assets = held.and_then(Held::assets);
    let counts = |which: usize, asset: u32| {
        let asset = asset as usize;
        within[which].as_ref().is_none_or(|within| within[asset]) && assets.is_none_or(|assets| assets[asset])
    };
    let near = Near::new(facts, at, |asset| (0..at.len()).any(|which| counts(which, asset)));
    let nothing = || vec![Sums::new(); at.len()];
    let parts: Vec<&Works> = open_parts(facts, at).collect();
    let of_part = |mut sums: Vec<Sums>, part: &&Works| {
        open_in(facts, part, at, &near, |which, open| {
            if held.is_none_or(|held| held.conditions.has_kind(open.kind)) {
                sums[which].add(facts, open, at[which], held, back, |asset| counts(which, asset));
            }
        });
        sums
    };
    let both = |mut sums: Vec<Sums>, others: Vec<Sums>| {
        sums.iter_mut().zip(others).for_each(|(sums, other)| sums.take(other));
        sums
    };
    let sums = parts.par_iter().fold(nothing, of_part).reduce(nothing, both);
    at.iter().zip(sums).map(|(at, sums)| told(facts, *at, sums)).collect()
}

fn told(facts: &Snapshot, at: Instant, Sums { whole, cuts }: Sums) -> BacklogAt {
    BacklogAt {
        at,
        count: whole.count,
        ms: whole.ms,
        without_estimate: whole.without_estimate,
        past_window: whole.past,
        over_limit: whole.over,
        cuts: BacklogCut::ALL.iter().zip(cuts).map(|(cut, sums)| groups(facts, *cut, sums)).collect(),
    }
}

/// States, ages and ranks in their order, the rest by its name; none comes last.
fn groups(facts: &Snapshot, cut: BacklogCut, sums: FxHashMap<i64, Sum>) -> Vec<BacklogGroup> {
    let mut found: Vec<(i64, Sum)> = sums.into_iter().collect();
    found.sort_unstable_by_key(|(key, _)| *key);
    let mut groups: Vec<BacklogGroup> = found
        .into_iter()
        .map(|(key, sum)| {
            let (value, name) = named(facts, cut, key);
            let Sum { count, ms, past, over, .. } = sum;
            BacklogGroup { value, name, count, ms, past_window: past, over_limit: over }
        })
        .collect();
    if matches!(cut, BacklogCut::Crew | BacklogCut::Department) {
        groups.sort_by(|a, b| (a.value.is_empty(), &a.name).cmp(&(b.value.is_empty(), &b.name)));
    }
    groups
}

fn named(facts: &Snapshot, cut: BacklogCut, key: i64) -> (String, String) {
    let same = |text: String| (text.clone(), text);
    let place = usize::try_from(key);
    match (cut, place) {
        (BacklogCut::State, Ok(place)) => {
            let state = WorkState::ALL[place];
            (word(&state), state.word().into())
        }
        (BacklogCut::Crew, Ok(_)) => {
            let crew = Names::find(&facts.names.crews, key);
            crew.map_or_else(Default::default, |crew| (crew.code.clone(), crew.name.clone()))
        }
        (BacklogCut::Department, Ok(place)) => {
            facts.names.departments.get(place).cloned().map(same).unwrap_or_default()
        }
        (BacklogCut::Age, Ok(place)) => {
            let from = place.checked_sub(1).map_or(0, |before| AGE_BANDS[before] + 1);
            let name = match AGE_BANDS.get(place) {
                Some(to) => format!("{from}–{to} days"),
                None => format!("{from} days and more"),
            };
            (place.to_string(), name)
        }
        (BacklogCut::Rank, Ok(_)) => (key.to_string(), format!("Rank {key}")),
        (_, Err(_)) => (String::new(), String::new()),
    }
}
