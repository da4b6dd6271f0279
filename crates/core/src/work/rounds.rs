//! Rounds: job sheets whose steps are visits. How they are walked, what becomes of each, and where they lie in the tree.

use crate::access::refusal::{Refusal, said};
use serde::{Deserialize, Serialize};

/// How the visits of a round are walked.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Walk {
    /// One after the other, as they are listed.
    InOrder,
    /// As it suits whoever walks.
    AnyOrder,
}

/// What became of a step.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum StepOutcome {
    #[default]
    Open,
    Done,
    /// Left out, with the reason.
    Skipped(String),
}

impl StepOutcome {
    /// Nothing is left to do at it.
    #[must_use]
    pub fn is_settled(&self) -> bool {
        *self != Self::Open
    }
}

/// A check sheet that an asset may call its own.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Recommended {
    pub code: String,
    /// The sheet names the asset itself, not only its class.
    pub by_name: bool,
}

/// The check sheet that an asset calls its own: one that names it before one for its class, by code.
#[must_use]
pub fn own_sheet(recommended: &[Recommended]) -> Option<&Recommended> {
    recommended.iter().min_by_key(|sheet| (!sheet.by_name, sheet.code.as_str()))
}

/// Whether it is the turn of a visit: in a round that is walked in order, all before it are done or skipped.
///
/// # Errors
/// The place of the first that comes before it and is open.
pub fn check_turn(walk: Option<Walk>, place: usize, outcomes: &[StepOutcome]) -> Result<(), usize> {
    if walk != Some(Walk::InOrder) {
        return Ok(());
    }
    match outcomes.iter().take(place).position(|outcome| !outcome.is_settled()) {
        Some(first) => Err(first),
        None => Ok(()),
    }
}

/// Whose turn it becomes when a step is done or skipped: in a round that is walked in order the next that is open.
#[must_use]
pub fn opens(walk: Option<Walk>, place: usize, outcomes: &[StepOutcome]) -> Option<usize> {
    let next = || outcomes.iter().enumerate().skip(place + 1).find(|(_, outcome)| !outcome.is_settled());
    if walk == Some(Walk::InOrder) { next().map(|(place, _)| place) } else { None }
}

/// The reason for which a step is skipped.
///
/// # Errors
/// [`Refusal::Field`] of `skip` where nothing is said.
pub fn check_skip(reason: &str) -> Result<String, Refusal> {
    Ok(said("skip", reason, "say why it is left out")?.into())
}

/// An asset on the way from the top of the tree to one that is visited.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Waypoint {
    pub code: String,
    pub name: String,
}

/// A line of the map of a round.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MapLine {
    pub code: String,
    pub name: String,
    /// Levels below the first line's.
    pub depth: usize,
    /// Places of the visits to it, from 0.
    pub visits: Vec<usize>,
}

/// The part of the tree that the visits lie in: each asset on the way to one of them once, parts below what they are part of, in
/// the order of their first visits. What all of them share is left out above the last that they share.
#[must_use]
pub fn map_of(ways: &[Vec<Waypoint>]) -> Vec<MapLine> {
    let shared = shared_depth(ways);
    let mut lines = Vec::new();
    let all: Vec<(usize, &[Waypoint])> =
        ways.iter().enumerate().map(|(visit, way)| (visit, way.get(shared..).unwrap_or_default())).collect();
    draw(&all, 0, &mut lines);
    lines
}

/// Levels that all ways begin with, but for the last of them.
fn shared_depth(ways: &[Vec<Waypoint>]) -> usize {
    // Where an asset is not seen there is no way to it.
    let mut seen = ways.iter().filter(|way| !way.is_empty());
    let Some(first) = seen.next() else { return 0 };
    let others: Vec<_> = seen.collect();
    let same =
        |depth: &usize| others.iter().all(|way| way.get(*depth).map(|one| &one.code) == Some(&first[*depth].code));
    (0..first.len()).take_while(same).count().saturating_sub(1)
}

fn draw(ways: &[(usize, &[Waypoint])], depth: usize, lines: &mut Vec<MapLine>) {
    let mut drawn: Vec<&str> = Vec::new();
    for (_, way) in ways {
        let Some(head) = way.first() else { continue };
        if drawn.contains(&head.code.as_str()) {
            continue;
        }
        drawn.push(&head.code);
        let through = ways.iter().filter(|(_, other)| other.first().is_some_and(|one| one.code == head.code));
        let below: Vec<(usize, &[Waypoint])> = through.map(|(visit, other)| (*visit, &other[1..])).collect();
        let visits = below.iter().filter(|(_, rest)| rest.is_empty()).map(|(visit, _)| *visit).collect();
        lines.push(MapLine { code: head.code.clone(), name: head.name.clone(), depth, visits });
        draw(&below, depth + 1, lines);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;
    use std::collections::BTreeSet;

    fn way(codes: &str) -> Vec<Waypoint> {
        codes.split('/').map(|code| Waypoint { code: code.into(), name: code.to_lowercase() }).collect()
    }

    fn drawn(ways: &[&str]) -> Vec<String> {
        let ways: Vec<_> = ways.iter().map(|codes| way(codes)).collect();
        let line = |line: &MapLine| format!("{}{}{:?}", "-".repeat(line.depth), line.code, line.visits);
        map_of(&ways).iter().map(line).collect()
    }

    proptest! {
        /// Settling what has its turn, one after the other, makes it the turn of just what was said beforehand.
        #[test]
        fn what_opens_is_what_has_its_turn_then(settled in prop::collection::vec(any::<bool>(), 1..8)) {
            let outcome = |done: &bool| if *done { StepOutcome::Done } else { StepOutcome::Open };
            let mut outcomes: Vec<StepOutcome> = settled.iter().map(outcome).collect();
            let has_turn = |outcomes: &[StepOutcome]| {
                (0..outcomes.len()).find(|place| {
                    !outcomes[*place].is_settled() && check_turn(Some(Walk::InOrder), *place, outcomes).is_ok()
                })
            };
            while let Some(place) = has_turn(&outcomes) {
                let said = opens(Some(Walk::InOrder), place, &outcomes);
                prop_assert_eq!(opens(Some(Walk::AnyOrder), place, &outcomes), None);
                outcomes[place] = StepOutcome::Done;
                prop_assert_eq!(has_turn(&outcomes), said);
            }
        }
    }

    #[test]
    fn a_map_shows_each_asset_on_the_way_once() {
        assert!(drawn(&[]).is_empty());
        assert_eq!(drawn(&["P/L/DRV"]), ["DRV[0]"]);
        // Two parts of one lift, one of them visited twice, and the lift itself: the plant above is left out.
        let found = drawn(&["P/L/DRV/GBX", "P/L/TEN", "P/L/DRV/GBX", "P/L"]);
        assert_eq!(found, ["L[3]", "-DRV[]", "--GBX[0, 2]", "-TEN[1]"]);
        assert_eq!(drawn(&["P/A/X", "P/B/Y"]), ["P[]", "-A[]", "--X[0]", "-B[]", "--Y[1]"]);
        // Nothing is shared where there are two roots.
        assert_eq!(drawn(&["P/A", "Q"]), ["P[]", "-A[0]", "Q[1]"]);
        assert_eq!(map_of(&[Vec::new(), way("P/A")])[0].visits, [1]);
    }

    proptest! {
        /// Counted another way: the lines are the distinct beginnings of all ways, and each visit stands once, at its depth.
        #[test]
        fn no_visit_is_lost_on_the_map(steps in prop::collection::vec(prop::collection::vec(0_usize..3, 1..5), 1..12)) {
            // A code says its whole way, as one asset has one place.
            let code = |way: &[usize]| way.iter().map(ToString::to_string).collect::<Vec<_>>().join(".");
            let ways: Vec<Vec<Waypoint>> = steps.iter().map(|way| (1..=way.len()).map(|depth| {
                Waypoint { code: code(&way[..depth]), name: String::new() }
            }).collect()).collect();
            let lines = map_of(&ways);
            let mut seen: Vec<usize> = lines.iter().flat_map(|line| line.visits.clone()).collect();
            seen.sort_unstable();
            prop_assert_eq!(seen, (0..steps.len()).collect::<Vec<_>>());
            for line in &lines {
                prop_assert!(line.visits.iter().all(|visit| code(&steps[*visit]) == line.code));
            }
            let codes: Vec<&str> = lines.iter().map(|line| line.code.as_str()).collect();
            let distinct: BTreeSet<&str> = codes.iter().copied().collect();
            prop_assert_eq!(distinct.len(), codes.len());
            let all: BTreeSet<String> = ways.iter().flatten().map(|one| one.code.clone()).collect();
            let above_first = all.iter().filter(|one| !distinct.contains(one.as_str())).count();
            // Only what lies on every way may be left out.
            prop_assert!(all.iter().filter(|one| !distinct.contains(one.as_str()))
                .all(|one| ways.iter().all(|way| way.iter().any(|point| point.code == *one))));
            prop_assert_eq!(all.len(), codes.len() + above_first);
        }
    }

    #[rstest]
    #[case::the_first(Some(Walk::InOrder), 0, Ok(()))]
    #[case::after_done_and_skipped(Some(Walk::InOrder), 2, Ok(()))]
    #[case::after_one_that_is_open(Some(Walk::InOrder), 4, Err(2))]
    #[case::as_it_suits(Some(Walk::AnyOrder), 4, Ok(()))]
    #[case::no_round(None, 4, Ok(()))]
    fn visits_wait_for_their_turn(#[case] walk: Option<Walk>, #[case] place: usize, #[case] turn: Result<(), usize>) {
        let gone = StepOutcome::Skipped("gate locked".into());
        let outcomes = [StepOutcome::Done, gone, StepOutcome::Open, StepOutcome::Done, StepOutcome::Open];
        assert_eq!(check_turn(walk, place, &outcomes), turn);
    }

    #[test]
    fn a_skip_has_a_reason() {
        assert!(matches!(check_skip(" "), Err(Refusal::Field { field, .. }) if field == "skip"));
        assert_eq!(check_skip(" gate locked ").as_deref(), Ok("gate locked"));
    }

    #[test]
    fn an_asset_s_own_sheet_names_it() {
        let sheet = |code: &str, by_name| Recommended { code: code.into(), by_name };
        let all = [sheet("A", false), sheet("C", true), sheet("B", true)];
        assert_eq!(own_sheet(&all).map(|one| one.code.as_str()), Some("B"));
        assert_eq!(own_sheet(&all[..1]).map(|one| one.code.as_str()), Some("A"));
        assert_eq!(own_sheet(&[]), None);
    }
}
