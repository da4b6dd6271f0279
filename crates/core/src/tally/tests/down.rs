//! What is down, and what put it down, hour by hour: asset by asset downwards, as one would ask it of the plant itself.

use super::{
    properties::{asked, plants},
    *,
};
use crate::work::WorkState::Dropped;

/// Why an asset does not run in an hour, if it does not: the first of the kinds that apply.
fn down(snapshot: &Snapshot, stops: &[DowntimeFact], asset: usize, at: Instant, q: Question) -> Option<DowntimeKind> {
    let tree = &snapshot.tree;
    if !tree.node(asset).life.contains(at) {
        return None;
    }
    let mine = |stop: &&DowntimeFact| stop.asset as usize == asset && stop.start <= at && at < stop.end;
    let own = stops.iter().filter(mine).map(|stop| stop.kind).min();
    let children: Vec<usize> = tree.children_at(asset, q.tree_at(at)).collect();
    let of_child = |child: &usize| down(snapshot, stops, *child, at, q);
    let is_yes = |child: &&usize| *tree.effect_at(**child, at) == ParentEffect::Yes;
    let below = children.iter().filter(is_yes).filter_map(of_child).min();
    // All groups are called the same here; the lowest number says how many of them it takes.
    let needs = |child: &usize| match tree.effect_at(*child, at) {
        ParentEffect::Group { needs, .. } => Some((*child, *needs)),
        _ => None,
    };
    let members: Vec<(usize, u32)> = children.iter().filter_map(needs).collect();
    let living = members.iter().filter(|(member, _)| tree.node(*member).life.contains(at)).count();
    let stand: Vec<DowntimeKind> = members.iter().filter_map(|(member, _)| of_child(member)).collect();
    let needed = members.iter().min().map_or(0, |(_, needs)| *needs as usize);
    let group = if living - stand.len() < needed { stand.into_iter().min() } else { None };
    [own, below, group].into_iter().flatten().min()
}

/// The stops of a plant, open ones up to now.
fn stops(snapshot: &Snapshot, q: Question) -> Vec<DowntimeFact> {
    let stops = snapshot.downtimes.rows().filter(DowntimeFact::is_stop);
    stops.map(|stop| DowntimeFact { end: stop.end.min(q.now), ..stop }).collect()
}

/// By hand, SMRP 3.5.1 (from memory): of two pumps one is enough. While the first is down as planned the second fails, which puts
/// down what they belong to: an hour of unplanned downtime there is a failure's there.
#[test]
fn a_failure_puts_down_what_planned_work_left_to_one() {
    let pump = |id| {
        let pair = ParentEffect::Group { name: "pair".into(), needs: 1 };
        let effects = vec![EffectSpan { effect: pair, from: Instant::EARLIEST, to: Instant::LATEST }];
        Node { effects, ..node(id, &[(1, Instant::EARLIEST)]) }
    };
    let mut snapshot = of_tree(vec![node(1, &[(0, Instant::EARLIEST)]), pump(2), pump(3)]);
    let rows = [
        downtime(1, 2, DowntimeKind::Planned, hour(100), hour(200)),
        downtime(2, 3, DowntimeKind::Unplanned, hour(150), hour(160)),
        downtime(3, 3, DowntimeKind::Unplanned, hour(400), hour(430)),
    ];
    snapshot.change_downtimes(all(rows, |down| down.id.0));
    let rows = [failure(1, 3, hour(150), Effect::Critical), failure(2, 3, hour(400), Effect::Critical)];
    snapshot.change_failures(all(rows, |failure| failure.id.0));
    let whole = |indicator| at(&snapshot, &[1], indicator, year())[0].value;
    assert_eq!(whole(I::UnplannedDowntime), Some(10.0));
    assert_eq!(whole(I::Mtbf), Some(2_400.0 - 10.0), "the second failure left the first pump running");
    assert_eq!(at(&snapshot, &[3], I::Mtbf, year())[0].value, Some((2_400.0 - 40.0) / 2.0));
}

proptest! {
    /// EN 13306 (from memory): an hour is downtime of the first kind that applies; all of these begin and end on the hour.
    #[test]
    fn downtime_is_what_the_plant_says_hour_by_hour(
        snapshot in plants(true), from in 0i64..60, length in 1i64..20, pick in 0usize..9, is in any::<bool>(),
    ) {
        let basis = if is { Basis::AsIs } else { Basis::AsWas };
        let q = Question { basis, ..asked(from, length) };
        let asset = pick % snapshot.tree.len();
        let stops = stops(&snapshot, q);
        let mut hours = [0.0; 3];
        for hour in (from * 24..(from + length) * 24).map(hour) {
            if let Some(kind) = down(&snapshot, &stops, asset, hour, q) {
                hours[kind as usize] += 1.0;
            }
        }
        for (kind, indicator) in [I::UnplannedDowntime, I::PlannedDowntime, I::ExternalDowntime].into_iter().enumerate() {
            let ours = at(&snapshot, &[asset as i64 + 1], indicator, q)[0].value;
            prop_assert_eq!(ours, Some(hours[kind]), "{:?} of asset {}", indicator, asset + 1);
        }
    }

    /// Common practice: an hour of unplanned downtime costs what it costs at the highest asset that it puts down. Where only the whole
    /// costs something, that is what the whole is down.
    #[test]
    fn an_hour_that_the_whole_is_down_costs_what_it_costs_there(
        snapshot in plants(true), from in 0i64..60, length in 1i64..20, is in any::<bool>(),
    ) {
        let basis = if is { Basis::AsIs } else { Basis::AsWas };
        let q = Question { basis, ..asked(from, length) };
        let down_hour = [(0, Dated::of(vec![(Instant::EARLIEST, Some(700))]))].into();
        let snapshot = Snapshot { worth: Worth { down_hour, ..Worth::default() }.into(), ..snapshot };
        let stops = stops(&snapshot, q);
        let hours = (from * 24..(from + length) * 24).map(hour);
        let down = hours.filter(|hour| down(&snapshot, &stops, 0, *hour, q) == Some(DowntimeKind::Unplanned)).count();
        prop_assert_eq!(at(&snapshot, &[1], I::DowntimeCost, q)[0].value, Some(700.0 * down as f64));
    }

    /// SMRP 3.5.1 (from memory): a critical failure counts on what failed, and upwards as long as each puts down the next: always,
    /// or when too few of its group are up at that time.
    #[test]
    fn a_failure_counts_for_all_that_it_puts_down(
        snapshot in plants(true), from in 0i64..60, length in 1i64..40, is in any::<bool>(),
    ) {
        let basis = if is { Basis::AsIs } else { Basis::AsWas };
        let q = Question { basis, ..asked(from, length) };
        let (tree, stops) = (&snapshot.tree, stops(&snapshot, q));
        let mut of_asset: Vec<Vec<i64>> = vec![Vec::new(); tree.len()];
        let is_counted = |failure: &FailureFact| {
            let dropped = snapshot.works.get((failure.work,)).is_some_and(|work| work.state == Dropped);
            failure.effect == Effect::Critical && q.period.contains(failure.at) && !dropped
        };
        for failure in snapshot.failures.rows().filter(is_counted) {
            let mut below = failure.asset as usize;
            of_asset[below].push(failure.id.0);
            for above in tree.line_at(below, q.tree_at(failure.at)).skip(1).collect::<Vec<_>>() {
                let puts_down = match tree.effect_at(below, failure.at) {
                    ParentEffect::Yes => true,
                    ParentEffect::No => false,
                    ParentEffect::Group { .. } => down(&snapshot, &stops, above, failure.at, q).is_some(),
                };
                if !puts_down || !tree.node(above).life.contains(failure.at) {
                    break;
                }
                of_asset[above].push(failure.id.0);
                below = above;
            }
        }
        for (asset, theirs) in (1i64..).zip(&mut of_asset) {
            let why = why(&snapshot, AssetId(asset), I::Mtbf, q).unwrap();
            let mut ours: Vec<i64> = why.parts[0].rows.iter().map(|row| row.id).collect();
            ours.sort_unstable();
            theirs.sort_unstable();
            prop_assert_eq!(&ours, &*theirs, "of asset {}", asset);
        }
    }
}
