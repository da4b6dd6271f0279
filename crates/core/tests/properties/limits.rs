//! The machine of a ladder: symmetry, independence, and that it can be put away and taken up again.

use proptest::prelude::*;
use tally_core::{
    ground::time::{Instant, SECOND},
    watch::{
        limits::{Change, Machine, RungSide, RungState, machine::PlainLevel},
        readings::Reading,
    },
};

const MINUTE: i64 = 60 * SECOND;

fn level(side: RungSide, level: u32, setpoint: f64, on: i64, off: i64) -> PlainLevel {
    PlainLevel { side, level, setpoint, deadband: 2.0, on_delay_ms: on * MINUTE, off_delay_ms: off * MINUTE }
}

/// What changed, by place of the reading, rung and way.
fn run(machine: &Machine, states: &mut [RungState], readings: &[Reading]) -> Vec<(usize, usize, Change)> {
    let mut all = Vec::new();
    for (index, reading) in readings.iter().enumerate() {
        let mut changed = Vec::new();
        machine.step(states, *reading, &mut changed);
        all.extend(changed.into_iter().map(|t| (index, t.rung, t.change)));
    }
    all
}

fn series() -> impl Strategy<Value = Vec<Reading>> {
    prop::collection::vec((0i32..24, 1i64..5), 1..80).prop_map(|steps| {
        let mut at = 0;
        steps
            .into_iter()
            .map(|(value, gap)| {
                at += gap * MINUTE;
                Reading { at: Instant::from_ms(at), value: f64::from(value) }
            })
            .collect()
    })
}

proptest! {
    #[test]
    fn a_low_rung_is_a_high_rung_seen_in_a_mirror(series in series(), on in 0i64..6, off in 0i64..6) {
        let high = Machine::of_levels(&[level(RungSide::High, 1, 12.0, on, off)]);
        let low = Machine::of_levels(&[level(RungSide::Low, 1, -12.0, on, off)]);
        let mirrored: Vec<Reading> = series.iter().map(|r| Reading { value: -r.value, ..*r }).collect();
        prop_assert_eq!(
            run(&high, &mut high.at_rest(), &series),
            run(&low, &mut low.at_rest(), &mirrored)
        );
    }

    #[test]
    fn each_rung_runs_on_its_own(series in series(), on in 0i64..4, off in 0i64..4) {
        let levels = [
            level(RungSide::High, 1, 12.0, on, 0),
            level(RungSide::High, 2, 18.0, 0, off),
            level(RungSide::Low, 1, 6.0, off, on),
        ];
        let together = Machine::of_levels(&levels);
        let all = run(&together, &mut together.at_rest(), &series);
        for (rung, level) in levels.into_iter().enumerate() {
            let alone = Machine::of_levels(&[level]);
            let mine: Vec<_> = run(&alone, &mut alone.at_rest(), &series).into_iter().map(|(i, _, c)| (i, c)).collect();
            let among: Vec<_> = all.iter().filter(|(_, r, _)| *r == rung).map(|(i, _, c)| (*i, *c)).collect();
            prop_assert_eq!(mine, among);
        }
    }

    #[test]
    fn put_away_and_taken_up_it_goes_on_as_if_nothing_was(series in series(), cut in 0usize..80, on in 0i64..6, off in 0i64..6) {
        let machine = Machine::of_levels(&[level(RungSide::High, 1, 12.0, on, off), level(RungSide::Low, 1, 4.0, off, on)]);
        let whole = run(&machine, &mut machine.at_rest(), &series);
        let cut = cut.min(series.len());
        let mut states = machine.at_rest();
        let mut parts = run(&machine, &mut states, &series[..cut]);
        let kept = serde_json::to_string(&states).unwrap();
        let mut states: Vec<RungState> = serde_json::from_str(&kept).unwrap();
        parts.extend(run(&machine, &mut states, &series[cut..]).into_iter().map(|(i, r, c)| (i + cut, r, c)));
        prop_assert_eq!(whole, parts);
    }

    #[test]
    fn entering_and_leaving_take_turns(series in series(), on in 0i64..6, off in 0i64..6) {
        let machine = Machine::of_levels(&[level(RungSide::High, 1, 12.0, on, off)]);
        let changes = run(&machine, &mut machine.at_rest(), &series);
        for (place, (_, _, change)) in changes.iter().enumerate() {
            prop_assert_eq!(*change == Change::Entered, place % 2 == 0);
        }
        // Every value between clearing and setpoint leaves the state as it is.
        for (index, _, change) in changes {
            let value = series[index].value;
            let beyond = if change == Change::Entered { value >= 12.0 } else { value < 10.0 };
            prop_assert!(beyond, "{:?} at {}", change, value);
        }
    }

    #[test]
    fn longer_delays_never_make_more_alarms(series in series(), on in 0i64..5, off in 0i64..5, more in 1i64..5) {
        let entered = |on, off| {
            let machine = Machine::of_levels(&[level(RungSide::High, 1, 12.0, on, off)]);
            run(&machine, &mut machine.at_rest(), &series).iter().filter(|(_, _, c)| *c == Change::Entered).count()
        };
        prop_assert!(entered(on, off + more) <= entered(on, off), "a longer off-delay joins alarms");
        prop_assert!(entered(on + more, off) <= entered(on, off) , "a longer on-delay leaves alarms out");
    }
}
