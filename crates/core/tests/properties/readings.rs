//! Counters: what is kept can be added up.

use proptest::prelude::*;
use tally_core::{
    ground::time::{HOUR, Instant},
    watch::{
        meters::{Counter, Meter, MeterKind},
        readings::{Accepted, Neighbours, Reading, check},
    },
};

fn counter(rollover_at: Option<f64>) -> Meter {
    let counter = Counter { resolution: 0.5, rollover_at, greatest_rate: Some(1.0) };
    Meter { unit: "h".into(), kind: MeterKind::Counter(counter) }
}

proptest! {
    #[test]
    fn what_a_counter_keeps_grows_no_faster_than_time(values in prop::collection::vec((0i64..400, 1i64..30), 1..60)) {
        let meter = counter(None);
        let (mut last, mut at): (Option<Reading>, i64) = (None, 0);
        let mut kept: Vec<Reading> = Vec::new();
        for (halves, gap) in values {
            at += gap * HOUR;
            let reading = Reading { at: Instant::from_ms(at), value: halves as f64 / 2.0 };
            let around = Neighbours { before: last, after: None, newest_evaluated: last.map(|l| l.at) };
            if check(&meter, reading, around, reading.at) == Ok(Accepted::InOrder) {
                kept.push(reading);
                last = Some(reading);
            }
        }
        for pair in kept.windows(2) {
            let grown = meter.counter().unwrap().rise(pair[0].value, pair[1].value).unwrap();
            let hours = pair[1].at.since(pair[0].at) as f64 / HOUR as f64;
            prop_assert!((-0.5..=hours + 0.5).contains(&grown), "{grown} h in {hours} h");
        }
    }

    #[test]
    fn a_late_value_that_is_kept_fits_between_its_neighbours(before in 0i64..100, between in 0i64..220, after in 0i64..100, gap in 1i64..60) {
        let meter = counter(None);
        let first = Reading { at: Instant::from_ms(0), value: before as f64 };
        let last = Reading { at: Instant::from_ms(2 * gap * HOUR), value: (before + after.min(2 * gap)) as f64 };
        let late = Reading { at: Instant::from_ms(gap * HOUR), value: between as f64 };
        let around = Neighbours { before: Some(first), after: Some(last), newest_evaluated: Some(last.at) };
        let fits = |from: &Reading, to: &Reading| {
            let grown = to.value - from.value;
            grown >= -0.5 && grown <= gap as f64 + 0.5
        };
        let kept = check(&meter, late, around, last.at);
        prop_assert_eq!(kept.is_ok(), fits(&first, &late) && fits(&late, &last));
        if let Ok(how) = kept {
            prop_assert_eq!(how, Accepted::Late);
        }
    }

    #[test]
    fn round_its_rollover_a_counter_still_grows(from in 0i64..1000, grown in 0i64..400) {
        let meter = counter(Some(999.5));
        let to = (from + grown) % 1000;
        let found = meter.counter().unwrap().rise(from as f64, to as f64).unwrap();
        prop_assert!((found - grown as f64).abs() < 1e-9, "{from} to {to}: {found}");
    }
}
