//! Work that comes from elsewhere in the state it is in: the way it must have gone there.

use super::states::WorkState;
use crate::{access::refusal::Refusal, ground::time::Instant};

/// When work that comes from elsewhere did what, as far as that is told.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct WayDates {
    pub raised_at: Instant,
    pub started_at: Option<Instant>,
    pub done_at: Option<Instant>,
    /// Of closed and dropped work, when it ended; of other work, since when it stands in its state.
    pub since: Option<Instant>,
}

/// The steps that bring new work to a state, with their instants: the shortest way there is. What is not told happened with the
/// step after it, or when it was raised where none is told.
///
/// # Errors
/// [`Refusal::Field`] for what lies before what came first, and for finished work of which nobody says when.
pub fn way_to(state: WorkState, dates: WayDates) -> Result<Vec<(WorkState, Instant)>, Refusal> {
    use WorkState as S;
    let WayDates { raised_at, started_at, done_at, since } = dates;
    let in_order = [("started_at", started_at), ("done_at", done_at), ("since", since)];
    let mut before = ("raised_at", raised_at);
    for (field, at) in in_order.into_iter().filter_map(|(field, at)| Some((field, at?))) {
        if at < before.1 {
            return Err(Refusal::field(field, format!("lies before {}", before.0)));
        }
        before = (field, at);
    }
    let standing = since.unwrap_or(raised_at);
    let done = || done_at.or(since).ok_or_else(|| Refusal::field("done_at", "say when it was done"));
    let mut steps = Vec::new();
    match state {
        S::Raised => {}
        S::Planning | S::Ready => steps.push((state, standing)),
        S::Waiting => steps.extend([(S::Planning, raised_at), (S::Waiting, standing)]),
        S::Scheduled => steps.extend([(S::Ready, raised_at), (S::Scheduled, standing)]),
        S::UnderWay => steps.extend([(S::Ready, raised_at), (S::UnderWay, since.or(started_at).unwrap_or(raised_at))]),
        S::Dropped => steps.push((S::Dropped, standing)),
        S::Done | S::Returned | S::Closed => {
            let done = done()?;
            steps.extend([(S::Ready, raised_at), (S::UnderWay, started_at.unwrap_or(done)), (S::Done, done)]);
            if state != S::Done {
                steps.push((state, since.unwrap_or(done)));
            }
        }
    }
    Ok(steps)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        access::roles::Role,
        work::{Mover, check_move},
    };
    use rstest::rstest;

    fn day(n: i64) -> Instant {
        Instant::from_ms(n * 86_400_000)
    }

    const NOTHING: WayDates =
        WayDates { raised_at: Instant::EARLIEST_EVENT, started_at: None, done_at: None, since: None };

    #[test]
    fn what_is_not_told_happened_with_what_came_after_it() {
        let dates = WayDates { raised_at: day(1), done_at: Some(day(9)), ..NOTHING };
        let way = way_to(WorkState::Closed, dates).unwrap();
        let expected = [
            (WorkState::Ready, day(1)),
            (WorkState::UnderWay, day(9)),
            (WorkState::Done, day(9)),
            (WorkState::Closed, day(9)),
        ];
        assert_eq!(way, expected);
        let told = WayDates { started_at: Some(day(4)), since: Some(day(11)), ..dates };
        let way: Vec<Instant> = way_to(WorkState::Closed, told).unwrap().into_iter().map(|(_, at)| at).collect();
        assert_eq!(way, [day(1), day(4), day(9), day(11)]);
    }

    #[rstest]
    #[case::started_before_it_was_raised(WayDates { started_at: Some(day(0)), done_at: Some(day(9)), ..NOTHING }, "started_at")]
    #[case::done_before_it_was_started(WayDates { started_at: Some(day(5)), done_at: Some(day(4)), ..NOTHING }, "done_at")]
    #[case::closed_before_it_was_done(WayDates { done_at: Some(day(4)), since: Some(day(3)), ..NOTHING }, "since")]
    #[case::nobody_says_when(NOTHING, "done_at")]
    fn what_cannot_have_been_is_named(#[case] dates: WayDates, #[case] field: &str) {
        let refused = way_to(WorkState::Closed, WayDates { raised_at: day(1), ..dates }).unwrap_err();
        assert!(matches!(&refused, Refusal::Field { field: named, .. } if named == field), "{refused:?}");
    }

    /// Every way is one that the moves allow a planner.
    #[test]
    fn every_way_is_made_of_moves_there_are() {
        for state in WorkState::ALL {
            let dates = WayDates { raised_at: day(1), done_at: Some(day(2)), ..NOTHING };
            let mut from = WorkState::Raised;
            for (to, _) in way_to(state, dates).unwrap() {
                let mover = Mover { role: Role::Planner, immediate: false, waiting_from: None, is_asked: false };
                assert_eq!(check_move(from, to, mover), Ok(()), "{state:?}");
                from = to;
            }
            assert_eq!(from, state);
        }
    }
}
