use super::*;
use crate::{
    ground::{
        severity::Severity,
        time::{DAY, HOUR, Instant, Span},
    },
    watch::{
        limits::{
            Ladder, Response, ResponseKind, RungSide, Watched,
            finder::find::alone,
            ladder::tests::rung,
            replay::{Assumptions, Completed, Completion, History},
            warnings::Past,
        },
        meters::Meter,
        readings::{Columns, Reading},
    },
    work::Verdict,
};
use proptest::prelude::*;

pub(super) fn at(days: i64) -> Instant {
    Instant::from_ms(days * DAY)
}

pub(super) fn tried(setpoints: &[f64]) -> Vec<Setting> {
    setpoints.iter().map(|&setpoint| Setting { setpoint, deadband: None }).collect()
}

#[test]
fn the_finder_says_for_each_setpoint_what_it_would_have_come_to() {
    let past = Past { failures: vec![at(8)], found: vec![] };
    let values = [1.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 1.0, 1.0];
    let readings: Columns = (0..).zip(values).map(|(day, value)| Reading { at: at(day), value }).collect();
    let meter = Meter::measurement("[g]");
    let history = History::of(&meter, &readings, at(60), &past);
    assert_eq!(grid(readings.values(), 5), [2.0, 3.0, 4.0, 5.0, 6.0]);
    assert_eq!(grid(&[0.0, 1.0], 6), [0.14, 0.29, 0.43, 0.57, 0.71, 0.86], "as a person would set them");
    assert_eq!(grid(&[1_500.0, 1_510.0], 4), [1_502.0, 1_504.0, 1_506.0, 1_508.0], "by the range, not by the size");
    assert_eq!(deadbands(&[2.0, 3.0, 6.0]), [0.0, 0.08, 0.2, 0.4]);
    let ladder = Ladder {
        rungs: vec![rung(RungSide::High, Severity::Alert, 4.0, 1.0)],
        raise_interval_seconds: 20 * 86_400,
        ..Ladder::default()
    };
    let points = find(&ladder, 0, &tried(&[1.5, 4.0, 6.5, 8.0]), &history, &Assumptions::default());
    let warnings: Vec<Option<i64>> = points.iter().map(|p| p.median_warning_ms.map(|ms| ms / DAY)).collect();
    assert_eq!(warnings, [Some(6), Some(4), Some(1), None]);
    assert_eq!(
        points.iter().map(|p| (p.caught, p.missed, p.work)).collect::<Vec<_>>(),
        [(1, 0, 1), (1, 0, 1), (1, 0, 1), (0, 1, 0)],
        "1.5 with a deadband of 1 is never left, but after its work was done nothing was read any more"
    );
}

/// By hand: a failure comes to 1,000 and an order to 100. Catching both with 12 orders gains 800, catching both with 25
/// loses 500, catching one with 1 gains 900.
#[test]
fn the_best_weighs_work_against_failures_in_money_where_it_is_known() {
    let point = |caught, work, nuisance| FinderPoint {
        nuisance,
        ..FinderPoint {
            caught,
            missed: 2 - caught,
            ..FinderPoint::new(Setting { setpoint: 1.0, deadband: None }, &[], work)
        }
    };
    let points = [point(2, 25, 0), point(2, 12, 9), point(1, 1, 3), point(0, 0, 0)];
    let worth = Worth { work: 100.0, failure: 1_000.0 };
    assert_eq!(best(&points, Some(worth)), Some(Best { point: 2, gain: Some(900.0) }));
    assert_eq!(best(&points, None), Some(Best { point: 1, gain: None }), "most caught, then least work");
    assert_eq!(best(&points[3..], Some(worth)), None, "it catches nothing");
    let two: Vec<FinderPoint> = points
        .iter()
        .flat_map(|point| [0.5, 2.0].map(|deadband| FinderPoint { deadband: Some(deadband), ..*point }))
        .collect();
    let each = best_of_each(&two, Some(worth));
    assert_eq!(each.iter().map(|one| one.point).collect::<Vec<_>>(), [4, 5]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// All settings together come to what each comes to by itself, through the whole replay.
    #[test]
    fn together_is_one_by_one(
        values in prop::collection::vec(0u8..30, 1..120),
        low in any::<bool>(), change in any::<bool>(), separate in any::<bool>(), records in any::<bool>(),
        (on, off) in (0u32..5, 0u32..5),
        (interval, lasts, horizon) in (0u32..20, 1i64..10, 1i64..20),
        failures in prop::collection::btree_set(0i64..500, 0..4),
        found in prop::collection::vec((0i64..400, 1i64..30), 0..3),
        completions in prop::collection::vec((1i64..40, 0u8..4), 0..3),
        (calm, lead) in (0i64..10, 0i64..4),
        setpoints in prop::collection::vec(0u8..35, 1..90),
        deadbands in prop::collection::vec(0u8..6, 1..4),
    ) {
        let hour = |n: i64| Instant::from_ms(n * HOUR);
        let readings: Columns =
            (0..).zip(&values).map(|(n, v)| Reading { at: hour(n * 4), value: f64::from(*v) }).collect();
        let side = if low { RungSide::Low } else { RungSide::High };
        let mut chosen = rung(side, Severity::Alert, 10.0, 1.0);
        (chosen.on_delay_seconds, chosen.off_delay_seconds) = (on * 3 * 3_600, off * 3 * 3_600);
        if change {
            chosen.watched = Watched::Change { baseline: 2.0 };
        }
        if records {
            chosen.response = Response::of(ResponseKind::Record);
        }
        let ladder = Ladder {
            rungs: vec![chosen.clone()],
            raise_interval_seconds: interval * 3 * 3_600,
            separate_work: separate,
            ..Ladder::default()
        };
        let past = Past {
            failures: failures.into_iter().map(hour).collect(),
            found: found.into_iter().map(|(from, ms)| Span::new(hour(from), hour(from + ms)).unwrap()).collect(),
        };
        let assumptions = Assumptions {
            work_lasts_ms: lasts * 5 * HOUR,
            // In order, as work is raised after the one before is done.
            completions: completions.iter().scan(0, |sum, (more, how)| {
                *sum += more;
                let how = [Completed::Done(None), Completed::Dropped, Completed::Done(Some(Verdict::NothingWrong)),
                    Completed::Done(Some(Verdict::FoundIt))][usize::from(*how)];
                Some(Completion { at: hour(*sum * 4), how })
            }).collect(),
            calm_ms: calm * 2 * HOUR,
            lead_ms: lead * 4 * HOUR,
            least: Severity::Notice,
            horizon_ms: horizon * 4 * HOUR,
            ..Assumptions::default()
        };
        let meter = Meter::measurement("bar");
        let until = hour(values.len() as i64 * 4 + 40);
        let history = History::of(&meter, &readings, until, &past);
        let settings: Vec<Setting> = setpoints
            .iter()
            .flat_map(|s| deadbands.iter().map(move |d| (s, d)))
            .map(|(s, d)| Setting { setpoint: f64::from(*s), deadband: Some(f64::from(*d)) })
            .collect();
        let together = find(&ladder, 0, &settings, &history, &assumptions);
        let apart: Vec<FinderPoint> =
            settings.iter().map(|one| alone(&ladder, &chosen, *one, &history, &assumptions)).collect();
        prop_assert_eq!(together, apart);
    }
}
