//! What an entered rung sets off. The order of the questions is the rule.

use super::{Does, Response, Rung};
use crate::{
    ground::{ids::WorkOrderId, severity::Severity, time::Instant},
    plant::assets::Criticality,
    work::Verdict,
};
use serde::{Deserialize, Serialize};

/// What kept a rung from responding.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum HeldBy {
    /// The asset, or one above it, is out of use.
    OutOfUse {
        /// The end of the spell, where one is set.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        until: Option<Instant>,
        #[serde(default)]
        reason: String,
    },
    /// A person shelved the meter.
    Shelf { until: Instant, reason: String },
    /// Work was raised a short while ago.
    RaiseInterval { work_order: WorkOrderId, until: Instant },
    /// Somebody decided that it runs on, on that work.
    RunOn { work_order: WorkOrderId, until: Instant, reason: String },
}

/// A decision that it runs on until an instant.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RunOn {
    pub work: WorkOrderId,
    pub until: Instant,
    pub reason: String,
    /// Of the rung that was decided on: a worse one is no longer quiet.
    pub severity: Severity,
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
    /// Of the rung that raised it, whatever escalated it later.
    pub severity: Severity,
}

/// A spell in which the asset is out of use.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OutOfUse {
    pub until: Option<Instant>,
    pub reason: String,
}

/// All that the decision hangs on, as of the reading.
#[derive(Debug, Clone, Default)]
pub struct Situation {
    pub out_of_use: Option<OutOfUse>,
    pub shelf: Option<(Instant, String)>,
    pub run_on: Option<RunOn>,
    pub open_work: Option<OpenWork>,
    pub last_raised: Option<LastRaised>,
    pub raise_interval_ms: i64,
    pub separate_work: bool,
    /// The rung answers because the first reading after its work was finished is still beyond it; with what the work said.
    pub after_finish: Option<AfterFinish>,
}

/// Finished work that did not bring the meter back within its limits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AfterFinish {
    pub verdict: Option<Verdict>,
}

impl Situation {
    /// A repair that did not hold raises again at once; where nothing was wrong, the interval holds.
    fn interval_holds(&self) -> bool {
        self.after_finish.is_none_or(|finish| finish.verdict == Some(Verdict::NothingWrong))
    }
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

/// What one of several rungs does that are to answer at the same instant.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// It answers for itself.
    Answers,
    /// A worse one of its side answers for it: it waits for what that one waits for.
    Shares {
        /// Place of the one that answers.
        with: usize,
    },
}

/// What each of the rungs (places in `rungs`) does that are to answer at the same instant: of each side the worst that
/// makes work answers; a worse one that only records or tells does that as well; milder ones share the answer. Sides in
/// order, on each the worst first.
#[must_use]
pub fn parts(rungs: &[Rung], mut places: Vec<usize>) -> Vec<(usize, Part)> {
    places.sort_by_key(|&place| (rungs[place].side, std::cmp::Reverse(rungs[place].severity), place));
    let mut all = Vec::with_capacity(places.len());
    for side in places.chunk_by(|a, b| rungs[*a].side == rungs[*b].side) {
        let answers = *side.iter().find(|&&place| rungs[place].response.makes_work()).unwrap_or(&side[0]);
        all.extend(side.iter().map(|&place| {
            let is_worse = rungs[place].severity > rungs[answers].severity;
            (place, if place == answers || is_worse { Part::Answers } else { Part::Shares { with: answers } })
        }));
    }
    // A milder rung is told after the one it shares with.
    all.sort_by_key(|(_, part)| *part != Part::Answers);
    all
}

/// What is done about a rung entered at `at`.
#[must_use]
pub fn respond(rung: &Rung, situation: &Situation, at: Instant) -> Decision {
    if let Some(OutOfUse { until, reason }) = &situation.out_of_use {
        return Decision::Held(HeldBy::OutOfUse { until: *until, reason: reason.clone() });
    }
    if let Some((until, reason)) = &situation.shelf {
        return Decision::Held(HeldBy::Shelf { until: *until, reason: reason.clone() });
    }
    let quiet = situation.run_on.as_ref().filter(|run_on| at < run_on.until && rung.severity <= run_on.severity);
    let quiet = quiet.map(|RunOn { work, until, reason, .. }| {
        Decision::Held(HeldBy::RunOn { work_order: *work, until: *until, reason: reason.clone() })
    });
    match rung.response.does {
        Does::Record => return Decision::Record,
        Does::Notify(_) => return quiet.unwrap_or(Decision::Notify),
        Does::Raise(..) | Does::BringForward { .. } => {}
    }
    if let Some(open) = situation.open_work.filter(|_| !situation.separate_work) {
        return Decision::Join { work: open.number, escalates: rung.severity > open.severity };
    }
    if let Some(held) = quiet {
        return held;
    }
    if let Some(last) = situation.last_raised.filter(|_| situation.interval_holds()) {
        let until = last.at.plus(situation.raise_interval_ms);
        if at < until && rung.severity <= last.severity {
            return Decision::Held(HeldBy::RaiseInterval { work_order: last.number, until });
        }
    }
    if matches!(rung.response.does, Does::BringForward { .. }) { Decision::BringForward } else { Decision::Raise }
}

/// The risk rank of work a rung raises: as its response says, or from severity and criticality. Own table.
///
/// ```
/// # use tally_core::{ground::severity::Severity, plant::assets::Criticality};
/// # use tally_core::watch::limits::{Response, ResponseKind, respond::rank};
/// let plain = Response::of(ResponseKind::Raise);
/// assert_eq!(rank(&plain, Severity::Danger, Some(Criticality::A)), 1);
/// assert_eq!(rank(&plain, Severity::Notice, None), 5);
/// ```
#[must_use]
pub fn rank(response: &Response, severity: Severity, criticality: Option<Criticality>) -> u8 {
    response.work().and_then(|work| work.risk_rank).unwrap_or_else(|| {
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
        ground::time::DAY,
        watch::limits::{ResponseKind, RungSide, ladder::tests::rung},
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

    fn finished(verdict: Option<Verdict>) -> Option<AfterFinish> {
        Some(AfterFinish { verdict })
    }

    fn run_on(severity: Severity) -> Option<RunOn> {
        Some(RunOn { work: WorkOrderId(7), until: at(20), reason: "spare on its way".into(), severity })
    }

    fn quiet() -> Decision {
        Decision::Held(HeldBy::RunOn { work_order: WorkOrderId(7), until: at(20), reason: "spare on its way".into() })
    }

    fn shelved() -> Option<(Instant, String)> {
        Some((at(50), "sensor".into()))
    }

    // Rows in the order of rules.md §3; the raise interval is 30 days and the reading is at day 10.
    #[rstest]
    #[case::out_of_use_comes_first(
        Situation { out_of_use: Some(OutOfUse { until: None, reason: "mothballed".into() }), shelf: shelved(),
            ..Situation::default() }, ResponseKind::Raise,
        Decision::Held(HeldBy::OutOfUse { until: None, reason: "mothballed".into() }))]
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
    #[case::where_it_was_decided_to_run_on_it_is_quiet(
        Situation { run_on: run_on(Severity::Serious), ..Situation::default() }, ResponseKind::Raise, quiet())]
    #[case::and_tells_nobody(
        Situation { run_on: run_on(Severity::Danger), ..Situation::default() }, ResponseKind::Notify, quiet())]
    #[case::but_it_is_recorded(
        Situation { run_on: run_on(Severity::Danger), ..Situation::default() }, ResponseKind::Record, Decision::Record)]
    #[case::and_joins_open_work(
        Situation { run_on: run_on(Severity::Danger), open_work: open(Severity::Danger), ..Situation::default() },
        ResponseKind::Raise, Decision::Join { work: WorkOrderId(7), escalates: false })]
    #[case::a_worse_one_than_was_decided_on_is_not_quiet(
        Situation { run_on: run_on(Severity::Alert), ..Situation::default() }, ResponseKind::Raise, Decision::Raise)]
    #[case::within_the_raise_interval_it_is_held(
        Situation { last_raised: raised(1, Severity::Serious), ..Situation::default() }, ResponseKind::Raise,
        Decision::Held(HeldBy::RaiseInterval { work_order: WorkOrderId(7), until: at(31) }))]
    #[case::unless_it_is_worse(
        Situation { last_raised: raised(1, Severity::Alert), ..Situation::default() }, ResponseKind::Raise,
        Decision::Raise)]
    #[case::after_the_interval_it_raises(
        Situation { last_raised: raised(-20, Severity::Danger), ..Situation::default() }, ResponseKind::Raise,
        Decision::Raise)]
    #[case::a_repair_that_did_not_hold_raises_within_the_interval(
        Situation { last_raised: raised(1, Severity::Danger), after_finish: finished(Some(Verdict::FoundIt)),
            ..Situation::default() }, ResponseKind::Raise, Decision::Raise)]
    #[case::and_so_it_does_where_nothing_was_said(
        Situation { last_raised: raised(1, Severity::Danger), after_finish: finished(None), ..Situation::default() },
        ResponseKind::Raise, Decision::Raise)]
    #[case::where_nothing_was_wrong_the_interval_holds(
        Situation { last_raised: raised(1, Severity::Serious), after_finish: finished(Some(Verdict::NothingWrong)),
            ..Situation::default() }, ResponseKind::Raise,
        Decision::Held(HeldBy::RaiseInterval { work_order: WorkOrderId(7), until: at(31) }))]
    #[case::nothing_in_the_way(Situation::default(), ResponseKind::Raise, Decision::Raise)]
    fn a_serious_rung_responds(#[case] situation: Situation, #[case] kind: ResponseKind, #[case] expected: Decision) {
        let situation = Situation { raise_interval_ms: 30 * DAY, ..situation };
        assert_eq!(respond(&serious(kind), &situation, at(10)), expected);
    }

    // rules.md §3: of the rungs newly entered at a reading the worst that makes work answers; a worse one that only
    // records or tells does that as well; milder ones share the answer.
    #[rstest]
    #[case::the_worst_raises_and_the_milder_share_it(
        &[(Severity::Alert, ResponseKind::Raise), (Severity::Serious, ResponseKind::Raise)],
        &[(1, Part::Answers), (0, Part::Shares { with: 1 })])]
    #[case::a_worse_one_that_only_tells_keeps_nobody_from_raising(
        &[(Severity::Alert, ResponseKind::Raise), (Severity::Serious, ResponseKind::Raise),
          (Severity::Danger, ResponseKind::Notify)],
        &[(2, Part::Answers), (1, Part::Answers), (0, Part::Shares { with: 1 })])]
    #[case::where_none_makes_work_the_worst_answers(
        &[(Severity::Notice, ResponseKind::Record), (Severity::Alert, ResponseKind::Notify)],
        &[(1, Part::Answers), (0, Part::Shares { with: 1 })])]
    #[case::alone(&[(Severity::Notice, ResponseKind::Record)], &[(0, Part::Answers)])]
    fn rungs_that_answer_together(#[case] given: &[(Severity, ResponseKind)], #[case] expected: &[(usize, Part)]) {
        let of = |&(severity, kind): &(Severity, ResponseKind)| Rung {
            response: Response::of(kind),
            ..rung(RungSide::High, severity, 1.0, 0.0)
        };
        let rungs: Vec<Rung> = given.iter().map(of).collect();
        assert_eq!(parts(&rungs, (0..rungs.len()).collect()), expected);
    }

    #[test]
    fn each_side_answers_for_itself() {
        let rungs = [
            rung(RungSide::High, Severity::Alert, 4.0, 0.0),
            rung(RungSide::Low, Severity::Alert, 1.0, 0.0),
            rung(RungSide::High, Severity::Danger, 9.0, 0.0),
        ];
        assert_eq!(
            parts(&rungs, vec![0, 1, 2]),
            [(2, Part::Answers), (1, Part::Answers), (0, Part::Shares { with: 2 })]
        );
        assert_eq!(parts(&rungs, vec![]), []);
    }
}
