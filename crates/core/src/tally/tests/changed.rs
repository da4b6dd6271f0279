//! What changed, the backlog and the time line, against the figures that they take apart.

use super::{
    properties::{asked, plants},
    *,
};

proptest! {
    /// By whatever it is taken apart, the parts add up to the figures of both periods, and so to their difference.
    #[test]
    fn parts_of_a_difference_add_up(snapshot in plants(true), from in 20i64..60, length in 1i64..20, pick in 0usize..9) {
        let scope = Scope { asset: Some(AssetId((pick % snapshot.tree.len()) as i64 + 1)), ..Scope::default() };
        let [now, before] = [asked(from, length), asked(from - length, length)];
        let additive = [
            I::CostTotal, I::Failures, I::Raised, I::Completed, I::OpenWork, I::OpenHours, I::DowntimeCost,
            I::SlowedDowntime, I::UnplannedDowntime, I::PlannedDowntime,
        ];
        for indicator in additive {
            let change = changed(&snapshot, &scope, indicator, [now, before], None, &Dimension::ALL).unwrap();
            let figure = |q| at(&snapshot, &[scope.asset.unwrap().0], indicator, q)[0].value.unwrap();
            let in_unit = |amount: i64| match change.unit {
                crate::tally::indicators::RowUnit::Ms => amount as f64 / HOUR as f64,
                _ => amount as f64,
            };
            // Exact money is told in whole minor units.
            let near = if indicator == I::DowntimeCost { 0.5 } else { 1e-6 };
            prop_assert!((in_unit(change.now) - figure(now)).abs() <= near, "{indicator:?}: {} {}", change.now, figure(now));
            prop_assert!((in_unit(change.before) - figure(before)).abs() <= near, "{indicator:?}");
            prop_assert!(!change.of.is_empty());
            for of in &change.of {
                let sums = (of.parts.iter().map(|part| part.now).sum::<i64>(), of.parts.iter().map(|part| part.before).sum::<i64>());
                prop_assert_eq!(sums, (change.now, change.before), "{:?} by {:?}", indicator, of.dimension);
            }
        }
    }

    /// Each cut of the backlog adds up to all of it, which is what the tally counts as open, at every instant.
    #[test]
    fn cuts_of_the_backlog_add_up(snapshot in plants(true), days in prop::collection::vec(1i64..90, 1..5), pick in 0usize..9) {
        let scope = AssetId((pick % snapshot.tree.len()) as i64 + 1);
        let instants: Vec<Instant> = days.iter().map(|at| day(*at)).collect();
        for found in backlog(&snapshot, Some(scope), &instants, None, &HeldBack::default()) {
            let q = Question { period: Span::new(day(-1), found.at).unwrap(), now: found.at, basis: Basis::AsWas };
            let figure = |indicator| at(&snapshot, &[scope.0], indicator, q)[0].value.unwrap();
            prop_assert_eq!(found.count as f64, figure(I::OpenWork));
            prop_assert!((found.ms as f64 / HOUR as f64 - figure(I::OpenHours)).abs() < 1e-6);
            let others = (found.past_window as f64, found.over_limit as f64, found.without_estimate as f64);
            prop_assert_eq!(others, (figure(I::PastWindow), figure(I::OverStateLimit), figure(I::OpenWithoutEstimate)));
            for cut in &found.cuts {
                prop_assert_eq!(cut.iter().map(|group| group.count).sum::<u64>(), found.count);
                prop_assert_eq!(cut.iter().map(|group| group.ms).sum::<i64>(), found.ms);
            }
            let young = backlog(&snapshot, Some(scope), &[found.at], None, &HeldBack { ages: vec![0], states: vec![] });
            let of_youngest = found.cuts[3].iter().find(|group| group.value == "0").map_or(0, |group| group.count);
            prop_assert_eq!(young[0].count, of_youngest, "held to the youngest");
            prop_assert_eq!(&young[0].cuts[3], &found.cuts[3], "its own cut still shows all");
        }
    }

    /// Every lane of the time line comes to what the tally says of its asset, and so do those who stopped the scope.
    #[test]
    fn lanes_come_to_the_downtime_of_their_assets(snapshot in plants(true), from in 0i64..60, length in 1i64..30, pick in 0usize..9) {
        let q = asked(from, length);
        let scope = AssetId((pick % snapshot.tree.len()) as i64 + 1);
        let line = timeline(&snapshot, scope, q, None).unwrap();
        prop_assert_eq!(line.lanes[0].asset, scope);
        let kinds = [I::UnplannedDowntime, I::PlannedDowntime, I::ExternalDowntime];
        for lane in &line.lanes {
            for (kind, ms) in kinds.into_iter().zip(lane.ms) {
                let figure = at(&snapshot, &[lane.asset.0], kind, q)[0].value.unwrap();
                prop_assert!((figure - ms as f64 / HOUR as f64).abs() < 1e-9, "{kind:?} of {}: {figure}", lane.asset);
            }
            let drawn: i64 = lane.stops.iter().map(|stop| stop.span.ms()).sum();
            prop_assert_eq!(drawn, lane.ms.iter().sum::<i64>());
        }
        let by: i64 = line.by.iter().flat_map(|one| one.ms).sum();
        prop_assert_eq!(by, line.lanes[0].ms.iter().sum::<i64>());
        if line.by.len() <= 12 && line.longest.len() < 12 {
            prop_assert_eq!(line.longest.iter().map(|stop| stop.ms).sum::<i64>(), by);
        }
    }

    /// Of all assets those with the greatest figures come first, and none that has one is left out.
    #[test]
    fn a_ranking_has_all_in_order(snapshot in plants(true), from in 0i64..60, length in 1i64..30) {
        let q = asked(from, length);
        let found = ranking(&snapshot, None, I::CostTotal, q, None);
        prop_assert!(found.is_sorted_by(|a, b| a.1 >= b.1));
        let ids: Vec<i64> = (1..=snapshot.tree.len() as i64).collect();
        let some = at(&snapshot, &ids, I::CostTotal, q).iter().filter(|figure| figure.value != Some(0.0)).count();
        prop_assert_eq!(found.len(), some);
    }
}

#[test]
fn a_ratio_is_not_taken_apart() {
    let scope = Scope { asset: Some(AssetId(1)), ..Scope::default() };
    let refused = changed(&line(), &scope, I::Mtbf, [year(), year()], None, &Dimension::ALL).unwrap_err();
    assert_eq!(refused.to_string(), "indicator: is made of other figures: take those apart");
    let nowhere = Scope::default();
    let refused =
        changed(&line(), &nowhere, I::UnplannedDowntime, [year(), year()], None, &Dimension::ALL).unwrap_err();
    assert!(refused.to_string().starts_with("scope: choose an asset"));
}

/// A seal that a new supplier sells at 12.00 instead of 10.00: named by item and by supplier, quantity and price told apart.
#[test]
fn a_dearer_supplier_is_found() {
    use crate::{
        facts::Named,
        ground::ids::{ItemId, SupplierId},
    };
    let mut snapshot = line();
    let names = std::sync::Arc::make_mut(&mut snapshot.names);
    names.items = vec![Named { id: 1, code: "Seal".into(), name: "Seal".into() }];
    names.suppliers = ["Old".to_owned(), "New".into()]
        .into_iter()
        .zip(1..)
        .map(|(name, id)| Named { id, code: name.clone(), name })
        .collect();
    let seal = |id, on, pieces: i64, cents, supplier| EntryFact {
        at: day(on),
        quantity: pieces * 1_000,
        item: Some(ItemId(1)),
        supplier: Some(SupplierId(supplier)),
        ..entry(id, 7, 1, EntryKind::Material, cents, Instant::LATEST)
    };
    snapshot.change_entries(all([seal(1, 5, 4, 4_000, 1), seal(2, 15, 6, 7_200, 2)], |entry| entry.id.0));
    let scope = Scope { asset: Some(AssetId(1)), ..Scope::default() };
    let change =
        changed(&snapshot, &scope, I::CostMaterial, [asked(10, 10), asked(0, 10)], None, &Dimension::ALL).unwrap();
    let of = |dimension| change.of.iter().find(|of| of.dimension == dimension).unwrap();
    let item = &of(Dimension::Item).parts[0];
    assert_eq!((item.name.as_str(), item.by_quantity, item.by_price), ("Seal", Some(2_000), Some(1_200)));
    let suppliers: Vec<(&str, i64, i64)> =
        of(Dimension::Supplier).parts.iter().map(|part| (part.name.as_str(), part.now, part.before)).collect();
    assert_eq!(suppliers, [("New", 7_200, 0), ("Old", 0, 4_000)]);
    assert_eq!(of(Dimension::Supplier).column, Some("supplier"));
}

/// Two failures of one order, of different problems, and one without: each counts for its own, as their list is filtered.
#[test]
fn a_failure_counts_for_its_own_problem() {
    use crate::facts::Named;
    let mut snapshot = line();
    let named = |(code, id): (&str, i64)| Named { id, code: code.into(), name: code.into() };
    std::sync::Arc::make_mut(&mut snapshot.names).codes = [("NOISE", 1), ("LEAK", 2)].map(named).into();
    let of_one = |id, problem: Option<i64>| FailureFact {
        problem: problem.map(CodeId),
        work: WorkOrderId(7),
        ..failure(id, 1, day(id), Effect::Critical)
    };
    let rows = [of_one(1, Some(1)), of_one(2, Some(2)), of_one(3, None)];
    snapshot.change_failures(all(rows, |failure| failure.id.0));
    let scope = Scope { asset: Some(AssetId(1)), ..Scope::default() };
    let asked = [asked(0, 10), asked(-10, 10)];
    let change = changed(&snapshot, &scope, I::Failures, asked, None, &[Dimension::Problem]).unwrap();
    let parts: Vec<(&str, i64)> = change.of[0].parts.iter().map(|part| (part.value.as_str(), part.now)).collect();
    assert_eq!(parts, [("", 1), ("NOISE", 1), ("LEAK", 1)]);
}

/// Without a scope all is taken apart, into its roots.
#[test]
fn what_changed_of_everything_is_all_of_it() {
    let mut snapshot = line();
    snapshot.change_entries(all([entry(1, 7, 3, EntryKind::Material, 500, Instant::LATEST)], |entry| entry.id.0));
    let asked = [asked(0, 30), asked(-30, 30)];
    let change = changed(&snapshot, &Scope::default(), I::CostTotal, asked, None, &[Dimension::Child]).unwrap();
    assert_eq!((change.now, change.of[0].parts.len()), (500, 1));
}

/// An order that was the mechanics' until day 20 stood among theirs on day 10; the list of either side is as of then.
#[test]
fn what_stood_is_whose_it_was_then() {
    use crate::{
        facts::{FieldsFact, Named},
        ground::ids::CrewId,
    };
    let mut snapshot = line();
    let named = |id, code: &str| Named { id, code: code.into(), name: code.into() };
    std::sync::Arc::make_mut(&mut snapshot.names).crews = vec![named(4, "mech"), named(5, "elec")];
    put_work(&mut snapshot, 1, 7, None, &[(day(5), WorkState::Raised)]);
    let work = snapshot.works.get((WorkOrderId(1),)).unwrap();
    let work = WorkFact { crew: Some(CrewId(5)), changed: true, ..work };
    snapshot.works.put(work);
    for (version, since, crew) in [(0, 5, 4), (1, 20, 5)] {
        let fields = work.newest_fields(day(since), day(since));
        snapshot.fields.put(FieldsFact { version, crew: Some(CrewId(crew)), ..fields });
    }
    let scope = Scope { asset: Some(AssetId(1)), ..Scope::default() };
    let open =
        changed(&snapshot, &scope, I::OpenWork, [asked(20, 10), asked(0, 10)], None, &[Dimension::Crew]).unwrap();
    let parts: Vec<(&str, i64, i64)> =
        open.of[0].parts.iter().map(|part| (part.value.as_str(), part.now, part.before)).collect();
    assert_eq!(parts, [("mech", 0, 1), ("elec", 1, 0)]);
    assert_eq!(open.stood_at, [day(30), day(10)].map(|at| Some(at.plus(-1))));
    let raised =
        changed(&snapshot, &scope, I::Raised, [asked(20, 10), asked(0, 10)], None, &[Dimension::Crew]).unwrap();
    assert_eq!(
        (raised.of[0].parts[0].value.as_str(), raised.stood_at),
        ("elec", [None; 2]),
        "what happened is its order's"
    );
}
