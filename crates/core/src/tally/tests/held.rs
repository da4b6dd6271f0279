//! Figures that are held to some work and some assets, worked out by hand; definitions as they are recalled (SMRP: from memory).

use super::{
    properties::{ALL, asked, plants},
    worked::put,
    *,
};
use crate::{
    facts::{AssetFact, FieldsFact, Named, packed::Packed},
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

/// A plant in which nothing else ever happened than what is held.
fn thinned(snapshot: &Snapshot, holds: impl Fn(u32, u32) -> bool) -> Snapshot {
    let mut thin = snapshot.clone();
    let gone = |rows: Vec<(i64, u32, u32)>| -> Vec<i64> {
        rows.into_iter().filter(|(_, asset, work)| !holds(*asset, *work)).map(|(id, ..)| id).collect()
    };
    let entries = gone(snapshot.entries.rows().map(|one| (one.id.0, one.asset, one.work.pack())).collect());
    thin.change_entries(entries.into_iter().map(|id| (id, None)).collect());
    let downtimes = gone(snapshot.downtimes.rows().map(|one| (one.id.0, one.asset, one.work.pack())).collect());
    thin.change_downtimes(downtimes.into_iter().map(|id| (id, None)).collect());
    let failures = gone(snapshot.failures.rows().map(|one| (one.id.0, one.asset, one.work.pack())).collect());
    thin.change_failures(failures.into_iter().map(|id| (id, None)).collect());
    let works = gone(snapshot.works.rows().map(|one| (one.number.0, one.asset, one.number.pack())).collect());
    thin.change_works(works.into_iter().map(|id| (id, None)).collect(), OfWork::default());
    thin
}

/// What asks for more than the rows that count: whether others stood or cost more at that time, whether an order has parts
/// elsewhere. Common practice: they are shared out among all rows first, and what is held to is a part of that.
fn is_shared_out(indicator: I) -> bool {
    matches!(indicator, I::DowntimeCost | I::SlowedDowntime)
}

proptest! {
    /// Figures held to some assets, or to some work, are those of a plant in which nothing else ever happened.
    #[test]
    fn what_is_held_to_counts_as_if_nothing_else_had_happened(
        snapshot in plants(true), from in 0i64..60, length in 1i64..40, which in 1u32..512, by_work in any::<bool>(), is in any::<bool>(),
    ) {
        let basis = if is { Basis::AsIs } else { Basis::AsWas };
        let q = Question { basis, ..asked(from, length) };
        let mut snapshot = snapshot;
        let is_one = |index: u32| which >> (index % 9) & 1 == 1;
        let n = snapshot.tree.len() as u32;
        snapshot.assets = (0..n).map(|index| asset_fact(i64::from(index) + 1, is_one(index))).collect();
        Arc::make_mut(&mut snapshot.names).crews = vec![Named { id: 4, code: "mech".into(), name: "M".into() }];
        for work in snapshot.works.rows().collect::<Vec<_>>() {
            let crew = is_one(work.number.0 as u32).then_some(CrewId(4));
            snapshot.works.put(WorkFact { crew, ..work });
        }
        let (to, thin) = match by_work {
            true => {
                let holds = |_, work| work != Option::<WorkOrderId>::None.pack() && is_one(work);
                (HeldTo { crew: vec!["mech".into()], ..HeldTo::default() }, thinned(&snapshot, holds))
            }
            false => {
                let holds = |asset, _| is_one(asset);
                (HeldTo { criticality: vec![Criticality::A], ..HeldTo::default() }, thinned(&snapshot, holds))
            }
        };
        let held = to.held(&snapshot).unwrap();
        let ids: Vec<AssetId> = (1..=i64::from(n)).map(AssetId).collect();
        for indicator in ALL.into_iter().filter(|one| !is_shared_out(*one)) {
            // A step elsewhere is held to by its own asset; a repeat of another crew's failure is still one.
            if (by_work && indicator == I::RepeatFailures) || (!by_work && indicator == I::OpenHours) {
                continue;
            }
            // Groups are as they are, whoever asks: what put them down is shown below.
            if indicator == I::Mtbf && !snapshot.tree.grouped().is_empty() {
                continue;
            }
            let ours = figures_held(&snapshot, &ids, &[indicator], q, held.as_ref());
            prop_assert_eq!(ours, figures(&thin, &ids, &[indicator], q), "{:?}", indicator);
        }
    }
}

/// What stood then is held to by what it was then, what happened by what its order is: re-crewed on day 20, the order was the
/// mechanics' before, and its cost is the electricians'.
#[test]
fn work_that_stood_is_held_to_by_what_it_was_then() {
    let mut snapshot = line();
    let named = |id, code: &str| Named { id, code: code.into(), name: code.into() };
    Arc::make_mut(&mut snapshot.names).crews = vec![named(4, "mech"), named(5, "elec")];
    let number = WorkOrderId(1);
    put(&mut snapshot, 1, &[(day(5), WorkState::Raised)], |work| WorkFact { crew: Some(CrewId(5)), ..work });
    let now = snapshot.works.get((number,)).unwrap();
    snapshot.works.put(WorkFact { changed: true, ..now });
    let version = |version, since, crew| -> FieldsFact {
        FieldsFact { version, crew: Some(CrewId(crew)), ..now.newest_fields(day(since), day(since)) }
    };
    [version(0, 5, 4), version(1, 20, 5)].into_iter().for_each(|version| snapshot.fields.put(version));
    snapshot.change_entries(all([entry(1, 7, 1, EntryKind::Tool, 100, Instant::LATEST)], |entry| entry.id.0));
    let held = |crew: &str, until, indicator| {
        let to = HeldTo { crew: vec![crew.into()], ..HeldTo::default() };
        let q = Question { period: Span::new(day(0), day(until)).unwrap(), ..year() };
        figures_held(&snapshot, &[AssetId(1)], &[indicator], q, to.held(&snapshot).unwrap().as_ref())[0][0].value
    };
    assert_eq!([held("mech", 15, I::OpenWork), held("elec", 15, I::OpenWork)], [Some(1.0), Some(0.0)]);
    assert_eq!([held("mech", 30, I::OpenWork), held("elec", 30, I::OpenWork)], [Some(0.0), Some(1.0)]);
    assert_eq!([held("mech", 15, I::CostTotal), held("elec", 15, I::CostTotal)], [Some(0.0), Some(100.0)]);
}
