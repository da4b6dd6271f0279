//! When an entered rung responds again: its shelf ends, its raise interval runs out, or its work is done.
//!
//! By the clock, not by a reading. Live evaluation and replay ask here what an answer waits for and who is next.

use super::{Decision, HeldBy, Rung};
use crate::{ids::WorkOrderId, time::Instant};

/// What an answer waits for while its rung stays entered.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Waits {
    /// For nothing: it was recorded or told, or the asset is out of use.
    Never,
    /// For the end of a shelf or of a raise interval.
    Until(Instant),
    /// For this work to be done.
    Work(WorkOrderId),
}

impl Decision {
    /// What the rung waits for after this answer. `raised` is the work that was raised by it, where it was.
    #[must_use]
    pub fn waits(&self, raised: Option<WorkOrderId>) -> Waits {
        match self {
            Self::Held(HeldBy::Shelf { until, .. } | HeldBy::RaiseInterval { until, .. }) => Waits::Until(*until),
            Self::Held(HeldBy::OutOfUse) | Self::Record | Self::Notify => Waits::Never,
            Self::Join { work, .. } => Waits::Work(*work),
            Self::Raise | Self::BringForward => raised.map_or(Waits::Never, Waits::Work),
        }
    }
}

/// Those of the due rungs (places in `rungs`) that respond, in their order: the worst first, so that a milder one joins
/// the work that it raises. Where every rung raises separate work, only the worst of each side does.
#[must_use]
pub fn responding_again(rungs: &[Rung], mut due: Vec<usize>, separate_work: bool) -> Vec<usize> {
    due.sort_by_key(|&place| (rungs[place].side, std::cmp::Reverse(rungs[place].severity), place));
    if separate_work {
        due.dedup_by_key(|&mut place| rungs[place].side);
    }
    due
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        limits::{RungSide, ladder::tests::rung},
        severity::Severity,
    };

    #[test]
    fn the_worst_of_a_side_comes_first_and_alone_where_work_is_separate() {
        let rungs = [
            rung(RungSide::High, Severity::Alert, 4.0, 0.0),
            rung(RungSide::Low, Severity::Alert, 1.0, 0.0),
            rung(RungSide::High, Severity::Danger, 9.0, 0.0),
        ];
        assert_eq!(responding_again(&rungs, vec![0, 1, 2], false), [2, 0, 1]);
        assert_eq!(responding_again(&rungs, vec![0, 1, 2], true), [2, 1]);
        assert_eq!(responding_again(&rungs, vec![0], true), [0]);
    }

    #[test]
    fn an_answer_waits_for_what_kept_it() {
        let until = Instant::from_ms(5);
        let work = WorkOrderId(7);
        let shelf = HeldBy::Shelf { until, reason: "cabling".into() };
        assert_eq!(Decision::Held(shelf).waits(None), Waits::Until(until));
        assert_eq!(Decision::Held(HeldBy::RaiseInterval { work_order: work, until }).waits(None), Waits::Until(until));
        assert_eq!(Decision::Join { work, escalates: false }.waits(None), Waits::Work(work));
        assert_eq!(Decision::Raise.waits(Some(work)), Waits::Work(work));
        for never in [Decision::Held(HeldBy::OutOfUse), Decision::Record, Decision::Notify] {
            assert_eq!(never.waits(None), Waits::Never);
        }
    }
}
