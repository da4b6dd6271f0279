//! What raises work.

use crate::ground::{
    ids::{MeterId, PlanId, WorkOrderId},
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
}

impl SourceWord {
    /// All there are.
    pub const ALL: [Self; 4] = [Self::Person, Self::Ladder, Self::Plan, Self::Work];
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
        }
    }

    /// The rung that raised it, where one did.
    #[must_use]
    pub fn rung(self) -> Option<RungEntered> {
        match self {
            Self::Person | Self::Plan(_) | Self::Work(_) => None,
            Self::Ladder(rung) => Some(rung),
        }
    }

    /// The cycle whose work it is, where a plan made it.
    #[must_use]
    pub fn cycle(self) -> Option<CycleOf> {
        match self {
            Self::Person | Self::Ladder(_) | Self::Work(_) => None,
            Self::Plan(cycle) => Some(cycle),
        }
    }

    /// The order that it follows on from, where it does.
    #[must_use]
    pub fn work(self) -> Option<WorkOrderId> {
        match self {
            Self::Person | Self::Ladder(_) | Self::Plan(_) => None,
            Self::Work(work) => Some(work),
        }
    }
}
