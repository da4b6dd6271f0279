//! Figures that are held to some work and some assets, worked out by hand; definitions as they are recalled (SMRP: from memory).

use super::{worked::put, *};
use crate::{
    facts::{AssetFact, Named},
    ground::ids::CrewId,
    plant::assets::{Criticality, Level},
};
use std::sync::Arc;

fn asset_fact(id: i64, is_critical: bool) -> AssetFact {
    AssetFact {
        id: AssetId(id),
        code: format!("A{id}"),
        name: format!("Asset {id}"),
        level: Level::Part,
        class: None,
        criticality: is_critical.then_some(Criticality::A),
        crew: None,
        tags: vec![],
    }
}

/// Held to a crew and a criticality only their rows count.
#[test]
fn what_is_held_to_some_counts_alone() {
    let mut snapshot = line();
    let fact =
        |id: i64| AssetFact { tags: if id == 5 { vec!["hot".into()] } else { vec![] }, ..asset_fact(id, id == 7) };
    snapshot.assets = (1..=7).map(fact).collect();
    Arc::make_mut(&mut snapshot.names).crews = vec![Named { id: 4, code: "mech".into(), name: "M".into() }];
    for (number, crew) in [(1, Some(CrewId(4))), (2, None)] {
        put(&mut snapshot, number, &[(day(1), WorkState::Raised)], |work| WorkFact { crew, ..work });
    }
    let entries = [
        entry(1, 7, 1, EntryKind::Tool, 100, Instant::LATEST),
        entry(2, 7, 2, EntryKind::Tool, 10, Instant::LATEST),
        entry(3, 5, 1, EntryKind::Tool, 1, Instant::LATEST),
    ];
    snapshot.change_entries(all(entries, |entry| entry.id.0));
    let cost = |to: HeldTo| {
        let held = to.held(&snapshot).unwrap().map(Arc::new);
        let places =
            Places::new(&snapshot, Scope { asset: Some(AssetId(1)), depth: 1, ..Scope::default() }, year()).unwrap();
        let places = places.held_to(held);
        let why = why_of(&snapshot, &places, 0, I::CostTotal, year()).unwrap();
        assert_eq!(why.parts.iter().map(|part| part.total as f64).sum::<f64>(), why.figure.value.unwrap());
        why.figure.value.unwrap()
    };
    assert_eq!(cost(HeldTo::default()), 111.0);
    assert_eq!(cost(HeldTo { crew: vec!["mech".into()], ..HeldTo::default() }), 101.0);
    assert_eq!(cost(HeldTo { crew: vec![String::new()], ..HeldTo::default() }), 10.0);
    assert_eq!(cost(HeldTo { criticality: vec![Criticality::A], ..HeldTo::default() }), 110.0);
    assert_eq!(cost(HeldTo { tag: vec!["hot".into()], crew: vec!["mech".into()], ..HeldTo::default() }), 1.0);
    let unknown = HeldTo { crew: vec!["x".into()], ..HeldTo::default() }.held(&snapshot).unwrap_err();
    assert_eq!(unknown.to_string(), "crew: there is no crew \"x\"");
}

/// SMRP 3.5.1, of 5 and 7 alone: the failure of 7, which puts nothing down, is 7's alone, though what lies right above is none of
/// these; that of 5 is all the way up to 1's.
#[test]
fn held_to_some_assets_a_failure_counts_for_what_it_puts_down() {
    let mut snapshot = line_whose_part_puts_nothing_down();
    snapshot.assets = (1..=7).map(|id| asset_fact(id, matches!(id, 5 | 7))).collect();
    let held = HeldTo { criticality: vec![Criticality::A], ..HeldTo::default() };
    let held = held.held(&snapshot).unwrap();
    let mtbf = |snapshot: &Snapshot| -> [Option<f64>; 3] {
        let assets = [7, 5, 1].map(AssetId);
        let figures = figures_held(snapshot, &assets, &[I::Mtbf], year(), held.as_ref());
        [0, 1, 2].map(|row: usize| figures[row][0].value)
    };
    snapshot.change_failures(all([failure(1, 7, hour(10), Effect::Critical)], |failure| failure.id.0));
    assert_eq!(mtbf(&snapshot), [Some(2_400.0), None, None]);
    let both = [failure(2, 6, hour(50), Effect::Critical), failure(3, 5, hour(90), Effect::Critical)];
    snapshot.change_failures(all(both, |failure| failure.id.0));
    assert_eq!(mtbf(&snapshot), [Some(2_400.0), Some(2_400.0), Some(2_400.0)], "6 is none of these");
    let scope = Scope { asset: Some(AssetId(1)), depth: 1, ..Scope::default() };
    let places = Places::new(&snapshot, scope, year()).unwrap().held_to(held.clone().map(Arc::new));
    let why = why_of(&snapshot, &places, 0, I::Mtbf, year()).unwrap();
    assert_eq!(why.parts[0].rows.iter().map(|row| row.id).collect::<Vec<_>>(), [3]);
}
