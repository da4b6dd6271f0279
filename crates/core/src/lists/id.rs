//! What can be listed.

use crate::access::seen::Topic;
use serde::{Deserialize, Serialize};

/// What can be listed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum SubjectId {
    Work,
    Entries,
    Downtime,
    Failures,
    Alarms,
    Cycles,
}

crate::kept_as_words!(SubjectId);

impl SubjectId {
    /// All there are.
    pub const ALL: [Self; 6] = [Self::Work, Self::Entries, Self::Downtime, Self::Failures, Self::Alarms, Self::Cycles];

    /// The subject of that id, as it stands in links.
    #[must_use]
    pub fn parse(id: &str) -> Option<Self> {
        serde_json::from_value(serde_json::Value::String(id.into())).ok()
    }

    /// What somebody must be allowed to look at.
    #[must_use]
    pub fn topic(self) -> Topic {
        match self {
            Self::Work | Self::Entries | Self::Downtime | Self::Failures | Self::Cycles => Topic::Work,
            Self::Alarms => Topic::Meters,
        }
    }
}
