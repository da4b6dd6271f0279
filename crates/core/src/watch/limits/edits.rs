//! What an edit makes of a rung whose numbers nobody has typed yet. Own rules (common practice).

use super::{Ladder, Response, ResponseKind, Rung, RungOn, RungSide, Watched, WorkTemplate};
use crate::ground::{severity::Severity, units::significant};
use serde::Deserialize;

/// An edit of a ladder that asks for numbers.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "edit", rename_all = "snake_case")]
pub enum Edit {
    /// One rung more on a side, with what is known of it already.
    Add { side: RungSide, severity: Option<Severity>, setpoint: Option<f64> },
    /// The reset value of a rung as a deadband, or its deadband as a reset value.
    Turn { rung: usize },
    /// A rung that looks at the value, its rate or its change.
    LookAt { rung: usize, on: RungOn },
}

/// An edit that makes nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum EditError {
    #[error("the ladder has no rung {0}")]
    NoRung(usize),
    #[error("every severity has a rung on the {} side", .0.word())]
    NoSeverityLeft(RungSide),
}

/// Hours that a rate is taken over until somebody says otherwise.
const RATE_OVER_SECONDS: u32 = 3_600;

/// Days in which work that a new rung raises is to start.
const START_WITHIN_DAYS: u32 = 14;

/// The rung as the edit makes it. `last` is what the meter read last, in its unit.
///
/// # Errors
/// [`EditError`].
pub fn edited(ladder: &Ladder, edit: Edit, last: Option<f64>) -> Result<Rung, EditError> {
    let found = |rung: usize| ladder.rungs.get(rung).cloned().ok_or(EditError::NoRung(rung));
    match edit {
        Edit::Add { side, severity, setpoint } => {
            let added = added(ladder, side, severity, last.unwrap_or(0.0))?;
            Ok(Rung { setpoint: setpoint.or(added.setpoint), ..added })
        }
        Edit::Turn { rung } => found(rung).map(turned),
        Edit::LookAt { rung, on } => found(rung).map(|rung| Rung {
            watched: match (on, rung.watched) {
                (RungOn::Value, _) => Watched::Value,
                (RungOn::Rate, Watched::Rate { over_seconds: Some(_) }) | (RungOn::Change, Watched::Change { .. }) => {
                    rung.watched
                }
                (RungOn::Rate, _) => Watched::Rate { over_seconds: Some(RATE_OVER_SECONDS) },
                (RungOn::Change, _) => Watched::Change { baseline: last.unwrap_or(0.0) },
            },
            ..rung
        }),
    }
}

/// The mildest severity that is free, notice last; a fifth beyond the worst rung of its side, or beyond the last reading,
/// with a deadband of a quarter of that.
fn added(ladder: &Ladder, side: RungSide, severity: Option<Severity>, last: f64) -> Result<Rung, EditError> {
    use Severity as S;
    let of_side = || ladder.rungs.iter().filter(|rung| rung.side == side);
    let free = |severity: &S| of_side().all(|rung| rung.severity != *severity);
    let offered = [S::Alert, S::Serious, S::Danger, S::Notice];
    let severity = severity.or_else(|| offered.into_iter().find(free)).ok_or(EditError::NoSeverityLeft(side))?;
    let response = if severity == S::Notice {
        Response::of(ResponseKind::Record)
    } else {
        Response::raise(WorkTemplate { start_within_days: Some(START_WITHIN_DAYS), ..WorkTemplate::default() })
    };
    let rung = Rung::blank(side, severity, response);
    let direction = match side {
        RungSide::High => 1.0,
        RungSide::Low => -1.0,
        RungSide::Grade => return Ok(rung),
    };
    let on_value = of_side().filter(|rung| rung.on() == RungOn::Value).filter_map(|rung| rung.setpoint);
    let outermost = on_value.max_by(|a, b| (a * direction).total_cmp(&(b * direction))).unwrap_or(last);
    let step = if outermost == 0.0 { 1.0 } else { outermost.abs() / 5.0 };
    Ok(Rung {
        setpoint: Some(significant(outermost + direction * step, 3)),
        deadband: Some(significant(step / 4.0, 1)),
        ..rung
    })
}

fn turned(rung: Rung) -> Rung {
    let Some(setpoint) = rung.setpoint else { return rung };
    match rung.reset {
        Some(reset) => Rung { deadband: Some(significant((setpoint - reset).abs(), 6)), reset: None, ..rung },
        None => Rung { reset: rung.clears_at().map(|clears| significant(clears, 6)), deadband: None, ..rung },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::watch::meters::Meter;
    use proptest::prelude::*;

    fn with(rungs: &[(Severity, f64)]) -> Ladder {
        let rung = |(severity, setpoint): &(Severity, f64)| {
            let rung = added(&Ladder::default(), RungSide::High, None, 0.0).unwrap();
            Rung { severity: *severity, setpoint: Some(*setpoint), deadband: Some(0.5), ..rung }
        };
        Ladder { rungs: rungs.iter().map(rung).collect(), ..Ladder::default() }
    }

    fn add(ladder: &Ladder, side: RungSide, last: f64) -> Rung {
        edited(ladder, Edit::Add { side, severity: None, setpoint: None }, Some(last)).unwrap()
    }

    #[test]
    fn a_rung_begins_beyond_the_last_reading_then_beyond_the_worst_one() {
        let numbers = |rung: Rung| (rung.severity, rung.setpoint.unwrap(), rung.deadband.unwrap());
        assert_eq!(numbers(add(&Ladder::default(), RungSide::High, 10.0)), (Severity::Alert, 12.0, 0.5));
        assert_eq!(numbers(add(&Ladder::default(), RungSide::Low, 10.0)), (Severity::Alert, 8.0, 0.5));
        assert_eq!(
            numbers(add(&with(&[(Severity::Alert, 12.0)]), RungSide::High, 3.0)),
            (Severity::Serious, 14.4, 0.6)
        );
        assert_eq!(numbers(add(&Ladder::default(), RungSide::Low, 0.0)), (Severity::Alert, -1.0, 0.3));
    }

    #[test]
    fn severities_are_offered_from_alert_up_and_notice_last() {
        let three = [(Severity::Alert, 1.0), (Severity::Serious, 2.0), (Severity::Danger, 3.0)];
        let notice = add(&with(&three), RungSide::High, 0.0);
        assert_eq!((notice.severity, notice.response.kind()), (Severity::Notice, ResponseKind::Record));
        let mut all = with(&three);
        all.rungs.push(notice);
        let more = |severity| Edit::Add { side: RungSide::High, severity, setpoint: Some(4.5) };
        let named = edited(&all, more(Some(Severity::Danger)), None).unwrap();
        assert_eq!((named.severity, named.setpoint), (Severity::Danger, Some(4.5)), "whoever names it decides");
        let none = edited(&all, more(None), None).unwrap_err();
        assert_eq!(none.to_string(), "every severity has a rung on the high side");
        assert_eq!(add(&all, RungSide::Low, 4.0).severity, Severity::Alert);
        assert_eq!(edited(&all, Edit::Turn { rung: 9 }, None), Err(EditError::NoRung(9)));
    }

    #[test]
    fn another_series_takes_its_own_fields_along() {
        let ladder = with(&[(Severity::Alert, 12.0)]);
        let look = |ladder: &Ladder, on| edited(ladder, Edit::LookAt { rung: 0, on }, Some(7.0)).unwrap();
        let change = look(&ladder, RungOn::Change);
        assert_eq!(change.watched, Watched::Change { baseline: 7.0 });
        let typed = Watched::Change { baseline: 3.0 };
        let ladder = Ladder { rungs: vec![Rung { watched: typed, ..change }], ..ladder };
        assert_eq!(look(&ladder, RungOn::Change).watched, typed, "what was typed stays");
        let rate = look(&ladder, RungOn::Rate);
        assert_eq!(rate.watched, Watched::Rate { over_seconds: Some(3_600) });
    }

    proptest! {
        /// Said either way, a rung is left at the same value; and what is added fits the meter and the ladder.
        #[test]
        fn a_deadband_turned_is_the_same_distance(setpoint in -500i32..500, deadband in 0i32..100, low in any::<bool>()) {
            let side = if low { RungSide::Low } else { RungSide::High };
            let mut ladder = Ladder { rungs: vec![add(&Ladder::default(), side, 0.0)], ..Ladder::default() };
            ladder.rungs[0].setpoint = Some(f64::from(setpoint) / 8.0);
            ladder.rungs[0].deadband = Some(f64::from(deadband) / 8.0);
            let before = ladder.rungs[0].clone();
            let turn = |ladder: &Ladder| edited(ladder, Edit::Turn { rung: 0 }, None).unwrap();
            ladder.rungs[0] = turn(&ladder);
            prop_assert!(ladder.rungs[0].deadband.is_none());
            prop_assert_eq!(ladder.rungs[0].clears_at(), before.clears_at());
            prop_assert_eq!(turn(&ladder), before);
        }

        #[test]
        fn what_is_added_can_be_kept(last in -1_000i32..1_000, sides in proptest::collection::vec(any::<bool>(), 1..4)) {
            let mut ladder = Ladder::default();
            // One side alone: whether both leave room between them is for a person to see to.
            let side = if sides[0] { RungSide::High } else { RungSide::Low };
            for _ in &sides {
                ladder.rungs.push(add(&ladder, side, f64::from(last) / 7.0));
                prop_assert_eq!(ladder.check(&Meter::measurement("bar")), Ok(()));
            }
        }
    }
}
