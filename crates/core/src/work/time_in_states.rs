//! How long work stood in each of its states.

use super::states::WorkState;
use crate::ground::time::Instant;
use serde::Serialize;

/// How long work stood in a state, all times together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TimeInState {
    pub state: WorkState,
    /// Milliseconds.
    pub ms: i64,
    /// It stands there now.
    pub is_now: bool,
}

/// How long work stood in each state up to `now`, in the order in which it first came there, from its steps in the order in which
/// they count. All together are its age: up to its end, where it is over.
#[must_use]
pub fn times_in_states(steps: &[(Instant, WorkState)], now: Instant) -> Vec<TimeInState> {
    let mut times: Vec<TimeInState> = Vec::new();
    for (place, &(since, state)) in steps.iter().enumerate() {
        if state.is_over() {
            continue;
        }
        let next = steps.get(place + 1).map(|(at, _)| *at);
        let ms = next.unwrap_or(now.max(since)).since(since);
        let is_now = next.is_none();
        match times.iter_mut().find(|one| one.state == state) {
            Some(known) => (known.ms, known.is_now) = (known.ms + ms, is_now),
            None => times.push(TimeInState { state, ms, is_now }),
        }
    }
    times
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::time::HOUR;
    use proptest::prelude::*;

    fn at(hour: i64) -> Instant {
        Instant::from_ms(hour * HOUR)
    }

    /// By hand: three hours raised, five waiting in two parts, one planning between them, and under way for two by now.
    #[test]
    fn parts_in_one_state_are_added_up() {
        use WorkState as S;
        let steps =
            [(at(0), S::Raised), (at(3), S::Waiting), (at(5), S::Planning), (at(6), S::Waiting), (at(9), S::UnderWay)];
        let hours: Vec<(S, i64, bool)> =
            times_in_states(&steps, at(11)).iter().map(|one| (one.state, one.ms / HOUR, one.is_now)).collect();
        let expected = [(S::Raised, 3, false), (S::Waiting, 5, false), (S::Planning, 1, false), (S::UnderWay, 2, true)];
        assert_eq!(hours, expected);
    }

    proptest! {
        /// Whatever way it came, the times add up to its age.
        #[test]
        fn they_add_up_to_the_age(gaps in prop::collection::vec((0i64..500, 0usize..8), 1..20), ends in any::<bool>(), rest in 0i64..500) {
            let mut steps: Vec<(Instant, WorkState)> = Vec::new();
            let mut hour = 0;
            for (gap, state) in gaps {
                hour += gap;
                steps.push((at(hour), WorkState::ALL[state]));
            }
            let mut end = hour + rest;
            if ends {
                steps.push((at(end), WorkState::Closed));
                end += 1_000;
            }
            let age = if ends { end - 1_000 } else { end } - steps[0].0.ms() / HOUR;
            let times = times_in_states(&steps, at(end));
            prop_assert_eq!(times.iter().map(|one| one.ms).sum::<i64>(), age * HOUR);
            prop_assert_eq!(times.iter().filter(|one| one.is_now).count(), usize::from(!ends));
        }
    }
}
