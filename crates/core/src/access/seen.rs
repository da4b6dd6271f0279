//! Who sees what: topics by role, and work by whose it is.

use crate::{
    access::roles::Role,
    ground::ids::{CrewId, PersonId},
};
use serde::Serialize;

/// Something that may be looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Topic {
    /// The asset tree, classes, calendars, the names of people and crews.
    Plant,
    /// Meters, their readings, limits and alarms.
    Meters,
    /// Work orders; which of them [`Role::sees_work`] says.
    Work,
    /// Codebooks.
    Codes,
    /// The tally.
    Figures,
    /// What people earn and where their mail goes.
    Pay,
    /// Files out, the trail of changes, mail and tags: what the office looks at.
    Office,
    /// Addresses that are told of events, and what they were told.
    Webhooks,
}

impl Topic {
    /// All there are.
    pub const ALL: [Self; 8] =
        [Self::Plant, Self::Meters, Self::Work, Self::Codes, Self::Figures, Self::Pay, Self::Office, Self::Webhooks];

    /// Whether it is of the plant as a whole, and nothing of it only of a part.
    #[must_use]
    pub fn is_of_whole(self) -> bool {
        matches!(self, Self::Office | Self::Webhooks)
    }

    /// As it stands after "may not look at".
    fn phrase(self) -> &'static str {
        match self {
            Self::Plant => "the plant",
            Self::Meters => "meters",
            Self::Work => "work",
            Self::Codes => "codebooks",
            Self::Figures => "the tally",
            Self::Pay => "what people earn",
            Self::Office => "files, mail and the trail of changes",
            Self::Webhooks => "webhooks",
        }
    }
}

/// Which work orders a person sees.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WorkSeen {
    All,
    /// Their own crew's, that of no crew, and what is theirs otherwise: assigned to them, asked of them, or raised or reported by
    /// them.
    OwnCrew,
    /// What they raised, or reported again.
    Own,
    None,
}

/// Whose a work order is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Whose {
    pub crew: Option<CrewId>,
    pub assignee: Option<PersonId>,
    pub raised_by: PersonId,
    pub asked: Option<PersonId>,
    /// Whoever looks reported it again.
    pub reported: bool,
}

impl WorkSeen {
    /// Whether a person of that crew sees that work order.
    #[must_use]
    pub fn includes(self, whose: Whose, person: PersonId, crew: Option<CrewId>) -> bool {
        match self {
            Self::All => true,
            Self::None => false,
            Self::Own => whose.raised_by == person || whose.reported,
            Self::OwnCrew => {
                whose.crew.is_none()
                    || whose.crew == crew
                    || whose.raised_by == person
                    || whose.reported
                    || [whose.assignee, whose.asked].contains(&Some(person))
            }
        }
    }
}

impl WorkSeen {
    /// Whether a person of the crew `own` sees work that is planned for a crew, and is nobody's yet.
    #[must_use]
    pub fn includes_crew(self, of: Option<CrewId>, own: Option<CrewId>) -> bool {
        match self {
            Self::All => true,
            Self::OwnCrew => of.is_none() || of == own,
            Self::Own | Self::None => false,
        }
    }
}

/// A person whose role does not see so far.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("a {} may not look at {}", role.word(), topic.phrase())]
pub struct MayNotSee {
    pub role: Role,
    pub topic: Topic,
}

/// Whether somebody of that role may look at it at all.
///
/// # Errors
/// [`MayNotSee`], naming both.
pub fn may_see(role: Role, topic: Topic) -> Result<(), MayNotSee> {
    if role.sees(topic) { Ok(()) } else { Err(MayNotSee { role, topic }) }
}

impl Role {
    /// Whether somebody of that role may look at it at all. A viewer sees what is shared: until lists and boards are, that is
    /// the plant, its meters and its figures, without work and names.
    #[must_use]
    pub fn sees(self, topic: Topic) -> bool {
        use Topic as T;
        match self {
            Self::Administrator | Self::Engineer => true,
            Self::Planner | Self::Manager => topic != T::Webhooks,
            Self::Technician => matches!(topic, T::Plant | T::Meters | T::Work | T::Codes),
            Self::Requester => matches!(topic, T::Plant | T::Work | T::Codes),
            Self::Viewer => matches!(topic, T::Plant | T::Meters | T::Codes | T::Figures),
            Self::Gateway => false,
        }
    }

    /// Which work orders somebody of that role sees; what they report on is among them.
    #[must_use]
    pub fn sees_work(self) -> WorkSeen {
        match self {
            Self::Administrator | Self::Engineer | Self::Planner | Self::Manager => WorkSeen::All,
            Self::Technician => WorkSeen::OwnCrew,
            Self::Requester => WorkSeen::Own,
            Self::Viewer | Self::Gateway => WorkSeen::None,
        }
    }
}
