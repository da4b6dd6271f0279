use super::*;
use crate::{
    ground::time::{CLOCK_OFF_MS, HOUR, Instant, Span},
    watch::meters::{Counter, Meter, MeterKind, Plausible},
};
use rstest::rstest;

fn at(hours: f64) -> Instant {
    Instant::from_ms((hours * HOUR as f64) as i64)
}

const TENTHS: Counter = Counter { resolution: 0.1, rollover_at: None, greatest_rate: Some(1.0) };

fn hours(counter: Counter) -> Meter {
    Meter { unit: "h".into(), kind: MeterKind::Counter(counter) }
}

fn before(hours: f64, value: f64) -> Neighbours {
    let before = Reading { at: at(hours), value };
    Neighbours { before: Some(before), after: None, newest_evaluated: Some(before.at) }
}

// Own numbers after rules.md §2: a counter of hours may rise by 24 a day and one step of its resolution.
#[rstest]
#[case::a_full_day(1024.0, true)]
#[case::one_step_more(1024.1, true)]
#[case::two_steps_more(1024.2, false)]
#[case::unchanged(1000.0, true)]
#[case::one_step_back(999.9, true)]
#[case::two_steps_back(999.8, false)]
fn a_counter_of_hours_one_day_after_1000(#[case] value: f64, #[case] kept: bool) {
    let reading = Reading { at: at(48.0), value };
    let answer = check(&hours(TENTHS), reading, before(24.0, 1000.0), at(48.0));
    assert_eq!(answer.is_ok(), kept, "{answer:?}");
}

/// Every pair of values one step apart, as they are read from decimal text: one step back is tolerated, two are not.
#[rstest]
#[case::tenths(1)]
#[case::hundredths(2)]
#[case::whole(0)]
fn one_step_back_is_one_step_whatever_the_binary_form(#[case] digits: usize) {
    let resolution: f64 = format!("{:.digits$}", 10f64.powi(-(digits as i32))).parse().unwrap();
    let counter = Counter { resolution, ..TENTHS };
    let value = |n: i64| -> f64 { format!("{:.digits$}", n as f64 * resolution).parse().unwrap() };
    for n in 2..200_001 {
        let back = counter.rise(value(n), value(n - 1));
        assert!(back.is_some_and(|back| back < 0.0), "{} to {}", value(n), value(n - 1));
        assert_eq!(counter.rise(value(n), value(n - 2)), None, "{} to {}", value(n), value(n - 2));
    }
}

#[test]
fn a_counter_without_a_resolution_tolerates_nothing() {
    let counter = Counter { resolution: 0.0, ..TENTHS };
    assert_eq!(counter.rise(4.2, 4.2), Some(0.0));
    assert_eq!(counter.rise(4.2, 4.1), None);
}

/// Own numbers: 990 to 1000, the device changed there for one at 5, on to 8; as the new device reads it, the old one's
/// last values were -5 and 5.
#[test]
fn a_counter_goes_on_across_an_exchange_and_a_rollover() {
    let counter = hours(TENTHS);
    let readings: Columns =
        [(0.0, 990.0), (10.0, 998.0), (30.0, 8.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
    let exchange = [Exchange { at: at(20.0), last: 1_000.0, first: 5.0 }];
    let of = |zero| through(&counter, &readings, &exchange, at(zero)).unwrap();
    assert_eq!(of(40.0), [-5.0, 3.0, 8.0]);
    assert_eq!(of(15.0), [990.0, 998.0, 1_003.0], "as the old device would read it");
    assert_eq!(through(&counter, &readings, &[], at(40.0)), None, "nothing happened to it");
    let rolling = hours(Counter { rollover_at: Some(999.9), ..TENTHS });
    let round: Columns =
        [(0.0, 995.0), (10.0, 3.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
    let rolled = through(&rolling, &round, &[], at(0.0)).unwrap();
    assert!((rolled[1] - 1_003.0).abs() < 1e-9, "999.9 and one step of 0.1 is 1000: {rolled:?}");
}

#[test]
fn a_refusal_gives_the_figure() {
    let counter = hours(TENTHS);
    let reading = Reading { at: at(48.0), value: 1100.0 };
    let error = check(&counter, reading, before(24.0, 1000.0), at(48.0)).unwrap_err();
    assert_eq!(error.to_string(), "a rise of 100 h in 24 h is more than 24.1 h at 1 per hour, the greatest believed");
    let error = check(&counter, Reading { at: at(48.0), value: 900.0 }, before(24.0, 1000.0), at(48.0));
    assert_eq!(
        error.unwrap_err().to_string(),
        "900 h is lower than 1000 h at 1970-01-02T00:00:00Z: the counter would go backwards"
    );
}

#[test]
fn a_rollover_is_growth() {
    let counter = hours(Counter { rollover_at: Some(9_999.9), ..TENTHS });
    let reading = Reading { at: at(48.0), value: 5.0 };
    assert_eq!(check(&counter, reading, before(24.0, 9_990.0), at(48.0)), Ok(Accepted::InOrder));
    let too_much = Reading { at: at(48.0), value: 500.0 };
    assert!(matches!(check(&counter, too_much, before(24.0, 9_990.0), at(48.0)), Err(Refused::TooFast { .. })));
}

/// Own numbers: 10 h from 990 to 1000, the device changed there and begun at 0, 6 h more; then a rollover at 99.9 of
/// another meter: 99 → 5 is 6 with its step of 0.1.
#[test]
fn usage_goes_across_exchanges_and_rollovers_and_is_cut_at_the_ends() {
    let readings: Columns =
        [(0.0, 990.0), (30.0, 6.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
    let exchange = [Exchange { at: at(20.0), last: 1_000.0, first: 0.0 }];
    let within = |from, to| usage(&TENTHS, &readings, &exchange, Span::new(at(from), at(to)).unwrap());
    assert_eq!(within(0.0, 40.0), 16.0);
    assert_eq!(within(10.0, 25.0), 5.0 + 3.0, "half of the first stretch and half of the second");
    assert_eq!(within(30.0, 40.0), 0.0);
    let rolling = Counter { rollover_at: Some(99.9), ..TENTHS };
    let round: Columns =
        [(0.0, 99.0), (10.0, 5.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
    let used = usage(&rolling, &round, &[], Span::new(at(0.0), at(10.0)).unwrap());
    assert!((used - 6.0).abs() < 1e-9, "{used}");
}

#[test]
fn a_suspended_meter_counts_only_while_the_other_runs() {
    let readings: Columns = (0..6).map(|h| Reading { at: at(f64::from(h)), value: 1.0 }).collect();
    let other: Columns =
        [(1.0, 900.0), (2.5, 20.0), (4.0, 800.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
    let kept: Vec<i64> = readings.while_running(&other, 100.0).at().iter().map(|at| at / HOUR).collect();
    assert_eq!(kept, [0, 1, 2, 4, 5]);
}

#[test]
fn a_late_counter_value_must_fit_what_came_after() {
    let around = Neighbours {
        before: Some(Reading { at: at(0.0), value: 0.0 }),
        after: Some(Reading { at: at(20.0), value: 10.0 }),
        newest_evaluated: Some(at(20.0)),
    };
    let counter = hours(TENTHS);
    let late = |value| check(&counter, Reading { at: at(10.0), value }, around, at(30.0));
    assert_eq!(late(5.0), Ok(Accepted::Late));
    assert!(matches!(late(10.2), Err(Refused::TooFast { .. } | Refused::AboveLater { .. })));
}

#[test]
fn a_measurement_outside_its_plausible_range_is_kept_apart() {
    let plausible = Plausible { low: Some(0.0), high: Some(400.0) };
    let bar = Meter { unit: "bar".into(), kind: MeterKind::Measurement(plausible) };
    let answer = |value| check(&bar, Reading { at: at(1.0), value }, Neighbours::default(), at(1.0));
    assert_eq!(answer(400.0), Ok(Accepted::InOrder));
    assert_eq!(answer(400.5), Ok(Accepted::Quarantined));
    assert!(matches!(answer(f64::NAN), Err(Refused::NotFinite { .. })));
}

#[test]
fn a_grade_takes_a_named_value_only() {
    let grades = vec!["good".into(), "worn".into()];
    let grade = Meter { unit: "1".into(), kind: MeterKind::Grade(grades) };
    let answer = |value| check(&grade, Reading { at: at(1.0), value }, Neighbours::default(), at(1.0));
    assert_eq!(answer(1.0), Ok(Accepted::InOrder));
    assert_eq!(answer(2.0), Err(Refused::NotAGrade { value: 2.0, named: 2 }));
    assert_eq!(answer(0.5), Err(Refused::NotAGrade { value: 0.5, named: 2 }));
}

#[test]
fn five_minutes_ahead_is_the_most() {
    let bar = Meter::measurement("bar");
    let answer = |ms| {
        let reading = Reading { at: at(1.0).plus(ms), value: 1.0 };
        check(&bar, reading, Neighbours::default(), at(1.0))
    };
    assert!(answer(CLOCK_OFF_MS).is_ok());
    assert!(matches!(answer(CLOCK_OFF_MS + 1), Err(Refused::Future { .. })));
}
