//! When an entered rung responds again: its shelf, its asset's spell out of use or its raise interval ends; or its work
//! was finished, and the first reading after that is still beyond it.
//!
//! Live evaluation and replay ask here what an answer waits for.

use super::{Decision, HeldBy};
use crate::ground::{ids::WorkOrderId, time::Instant};

/// What an answer waits for while its rung stays entered.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Waits {
    /// For nothing that can be told: it was recorded or told, its work was dropped, or the asset is out of use without an
    /// end.
    Never,
    /// For the end of a shelf, of a spell out of use, or of a raise interval.
    Until(Instant),
    /// For this work to be done, and then for the first reading taken after it.
    Work(WorkOrderId),
}

impl Decision {
    /// What the rung waits for after this answer. `raised` is the work that was raised by it, where it was.
    #[must_use]
    pub fn waits(&self, raised: Option<WorkOrderId>) -> Waits {
        match self {
            Self::Held(
                HeldBy::Shelf { until, .. }
                | HeldBy::RaiseInterval { until, .. }
                | HeldBy::RunOn { until, .. }
                | HeldBy::OutOfUse { until: Some(until), .. },
            ) => Waits::Until(*until),
            Self::Held(HeldBy::OutOfUse { until: None, .. }) | Self::Record | Self::Notify => Waits::Never,
            Self::Join { work, .. } => Waits::Work(*work),
            Self::Raise | Self::BringForward => raised.map_or(Waits::Never, Waits::Work),
        }
    }
}

/// Whether what is due by the clock waits for a reading first: work on it was finished at `finished` and the newest reading
/// is no newer, so nobody knows yet whether the repair holds.
#[must_use]
pub fn waits_for_a_reading(finished: Option<Instant>, newest_reading: Option<Instant>) -> bool {
    finished.is_some_and(|finished| newest_reading.is_none_or(|read| read <= finished))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_answer_waits_for_what_kept_it() {
        let until = Instant::from_ms(5);
        let work = WorkOrderId(7);
        let shelf = HeldBy::Shelf { until, reason: "cabling".into() };
        assert_eq!(Decision::Held(shelf).waits(None), Waits::Until(until));
        assert_eq!(Decision::Held(HeldBy::RaiseInterval { work_order: work, until }).waits(None), Waits::Until(until));
        let out = |until| Decision::Held(HeldBy::OutOfUse { until, reason: "mothballed".into() });
        assert_eq!(out(Some(until)).waits(None), Waits::Until(until));
        assert_eq!(Decision::Join { work, escalates: false }.waits(None), Waits::Work(work));
        assert_eq!(Decision::Raise.waits(Some(work)), Waits::Work(work));
        for never in [out(None), Decision::Record, Decision::Notify] {
            assert_eq!(never.waits(None), Waits::Never);
        }
    }

    #[test]
    fn only_a_reading_after_the_finish_says_whether_a_repair_holds() {
        let at = |ms| Some(Instant::from_ms(ms));
        assert!(waits_for_a_reading(at(5), at(5)), "taken at the very moment, it may be from before");
        assert!(waits_for_a_reading(at(5), None));
        assert!(!waits_for_a_reading(at(5), at(6)));
        assert!(!waits_for_a_reading(None, at(6)));
    }
}
