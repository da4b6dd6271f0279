//! What a newly entered rung sets off. The order of the questions is the rule.

use super::{Response, ResponseKind, Rung, Transition, machine::Change};
use crate::{assets::Criticality, ids::WorkOrderId, severity::Severity, time::Instant};
use serde::{Deserialize, Serialize};

/// What kept a rung from responding.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum HeldBy {
    /// The asset is out of use.
    OutOfUse,
    /// A person shelved the meter.
    Shelf { until: Instant, reason: String },
    /// Work was raised a short while ago.
    RaiseInterval { work_order: WorkOrderId, until: Instant },
}

/// Work raised by the same ladder and side that is not done.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OpenWork {
    pub number: WorkOrderId,
    /// The worst severity that raised or joined it.
    pub severity: Severity,
}

/// The last work that the raise interval looks at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LastRaised {
    pub number: WorkOrderId,
    pub at: Instant,
    pub severity: Severity,
}

/// All that the decision hangs on, as of the reading.
#[derive(Debug, Clone, Default)]
pub struct Situation {
    pub out_of_use: bool,
    pub shelf: Option<(Instant, String)>,
    pub open_work: Option<OpenWork>,
    pub last_raised: Option<LastRaised>,
    pub raise_interval_ms: i64,
    pub separate_work: bool,
}

/// What is done about an entered rung.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Decision {
    Held(HeldBy),
    Record,
    Notify,
    /// Open work gets an occurrence; when it escalates, also a tighter rank and start, and this rung's instruction.
    Join {
        work: WorkOrderId,
        escalates: bool,
    },
    Raise,
    /// An upkeep plan is done early.
    BringForward,
}

/// The one rung that responds to a reading: the worst newly entered. The others are recorded.
#[must_use]
pub fn responding(rungs: &[Rung], changed: &[Transition]) -> Option<usize> {
    let entered = changed.iter().filter(|t| t.change == Change::Entered);
    entered.map(|t| t.rung).max_by_key(|&rung| rungs[rung].severity)
}

/// What is done about a rung entered at `at`.
#[must_use]
pub fn respond(rung: &Rung, situation: &Situation, at: Instant) -> Decision {
    if situation.out_of_use {
        return Decision::Held(HeldBy::OutOfUse);
    }
    if let Some((until, reason)) = &situation.shelf {
        return Decision::Held(HeldBy::Shelf { until: *until, reason: reason.clone() });
    }
    match rung.response.kind {
        ResponseKind::Record => return Decision::Record,
        ResponseKind::Notify => return Decision::Notify,
        ResponseKind::Raise | ResponseKind::BringForward => {}
    }
    if let Some(open) = situation.open_work.filter(|_| !situation.separate_work) {
        return Decision::Join { work: open.number, escalates: rung.severity > open.severity };
    }
    if let Some(last) = situation.last_raised {
        let until = last.at.plus(situation.raise_interval_ms);
        if at < until && rung.severity <= last.severity {
            return Decision::Held(HeldBy::RaiseInterval { work_order: last.number, until });
        }
    }
    match rung.response.kind {
        ResponseKind::BringForward => Decision::BringForward,
        _ => Decision::Raise,
    }
}

/// The risk rank of work a rung raises: as its response says, or from severity and criticality. Own table.
///
/// ```
/// # use tally_core::{assets::Criticality, limits::{respond::rank, Response, ResponseKind}, severity::Severity};
/// let plain = Response::of(ResponseKind::Raise);
/// assert_eq!(rank(&plain, Severity::Danger, Some(Criticality::A)), 1);
/// assert_eq!(rank(&plain, Severity::Notice, None), 5);
/// ```
#[must_use]
pub fn rank(response: &Response, severity: Severity, criticality: Option<Criticality>) -> u8 {
    response.risk_rank.unwrap_or_else(|| {
        let milder = u8::from(!matches!(criticality, Some(Criticality::A | Criticality::B)));
        match severity {
            Severity::Danger => 1 + milder,
            Severity::Serious => 2 + milder,
            Severity::Alert => 3 + milder,
            Severity::Notice => 4 + milder,
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        limits::{RungSide, ladder::tests::rung},
        time::DAY,
    };
    use rstest::rstest;

    fn serious(kind: ResponseKind) -> Rung {
        Rung { response: Response::of(kind), ..rung(RungSide::High, Severity::Serious, 9.0, 0.0) }
    }

    fn at(days: i64) -> Instant {
        Instant::from_ms(days * DAY)
    }

    fn open(severity: Severity) -> Option<OpenWork> {
        Some(OpenWork { number: WorkOrderId(7), severity })
    }

    fn raised(day: i64, severity: Severity) -> Option<LastRaised> {
        Some(LastRaised { number: WorkOrderId(7), at: at(day), severity })
    }

    fn shelved() -> Option<(Instant, String)> {
        Some((at(50), "sensor".into()))
    }

    // Rows in the order of rules.md §3; the raise interval is 30 days and the reading is at day 10.
    #[rstest]
    #[case::out_of_use_comes_first(
        Situation { out_of_use: true, shelf: shelved(), ..Situation::default() }, ResponseKind::Raise,
        Decision::Held(HeldBy::OutOfUse))]
    #[case::a_shelf_holds_even_a_record(
        Situation { shelf: shelved(), ..Situation::default() }, ResponseKind::Record,
        Decision::Held(HeldBy::Shelf { until: at(50), reason: "sensor".into() }))]
    #[case::record_does_not_look_at_work(
        Situation { open_work: open(Severity::Alert), ..Situation::default() }, ResponseKind::Record, Decision::Record)]
    #[case::open_work_is_joined_and_escalates(
        Situation { open_work: open(Severity::Alert), ..Situation::default() }, ResponseKind::Raise,
        Decision::Join { work: WorkOrderId(7), escalates: true })]
    #[case::open_work_of_the_same_severity_does_not_escalate(
        Situation { open_work: open(Severity::Serious), ..Situation::default() }, ResponseKind::Raise,
        Decision::Join { work: WorkOrderId(7), escalates: false })]
    #[case::separate_work_is_not_joined(
        Situation { open_work: open(Severity::Alert), separate_work: true, ..Situation::default() },
        ResponseKind::Raise, Decision::Raise)]
    #[case::within_the_raise_interval_it_is_held(
        Situation { last_raised: raised(1, Severity::Serious), ..Situation::default() }, ResponseKind::Raise,
        Decision::Held(HeldBy::RaiseInterval { work_order: WorkOrderId(7), until: at(31) }))]
    #[case::unless_it_is_worse(
        Situation { last_raised: raised(1, Severity::Alert), ..Situation::default() }, ResponseKind::Raise,
        Decision::Raise)]
    #[case::after_the_interval_it_raises(
        Situation { last_raised: raised(-20, Severity::Danger), ..Situation::default() }, ResponseKind::Raise,
        Decision::Raise)]
    #[case::nothing_in_the_way(Situation::default(), ResponseKind::Raise, Decision::Raise)]
    fn a_serious_rung_responds(#[case] situation: Situation, #[case] kind: ResponseKind, #[case] expected: Decision) {
        let situation = Situation { raise_interval_ms: 30 * DAY, ..situation };
        assert_eq!(respond(&serious(kind), &situation, at(10)), expected);
    }

    #[test]
    fn the_worst_newly_entered_rung_responds() {
        let rungs = [
            rung(RungSide::High, Severity::Alert, 4.0, 0.0),
            rung(RungSide::High, Severity::Serious, 9.0, 0.0),
            rung(RungSide::High, Severity::Danger, 15.0, 0.0),
        ];
        let changed = |list: &[(usize, Change)]| -> Vec<Transition> {
            list.iter().map(|&(rung, change)| Transition { rung, change, looked_at: 0.0 }).collect()
        };
        let jump = changed(&[(0, Change::Entered), (1, Change::Entered)]);
        assert_eq!(responding(&rungs, &jump), Some(1));
        assert_eq!(responding(&rungs, &changed(&[(2, Change::Left)])), None);
    }
}
