//! Properties of figures, against counting the slow way.

use super::*;

fn pair(needs: u32) -> ParentEffect {
    ParentEffect::Group { name: "pair".into(), needs }
}

/// A random small plant: up to nine assets, some of which move once, with random facts. What has one number (an entry, a downtime,
/// a failure, an order) lies on one asset.
pub(super) fn plants(moves: bool) -> impl Strategy<Value = Snapshot> {
    let effects = prop_oneof![4 => Just(ParentEffect::Yes), 1 => Just(ParentEffect::No), 2 => (1u32..3).prop_map(pair)];
    let assets = prop::collection::vec((0usize..9, 0usize..9, 5i64..60, any::<bool>(), 0i64..120, effects), 1..9);
    let facts = prop::collection::vec((0usize..9, 0i64..80, 1i64..200, 0u8..3, any::<bool>()), 0..25);
    (assets, facts).prop_map(move |(assets, facts)| {
        // Parents always come earlier in the list, so that no ring can close.
        let nodes: Vec<Node> = assets
            .iter()
            .enumerate()
            .map(|(i, &(first, second, moved_on, does_move, lives, ref effect))| {
                let parent = |pick: usize| if i == 0 { 0 } else { (pick % i) as i64 + 1 };
                let mut places = vec![(parent(first), Instant::EARLIEST)];
                if moves && does_move && i > 0 {
                    places.push((parent(second), day(moved_on)));
                }
                // Some are commissioned late, some retired early, most always there.
                let life = match lives {
                    0..20 => Span::new(day(lives), Instant::LATEST),
                    20..60 => Span::new(Instant::EARLIEST, day(lives)),
                    _ => Ok(Span::ALWAYS),
                };
                let life = if moves { life.unwrap() } else { Span::ALWAYS };
                let effects = vec![EffectSpan { effect: effect.clone(), from: Instant::EARLIEST, to: Instant::LATEST }];
                Node { life, effects, ..node(i as i64 + 1, &places) }
            })
            .collect();
        let n = nodes.len();
        let mut snapshot = of_tree(nodes);
        // An hour of the first costs, and one of the fourth, if there is one, from day 30 on.
        let costs = [(0, Dated::of(vec![(Instant::EARLIEST, Some(700))])), (3, Dated::of(vec![(day(30), Some(50))]))];
        snapshot.worth = Worth { down_hour: costs.into(), ..Worth::default() }.into();
        snapshot.state_limits = vec![StateLimit::of(WorkState::Raised, 3)].into();
        let asset = |pick: usize| (pick % n) as i64 + 1;
        let rows = (0i64..).zip(&facts).map(|(id, &(pick, on, amount, kind, settled))| EntryFact {
            at: day(on),
            settled_at: if settled { day(on) } else { Instant::LATEST },
            ..entry(id, asset(pick), id, EntryKind::ALL[usize::from(kind)], amount, Instant::LATEST)
        });
        snapshot.change_entries(all(rows, |entry| entry.id.0));
        let rows = (0i64..).zip(&facts).map(|(id, &(pick, on, length, kind, open))| {
            let kinds = [DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External];
            let end = if open && length > 190 { Instant::LATEST } else { day(on).plus(length * HOUR) };
            let share = if length % 7 == 0 { STOP / 4 } else { STOP };
            let work = (length % 5 > 0).then_some(WorkOrderId(id));
            DowntimeFact { share, work, ..downtime(id, asset(pick), kinds[usize::from(kind)], day(on), end) }
        });
        snapshot.change_downtimes(all(rows, |down| down.id.0));
        let effects = [Effect::Critical, Effect::Degraded, Effect::Incipient];
        let rows = (0i64..).zip(&facts).map(|(id, &(pick, on, length, kind, _))| {
            let problem = (length % 3 > 0).then_some(CodeId(length % 3));
            FailureFact { problem, ..failure(id, asset(pick), day(on), effects[usize::from(kind)]) }
        });
        snapshot.change_failures(all(rows, |failure| failure.id.0));
        for (number, &(pick, on, length, _, done)) in (0i64..).zip(&facts) {
            let mut way = vec![(day(on), WorkState::Raised)];
            if done {
                way.push((day(on).plus(length * HOUR), WorkState::Done));
            }
            put_work(&mut snapshot, number, asset(pick), Some(length * HOUR), &way);
            // Of some, a third and a half of the hours are elsewhere.
            if moves && length % 3 == 0 {
                let elsewhere = |by: usize| Some(index(asset(pick + by)));
                snapshot.steps.put(step(number, 0, elsewhere(1), length * HOUR / 3, Some(on + 9)));
                snapshot.steps.put(step(number, 1, elsewhere(2), length * HOUR / 2, None));
            }
        }
        snapshot
    })
}

const ADDITIVE: [I; 14] = [
    I::CostTotal,
    I::CostLabour,
    I::CostLife,
    I::DowntimeCost,
    I::SlowedDowntime,
    I::Failures,
    I::RepeatFailures,
    I::OpenWork,
    I::OpenHours,
    I::OpenWithoutEstimate,
    I::PastWindow,
    I::OverStateLimit,
    I::Raised,
    I::Completed,
];
pub(super) const ALL: [I; 22] = [
    I::CostTotal,
    I::CostLabour,
    I::CostMaterial,
    I::CostService,
    I::CostTool,
    I::CostYtd,
    I::CostLife,
    I::UnplannedDowntime,
    I::PlannedDowntime,
    I::ExternalDowntime,
    I::Availability,
    I::Failures,
    I::Mtbf,
    I::Mttr,
    I::OpenWork,
    I::OpenHours,
    I::OpenWithoutEstimate,
    I::SlowedDowntime,
    I::RepeatFailures,
    I::PastWindow,
    I::Raised,
    I::Completed,
];

pub(super) fn asked(from: i64, length: i64) -> Question {
    Question { period: Span::new(day(from), day(from + length)).unwrap(), now: day(90), basis: Basis::AsWas }
}

/// What the rows of a why say the figure is, in the figure's own unit.
fn from_rows(why: &crate::tally::indicators::Why) -> Option<f64> {
    let hours = |ms: i64| ms as f64 / HOUR as f64;
    let total = |i: usize| why.parts.get(i).map_or(0, |part| part.total);
    let all: i64 = why.parts.iter().map(|part| part.total).sum();
    let required = why.inputs.first().map_or(0.0, |input| input.value);
    match why.indicator {
        I::Availability => {
            let base = required - hours(total(2));
            (base != 0.0).then(|| (base - hours(total(0)) - hours(total(1))) / base)
        }
        I::Mtbf => {
            let down: i64 = why.parts[1..].iter().map(|part| part.total).sum();
            (total(0) > 0).then(|| (required - hours(down)) / total(0) as f64)
        }
        I::SlowedDowntime => Some(hours(all)),
        I::Mttr => {
            let n = why.parts[0].rows.len();
            (n > 0).then(|| hours(all) / n as f64)
        }
        I::UnplannedDowntime | I::PlannedDowntime | I::ExternalDowntime | I::OpenHours => Some(hours(all)),
        _ => Some(all as f64),
    }
}

proptest! {
    #[test]
    fn a_parent_is_its_own_plus_its_children(snapshot in plants(false), from in 0i64..60, length in 1i64..40) {
        let q = asked(from, length);
        let n = snapshot.tree.len();
        let ids: Vec<i64> = (1..=n as i64).collect();
        for indicator in ADDITIVE {
            // What its own downtime comes to hangs on what else was down.
            if matches!(indicator, I::DowntimeCost | I::SlowedDowntime) {
                continue;
            }
            let totals: Vec<f64> = at(&snapshot, &ids, indicator, q).iter().map(|f| f.value.unwrap()).collect();
            for parent in 0..n {
                let children: f64 = snapshot.tree.children_at(parent, q.now).map(|child| totals[child]).sum();
                // Its own: the same question to a plant in which only this asset's facts happened.
                let mut alone = snapshot.clone();
                let mine = AssetId(parent as i64 + 1);
                let others = |assets: Vec<(i64, u32)>| assets.into_iter().filter(|(_, asset)| *asset != index(mine.0));
                let entries = others(alone.entries.rows().map(|e| (e.id.0, e.asset)).collect());
                // Labour of an order may stand on another asset; the estimate's rest looks at the order, so keep it equal.
                if indicator != I::OpenHours {
                    alone.change_entries(entries.map(|(id, _)| (id, None)).collect());
                }
                let failures = others(alone.failures.rows().map(|f| (f.id.0, f.asset)).collect());
                alone.change_failures(failures.map(|(id, _)| (id, None)).collect());
                let works = others(alone.works.rows().map(|w| (w.number.0, w.asset)).collect());
                alone.change_works(works.map(|(id, _)| (id, None)).collect(), OfWork::default());
                let own = at(&alone, &[mine.0], indicator, q)[0].value.unwrap();
                prop_assert!((totals[parent] - own - children).abs() < 1e-9, "{indicator:?} at {parent}: {} {own} {children}", totals[parent]);
            }
        }
    }

    /// What nobody asks for is not added up: what is asked for is the same with and without the rest.
    #[test]
    fn asked_alone_an_indicator_is_what_it_is_among_all(snapshot in plants(true), from in 0i64..60, length in 1i64..40) {
        let q = asked(from, length);
        let ids: Vec<AssetId> = (1..=snapshot.tree.len() as i64).map(AssetId).collect();
        let all: Vec<I> = crate::tally::indicators::CATALOGUE.iter().map(|definition| definition.id).collect();
        let together = figures(&snapshot, &ids, &all, q);
        for (place, one) in all.iter().enumerate() {
            let among: Vec<Figure> = together.iter().map(|row| row[place]).collect();
            let alone: Vec<Figure> = figures(&snapshot, &ids, &[*one], q).iter().map(|row| row[0]).collect();
            prop_assert_eq!(&alone, &among, "{:?}", one);
            let told = values(&snapshot, &[*one], q, None).remove(0);
            prop_assert_eq!(told, among.iter().map(|figure| figure.value).collect::<Vec<_>>(), "{:?}", one);
        }
    }

    /// Rows of a tally, with moves and retirements: below every row that is open, its own, the rows below it and what was
    /// formerly here add up to it. And the scope is what it is without rows.
    #[test]
    fn rows_add_up_to_the_scope(
        snapshot in plants(true), from in 0i64..60, length in 1i64..40, pick in 0usize..9, depth in 1u32..4, is in any::<bool>(),
        roots in any::<bool>(),
    ) {
        let basis = if is { Basis::AsIs } else { Basis::AsWas };
        let q = Question { basis, ..asked(from, length) };
        let asset = AssetId((pick % snapshot.tree.len()) as i64 + 1);
        let scope = Scope { asset: (!roots).then_some(asset), under: Way::default(), depth };
        let places = Places::new(&snapshot, scope, q).unwrap();
        for indicator in ADDITIVE {
            let rows: Vec<f64> =
                figures_of(&snapshot, &places, &[indicator], q).iter().map(|row| row[0].value.unwrap()).collect();
            for (place, row) in places.list().iter().enumerate() {
                let below: Vec<usize> =
                    (0..rows.len()).filter(|below| places.list()[*below].parent == Some(place)).collect();
                if !below.is_empty() {
                    let sum: f64 = below.iter().map(|below| rows[*below]).sum();
                    prop_assert!((sum - rows[place]).abs() < 1e-6, "{indicator:?} {row:?}: {sum} is not {}", rows[place]);
                }
            }
            let tops: f64 = (0..rows.len()).filter(|top| places.list()[*top].parent.is_none()).map(|top| rows[top]).sum();
            let whole = at(&snapshot, &[if roots { 1 } else { asset.0 }], indicator, q)[0].value.unwrap();
            prop_assert!((tops - whole).abs() < 1e-6, "{indicator:?}: {tops} is not {whole}");
        }
    }

    /// What a screen opens row by row is what one question for all levels says: each row of it, asked by itself with the way
    /// that leads to it, has the same figures, and the same rows below it.
    #[test]
    fn a_row_asked_by_itself_is_that_row(
        snapshot in plants(true), from in 0i64..60, length in 1i64..40, pick in 0usize..9, is in any::<bool>(),
        roots in any::<bool>(),
    ) {
        let basis = if is { Basis::AsIs } else { Basis::AsWas };
        let q = Question { basis, ..asked(from, length) };
        let id = |index: usize| snapshot.tree.node(index).id;
        let asset = (!roots).then_some(id(pick % snapshot.tree.len()));
        let whole = Places::new(&snapshot, Scope { asset, under: Way::default(), depth: 4 }, q).unwrap();
        let rows = figures_of(&snapshot, &whole, &ALL, q);
        let below = |places: &Places, parent: usize| -> Vec<usize> {
            (0..places.list().len()).filter(|place| places.list()[*place].parent == Some(parent)).collect()
        };
        for (place, row) in whole.list().iter().enumerate() {
            let (Some(index), true) = (whole.index(place), row.depth < 4) else { continue };
            let mut through: Vec<AssetId> =
                std::iter::successors(row.parent, |above| whole.list()[*above].parent).map(|above| id(whole.index(above).unwrap())).collect();
            through.reverse();
            let alone = Scope { asset: Some(id(index)), under: Way { through, from_root: roots }, depth: 1 };
            let places = Places::new(&snapshot, alone, q).unwrap();
            let found = figures_of(&snapshot, &places, &ALL, q);
            prop_assert_eq!(&found[0], &rows[place], "{:?}", row);
            prop_assert_eq!(&places.stood(&snapshot, q)[0], &whole.stood(&snapshot, q)[place]);
            let (one, other) = (below(&places, 0), below(&whole, place));
            let named = |places: &Places, at: &usize| (places.list()[*at].kind, places.index(*at));
            let ones: Vec<_> = one.iter().map(|at| (named(&places, at), found[*at].clone())).collect();
            let others: Vec<_> = other.iter().map(|at| (named(&whole, at), rows[*at].clone())).collect();
            prop_assert_eq!(ones, others);
        }
    }

    /// A row counted the slow way: entry by entry, whether its asset stood in that place at that instant. And every row's why
    /// has the rows that make it.
    #[test]
    fn a_row_is_what_happened_while_it_stood_there(
        snapshot in plants(true), from in 0i64..60, length in 1i64..40, pick in 0usize..9,
    ) {
        let q = asked(from, length);
        let scope = pick % snapshot.tree.len();
        let tree = &snapshot.tree;
        let asked = Scope { asset: Some(tree.node(scope).id), under: Way::default(), depth: 1 };
        let places = Places::new(&snapshot, asked, q).unwrap();
        let found = figures_of(&snapshot, &places, &[I::CostTotal, I::UnplannedDowntime], q);
        let in_period = dated_in(&snapshot, q.period);
        let line = |entry: &EntryFact| tree.line_at(entry.asset as usize, entry.at).collect::<Vec<_>>();
        for (place, row) in places.list().iter().enumerate() {
            let counts = |entry: &&EntryFact| {
                let line = line(entry);
                let Some(at) = line.iter().position(|index| *index == scope) else { return false };
                match (row.kind, row.parent) {
                    (PlaceKind::Own, _) => at == 0,
                    (PlaceKind::Asset, None) => true,
                    (PlaceKind::Asset, Some(_)) => at > 0 && Some(line[at - 1]) == places.index(place),
                    (PlaceKind::FormerlyHere, _) => {
                        let is_row = |index| (0..found.len()).any(|one| places.index(one) == Some(index));
                        at > 0 && !is_row(line[at - 1])
                    }
                }
            };
            let slow: i64 = in_period.iter().filter(counts).map(|entry| entry.cost.0).sum();
            prop_assert_eq!(found[place][0].value, Some(slow as f64), "{:?}", row);
            for indicator in ALL {
                let why = why_of(&snapshot, &places, place, indicator, q).unwrap();
                match (from_rows(&why), why.figure.value) {
                    (Some(rows), Some(figure)) => prop_assert!((rows - figure).abs() < 1e-9, "{indicator:?} {rows} {figure}"),
                    (_, None) => {}
                    (rows, figure) => prop_assert_eq!(rows, figure, "{:?}", indicator),
                }
            }
        }
        // A child's hours of downtime over the places it had are its hours while it stood below the scope.
        for child in (0..found.len()).filter(|place| places.list()[*place].parent == Some(0)) {
            let Some(index) = places.index(child) else { continue };
            let whole = at(&snapshot, &[tree.node(index).id.0], I::UnplannedDowntime, q)[0].value.unwrap();
            prop_assert!(found[child][1].value.unwrap() <= whole + 1e-9);
        }
    }

    #[test]
    fn an_event_counts_once_at_each_ancestor(snapshot in plants(true), from in 0i64..60, length in 1i64..40) {
        let q = asked(from, length);
        // Asset 1 is above everything at all times: its figure is the plain sum over all rows.
        let all: i64 = dated_in(&snapshot, q.period).iter().map(|e| e.cost.0).sum();
        prop_assert_eq!(at(&snapshot, &[1], I::CostTotal, q)[0].value, Some(all as f64));
        for (index, _) in (0..snapshot.tree.len()).enumerate() {
            let slow: i64 = dated_in(&snapshot, q.period).iter()
                .filter(|e| snapshot.tree.line_at(e.asset as usize, e.at).any(|above| above == index))
                .map(|e| e.cost.0).sum();
            prop_assert_eq!(at(&snapshot, &[index as i64 + 1], I::CostTotal, q)[0].value, Some(slow as f64));
        }
    }

    #[test]
    fn the_rows_of_a_why_make_the_figure(snapshot in plants(true), from in 0i64..60, length in 1i64..40, pick in 0usize..9) {
        let q = asked(from, length);
        let asset = AssetId((pick % snapshot.tree.len()) as i64 + 1);
        for indicator in ALL {
            let why = why(&snapshot, asset, indicator, q).unwrap();
            for part in &why.parts {
                prop_assert_eq!(part.total, part.rows.iter().map(|row| row.amount).sum::<i64>());
                prop_assert!(part.rows.iter().all(|row| row.amount >= 0 && row.whole.is_none_or(|whole| whole >= row.amount)), "{:?}", part);
            }
            match (from_rows(&why), why.figure.value) {
                (Some(rows), Some(figure)) => prop_assert!((rows - figure).abs() < 1e-9, "{indicator:?} {rows} {figure}"),
                (rows, figure) => prop_assert_eq!(rows, figure, "{:?}", indicator),
            }
        }
    }

    #[test]
    fn values_of_every_asset_are_their_figures(snapshot in plants(true), from in 0i64..60, length in 1i64..40) {
        let q = asked(from, length);
        let ids: Vec<AssetId> = (1..=snapshot.tree.len() as i64).map(AssetId).collect();
        let of_each = figures(&snapshot, &ids, &ALL, q);
        for (which, of_all) in values(&snapshot, &ALL, q, None).into_iter().enumerate() {
            prop_assert_eq!(of_all, of_each.iter().map(|row| row[which].value).collect::<Vec<_>>(), "{:?}", ALL[which]);
        }
    }

    #[test]
    fn as_was_is_as_is_when_nothing_moved(snapshot in plants(false), from in 0i64..60, length in 1i64..40) {
        let ids: Vec<AssetId> = (1..=snapshot.tree.len() as i64).map(AssetId).collect();
        let was = figures(&snapshot, &ids, &ALL, asked(from, length));
        let is = figures(&snapshot, &ids, &ALL, Question { basis: Basis::AsIs, ..asked(from, length) });
        prop_assert_eq!(was, is);
    }

    #[test]
    fn two_periods_that_meet_add_up_to_the_whole(snapshot in plants(true), from in 0i64..50, first in 1i64..20, second in 1i64..20) {
        for indicator in [
            I::CostTotal, I::CostMaterial, I::Failures, I::RepeatFailures, I::UnplannedDowntime, I::PlannedDowntime,
            I::ExternalDowntime, I::DowntimeCost, I::SlowedDowntime, I::Raised, I::Completed,
        ] {
            let value = |from, length| at(&snapshot, &[1, 2], indicator, asked(from, length))[0].value.unwrap();
            let (a, b, both) = (value(from, first), value(from + first, second), value(from, first + second));
            prop_assert!((a + b - both).abs() < 1e-6, "{indicator:?}: {a} + {b} is not {both}");
        }
    }
}

proptest! {
    /// What is kept of cost from the beginning to some instants is what going over the entries of any window adds up to; also once
    /// entries were settled one by one, and where assets were moved.
    #[test]
    fn what_is_kept_from_the_beginning_is_what_all_entries_come_to(
        mut snapshot in plants(true), start in 0i64..90, length in 1i64..110, mut cuts in prop::collection::vec(1i64..120, 0..5),
        entries in prop::collection::vec((1i64..8, 0i64..100, 1i64..500, any::<bool>()), 1..40),
    ) {
        cuts.sort_unstable();
        let cuts: Vec<Instant> = cuts.into_iter().map(day).collect();
        snapshot.life = Life::of(&snapshot.entries, &snapshot.tree, &cuts);
        for (id, (asset, at, cents, settles)) in (5_000i64..).zip(entries) {
            let asset = (asset - 1) % snapshot.tree.len() as i64 + 1;
            let entry = EntryFact { at: day(at), ..entry(id, asset, 1, EntryKind::Tool, cents, Instant::LATEST) };
            snapshot.change_entries(vec![(id, Some(entry))]);
            if settles {
                snapshot.change_entries(vec![(id, Some(EntryFact { settled_at: day(99), ..entry }))]);
            }
        }
        let mut kept: BTreeMap<(u32, usize), i64> = BTreeMap::new();
        let add = |asset, _, added| match added {
            Added::One(cell, amount) => *kept.entry((asset, cell)).or_default() += amount,
            Added::All(cells) => (0..).zip(cells).for_each(|(cell, amount)| *kept.entry((asset, cell)).or_default() += amount),
        };
        let window = Span::new(if start == 0 { Instant::EARLIEST } else { day(start) }, day(start + length)).unwrap();
        let all = (0..snapshot.tree.len()).collect();
        let ends = snapshot.life.ends(&snapshot.entries, window);
        let is_kept = snapshot.life.between(&snapshot.entries, &snapshot.tree, (ends, day(200)), &all, add);
        prop_assert!(is_kept, "it is for this tree, and nothing was settled since");
        kept.retain(|_, amount| *amount != 0);
        let mut wanted: BTreeMap<(u32, usize), i64> = BTreeMap::new();
        for entry in snapshot.entries.rows().filter(|entry| window.contains(entry.at)) {
            *wanted.entry((entry.asset, crate::facts::cell(entry.kind, entry.settled_at <= day(200)))).or_default() += entry.cost.0;
        }
        wanted.retain(|_, amount| *amount != 0);
        prop_assert_eq!(kept, wanted);
    }
}
