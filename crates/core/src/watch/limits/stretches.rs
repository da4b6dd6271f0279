//! Many would-be alarms as few drawn ones: what a lane of a chart can show, whatever a ladder would have done.

use super::replay::WouldBeAlarm;
use crate::ground::time::{Instant, Span};
use serde::Serialize;

/// Alarms listed one by one, at the most.
const FEW: usize = 300;

/// Where there are more, those of one rung that lie nearer together than such a part of the span are drawn as one.
const PARTS: i64 = 300;

/// One alarm, or several of one rung that are drawn as one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stretch {
    pub rung: usize,
    pub entered_at: Instant,
    pub left_at: Option<Instant>,
    /// How many alarms it stands for.
    pub alarms: usize,
}

/// What to draw of `alarms` (in order of their entry) within a span; at most 300, or 300 a rung.
#[must_use]
pub fn stretches(alarms: &[WouldBeAlarm], drawn: Span) -> Vec<Stretch> {
    let reaches_in = |alarm: &&WouldBeAlarm| {
        alarm.entered_at < drawn.end() && alarm.left_at.is_none_or(|left| left >= drawn.start())
    };
    let within = || alarms.iter().filter(reaches_in);
    let few = within().nth(FEW).is_none();
    let apart_ms = if few { i64::MIN } else { drawn.ms() / PARTS };
    // Of each rung, the place of its last stretch.
    let mut last: Vec<Option<usize>> = Vec::new();
    let mut all: Vec<Stretch> = Vec::new();
    for alarm in within() {
        if last.len() <= alarm.rung {
            last.resize(alarm.rung + 1, None);
        }
        let near = last[alarm.rung]
            .map(|place| &mut all[place])
            .filter(|stretch| stretch.left_at.is_none_or(|left| alarm.entered_at.since(left) < apart_ms));
        if let Some(stretch) = near {
            (stretch.left_at, stretch.alarms) = (alarm.left_at, stretch.alarms + 1);
            continue;
        }
        last[alarm.rung] = Some(all.len());
        all.push(Stretch { rung: alarm.rung, entered_at: alarm.entered_at, left_at: alarm.left_at, alarms: 1 });
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn alarms(minutes: &[(usize, i64, i64)]) -> Vec<WouldBeAlarm> {
        let at = |minute: i64| Instant::from_ms(minute * 60_000);
        let alarm = |&(rung, from, lasts): &(usize, i64, i64)| WouldBeAlarm {
            rung,
            entered_at: at(from),
            left_at: (lasts > 0).then(|| at(from + lasts)),
        };
        minutes.iter().map(alarm).collect()
    }

    fn span(from: i64, to: i64) -> Span {
        Span::new(Instant::from_ms(from * 60_000), Instant::from_ms(to * 60_000)).unwrap()
    }

    #[test]
    fn few_alarms_are_drawn_one_by_one_and_only_what_reaches_into_the_span() {
        let given = alarms(&[(0, 0, 5), (0, 6, 1), (1, 50, 0)]);
        let drawn = stretches(&given, span(0, 100));
        assert_eq!(drawn.iter().map(|one| (one.rung, one.alarms)).collect::<Vec<_>>(), [(0, 1), (0, 1), (1, 1)]);
        assert_eq!(stretches(&given, span(8, 40)), []);
        assert_eq!(stretches(&given, span(60, 70)).len(), 1, "it still stands");
    }

    #[test]
    fn many_near_together_are_drawn_as_one_of_their_rung() {
        // A thousand of two minutes every four minutes, then one a long way off; a 300th of the span is 20 minutes.
        let mut given: Vec<(usize, i64, i64)> = (0..1_000).map(|n| (0, n * 4, 2)).collect();
        given.extend([(1, 4_000, 1), (0, 5_000, 1)]);
        let drawn = stretches(&alarms(&given), span(0, 6_000));
        let shown: Vec<_> = drawn.iter().map(|one| (one.rung, one.alarms)).collect();
        assert_eq!(shown, [(0, 1_000), (1, 1), (0, 1)]);
        assert_eq!(drawn[0].left_at, Some(Instant::from_ms(3_998 * 60_000)));
    }

    proptest! {
        #[test]
        fn every_alarm_is_in_one_stretch_and_no_rung_has_more_than_300(
            gaps in prop::collection::vec((0usize..3, 5i64..30, 0i64..4), 0..2_000),
        ) {
            let mut at = 0;
            let given: Vec<_> = gaps.into_iter().map(|(rung, gap, lasts)| { at += gap; (rung, at, lasts + 1) }).collect();
            let given = alarms(&given);
            let drawn = stretches(&given, span(0, at + 10));
            prop_assert_eq!(drawn.iter().map(|one| one.alarms).sum::<usize>(), given.len());
            for alarm in &given {
                let holds = |one: &&Stretch| one.rung == alarm.rung && one.entered_at <= alarm.entered_at
                    && one.left_at >= alarm.left_at;
                prop_assert!(drawn.iter().any(|one| holds(&one)));
            }
            if given.len() > FEW {
                for rung in 0..3 {
                    prop_assert!(drawn.iter().filter(|one| one.rung == rung).count() <= 301);
                }
            }
        }
    }
}
