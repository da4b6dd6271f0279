//! What alarms are of, how they were answered, and why they end.

use serde::{Deserialize, Serialize};

/// What an alarm is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum AlarmKind {
    /// A rung was entered.
    Limit,
    /// The meter was not read for longer than it may be.
    Silent,
}

/// What an entered rung did.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum ResponseGiven {
    /// A worse rung of the same side answered for it, and it waits for what that one waits for; or it was found from an old
    /// reading, after its work was finished, and waits for a new one.
    Recorded,
    Record,
    Notify,
    Held,
    Joined,
    Escalated,
    Raised,
}

/// Why an alarm ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum LeftBy {
    /// The readings went back.
    Readings,
    /// A new version of the limits began.
    LimitsChanged,
    /// The reading that made it was voided.
    Voided,
    /// The meter or its asset was retired.
    Retired,
}

crate::kept_as_words!(AlarmKind, ResponseGiven, LeftBy);

impl LeftBy {
    /// All there are.
    pub const ALL: [Self; 4] = [Self::Readings, Self::LimitsChanged, Self::Voided, Self::Retired];
}

impl ResponseGiven {
    /// All there are.
    pub const ALL: [Self; 7] =
        [Self::Recorded, Self::Record, Self::Notify, Self::Held, Self::Joined, Self::Escalated, Self::Raised];
}
