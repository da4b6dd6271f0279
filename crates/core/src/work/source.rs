//! What raises work.

use crate::ground::{
    ids::{CheckId, MeterId, PlanId, WorkOrderId},
    severity::Severity,
    side::RungSide,
    time::Instant,
};
use serde::{Deserialize, Serialize};

/// What raised work, as a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WorkSource))]
#[serde(rename_all = "snake_case")]
pub enum SourceWord {
    /// Somebody asked for it.
    Person,
    /// A limit was reached.
    Ladder,
    /// A cycle of an upkeep plan was due.
    Plan,
    /// Other work was followed by it.
    Work,
    /// An answer on a check sheet asked for it.
    AnswerRule,
}

crate::kept_as_words!(SourceWord);

/// The rung that raised work, when it was entered.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RungEntered {
    pub meter: MeterId,
    pub side: RungSide,
    pub severity: Severity,
    /// Of the reading that entered it.
    pub at: Instant,
}

/// The cycle of an upkeep plan whose work it is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CycleOf {
    pub plan: PlanId,
    pub number: i64,
}

/// What raised work, with what is known of it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum WorkSource {
    /// Somebody asked for it.
    Person,
    /// A limit was reached.
    Ladder(RungEntered),
    /// A cycle of an upkeep plan was due, or brought forward.
    Plan(CycleOf),
    /// It follows on from that order.
    Work(WorkOrderId),
    /// An answer on that check sheet, filled in on that order.
    AnswerRule { check: CheckId, work: WorkOrderId },
}

impl SourceWord {
    /// All there are.
    pub const ALL: [Self; 5] = [Self::Person, Self::Ladder, Self::Plan, Self::Work, Self::AnswerRule];
}

impl WorkSource {
    /// The word for it.
    #[must_use]
    pub fn word(self) -> SourceWord {
        match self {
            Self::Person => SourceWord::Person,
            Self::Ladder(_) => SourceWord::Ladder,
            Self::Plan(_) => SourceWord::Plan,
            Self::Work(_) => SourceWord::Work,
            Self::AnswerRule { .. } => SourceWord::AnswerRule,
        }
    }

    /// The rung that raised it, where one did.
    #[must_use]
    pub fn rung(self) -> Option<RungEntered> {
        match self {
            Self::Ladder(rung) => Some(rung),
            _ => None,
        }
    }

    /// The cycle whose work it is, where a plan made it.
    #[must_use]
    pub fn cycle(self) -> Option<CycleOf> {
        match self {
            Self::Plan(cycle) => Some(cycle),
            _ => None,
        }
    }

    /// The order that it follows on from, where it does.
    #[must_use]
    pub fn work(self) -> Option<WorkOrderId> {
        match self {
            Self::Work(work) | Self::AnswerRule { work, .. } => Some(work),
            _ => None,
        }
    }

    /// The check sheet with the answer that asked for it, where one did.
    #[must_use]
    pub fn check(self) -> Option<CheckId> {
        match self {
            Self::AnswerRule { check, .. } => Some(check),
            _ => None,
        }
    }
}
