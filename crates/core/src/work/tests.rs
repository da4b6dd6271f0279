use super::*;
use crate::{
    access::roles::Role,
    ground::time::{DAY, Instant},
};
use WorkState as S;
use rstest::rstest;

fn mover(role: Role) -> Mover {
    Mover { role, immediate: false, waiting_from: None, is_asked: false }
}

#[test]
fn every_move_there_is_and_whose() {
    // rules.md §4, written out: from, to, who besides the administrator.
    let plan = [Role::Engineer, Role::Planner];
    let work = [Role::Engineer, Role::Planner, Role::Technician];
    let table: Vec<(S, S, &[Role])> = vec![
        (S::Raised, S::Planning, &plan),
        (S::Raised, S::Ready, &plan),
        (S::Raised, S::Dropped, &plan),
        (S::Planning, S::Waiting, &work),
        (S::Ready, S::Waiting, &work),
        (S::Scheduled, S::Waiting, &work),
        (S::UnderWay, S::Waiting, &work),
        (S::Waiting, S::Waiting, &work),
        (S::Planning, S::Ready, &plan),
        (S::Ready, S::Planning, &plan),
        (S::Ready, S::Scheduled, &plan),
        (S::Scheduled, S::Ready, &plan),
        (S::Ready, S::UnderWay, &work),
        (S::Scheduled, S::UnderWay, &work),
        (S::UnderWay, S::Done, &work),
        (S::UnderWay, S::Ready, &work),
        (S::Done, S::Returned, &plan),
        (S::Done, S::Closed, &plan),
        (S::Done, S::UnderWay, &plan),
        (S::Returned, S::Done, &plan),
        (S::Returned, S::UnderWay, &plan),
        (S::Planning, S::Dropped, &plan),
        (S::Waiting, S::Dropped, &plan),
        (S::Ready, S::Dropped, &plan),
        (S::Scheduled, S::Dropped, &plan),
        (S::UnderWay, S::Dropped, &plan),
    ];
    for from in S::ALL {
        for to in S::ALL {
            let row = table.iter().find(|(f, t, _)| (*f, *t) == (from, to));
            for role in Role::ALL {
                let expected = row.is_some_and(|(_, _, who)| role == Role::Administrator || who.contains(&role));
                assert_eq!(check_move(from, to, mover(role)).is_ok(), expected, "{role:?}: {from:?} to {to:?}");
            }
        }
    }
}

#[test]
fn waiting_goes_back_to_where_it_came_from() {
    let technician = Mover { waiting_from: Some(S::Scheduled), ..mover(Role::Technician) };
    assert_eq!(moves(S::Waiting, technician), [S::Waiting, S::Scheduled], "or for another reason");
    assert_eq!(
        check_move(S::Waiting, S::Ready, technician),
        Err(MoveRefused::NoSuchMove { from: S::Waiting, to: S::Ready })
    );
}

/// Whatever way it is moved, the moves from there are those that were told beforehand.
#[test]
fn moves_are_known_ahead() {
    for role in Role::ALL {
        for from in WorkState::ALL {
            let told = offered_ahead(from, mover(role), AskedAbout::default());
            let of = |state: WorkState| told.iter().find(|known| known.state == state).map(|known| &known.moves);
            assert_eq!(of(from), Some(&offered(from, mover(role), AskedAbout::default())), "{role:?} {from:?}");
            for one in of(from).unwrap().iter().filter(|one| one.to != from) {
                let waiting_from = if one.to == WorkState::Waiting { Some(from) } else { None };
                let then = offered(one.to, Mover { waiting_from, ..mover(role) }, AskedAbout::default());
                assert_eq!(of(one.to), Some(&then), "{role:?} {from:?} to {:?}", one.to);
            }
        }
    }
}

#[test]
fn immediate_work_starts_at_once_and_the_asked_person_answers() {
    let technician = Mover { immediate: true, ..mover(Role::Technician) };
    assert_eq!(moves(S::Raised, technician), [S::UnderWay]);
    let asked = Mover { is_asked: true, ..mover(Role::Technician) };
    assert_eq!(moves(S::Returned, asked), [S::UnderWay, S::Done]);
    let refusal = check_move(S::Done, S::Closed, mover(Role::Technician)).unwrap_err();
    assert_eq!(refusal.to_string(), "a technician may not move work from done to closed");
}

#[test]
fn a_move_says_what_it_asks_for_and_which_is_the_way_ahead() {
    use AskField as F;
    let planner = mover(Role::Planner);
    let offered = |from, by_alarm, meters_wait| {
        offered(from, planner, AskedAbout { by_alarm, meters_wait, ..AskedAbout::default() })
    };
    let fields = |one: &OfferedMove| one.asks.iter().map(|ask| (ask.field, ask.required)).collect::<Vec<_>>();
    let at_work = offered(S::UnderWay, true, false);
    let ahead: Vec<S> = at_work.iter().filter(|one| one.ahead).map(|one| one.to).collect();
    assert_eq!((at_work.len(), ahead), (4, vec![S::Done]), "{at_work:?}");
    let way =
        |from, mover| super::offered(from, mover, AskedAbout::default()).iter().find(|one| one.ahead).map(|one| one.to);
    let waiting = Mover { waiting_from: Some(S::Planning), ..planner };
    for (from, mover, to) in [
        (S::Raised, planner, Some(S::Planning)),
        (S::Planning, planner, Some(S::Ready)),
        (S::Waiting, waiting, Some(S::Planning)),
        (S::Ready, planner, Some(S::Scheduled)),
        (S::Scheduled, planner, Some(S::UnderWay)),
        (S::Done, planner, Some(S::Closed)),
        (S::Returned, planner, Some(S::Done)),
        (S::Closed, planner, None),
    ] {
        assert_eq!(way(from, mover), to, "{from:?}");
    }
    let done = at_work.iter().find(|one| one.to == S::Done).unwrap();
    assert_eq!(fields(done), [(F::At, false), (F::Verdict, false), (F::Note, false)]);
    let plain = offered(S::UnderWay, false, true);
    let done = plain.iter().find(|one| one.to == S::Done).unwrap();
    assert_eq!(fields(done), [(F::At, false), (F::Readings, false), (F::Note, false)]);
    for one in offered(S::Done, false, false) {
        assert_eq!((one.ends, one.asks.is_empty()), (one.to == S::Closed, one.to == S::UnderWay), "{one:?}");
    }
    let dropped = asks(S::Dropped, AskedAbout::default());
    assert_eq!(dropped, [Ask { field: F::Note, required: true }]);
    let with_downtime = asks(S::Dropped, AskedAbout { has_downtime: true, ..AskedAbout::default() });
    assert_eq!(with_downtime[0], Ask { field: F::Downtime, required: true });
}

#[test]
fn corrective_work_closes_with_a_problem_and_its_downtime_ended() {
    let close = |kind, open| check_close(kind, None, open);
    let reported = ToClose { has_problem: true, ..ToClose::default() };
    assert_eq!(close(WorkKind::CorrectiveDeferred, ToClose::default()), Err(NotClosable::NoProblem));
    assert_eq!(close(WorkKind::CorrectiveDeferred, reported.clone()), Ok(()));
    assert_eq!(close(WorkKind::ConditionBased, ToClose::default()), Ok(()));
    let stopped = ToClose { downtime: Some(3), ..reported };
    assert_eq!(close(WorkKind::Inspection, stopped), Err(NotClosable::DowntimeOpen(3)));
    let open = ToClose { check: Some("Daily round".into()), visit: Some(2), ..ToClose::default() };
    assert_eq!(close(WorkKind::Inspection, open), Err(NotClosable::CheckOpen("Daily round".into())));
    let unvisited = ToClose { visit: Some(2), ..ToClose::default() };
    assert_eq!(close(WorkKind::Inspection, unvisited), Err(NotClosable::VisitOpen(2)));
}

#[test]
fn condition_based_work_that_found_it_says_what() {
    let close = |kind, verdict| check_close(kind, Some(verdict), ToClose::default());
    let reported = ToClose { has_problem: true, ..ToClose::default() };
    assert_eq!(close(WorkKind::ConditionBased, Verdict::FoundIt), Err(NotClosable::NothingFound));
    assert_eq!(check_close(WorkKind::ConditionBased, Some(Verdict::FoundIt), reported), Ok(()));
    for other in [Verdict::NothingWrong, Verdict::Other] {
        assert_eq!(close(WorkKind::ConditionBased, other), Ok(()));
    }
    assert_eq!(close(WorkKind::Inspection, Verdict::FoundIt), Ok(()), "it was not raised by a condition");
}

#[test]
fn a_limit_looks_at_its_own_work_only_and_counts_whole_time() {
    let day = |n: i64| Instant::from_ms(n * DAY);
    let parts = WaitingFor::Parts;
    let work = InState { state: S::Waiting, waiting_for: Some(parts), is_dated: false, rank: 3, crew: Some("mech") };
    let stood = |limit: &StateLimit, work: InState, now| {
        let step = StateStep { at: day(0), to: work.state, waiting_for: work.waiting_for };
        limit.applies_to(work) && limit.stood_ms(&[step], now, 7) > limit.allowed_ms()
    };
    let exceeded = |work, now| StateLimit::first_settings().iter().filter(|limit| stood(limit, work, now)).count();
    assert_eq!(exceeded(work, day(21)), 0, "21 days are allowed");
    assert_eq!(exceeded(work, day(21).plus(1)), 1);
    assert_eq!(exceeded(InState { waiting_for: Some(WaitingFor::Outage), ..work }, day(99)), 0);
    let ready = InState { state: S::Ready, ..work };
    assert_eq!((exceeded(ready, day(15)), exceeded(InState { is_dated: true, ..ready }, day(15))), (1, 0));
    let narrow = StateLimit { rank: Some(1), crew: Some("elec".into()), ..StateLimit::of(S::Ready, 1) };
    assert!(!stood(&narrow, ready, day(9)));
    assert!(stood(&narrow, InState { rank: 1, crew: Some("elec"), ..ready }, day(9)));
}

/// rules.md §4, in days by hand: what resets the clock of a limit, and what does not.
#[rstest]
#[case::a_minute_elsewhere(&[(0, S::Planning), (9, S::Ready), (9, S::Planning)], S::Planning, 12, 12)]
#[case::a_week_elsewhere(&[(0, S::Planning), (9, S::Ready), (16, S::Planning)], S::Planning, 18, 11)]
#[case::more_than_a_week(&[(0, S::Planning), (9, S::Ready), (17, S::Planning)], S::Planning, 18, 1)]
#[case::done_and_returned_are_one(&[(0, S::Done), (3, S::Returned), (5, S::Done)], S::Done, 6, 6)]
#[case::rework_begins_anew(&[(0, S::Done), (4, S::UnderWay), (5, S::Done)], S::Done, 7, 2)]
#[case::and_so_does_being_under_way(&[(0, S::UnderWay), (4, S::Done), (5, S::UnderWay)], S::UnderWay, 7, 2)]
#[case::stopped_for_a_day(&[(0, S::UnderWay), (4, S::Ready), (5, S::UnderWay)], S::UnderWay, 7, 6)]
fn stays_in_a_state_count_as_one(
    #[case] steps: &[(i64, WorkState)],
    #[case] state: WorkState,
    #[case] now: i64,
    #[case] stood: i64,
) {
    let day = |n: i64| Instant::from_ms(n * DAY);
    let step = |&(on, to): &(i64, WorkState)| StateStep { at: day(on), to, waiting_for: None };
    let steps: Vec<StateStep> = steps.iter().map(step).collect();
    assert_eq!(StateLimit::of(state, 5).stood_ms(&steps, day(now), 7), stood * DAY);
}

#[test]
fn a_tightened_window_never_ends_later() {
    let day = |n: i64| Instant::from_ms(n * DAY);
    let windows = RankWindows::default();
    assert_eq!(windows.window_end(3, day(0)), day(28));
    assert_eq!(windows.tightened(day(28), 2, day(10)), day(17));
    assert_eq!(windows.tightened(day(28), 2, day(25)), day(28));
}
