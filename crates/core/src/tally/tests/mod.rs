//! The tally on a small plant: worked examples, and properties against counting the slow way.

mod changed;
mod down;
mod held;
mod properties;
mod worked;

use super::*;
use crate::{
    codes::failures::Effect,
    facts::{
        Added, AsOf, Changed, Dated, DowntimeFact, EntryFact, FailureFact, Life, MoveFact, OfWork, RunningCounter,
        STOP, Snapshot, StepFact, WorkFact, Worth,
    },
    ground::{
        ids::{AssetId, CodeId, DowntimeId, EntryId, FailureId, MeterId, PersonId, WorkOrderId},
        money::Cents,
        time::{DAY, HOUR, Instant, Span},
    },
    plant::{
        assets::{Basis, EffectSpan, Node, ParentEffect, Placement, Tree},
        downtime::DowntimeKind,
    },
    tally::indicators::{Figure, Indicator as I},
    work::{SourceWord, StateLimit, WorkKind, WorkState, entries::EntryKind},
};
use proptest::prelude::*;
use std::collections::BTreeMap;

fn day(n: i64) -> Instant {
    Instant::from_ms(n * DAY)
}

fn hour(n: i64) -> Instant {
    Instant::from_ms(n * HOUR)
}

fn node(id: i64, parents: &[(i64, Instant)]) -> Node {
    let placements = parents.iter().enumerate().map(|(i, &(parent, from))| Placement {
        parent: (parent > 0).then_some(AssetId(parent)),
        from,
        to: parents.get(i + 1).map_or(Instant::LATEST, |next| next.1),
    });
    Node {
        id: AssetId(id),
        placements: placements.collect(),
        effects: vec![EffectSpan { effect: ParentEffect::Yes, from: Instant::EARLIEST, to: Instant::LATEST }],
        life: Span::ALWAYS,
    }
}

/// Site 1, unit 2, system 3, equipment 4, sub-equipment 5, assembly 6, part 7: a line six levels down.
fn line() -> Snapshot {
    let early = Instant::EARLIEST;
    let nodes = (1..=7).map(|id| node(id, &[(id - 1, early)])).collect();
    of_tree(nodes)
}

/// The same line; only the part 7 does not put down what it is part of.
fn line_whose_part_puts_nothing_down() -> Snapshot {
    let mut nodes: Vec<Node> = (1..=7).map(|id| node(id, &[(id - 1, Instant::EARLIEST)])).collect();
    nodes[6].effects[0].effect = ParentEffect::No;
    of_tree(nodes)
}

fn of_tree(nodes: Vec<Node>) -> Snapshot {
    let mut snapshot = Snapshot { tree: Tree::new(nodes).into(), ..Snapshot::default() };
    snapshot.plant_changed();
    snapshot
}

/// Assets have the ids 1, 2, 3 …, in that order.
fn index(asset: i64) -> u32 {
    u32::try_from(asset - 1).unwrap()
}

fn entry(id: i64, asset: i64, work: i64, kind: EntryKind, cents: i64, settled_at: Instant) -> EntryFact {
    EntryFact {
        id: EntryId(id),
        asset: index(asset),
        work: WorkOrderId(work),
        kind,
        at: day(10),
        cost: Cents(cents),
        quantity: 0,
        settled_at,
        recorded_at: day(10),
        person: None,
        item: None,
        supplier: None,
    }
}

fn downtime(id: i64, asset: i64, kind: DowntimeKind, start: Instant, end: Instant) -> DowntimeFact {
    let (id, asset) = (DowntimeId(id), index(asset));
    DowntimeFact { id, asset, work: None, kind, start, end, share: STOP, recorded_at: start }
}

fn failure(id: i64, asset: i64, at: Instant, effect: Effect) -> FailureFact {
    FailureFact {
        id: FailureId(id),
        asset: index(asset),
        work: WorkOrderId(id),
        at,
        effect,
        problem: None,
        cause: None,
        remedy: None,
        coded_at: None,
        recorded_at: at,
    }
}

/// A work order with its way through the states.
fn put_work(snapshot: &mut Snapshot, number: i64, asset: i64, estimated_ms: Option<i64>, way: &[(Instant, WorkState)]) {
    let (raised_at, (state_since, state)) = (way[0].0, *way.last().unwrap());
    let work = WorkFact {
        number: WorkOrderId(number),
        asset: index(asset),
        kind: WorkKind::CorrectiveDeferred,
        source: SourceWord::Person,
        source_severity: None,
        raised_at,
        raised_by: PersonId(1),
        recorded_at: raised_at,
        rank: 3,
        window_end: raised_at,
        target_start: None,
        target_finish: None,
        scheduled_start: None,
        scheduled_end: None,
        crew: None,
        department: None,
        assignee: None,
        asked: None,
        estimated_ms,
        state,
        state_since,
        waiting_for: None,
        expected_until: None,
        verdict: None,
        spent_ms: 0,
        cost: Cents(0),
        done_at: Instant::LATEST,
        until: Instant::LATEST,
        changed: false,
        coded: false,
    };
    let moves = way.iter().zip(0u16..).map(|((at, to), step)| MoveFact {
        work: WorkOrderId(number),
        step,
        at: *at,
        to: *to,
        waiting_for: None,
        recorded_at: *at,
    });
    snapshot.change_works(vec![(number, Some(work))], OfWork { moves: moves.collect(), ..OfWork::default() });
}

/// Hours of labour are spent on an order, which knows the sum of them.
fn spend(snapshot: &mut Snapshot, entry: EntryFact) {
    let work = snapshot.works.get((entry.work,)).unwrap();
    snapshot.works.put(WorkFact { spent_ms: work.spent_ms + entry.quantity, ..work });
    snapshot.change_entries(vec![(entry.id.0, Some(entry))]);
}

fn step(work: i64, place: u16, asset: Option<u32>, hours_ms: i64, settled_on: Option<i64>) -> StepFact {
    StepFact { work: WorkOrderId(work), place, asset, hours_ms, settled_at: settled_on.map_or(Instant::LATEST, day) }
}

fn all<R>(rows: impl IntoIterator<Item = R>, id: impl Fn(&R) -> i64) -> Vec<Changed<R>> {
    rows.into_iter().map(|row| (id(&row), Some(row))).collect()
}

fn dated_in(snapshot: &Snapshot, period: Span) -> Vec<EntryFact> {
    snapshot.entries.rows().filter(|entry| period.contains(entry.at)).collect()
}

fn year() -> Question {
    Question { period: Span::new(day(0), day(365)).unwrap(), now: day(100), basis: Basis::AsWas }
}

fn at(snapshot: &Snapshot, assets: &[i64], indicator: I, q: Question) -> Vec<Figure> {
    let assets: Vec<AssetId> = assets.iter().copied().map(AssetId).collect();
    figures(snapshot, &assets, &[indicator], q).into_iter().map(|row| row[0]).collect()
}

// Common practice, no published source: 7.5 h at 48.00, tools 22.50, materials 131.85 on the part (514.35); 3 h at 52.00
// and a service of 640.00 on a system two levels above it (796.00).
#[test]
fn cost_rolls_up_to_every_ancestor_once() {
    let facts = |settled| {
        [
            entry(1, 7, 1, EntryKind::Labour, 36_000, settled),
            entry(2, 7, 1, EntryKind::Tool, 2_250, settled),
            entry(3, 7, 1, EntryKind::Material, 13_185, settled),
            entry(4, 5, 2, EntryKind::Labour, 15_600, settled),
            entry(5, 5, 2, EntryKind::Service, 64_000, settled),
        ]
    };
    let mut snapshot = line();
    let expected = [131_035, 131_035, 131_035, 131_035, 131_035, 51_435, 51_435];
    let money = |figures: Vec<Figure>| -> Vec<(Option<i64>, Option<i64>)> {
        figures.into_iter().map(|f| (f.settled, f.provisional)).collect()
    };
    for (settled_at, settled) in [(Instant::LATEST, false), (day(11), true)] {
        snapshot.change_entries(all(facts(settled_at), |e| e.id.0));
        for indicator in [I::CostTotal, I::CostYtd, I::CostLife] {
            let found = money(at(&snapshot, &[1, 2, 3, 4, 5, 6, 7], indicator, year()));
            let expected: Vec<_> =
                expected.iter().map(|&c| if settled { (Some(c), Some(0)) } else { (Some(0), Some(c)) }).collect();
            assert_eq!(found, expected, "{indicator:?}, settled: {settled}");
        }
    }
    assert_eq!(snapshot.entries.len(), 5, "a changed row stands in the old one's place");
}

#[test]
fn a_move_leaves_past_figures_of_the_old_parent_as_they_were() {
    let early = Instant::EARLIEST;
    let nodes = vec![node(1, &[(0, early)]), node(2, &[(1, early)]), node(3, &[(1, early)]), node(4, &[(2, early)])];
    let moved_nodes = {
        let mut nodes = nodes.clone();
        nodes[3] = node(4, &[(2, early), (3, day(50))]);
        nodes
    };
    let entries = |snapshot: &mut Snapshot| {
        let mut late = entry(2, 4, 1, EntryKind::Tool, 700, Instant::LATEST);
        late.at = day(60);
        let both = [entry(1, 4, 1, EntryKind::Tool, 100, Instant::LATEST), late];
        snapshot.change_entries(all(both, |e| e.id.0));
    };
    let mut still = of_tree(nodes);
    let mut moved = of_tree(moved_nodes);
    entries(&mut still);
    entries(&mut moved);
    let values = |snapshot: &Snapshot, basis| -> Vec<f64> {
        let q = Question { basis, ..year() };
        at(snapshot, &[1, 2, 3, 4], I::CostTotal, q).iter().filter_map(|f| f.value).collect()
    };
    assert_eq!(values(&still, Basis::AsWas), [800.0, 800.0, 0.0, 800.0]);
    assert_eq!(values(&moved, Basis::AsWas), [800.0, 100.0, 700.0, 800.0]);
    assert_eq!(values(&moved, Basis::AsIs), [800.0, 0.0, 800.0, 800.0]);
}

#[test]
fn availability_mtbf_and_mttr_of_a_worked_example() {
    // 100 days required around the clock: 2,400 h. Two critical failures, 30 h and 10 h, overlapped by 5 h of planned
    // downtime of which 3 h lie in the first; external 20 h.
    let mut snapshot = line();
    let down = |id, kind, from, to| DowntimeFact {
        work: (kind == DowntimeKind::Unplanned).then_some(WorkOrderId(id)),
        ..downtime(id, 4, kind, hour(from), hour(to))
    };
    let rows = [
        down(1, DowntimeKind::Unplanned, 100, 130),
        down(2, DowntimeKind::Unplanned, 500, 510),
        down(3, DowntimeKind::Planned, 127, 132),
        down(4, DowntimeKind::External, 700, 720),
    ];
    snapshot.change_downtimes(all(rows, |down| down.id.0));
    let failed = |id, at, effect| failure(id, 4, hour(at), effect);
    let rows = [failed(1, 100, Effect::Critical), failed(2, 500, Effect::Critical), failed(3, 600, Effect::Incipient)];
    snapshot.change_failures(all(rows, |failure| failure.id.0));
    let one = |indicator| at(&snapshot, &[2], indicator, year())[0];
    assert_eq!(one(I::UnplannedDowntime).value, Some(40.0));
    assert_eq!(one(I::PlannedDowntime).value, Some(2.0), "3 of 5 h were unplanned already");
    assert_eq!(one(I::ExternalDowntime).value, Some(20.0));
    assert_eq!(one(I::Availability).value, Some((2400.0 - 20.0 - 40.0 - 2.0) / (2400.0 - 20.0)));
    assert_eq!((one(I::Failures).value, one(I::Failures).incipient), (Some(2.0), Some(1)));
    assert_eq!(one(I::Mtbf).value, Some((2400.0 - 62.0) / 2.0));
    assert_eq!(one(I::Mttr).value, Some(20.0));
    let below = at(&snapshot, &[5], I::Mtbf, year())[0];
    assert_eq!((below.value, below.at_least), (None, Some(2400.0)), "none in 2,400 h is a lower bound");
    let trace = why(&snapshot, AssetId(2), I::PlannedDowntime, year()).unwrap();
    let row = &trace.parts[0].rows[0];
    assert_eq!((row.amount, row.whole), (2 * HOUR, Some(5 * HOUR)), "the row says what the overlap took");
}

#[test]
fn open_work_is_rebuilt_as_of_any_instant() {
    let mut snapshot = line();
    let way = [
        (day(5), WorkState::Raised),
        (day(20), WorkState::Done),
        (day(25), WorkState::UnderWay),
        (day(30), WorkState::Done),
    ];
    put_work(&mut snapshot, 1, 7, Some(8 * HOUR), &way);
    put_work(&mut snapshot, 2, 7, None, &[(day(12), WorkState::Raised), (day(18), WorkState::Dropped)]);
    let without = |end| {
        let q = Question { period: Span::new(day(0), day(end)).unwrap(), ..year() };
        at(&snapshot, &[1], I::OpenWithoutEstimate, q)[0].value
    };
    assert_eq!((without(8), without(15), without(19)), (Some(0.0), Some(1.0), Some(0.0)));
    snapshot.change_works(vec![(2, None)], OfWork::default());
    let spent = EntryFact { quantity: 3 * HOUR, ..entry(1, 7, 1, EntryKind::Labour, 100, Instant::LATEST) };
    spend(&mut snapshot, spent);
    let asked = |end| {
        let q = Question { period: Span::new(day(0), day(end)).unwrap(), ..year() };
        (at(&snapshot, &[1], I::OpenWork, q)[0].value, at(&snapshot, &[1], I::OpenHours, q)[0].value)
    };
    assert_eq!(asked(5), (Some(0.0), Some(0.0)), "raised when the period is over");
    assert_eq!(asked(8), (Some(1.0), Some(8.0)), "nothing spent before day 10");
    assert_eq!(asked(15), (Some(1.0), Some(5.0)));
    assert_eq!(asked(23), (Some(0.0), Some(0.0)), "done");
    assert_eq!(asked(28), (Some(1.0), Some(5.0)), "rework");
    assert_eq!(asked(60), (Some(0.0), Some(0.0)));
    let to_date = Question { period: Span::new(day(0), day(5)).unwrap(), now: day(5), ..year() };
    assert_eq!(at(&snapshot, &[1], I::OpenWork, to_date)[0].value, Some(1.0), "raised at this very moment");
}

/// By hand: of 10 estimated hours 4 are a step on asset 6, 4 one on asset 7 and 2 no step, so on asset 5 of the order. Two hours are
/// spent on day 10, so 8 are left: 3.2, 3.2 and 1.6. When the step on 7 is done (day 20) 8 are left for 4 and 2: 5.33 and 2.67.
#[test]
fn open_hours_lie_at_the_assets_of_open_steps() {
    let mut snapshot = line();
    put_work(&mut snapshot, 1, 5, Some(10 * HOUR), &[(day(5), WorkState::Ready), (day(40), WorkState::Done)]);
    snapshot.steps.put(step(1, 0, Some(index(6)), 4 * HOUR, None));
    snapshot.steps.put(step(1, 1, Some(index(7)), 4 * HOUR, Some(20)));
    let spent = EntryFact { quantity: 2 * HOUR, ..entry(1, 5, 1, EntryKind::Labour, 100, Instant::LATEST) };
    spend(&mut snapshot, spent);
    let until = |end| Question { period: Span::new(day(0), day(end)).unwrap(), ..year() };
    let asked = |end| {
        let own = |asset: i64| {
            let found = why(&snapshot, AssetId(1), I::OpenHours, until(end)).unwrap();
            let rows = found.parts[0].rows.iter().filter(move |row| row.asset == AssetId(asset));
            rows.map(|row| row.amount).sum::<i64>()
        };
        [5, 6, 7].map(own)
    };
    assert_eq!(asked(8), [2 * HOUR, 4 * HOUR, 4 * HOUR]);
    assert_eq!(asked(15), [8 * HOUR / 5, 16 * HOUR / 5, 16 * HOUR / 5]);
    assert_eq!(asked(30), [8 * HOUR / 3, 16 * HOUR / 3, 0]);
    assert_eq!(asked(50), [0, 0, 0], "done");
    let values =
        |indicator| at(&snapshot, &[5, 7], indicator, until(15)).iter().map(|figure| figure.value).collect::<Vec<_>>();
    // The tree from asset 5 down has all of it; the order itself counts where it is.
    assert_eq!(values(I::OpenHours), [Some(8.0), Some(3.2)]);
    assert_eq!(values(I::OpenWork), [Some(1.0), Some(0.0)]);
    let then = snapshot.as_of(AsOf { at: day(15), known: Instant::LATEST });
    assert_eq!(then.steps_of(WorkOrderId(1)).map(|step| step.settled_at).collect::<Vec<_>>(), [Instant::LATEST; 2]);
}

fn counter(meter: i64, readings: &[(i64, f64)], until: Option<i64>) -> RunningCounter {
    RunningCounter {
        meter: MeterId(meter),
        readings: readings.iter().map(|&(on, hours)| (day(on), hours)).collect(),
        last: None,
        revised: 0,
        until: until.map_or(Instant::LATEST, day),
    }
}

/// By hand: the first counter runs 10 hours a day and is retired on day 30, though it was read until day 40; the second,
/// begun on day 20, runs 5 a day. Days 0 to 30 are the first's, the rest the second's, whichever was put first.
#[test]
fn a_counter_and_its_successor_count_one_after_the_other() {
    let first = || counter(7, &[(0, 0.0), (40, 400.0)], Some(30));
    let second = || counter(3, &[(20, 0.0), (60, 200.0)], None);
    for order in [[first(), second()], [second(), first()]] {
        let mut snapshot = line();
        order.into_iter().for_each(|one| snapshot.put_running(index(4), one));
        let hours = |from, to| {
            snapshot.running_ms(index(4), Span::new(day(from), day(to)).unwrap()).map(|(ms, _)| ms as f64 / HOUR as f64)
        };
        assert_eq!(hours(0, 60), Some(300.0 + 150.0));
        assert_eq!(hours(25, 35), Some(50.0 + 25.0));
        assert_eq!(hours(70, 80), None);
        snapshot.remove_running(MeterId(3));
        let left = snapshot.running_ms(index(4), Span::new(day(0), day(60)).unwrap());
        assert_eq!(left.map(|(ms, _)| ms / HOUR), Some(300), "a flag taken off counts no more");
    }
}

#[test]
fn a_running_hours_counter_goes_before_the_calendar() {
    let mut snapshot = line();
    snapshot.put_running(index(4), counter(1, &[(0, 0.0), (50, 300.0), (100, 800.0)], None));
    let half = Question { period: Span::new(day(25), day(75)).unwrap(), ..year() };
    // 150 h to day 50 and half of 500 h after it; no failure, so a lower bound.
    assert_eq!(at(&snapshot, &[4], I::Mtbf, half)[0].at_least, Some(400.0));
    assert_eq!(at(&snapshot, &[3], I::Mtbf, half)[0].at_least, Some(1200.0));
}

/// indicators.md: a counter fitted on day 70 ran 20 hours by day 90, which is now; before it, and where it is not read yet, required
/// time less downtime stands in: all of 80 days, less 10 hours.
#[test]
fn where_a_counter_does_not_reach_required_time_less_downtime_stands_in() {
    let mut snapshot = line();
    snapshot.put_running(index(4), counter(1, &[(70, 0.0), (80, 20.0)], None));
    let down = downtime(1, 4, DowntimeKind::Unplanned, day(10), day(10).plus(10 * HOUR));
    snapshot.change_downtimes(all([down], |down| down.id.0));
    snapshot.change_failures(all([failure(1, 4, day(10), Effect::Critical)], |failure| failure.id.0));
    let q = Question { period: Span::new(day(0), day(90)).unwrap(), now: day(90), ..year() };
    let expected = 20.0 + 80.0 * 24.0 - 10.0;
    assert_eq!(at(&snapshot, &[4], I::Mtbf, q)[0].value, Some(expected));
    let why = why(&snapshot, AssetId(4), I::Mtbf, q).unwrap();
    let said: Vec<(&str, f64)> = why.inputs.iter().map(|input| (input.name.as_str(), input.value)).collect();
    assert_eq!(said, [("Operating time", expected), ("By the counter", 20.0), ("By required time", expected - 20.0)]);
}

/// More than a part of them, of which some are missing at either end and in between.
#[test]
fn an_order_is_found_by_its_number_whatever_is_missing() {
    let mut snapshot = line();
    let numbers: Vec<i64> =
        (1_001..11_000).filter(|number| number % 977 != 0 && !(5_000..5_100).contains(number)).collect();
    for number in numbers.iter().rev() {
        put_work(&mut snapshot, *number, 1, None, &[(day(1), WorkState::Raised)]);
    }
    assert!(snapshot.works.parts().len() > 1);
    for number in 990..11_010u32 {
        let found = snapshot.works.order(number).map(|(part, place)| part.number[place]);
        let is_there = numbers.binary_search(&i64::from(number)).is_ok();
        assert_eq!(found, is_there.then_some(number));
    }
    assert!(Snapshot::default().works.order(1).is_none());
}
