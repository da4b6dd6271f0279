use super::*;
use proptest::prelude::*;

fn date(text: &str) -> Date {
    text.parse().unwrap()
}

fn fresh(since: &str) -> Standing {
    Standing { since: date(since), settled: None, open: None, done: None, moved: BTreeMap::new(), counter: None }
}

fn every(days: u32, first: &str) -> Recurrence {
    Recurrence { every_days: Some(days), first_due: Some(date(first)), ..Recurrence::default() }
}

fn by_hours(units: f64, first: f64) -> Recurrence {
    Recurrence { every_units: Some(units), first_count: Some(first), ..Recurrence::default() }
}

fn on(cycles: &[Cycle]) -> Vec<String> {
    cycles.iter().map(|cycle| cycle.on.to_string()).collect()
}

fn counter(on: &str, count: f64, per_day: f64) -> CounterUse {
    CounterUse { on: date(on), count, per_day, low: per_day / 2.0, high: per_day * 2.0 }
}

#[test]
fn planned_dates_go_on_whenever_the_work_was_done() {
    let plan = every(30, "2026-01-10");
    let standing = Standing {
        settled: Some(Settled { number: 3, due: date("2026-03-11"), mark: None }),
        done: Some(LastDone { on: date("2026-03-25"), count: None }),
        ..fresh("2026-01-01")
    };
    // 10 January and 30 days four times over: 10 May; day by day on a calendar.
    assert_eq!(on(&plan.ahead(&standing, date("2026-03-26"), date("2026-05-15"))), ["2026-04-10", "2026-05-10"]);
    let from_done = Recurrence { counts_from: CountsFrom::LastDone, ..plan };
    assert_eq!(on(&from_done.ahead(&standing, date("2026-03-26"), date("2026-05-30"))), ["2026-04-24", "2026-05-24"]);
}

#[test]
fn what_is_open_is_taken_to_be_done_today_at_the_earliest() {
    let plan = Recurrence { counts_from: CountsFrom::LastDone, ..every(30, "2026-01-10") };
    let standing = Standing {
        settled: Some(Settled { number: 1, due: date("2026-01-10"), mark: None }),
        open: Some(date("2026-01-10")),
        ..fresh("2026-01-01")
    };
    assert_eq!(on(&plan.ahead(&standing, date("2026-02-01"), date("2026-04-15"))), ["2026-03-03", "2026-04-02"]);
    assert_eq!(plan.to_settle(&standing, date("2026-06-01")), ToSettle::default());
}

#[test]
fn out_of_season_nothing_is_due_by_the_calendar_and_the_rest_waits() {
    let season = super::super::Season::parse("04-01..10-31").unwrap();
    let plan = Recurrence { season: Some(season), ..every(60, "2026-08-20") };
    // 20 August, 19 October; 18 December and 16 February are out of season; 17 April.
    assert_eq!(
        on(&plan.ahead(&fresh("2026-08-01"), date("2026-08-01"), date("2027-05-01"))),
        ["2026-08-20", "2026-10-19", "2027-04-17"]
    );
    let from_done = Recurrence { counts_from: CountsFrom::LastDone, ..plan };
    let done = Standing { done: Some(LastDone { on: date("2026-10-20"), count: None }), ..fresh("2026-08-01") };
    assert_eq!(on(&from_done.ahead(&done, date("2026-11-01"), date("2027-05-01"))), ["2027-04-01"]);
}

#[test]
fn a_counter_is_due_by_its_use() {
    let plan = by_hours(500.0, 1000.0);
    let standing = Standing { counter: Some(counter("2026-03-01", 900.0, 10.0)), ..fresh("2026-01-01") };
    let ahead = plan.ahead(&standing, date("2026-03-01"), date("2026-06-01"));
    // 100 hours at 10 a day: 11 March; 500 more: 50 days later.
    assert_eq!(on(&ahead), ["2026-03-11", "2026-04-30"]);
    assert_eq!((ahead[0].earliest, ahead[0].latest), (date("2026-03-06"), date("2026-03-21")));
    assert_eq!((ahead[0].mark, ahead[1].mark, ahead[0].by), (Some(1000.0), Some(1500.0), DueBy::Counter));
    let still = Standing { counter: Some(counter("2026-03-01", 900.0, 0.0)), ..fresh("2026-01-01") };
    assert_eq!(plan.ahead(&still, date("2026-03-01"), date("2027-03-01")), []);
}

#[test]
fn of_days_and_hours_the_first_counts() {
    let plan = Recurrence {
        every_units: Some(500.0),
        first_count: Some(500.0),
        counts_from: CountsFrom::LastDone,
        ..every(60, "2026-03-20")
    };
    let at = |per_day| Standing { counter: Some(counter("2026-03-01", 400.0, per_day)), ..fresh("2026-01-01") };
    let first = |per_day| plan.ahead(&at(per_day), date("2026-03-01"), date("2026-12-01"))[0];
    assert_eq!((first(10.0).by, first(10.0).on), (DueBy::Counter, date("2026-03-11")));
    assert_eq!((first(1.0).by, first(1.0).on), (DueBy::Days, date("2026-03-20")));
    // Its use within bounds might still bring it earlier.
    assert_eq!(first(4.0).earliest, date("2026-03-14"));
}

#[test]
fn after_a_standstill_one_is_raised_and_the_others_are_missed() {
    let plan = Recurrence { lead_days: 5, ..every(10, "2026-03-01") };
    let standing =
        Standing { settled: Some(Settled { number: 1, due: date("2026-03-01"), mark: None }), ..fresh("2026-01-01") };
    let settled = plan.to_settle(&standing, date("2026-04-12"));
    // 11, 21, 31 March and 10 April have come.
    assert_eq!(on(&settled.missed), ["2026-03-11", "2026-03-21", "2026-03-31"]);
    assert_eq!(settled.raise.map(|cycle| (cycle.number, cycle.on)), Some((5, date("2026-04-10"))));
    let before = plan.to_settle(&standing, date("2026-03-05"));
    assert_eq!(before, ToSettle::default());
    let in_lead = plan.to_settle(&standing, date("2026-03-06"));
    assert_eq!((in_lead.missed.len(), in_lead.raise.map(|cycle| cycle.number)), (0, Some(2)));
}

#[test]
fn what_comes_while_work_is_open_is_missed() {
    let plan = Recurrence { lead_days: 3, ..every(7, "2026-03-02") };
    let standing = Standing {
        settled: Some(Settled { number: 1, due: date("2026-03-02"), mark: None }),
        open: Some(date("2026-03-02")),
        ..fresh("2026-01-01")
    };
    // Within its lead it waits; on its day it is missed.
    assert_eq!(plan.to_settle(&standing, date("2026-03-08")), ToSettle::default());
    let missed = plan.to_settle(&standing, date("2026-03-09"));
    assert_eq!((on(&missed.missed), missed.raise), (vec!["2026-03-09".to_owned()], None));
}

#[test]
fn a_moved_cycle_is_raised_by_its_new_day_and_judged_by_its_old() {
    let plan = every(30, "2026-03-01");
    let standing = Standing { moved: BTreeMap::from([(1, date("2026-03-04"))]), ..fresh("2026-01-01") };
    assert_eq!(plan.to_settle(&standing, date("2026-03-03")), ToSettle::default());
    let raised = plan.to_settle(&standing, date("2026-03-04")).raise.unwrap();
    assert_eq!((raised.due, raised.on), (date("2026-03-01"), date("2026-03-04")));
    assert!(is_in_time(raised.due, plan.grace_days(None), Some(date("2026-03-04"))));
    assert!(!is_in_time(raised.due, plan.grace_days(None), Some(date("2026-03-05"))));
    assert!(!is_in_time(raised.due, plan.grace_days(None), None));
}

#[test]
fn a_cycle_moved_beyond_a_later_one_is_missed() {
    let plan = Recurrence { tolerance_days: Some(20), ..every(7, "2026-03-02") };
    let standing = Standing {
        settled: Some(Settled { number: 1, due: date("2026-03-02"), mark: None }),
        moved: BTreeMap::from([(2, date("2026-03-20"))]),
        ..fresh("2026-01-01")
    };
    assert_eq!(plan.to_settle(&standing, date("2026-03-10")), ToSettle::default());
    let settled = plan.to_settle(&standing, date("2026-03-16"));
    assert_eq!(settled.missed.iter().map(|cycle| cycle.number).collect::<Vec<_>>(), [2]);
    assert_eq!(settled.raise.map(|cycle| (cycle.number, cycle.on)), Some((3, date("2026-03-16"))));
}

/// rules.md §4: a plan counted from when it was last done, whose work is dropped, is due again one interval after that cycle's due
/// date, or on the first such date from today on, those between missed.
#[test]
fn dropped_work_of_a_plan_counted_from_last_done_is_a_missed_cycle() {
    let plan = Recurrence { counts_from: CountsFrom::LastDone, lead_days: 3, ..every(30, "2026-01-10") };
    // The work of 10 January was done before; that of 9 February was dropped.
    let dropped =
        Standing { settled: Some(Settled { number: 2, due: date("2026-02-09"), mark: None }), ..fresh("2026-01-01") };
    let settle = |today: &str| {
        let ToSettle { missed, raise } = plan.to_settle(&dropped, date(today));
        (on(&missed), raise.map(|cycle| (cycle.number, cycle.on.to_string())))
    };
    assert_eq!(settle("2026-02-10"), (vec![], None), "the same cycle is not raised again");
    assert_eq!(settle("2026-03-08"), (vec![], Some((3, "2026-03-11".into()))));
    assert_eq!(settle("2026-03-11"), (vec![], Some((3, "2026-03-11".into()))));
    // 11 March and 10 April are over by 5 May; 10 May comes.
    let two: Vec<String> = vec!["2026-03-11".into(), "2026-04-10".into()];
    assert_eq!(settle("2026-05-05"), (two.clone(), None));
    assert_eq!(settle("2026-05-07"), (two, Some((5, "2026-05-10".into()))));
    assert_eq!(on(&plan.ahead(&dropped, date("2026-05-05"), date("2026-06-15"))), ["2026-05-10", "2026-06-09"]);
}

#[test]
fn a_counter_counts_on_from_the_mark_of_a_dropped_cycle() {
    let plan = Recurrence { counts_from: CountsFrom::LastDone, ..by_hours(500.0, 1000.0) };
    let at = |count: f64| Standing {
        settled: Some(Settled { number: 1, due: date("2026-02-01"), mark: Some(1000.0) }),
        counter: Some(counter("2026-03-01", count, 10.0)),
        ..fresh("2026-01-01")
    };
    let settle = |count: f64| {
        let ToSettle { missed, raise } = plan.to_settle(&at(count), date("2026-03-01"));
        let marks: Vec<Option<f64>> = missed.iter().map(|cycle| cycle.mark).collect();
        (marks, raise.and_then(|cycle| cycle.mark))
    };
    assert_eq!(settle(1010.0), (vec![], None));
    assert_eq!(settle(1500.0), (vec![], Some(1500.0)));
    assert_eq!(settle(2600.0), (vec![Some(1500.0), Some(2000.0)], Some(2500.0)));
}

fn recurrence() -> impl Strategy<Value = Recurrence> {
    (1u32..40, 0u32..10, any::<bool>(), 0i64..60).prop_map(|(days, lead, floats, first)| Recurrence {
        every_days: Some(days),
        counts_from: if floats { CountsFrom::LastDone } else { CountsFrom::Planned },
        first_due: Some(date("2026-01-01").saturating_add(first.days())),
        lead_days: lead.min(days.saturating_sub(1)),
        ..Recurrence::default()
    })
}

/// What happens next: days that pass (the clock may go back), and whether open work is finished then, and a move of the next cycle.
fn happenings() -> impl Strategy<Value = Vec<(i64, bool, Option<i64>)>> {
    prop::collection::vec((-40i64..90, any::<bool>(), prop::option::of(-3i64..4)), 1..60)
}

proptest! {
    // Whatever the clock does, and however cycles are moved: numbers go up one by one, each once, and never is work raised beside
    // open work.
    #[test]
    fn a_cycle_is_settled_once(plan in recurrence(), happenings in happenings()) {
        let mut standing = fresh("2026-01-01");
        let mut today = date("2026-01-01");
        let mut settled: Vec<Cycle> = Vec::new();
        for (days, finishes, moves) in happenings {
            today = today.saturating_add(days.days());
            if finishes && standing.open.take().is_some() {
                standing.done = Some(LastDone { on: today, count: None });
            }
            let next = plan.next_cycle(&standing, today);
            if let Some(days) = moves {
                standing.moved.insert(next.number, next.due.saturating_add(days.days()));
            }
            let ToSettle { missed, raise } = plan.to_settle(&standing, today);
            prop_assert!(raise.is_none() || standing.open.is_none());
            // What is missed has come, or one after it has.
            let newest = raise.as_ref().or(missed.last());
            prop_assert!(newest.is_none_or(|cycle| plan.raise_on(cycle) <= today));
            for cycle in missed.iter().chain(&raise) {
                prop_assert_eq!(cycle.number, settled.len() as i64 + 1);
                settled.push(*cycle);
                standing.settled = Some(Settled { number: cycle.number, due: cycle.due, mark: None });
            }
            if let Some(cycle) = raise {
                standing.open = Some(cycle.on);
            }
            // What was settled is not due a second time on the same day.
            let again = plan.to_settle(&standing, today);
            prop_assert!(again.raise.is_none() || again.raise.map(|cycle| cycle.number) > standing.settled.map(|s| s.number));
        }
        if plan.counts_from == CountsFrom::Planned {
            prop_assert!(settled.windows(2).all(|pair| pair[0].due < pair[1].due));
        }
    }

    // Of a plan by days without a season the dates ahead are those that plain addition gives.
    #[test]
    fn planned_dates_are_multiples(days in 1u32..60, first in 0i64..100) {
        let start = date("2026-01-01");
        let plan = every(days, &start.saturating_add(first.days()).to_string());
        let until = start.saturating_add(200.days());
        let ahead = plan.ahead(&fresh("2026-01-01"), start, until);
        let expected: Vec<i64> = (first..=200).step_by(days as usize).collect();
        let found: Vec<i64> = ahead.iter().map(|cycle| days_between(start, cycle.due)).collect();
        prop_assert_eq!(found, expected);
    }
}
