//! Figures worked out by hand, each with its definition as it is recalled (EN 15341, SMRP, ISO 14224, IEC 62682: from memory).

use super::*;
use crate::{
    facts::{AlarmFact, AsOf, CycleFact, FieldsFact},
    ground::{
        ids::{AlarmId, CrewId, CycleId, MeterId, PlanId},
        severity::Severity,
    },
    watch::alarms::{AlarmKind, ResponseGiven},
    work::{Verdict, plans::CycleOutcome},
};

fn value(snapshot: &Snapshot, asset: i64, indicator: I, q: Question) -> Option<f64> {
    at(snapshot, &[asset], indicator, q)[0].value
}

/// An order with some fields of its own.
pub(super) fn put(
    snapshot: &mut Snapshot,
    number: i64,
    way: &[(Instant, WorkState)],
    change: impl Fn(WorkFact) -> WorkFact,
) {
    put_work(snapshot, number, 7, None, way);
    let work = change(snapshot.works.get((WorkOrderId(number),)).unwrap());
    let moves = snapshot.way(work.number).zip(0u16..).map(|((at, to), step)| MoveFact {
        work: work.number,
        step,
        at,
        to,
        waiting_for: None,
        recorded_at: at,
    });
    let moves = moves.collect();
    snapshot.change_works(vec![(number, Some(work))], OfWork { moves, ..OfWork::default() });
}

/// SMRP 5.4.1, EN 15341 (O group): of ten orders completed eight are preventive by number; by hours they are 16 of 36.
#[test]
fn preventive_by_number_and_by_hours_differ_and_both_are_right() {
    use WorkKind::{ConditionBased, CorrectiveDeferred, CorrectiveImmediate, Inspection, Predetermined};
    let mut snapshot = line();
    let kinds = [
        Inspection,
        Inspection,
        Inspection,
        Predetermined,
        Predetermined,
        Predetermined,
        ConditionBased,
        ConditionBased,
    ];
    let all = kinds.iter().map(|kind| (*kind, 2)).chain([(CorrectiveDeferred, 8), (CorrectiveImmediate, 12)]);
    for (number, (kind, hours)) in (1..).zip(all) {
        let way = [(day(1), WorkState::Raised), (day(5), WorkState::Done)];
        put(&mut snapshot, number, &way, |work| WorkFact { kind, spent_ms: hours * HOUR, ..work });
        let labour =
            EntryFact { quantity: hours * HOUR, ..entry(number, 7, number, EntryKind::Labour, 100, Instant::LATEST) };
        snapshot.change_entries(vec![(number, Some(labour))]);
    }
    put(&mut snapshot, 11, &[(day(50), WorkState::Raised)], |work| work);
    let one = |indicator| value(&snapshot, 1, indicator, year());
    assert_eq!((one(I::Raised), one(I::Completed)), (Some(11.0), Some(10.0)));
    assert_eq!(one(I::PreventiveCountShare), Some(0.8));
    assert_eq!(one(I::PreventiveHoursShare), Some(16.0 / 36.0));
    assert_eq!(one(I::PreventiveRaisedShare), Some(8.0 / 11.0), "the corrective one of day 50 is raised, not done");
    assert_eq!(one(I::ReactiveShare), Some(12.0 / 36.0));
    assert_eq!(one(I::PlanCompliance), None, "no base where nothing was due");
    let early = Question { period: Span::new(day(60), day(70)).unwrap(), ..year() };
    assert_eq!(value(&snapshot, 1, I::PreventiveCountShare, early), None, "nothing was completed: no base");
}

/// SMRP 5.4.14 (from memory): of five cycles that were due two were done in time, one of them on the last day of its grace; one was
/// late, one was missed, one was not done and has no time left. One more still has time, another is of the time before.
#[test]
fn plans_are_kept_by_what_was_done_in_time() {
    let mut snapshot = line();
    let done = |on| vec![(day(20), WorkState::Raised), (day(on), WorkState::Done)];
    for (number, way) in [(1, done(40)), (2, done(54)), (3, done(71)), (5, vec![(day(80), WorkState::Raised)])] {
        put_work(&mut snapshot, number, 7, None, &way);
    }
    put_work(&mut snapshot, 6, 7, None, &[(day(195), WorkState::Raised)]);
    put_work(&mut snapshot, 7, 7, None, &done(30));
    let cycle = |id, due, work: Option<i64>| CycleFact {
        id: CycleId(id),
        plan: PlanId(1),
        asset: snapshot.tree.index(AssetId(7)).unwrap() as u32,
        due: day(due),
        in_time_until: day(due + 5),
        outcome: if work.is_some() { CycleOutcome::Raised } else { CycleOutcome::Missed },
        work: work.map(WorkOrderId),
        recorded_at: day(due),
    };
    let cycles = [
        cycle(1, 41, Some(1)),
        cycle(2, 50, Some(2)),
        cycle(3, 60, Some(3)),
        cycle(4, 65, None),
        cycle(5, 90, Some(5)),
        cycle(6, 198, Some(6)),
        cycle(7, 30, Some(7)),
    ];
    snapshot.change_cycles(cycles.map(|cycle| (cycle.id.0, Some(cycle))).to_vec());
    let q = Question { period: Span::new(day(40), day(300)).unwrap(), now: day(200), basis: Basis::AsWas };
    assert_eq!(value(&snapshot, 1, I::PlanCompliance, q), Some(2.0 / 5.0));
    let why = why(&snapshot, AssetId(1), I::PlanCompliance, q).unwrap();
    let rows = |part: usize| why.parts[part].rows.iter().map(|row| row.id).collect::<Vec<_>>();
    assert_eq!((rows(0), rows(1)), (vec![1, 2, 3, 4, 5], vec![1, 2]));
    // As of the day before the second was done.
    let then = snapshot.as_of(AsOf { at: day(53), known: Instant::LATEST });
    assert_eq!(value(&then, 1, I::PlanCompliance, Question { now: day(53), ..q }), Some(1.0));
}

/// SMRP 5.4.6 and 5.4.7: ages of 2, 10, 40 and 190 days have their median at 25; cycles of 1, 2 and 9 days theirs at 2.
#[test]
fn ages_and_cycles_are_told_by_their_middle() {
    let mut snapshot = line();
    for (number, age) in (1..).zip([2, 10, 40, 190]) {
        put_work(&mut snapshot, number, 7, None, &[(day(200 - age), WorkState::Raised)]);
    }
    let q = Question { period: Span::new(day(0), day(300)).unwrap(), now: day(200), basis: Basis::AsWas };
    let age = at(&snapshot, &[1], I::Age, q)[0];
    assert_eq!((age.value, age.bands), (Some(25.0), Some([1, 1, 1, 0, 1])));
    // Type 7 of Hyndman and Fan: 0.9 of the way from the first to the last is 0.7 of the way from 40 to 190.
    assert!((age.ninth.unwrap() - 145.0).abs() < 1e-9);
    for (number, length) in (10..).zip([1, 2, 9]) {
        put_work(
            &mut snapshot,
            number,
            7,
            None,
            &[(day(100), WorkState::Raised), (day(100 + length), WorkState::Done)],
        );
    }
    let cycle = at(&snapshot, &[7], I::CycleTime, q)[0];
    assert_eq!((cycle.value, cycle.bands), (Some(2.0), None));
    assert_eq!(at(&snapshot, &[2], I::Age, Question { now: day(5), ..q })[0].value, None, "nothing open then");
}

/// SMRP 5.4.8, 5.4.9. Crew 1 works 100 h a week and spent 30 of its 40 h below asset 6; crew 2 works 40 h and spent all elsewhere.
/// Below 6 it has 75 h a week: 150 h to do are two weeks, 37.5 h of them ready half a week.
#[test]
fn a_backlog_in_weeks_is_by_the_crews_share_of_hours() {
    let mut snapshot = line();
    let weekly = |hours: i64| Dated::of(vec![(Instant::EARLIEST, Some(hours * HOUR))]);
    snapshot.worth =
        Worth { weekly_ms: [(CrewId(1), weekly(100)), (CrewId(2), weekly(40))].into(), ..Worth::default() }.into();
    for (number, asset, crew, hours) in [(1, 6, 1, 30), (2, 5, 1, 10), (3, 5, 2, 7)] {
        let way = [(day(5), WorkState::Raised), (day(9), WorkState::Done)];
        put(&mut snapshot, number, &way, |work| WorkFact { crew: Some(CrewId(crew)), asset: index(asset), ..work });
        let labour =
            EntryFact { quantity: hours * HOUR, ..entry(number, asset, number, EntryKind::Labour, 1, Instant::LATEST) };
        snapshot.change_entries(vec![(number, Some(labour))]);
    }
    let open = |number, state, ms| (number, state, ms);
    for (number, state, minutes) in [open(10, WorkState::Planning, 6_750), open(11, WorkState::Ready, 2_250)] {
        put(&mut snapshot, number, &[(day(20), WorkState::Raised), (day(21), state)], |work| WorkFact {
            estimated_ms: Some(minutes * HOUR / 60),
            ..work
        });
    }
    let close = |found: Option<f64>, wanted: f64| assert!((found.unwrap() - wanted).abs() < 1e-6, "{found:?} {wanted}");
    close(value(&snapshot, 6, I::BacklogWeeks, year()), 2.0);
    close(value(&snapshot, 6, I::ReadyWeeks, year()), 0.5);
    // Everything: 140 h a week.
    close(value(&snapshot, 1, I::BacklogWeeks, year()), 150.0 / 140.0);
    let why = why(&snapshot, AssetId(6), I::BacklogWeeks, year()).unwrap();
    let total = |name: &str| why.parts.iter().find(|part| part.name == name).unwrap().total;
    assert_eq!((total("Weekly capacity"), total("Hours still to do")), (75 * HOUR, 150 * HOUR));
    assert_eq!(value(&snapshot, 6, I::BacklogWeeks, Question { now: day(1), ..year() }), None, "no hours, no base");
    // The second order was crew 2's all along: crew 1 spent all of its hours below asset 6, which has its 100 h a week.
    let way = [(day(5), WorkState::Raised), (day(9), WorkState::Done)];
    put(&mut snapshot, 2, &way, |work| WorkFact { crew: Some(CrewId(2)), asset: index(5), ..work });
    close(value(&snapshot, 6, I::BacklogWeeks, year()), 1.5);
    // It spent as many again elsewhere: half of its week is left.
    let more = EntryFact { quantity: 30 * HOUR, ..entry(20, 5, 1, EntryKind::Labour, 1, Instant::LATEST) };
    snapshot.change_entries(vec![(20, Some(more))]);
    close(value(&snapshot, 6, I::BacklogWeeks, year()), 3.0);
}

/// EN 15341 (E group), SMRP 1.5. 1,000.00 in 50 of 100 days: 100 days required are 2,400 h; a year of that is 3,652.43; the line's
/// value is its parts' 8,000.00 and 4,000.00, unless one is set for itself.
#[test]
fn cost_by_hours_by_value_and_of_a_budget() {
    let nodes = vec![
        node(1, &[(0, Instant::EARLIEST)]),
        node(2, &[(1, Instant::EARLIEST)]),
        node(3, &[(1, Instant::EARLIEST)]),
    ];
    let mut snapshot = of_tree(nodes);
    let dated = |value| Dated::of(vec![(Instant::EARLIEST, Some(value))]);
    let budget = Dated::of(vec![(day(0), Some(250_000)), (day(365), Some(1))]);
    let replacement = [(1, dated(800_000)), (2, dated(400_000))];
    snapshot.worth = Worth { replacement: replacement.into(), budget: [(0, budget)].into(), ..Worth::default() }.into();
    snapshot.change_entries(vec![(1, Some(entry(1, 2, 1, EntryKind::Service, 100_000, Instant::LATEST)))]);
    let close = |found: Option<f64>, wanted: f64| assert!((found.unwrap() - wanted).abs() < 1e-9, "{found:?} {wanted}");
    close(value(&snapshot, 1, I::CostPerHour, year()), 100_000.0 / 2_400.0);
    close(value(&snapshot, 1, I::CostOfValue, year()), 100_000.0 * 365.2425 / 100.0 / 1_200_000.0);
    close(value(&snapshot, 2, I::CostOfValue, year()), 100_000.0 * 365.2425 / 100.0 / 800_000.0);
    close(value(&snapshot, 1, I::Budget, year()), 250_000.0);
    close(value(&snapshot, 1, I::BudgetUsed, year()), 0.4);
    assert_eq!(value(&snapshot, 2, I::BudgetUsed, year()), None, "nothing is set for it or below it");
}

/// Common practice: unit 2 costs 100.00 an hour, the part 7 below it 10.00. The part stands for four hours and puts all up to the
/// unit down; the unit itself stands from the third hour on for three. Six hours at the unit's price: the first row counts four
/// (its start is earlier), the unit's own two.
#[test]
fn downtime_costs_what_the_highest_that_it_puts_down_costs() {
    let mut snapshot = line();
    let dated = |value| Dated::of(vec![(Instant::EARLIEST, Some(value))]);
    snapshot.worth = Worth { down_hour: [(1, dated(10_000)), (6, dated(1_000))].into(), ..Worth::default() }.into();
    let rows = [
        downtime(1, 7, DowntimeKind::Unplanned, hour(100), hour(104)),
        downtime(2, 2, DowntimeKind::Unplanned, hour(103), hour(106)),
        downtime(3, 7, DowntimeKind::Planned, hour(200), hour(300)),
    ];
    snapshot.change_downtimes(all(rows, |down| down.id.0));
    let found: Vec<Option<f64>> = [1, 2, 7].map(|asset| value(&snapshot, asset, I::DowntimeCost, year())).into();
    assert_eq!(found, [Some(60_000.0), Some(60_000.0), Some(40_000.0)]);
    let why = why(&snapshot, AssetId(2), I::DowntimeCost, year()).unwrap();
    assert_eq!(why.parts[0].rows.iter().map(|row| row.amount).collect::<Vec<_>>(), [40_000, 20_000]);
    // From hour 102 on the unit costs double: two hours as before, four at the double.
    let doubled = Dated::of(vec![(Instant::EARLIEST, Some(10_000)), (hour(102), Some(20_000))]);
    snapshot.worth = Worth { down_hour: [(1, doubled)].into(), ..Worth::default() }.into();
    assert_eq!(value(&snapshot, 1, I::DowntimeCost, year()), Some(2.0 * 10_000.0 + 4.0 * 20_000.0));
}

/// Common practice: ten hours at a quarter less, of which two it stood altogether: two hours lost, and no stop but the two.
#[test]
fn what_is_lost_while_slowed_stands_apart() {
    let mut snapshot = line();
    let slowed = DowntimeFact { share: STOP / 4, ..downtime(1, 4, DowntimeKind::Unplanned, hour(100), hour(110)) };
    let rows = [slowed, downtime(2, 7, DowntimeKind::Unplanned, hour(104), hour(106))];
    snapshot.change_downtimes(all(rows, |down| down.id.0));
    assert_eq!(value(&snapshot, 1, I::SlowedDowntime, year()), Some(2.0));
    assert_eq!(value(&snapshot, 1, I::UnplannedDowntime, year()), Some(2.0));
}

/// EN 13306, SMRP 3.5.1: the part 7 does not put 6 down, so its critical failure is 7's alone; that of 5 is all the way up to 1's.
#[test]
fn a_failure_counts_for_what_it_puts_down() {
    let mut snapshot = line_whose_part_puts_nothing_down();
    let rows = [failure(1, 7, hour(10), Effect::Critical), failure(2, 5, hour(50), Effect::Critical)];
    snapshot.change_failures(all(rows, |failure| failure.id.0));
    let mtbf: Vec<Option<f64>> = [7, 6, 5, 1].map(|asset| at(&snapshot, &[asset], I::Mtbf, year())[0].value).into();
    assert_eq!(mtbf, [Some(2_400.0), None, Some(2_400.0), Some(2_400.0)]);
    assert_eq!(value(&snapshot, 1, I::Failures, year()), Some(2.0), "both failed");
    let why = why(&snapshot, AssetId(1), I::Mtbf, year()).unwrap();
    assert_eq!(why.parts[0].rows.iter().map(|row| row.id).collect::<Vec<_>>(), [2]);
}

/// SMRP 3.5.2: down for ten hours, the work under way for the last three of them.
#[test]
fn repair_time_is_what_of_the_downtime_the_work_was_under_way() {
    let mut snapshot = line();
    let way = [(hour(100), WorkState::Raised), (hour(107), WorkState::UnderWay), (hour(112), WorkState::Done)];
    put_work(&mut snapshot, 1, 7, None, &way);
    let down =
        DowntimeFact { work: Some(WorkOrderId(1)), ..downtime(1, 7, DowntimeKind::Unplanned, hour(100), hour(110)) };
    snapshot.change_downtimes(vec![(1, Some(down))]);
    snapshot.change_failures(vec![(1, Some(failure(1, 7, hour(100), Effect::Critical)))]);
    let times = (value(&snapshot, 1, I::Mttr, year()), value(&snapshot, 1, I::MeanRepairTime, year()));
    assert_eq!(times, (Some(10.0), Some(3.0)));
}

/// ISO 14224 (data quality), own rules: of three corrective orders done two are coded, one of them in full; one of two problems is
/// *other*. The same problem came back after 80 days, and not after 100. What was dropped counts nowhere.
#[test]
fn codes_are_judged_and_repeats_counted() {
    let mut snapshot = line();
    let code = |id: i64, code: &str| crate::facts::Named { id, code: code.into(), name: code.into() };
    let names = std::sync::Arc::make_mut(&mut snapshot.names);
    names.codes = vec![code(1, "LEAK"), code(2, "OTHER"), code(3, "SEAL"), code(4, "RSEAL")];
    let ways = [WorkState::Done, WorkState::Done, WorkState::Done, WorkState::Dropped, WorkState::Raised];
    for (number, end) in (1..).zip(ways) {
        put_work(&mut snapshot, number, 7, None, &[(day(1), WorkState::Raised), (day(2), end)]);
    }
    let coded = |id, on, codes: [Option<i64>; 3]| FailureFact {
        problem: codes[0].map(CodeId),
        cause: codes[1].map(CodeId),
        remedy: codes[2].map(CodeId),
        ..failure(id, 7, day(on), Effect::Degraded)
    };
    let rows = [
        coded(1, 1, [Some(1), Some(3), Some(4)]),
        coded(2, 2, [Some(2), None, None]),
        coded(4, 3, [Some(1), Some(3), Some(4)]),
        coded(5, 81, [Some(1), None, None]),
    ];
    snapshot.change_failures(all(rows, |failure| failure.id.0));
    let one = |indicator| value(&snapshot, 1, indicator, year());
    assert_eq!((one(I::CodedShare), one(I::OtherShare)), (Some(1.0 / 3.0), Some(1.0 / 3.0)));
    assert_eq!((one(I::Failures), one(I::RepeatFailures)), (Some(3.0), Some(1.0)));
    let why = why(&snapshot, AssetId(1), I::Failures, year()).unwrap();
    assert_eq!((why.inputs[0].name.as_str(), why.inputs[0].value), ("Left out", 1.0));
    snapshot.change_failures(vec![(5, Some(coded(5, 99, [Some(1), None, None])))]);
    assert_eq!(value(&snapshot, 1, I::RepeatFailures, year()), Some(0.0), "98 days after it is another");
}

/// SMRP 5.4.4. Day 4 (5 January 1970) is a Monday. In the schedule of its week stand three: one is done in it, one a week later, one
/// was put off on the Wednesday, which changes nothing; what came into it on the Tuesday does not count.
#[test]
fn a_schedule_is_kept_as_it_was_frozen() {
    let mut snapshot = line();
    let done = |on| vec![(day(1), WorkState::Raised), (day(2), WorkState::Ready), (day(on), WorkState::Done)];
    let scheduled = |on| move |work: WorkFact| WorkFact { scheduled_start: Some(day(on)), ..work };
    put(&mut snapshot, 1, &done(6), scheduled(5));
    put(&mut snapshot, 2, &done(12), scheduled(9));
    put(&mut snapshot, 3, &done(13), |work| WorkFact { changed: true, scheduled_start: Some(day(13)), ..work });
    put(&mut snapshot, 4, &done(7), |work| WorkFact { changed: true, scheduled_start: Some(day(7)), ..work });
    let version = |work: i64, version, since, start: Option<i64>| -> FieldsFact {
        let fact = snapshot.works.get((WorkOrderId(work),)).unwrap();
        FieldsFact { version, scheduled_start: start.map(day), ..fact.newest_fields(day(since), day(since)) }
    };
    let versions =
        [version(3, 0, 1, Some(7)), version(3, 1, 6, Some(13)), version(4, 0, 1, None), version(4, 1, 5, Some(7))];
    versions.into_iter().for_each(|version| snapshot.fields.put(version));
    let q = Question { period: Span::new(day(4), day(11)).unwrap(), now: day(50), basis: Basis::AsWas };
    assert_eq!(value(&snapshot, 1, I::ScheduleCompliance, q), Some(1.0 / 3.0));
    assert_eq!(
        value(&snapshot, 1, I::ScheduleCompliance, Question { now: day(10), ..q }),
        None,
        "the week is not over"
    );
}

/// rules.md §4: what is written on day 20 about day 2 rewrites no week that is over, and not as what work was completed. The order
/// was planned for no day of the week from day 4 and done in it; the other was in its schedule and missed. Both were corrective then.
#[test]
fn a_finished_period_is_not_rewritten() {
    let mut snapshot = line();
    let done = |on| vec![(day(1), WorkState::Raised), (day(2), WorkState::Ready), (day(on), WorkState::Done)];
    let now = |start| {
        move |work: WorkFact| WorkFact {
            changed: true,
            kind: WorkKind::Inspection,
            estimated_ms: Some(HOUR),
            scheduled_start: Some(day(start)),
            spent_ms: 4 * HOUR,
            ..work
        }
    };
    put(&mut snapshot, 1, &done(6), now(5));
    put(&mut snapshot, 2, &done(12), now(12));
    let versions = [(1, 0, 1, None), (1, 1, 20, Some(5)), (2, 0, 1, Some(7)), (2, 1, 20, Some(12))];
    for (work, version, recorded, start) in versions {
        let fact = snapshot.works.get((WorkOrderId(work),)).unwrap();
        let is_first = version == 0;
        snapshot.fields.put(FieldsFact {
            version,
            kind: if is_first { WorkKind::CorrectiveDeferred } else { WorkKind::Inspection },
            estimated_ms: Some(if is_first { 2 * HOUR } else { HOUR }),
            scheduled_start: start.map(day),
            ..fact.newest_fields(day(2), day(recorded))
        });
    }
    let q = Question { period: Span::new(day(4), day(18)).unwrap(), now: day(50), basis: Basis::AsWas };
    let one = |indicator| value(&snapshot, 1, indicator, q);
    assert_eq!(one(I::ScheduleCompliance), Some(0.0), "one in the schedule, and it was missed");
    assert_eq!((one(I::PreventiveCountShare), one(I::EstimateRatio)), (Some(0.0), Some(2.0)));
}

/// Own numbers: 12 h spent on 8 estimated, and 3 on 4; the order without an estimate is left out.
#[test]
fn actual_hours_against_estimated() {
    let mut snapshot = line();
    for (number, estimated, spent) in [(1, Some(8), 12), (2, Some(4), 3), (3, None, 90)] {
        let way = [(day(1), WorkState::Raised), (day(5), WorkState::Done)];
        put(&mut snapshot, number, &way, |work| WorkFact {
            estimated_ms: estimated.map(|hours| hours * HOUR),
            spent_ms: spent * HOUR,
            ..work
        });
    }
    assert_eq!(value(&snapshot, 1, I::EstimateRatio, year()), Some(15.0 / 12.0));
    let why = why(&snapshot, AssetId(1), I::EstimateRatio, year()).unwrap();
    let rows: Vec<(i64, i64)> = why.parts[1].rows.iter().map(|row| (row.id, row.amount / HOUR)).collect();
    assert_eq!(rows, [(1, 12), (2, 3)], "the one that took half as long again is named");
}

/// IEC 62682. Four alarms in 100 days; two led to work, one of which was judged, as nothing wrong. A rung that only records and a
/// silent meter ask for no response.
#[test]
fn alarms_by_what_came_of_them() {
    let mut snapshot = line();
    let way = [(day(1), WorkState::Raised), (day(5), WorkState::Done)];
    put(&mut snapshot, 1, &way, |work| WorkFact { verdict: Some(Verdict::NothingWrong), ..work });
    put(&mut snapshot, 2, &way, |work| work);
    use ResponseGiven::{Joined, Notify, Raised, Record};
    let given = [(Raised, Some(1)), (Joined, Some(2)), (Notify, None), (Notify, None), (Record, None), (Notify, None)];
    let rows = (1i64..).zip(given).map(|(id, (response, work))| AlarmFact {
        id: AlarmId(id),
        meter: MeterId(1),
        asset: index(7),
        work: work.map(WorkOrderId),
        kind: if id == 6 { AlarmKind::Silent } else { AlarmKind::Limit },
        side: None,
        severity: Severity::Alert,
        entered_at: day(id),
        left_at: Instant::LATEST,
        left_by: None,
        acknowledged_at: None,
        acknowledged_by: None,
        response,
        asks: response != Record,
        recorded_at: day(id),
    });
    snapshot.change_alarms(all(rows, |alarm| alarm.id.0));
    let one = |indicator| value(&snapshot, 1, indicator, year());
    assert_eq!((one(I::Alarms), one(I::AlarmsPerDay)), (Some(4.0), Some(0.04)));
    assert_eq!((one(I::NuisanceShare), one(I::WorkFromAlarms)), (Some(1.0), Some(0.5)));
}
