use super::*;
use crate::{
    ground::{
        severity::Severity,
        time::{DAY, Instant, SECOND, Span},
    },
    watch::{
        limits::{
            Ladder, Response, ResponseKind, Rung, RungSide,
            chatter::Chatter,
            ladder::tests::rung,
            warnings::{Past, WarningVerdict},
        },
        meters::Meter,
        readings::{Columns, Reading},
    },
    work::Verdict,
};

pub(super) fn at(days: i64) -> Instant {
    Instant::from_ms(days * DAY)
}

/// Alert at 4 and danger at 9, leaving 1 below, both raising work; 20 days of raise interval.
pub(super) fn ladder() -> Ladder {
    let raises = |severity, setpoint| Rung {
        response: Response::of(ResponseKind::Raise),
        ..rung(RungSide::High, severity, setpoint, 1.0)
    };
    Ladder {
        rungs: vec![raises(Severity::Alert, 4.0), raises(Severity::Danger, 9.0)],
        raise_interval_seconds: 20 * 86_400,
        ..Ladder::default()
    }
}

/// One reading a day from day 0 on.
pub(super) fn run(values: &[f64], past: &Past) -> Replay {
    let readings: Columns = (0..).zip(values).map(|(day, &value)| Reading { at: at(day), value }).collect();
    let until = at(values.len() as i64);
    let meter = Meter::measurement("[g]");
    let history = History::of(&meter, &readings, until, past);
    replay(&ladder(), &history, &Assumptions { work_lasts_ms: 5 * DAY, ..Assumptions::default() })
}

fn verdicts(replay: &Replay) -> Vec<WarningVerdict> {
    replay.warnings.iter().map(|warning| warning.verdict).collect()
}

#[test]
fn a_wearing_bearing_is_caught_with_its_days_of_warning() {
    // Entered on day 2, danger on day 4, failed on day 6 and sound after it.
    let past = Past { failures: vec![at(6)], found: vec![] };
    let replay = run(&[1.0, 2.0, 4.0, 6.0, 9.5, 11.0, 1.0, 1.0], &past);
    assert_eq!((replay.caught(), replay.missed()), (1, 0));
    assert_eq!(replay.failures[0].warning_ms, Some(4 * DAY));
    assert_eq!(replay.spells, [Spell { side: RungSide::High, from: at(2), to: Some(at(6)) }]);
    assert_eq!(verdicts(&replay), [WarningVerdict::Caught]);
    // Two days of alert, two of danger; one order, escalated by the danger rung rather than raised twice.
    assert_eq!(replay.in_severity_ms, [0, 2 * DAY, 0, 2 * DAY]);
    assert_eq!((replay.work.len(), replay.joined, replay.held), (1, 1, 0));
    assert_eq!((replay.work[0].rung, replay.work[0].worst), (0, 1), "escalated");
    assert_eq!(replay.alarms.len(), 2);
}

#[test]
fn a_spell_without_a_failure_is_nuisance_unless_something_was_found_and_open_ones_are_neither() {
    let mut values = vec![1.0; 100];
    values[10] = 5.0;
    values[60] = 5.0;
    values[80] = 5.0;
    values[99] = 5.0;
    let found = vec![Span::new(at(60), at(61)).unwrap()];
    let replay = run(&values, &Past { failures: vec![], found });
    // The third ended 19 days before history does, the fourth stands at its end.
    use WarningVerdict::{Averted, Nuisance, Open};
    assert_eq!(verdicts(&replay), [Nuisance, Averted, Open, Open]);
    assert_eq!((replay.work.len(), replay.held), (3, 1), "the last within the interval of the one before");
}

#[test]
fn the_horizon_is_kept_on_both_sides() {
    // A spell from day 10 to day 12: 30 days later is still within, 31 is not.
    let mut values = vec![1.0; 60];
    values[10] = 5.0;
    values[11] = 5.0;
    let failing = |day| run(&values, &Past { failures: vec![at(day)], found: vec![] });
    let within = failing(41);
    assert_eq!((within.caught(), verdicts(&within)), (1, vec![WarningVerdict::Caught]));
    assert_eq!(within.failures[0].warning_ms, Some(31 * DAY), "counted from the start of the spell");
    let beyond = failing(43);
    assert_eq!((beyond.caught(), beyond.missed(), verdicts(&beyond)), (0, 1, vec![WarningVerdict::Nuisance]));
    let before = failing(5);
    assert_eq!((before.missed(), verdicts(&before)), (1, vec![WarningVerdict::Nuisance]));
}

#[test]
fn work_is_held_within_the_raise_interval_and_joined_while_open() {
    let mut values = vec![1.0; 60];
    for day in [5, 8, 15, 40] {
        values[day] = 5.0;
    }
    // Raised on day 5 and open to day 10; joined on 8; held on 15; raised again on 40.
    let replay = run(&values, &Past::default());
    let raised: Vec<Instant> = replay.work.iter().map(|work| work.raised_at).collect();
    assert_eq!((raised, replay.joined, replay.held), (vec![at(5), at(40)], 1, 1));
}

/// Entered on day 2 for good, read once a day, work of 5 days: done on day 7, and the first reading after that, on day 8,
/// is still beyond. It raises again although the interval of 20 days is not over, and so on.
#[test]
fn a_repair_that_did_not_hold_raises_again_with_the_first_reading_after_it() {
    let mut values = vec![5.0; 20];
    values[0] = 1.0;
    values[1] = 1.0;
    let replay = run(&values, &Past::default());
    let raised: Vec<Instant> = replay.work.iter().map(|work| work.raised_at).collect();
    assert_eq!(raised, [at(2), at(8), at(14)]);
    assert_eq!((replay.held, replay.alarms.len()), (0, 1));
}

pub(super) fn after(how: Completed, values: &[f64]) -> Replay {
    let readings: Columns = (0..).zip(values).map(|(day, &value)| Reading { at: at(day), value }).collect();
    let (meter, past) = (Meter::measurement("[g]"), Past::default());
    let history = History::of(&meter, &readings, at(60), &past);
    let completions = vec![Completion { at: at(5), how }];
    let lasts = Assumptions { work_lasts_ms: 1_000 * DAY, completions, ..Assumptions::default() };
    replay(&ladder(), &history, &lasts)
}

#[test]
fn until_a_finished_repair_is_read_nothing_is_raised() {
    // Entered on day 2, done on day 5, never read again; then read on day 6.
    let found = Completed::Done(Some(Verdict::FoundIt));
    let unread = after(found, &[1.0, 1.0, 5.0, 5.0, 5.0, 5.0]);
    assert_eq!((unread.work.len(), unread.held), (1, 0), "the reading of day 5 was taken as it was done");
    assert_eq!(after(found, &[1.0, 1.0, 5.0, 5.0, 5.0, 5.0, 5.0]).work.len(), 2);
    assert_eq!(after(found, &[1.0, 1.0, 5.0, 5.0, 5.0, 5.0, 1.0, 1.0]).work.len(), 1, "it holds");
}

#[test]
fn where_nothing_was_wrong_the_interval_holds_it_and_what_was_dropped_stays_quiet() {
    let stands: Vec<f64> = [vec![1.0, 1.0], vec![5.0; 40]].concat();
    // Raised on day 2; held from day 6 until the interval of 20 days ends on day 22.
    let nothing = after(Completed::Done(Some(Verdict::NothingWrong)), &stands);
    let raised: Vec<Instant> = nothing.work.iter().map(|work| work.raised_at).collect();
    assert_eq!((raised, nothing.held), (vec![at(2), at(22)], 1));
    let dropped = after(Completed::Dropped, &stands);
    assert_eq!((dropped.work.len(), dropped.held), (1, 0));
    // A worse rung is another matter.
    let mut worse = stands;
    worse[30] = 12.0;
    assert_eq!(after(Completed::Dropped, &worse).work.len(), 2);
}

/// A jump enters alert (raises) and danger (tells): the alert raises all the same, and answers again after a repair.
#[test]
fn a_worse_rung_that_only_tells_keeps_nobody_from_raising() {
    let mut rungs = ladder().rungs;
    rungs[1].response = Response::of(ResponseKind::Notify);
    let ladder = Ladder { rungs, ..Ladder::default() };
    let values = [1.0, 10.0, 10.0, 10.0, 10.0, 10.0, 10.0, 10.0];
    let readings: Columns = (0..).zip(values).map(|(day, value)| Reading { at: at(day), value }).collect();
    let (meter, past) = (Meter::measurement("[g]"), Past::default());
    let history = History::of(&meter, &readings, at(8), &past);
    let played = replay(&ladder, &history, &Assumptions { work_lasts_ms: 2 * DAY, ..Assumptions::default() });
    let raised: Vec<_> = played.work.iter().map(|work| (work.rung, work.raised_at)).collect();
    assert_eq!(raised, [(0, at(1)), (0, at(4)), (0, at(7))]);
}

/// Shelved from day 1 to day 5 and out of use from day 4 to day 9: held by the one, then by the other, raised on day 9.
#[test]
fn a_shelf_and_a_spell_out_of_use_hold_until_they_end() {
    let readings: Columns = (0..12).map(|day| Reading { at: at(day), value: 5.0 }).collect();
    let (meter, past) = (Meter::measurement("[g]"), Past::default());
    let history = History { part: 2..12, ..History::of(&meter, &readings, at(12), &past) };
    let span = |from, to| (Span::new(at(from), at(to)).unwrap(), "why".to_owned());
    let held = Assumptions { shelves: vec![span(1, 5)], out_of_use: vec![span(4, 9)], ..Assumptions::default() };
    let played = replay(&ladder(), &history, &held);
    assert_eq!((played.held, played.work.iter().map(|w| w.raised_at).collect::<Vec<_>>()), (2, vec![at(9)]));
    // While the ladder is suspended it waits on: the other meter runs again on day 10.
    let other: Columns =
        [(0, 1.0), (7, 0.0), (10, 1.0)].map(|(day, value)| Reading { at: at(day), value }).into_iter().collect();
    let kept = readings.while_running(&other, 0.5);
    let suspended = History { readings: &kept, part: 2..kept.len(), suspended: Some((&other, 0.5)), ..history };
    let played = replay(&ladder(), &suspended, &held);
    assert_eq!(played.work.iter().map(|w| w.raised_at).collect::<Vec<_>>(), [at(10)]);
}

#[test]
fn entries_within_the_given_time_are_chattering() {
    let readings: Columns = (0..8)
        .map(|n| Reading { at: Instant::from_ms(n * 10 * SECOND), value: if n % 2 == 0 { 1.0 } else { 5.0 } })
        .collect();
    let (meter, past) = (Meter::measurement("[g]"), Past::default());
    let history = History::of(&meter, &readings, at(1), &past);
    let chattering = |entries, seconds| {
        let chatter = Chatter { entries, seconds };
        replay(&ladder(), &history, &Assumptions { chatter, ..Assumptions::default() }).chattering
    };
    // Entered at 10, 30, 50 and 70 s: the third and the fourth are the third within a minute.
    assert_eq!(chattering(3, 60), 2);
    assert_eq!(chattering(3, 40), 0);
}
