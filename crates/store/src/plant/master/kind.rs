//! Which tables of master data there are.

use serde::{Deserialize, Serialize};
use tally_core::access::roles::Action;
use utoipa::ToSchema;

/// A table of master data.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    Assets,
    EquipmentClasses,
    Meters,
    People,
    Crews,
    UpkeepPlans,
    Storeroom,
}

impl Kind {
    /// In an order in which each refers only to those before it, but that assets name their crews before these name what they
    /// see: a crew that is not there yet is added by its code.
    pub const ALL: [Self; 7] = [
        Self::EquipmentClasses,
        Self::Assets,
        Self::Crews,
        Self::People,
        Self::Meters,
        Self::UpkeepPlans,
        Self::Storeroom,
    ];

    /// One of them, as errors and the audit trail call it.
    #[must_use]
    pub fn noun(self) -> &'static str {
        match self {
            Self::Assets => "asset",
            Self::EquipmentClasses => "equipment class",
            Self::Meters => "meter",
            Self::People => "person",
            Self::Crews => "crew",
            Self::UpkeepPlans => "upkeep plan",
            Self::Storeroom => "part",
        }
    }

    /// What somebody must be allowed to do to change it.
    #[must_use]
    pub fn action(self) -> Action {
        match self {
            Self::Assets | Self::EquipmentClasses | Self::Meters => Action::ChangeMasterData,
            Self::People => Action::ChangePeople,
            Self::Crews => Action::ChangeCrews,
            Self::UpkeepPlans | Self::Storeroom => Action::PlanWork,
        }
    }

    pub(crate) fn table(self) -> &'static str {
        match self {
            Self::Assets => "assets",
            Self::EquipmentClasses => "equipment_classes",
            Self::Meters => "meters",
            Self::People => "people",
            Self::Crews => "crews",
            Self::UpkeepPlans => "upkeep_plans",
            Self::Storeroom => "storeroom",
        }
    }
}
