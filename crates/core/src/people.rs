//! Who may do what, and who may see what: asked here and nowhere else.

use crate::ids::{CrewId, PersonId};
use serde::{Deserialize, Serialize};

/// What a person is to the installation.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Role {
    Engineer,
    Planner,
    Technician,
    Requester,
    Manager,
    Viewer,
    Gateway,
    Administrator,
}

impl Role {
    /// All roles.
    pub const ALL: [Self; 8] = [
        Self::Engineer,
        Self::Planner,
        Self::Technician,
        Self::Requester,
        Self::Manager,
        Self::Viewer,
        Self::Gateway,
        Self::Administrator,
    ];

    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Engineer => "engineer",
            Self::Planner => "planner",
            Self::Technician => "technician",
            Self::Requester => "requester",
            Self::Manager => "manager",
            Self::Viewer => "viewer",
            Self::Gateway => "gateway",
            Self::Administrator => "administrator",
        }
    }
}

/// Something a person may or may not do. Moves between states of work are ruled by [`crate::work`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Action {
    /// Add, change or move assets, classes, meters, calendars, settings.
    ChangeMasterData,
    /// Add or change people and what they may do.
    ChangePeople,
    /// Add or change crews and what they can do in a week.
    ChangeCrews,
    /// Write a new version of a ladder.
    SetLimits,
    /// Send or enter readings.
    SendReadings,
    /// Say that an alarm has been seen.
    AcknowledgeAlarms,
    /// Hold a meter's alarms back for a while.
    ShelveAlarms,
    /// Say that a reading does not hold, or that it does; note that a device was exchanged.
    CorrectReadings,
    /// Raise work.
    RaiseWork,
    /// Change a work order's text, crew, dates, estimate.
    PlanWork,
    /// Report hours, parts, services, tools, downtime and failure codes on work.
    ReportOnWork,
    /// Enter cost on work that is closed.
    AdjustClosedWork,
    /// Enter downtime without work.
    ReportDowntime,
    /// Change a codebook.
    ChangeCodebooks,
}

impl Action {
    /// All there are.
    pub const ALL: [Self; 14] = [
        Self::ChangeMasterData,
        Self::ChangePeople,
        Self::ChangeCrews,
        Self::SetLimits,
        Self::SendReadings,
        Self::AcknowledgeAlarms,
        Self::ShelveAlarms,
        Self::CorrectReadings,
        Self::RaiseWork,
        Self::PlanWork,
        Self::ReportOnWork,
        Self::AdjustClosedWork,
        Self::ReportDowntime,
        Self::ChangeCodebooks,
    ];

    /// As it stands after "may not".
    fn phrase(self) -> &'static str {
        match self {
            Self::ChangeMasterData => "change master data",
            Self::ChangePeople => "change people",
            Self::ChangeCrews => "change crews",
            Self::SetLimits => "set limits",
            Self::SendReadings => "send readings",
            Self::AcknowledgeAlarms => "acknowledge alarms",
            Self::ShelveAlarms => "shelve alarms",
            Self::CorrectReadings => "correct readings",
            Self::RaiseWork => "raise work",
            Self::PlanWork => "plan work",
            Self::ReportOnWork => "report on work",
            Self::AdjustClosedWork => "enter cost on closed work",
            Self::ReportDowntime => "report downtime",
            Self::ChangeCodebooks => "change codebooks",
        }
    }
}

/// A person whose role does not reach so far.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("a {} may not {}", role.word(), action.phrase())]
pub struct MayNot {
    pub role: Role,
    pub action: Action,
}

/// Whether somebody of that role may do it.
///
/// # Errors
/// [`MayNot`], naming both.
pub fn may(role: Role, action: Action) -> Result<(), MayNot> {
    use Action as A;
    use Role::{Administrator, Engineer, Gateway, Manager, Planner, Requester, Technician, Viewer};
    let allowed = match role {
        Administrator => true,
        Engineer => !matches!(action, A::AdjustClosedWork | A::ChangePeople),
        Planner => !matches!(action, A::SetLimits | A::ChangeCodebooks | A::ChangeMasterData | A::ChangePeople),
        Technician => matches!(
            action,
            A::SendReadings | A::AcknowledgeAlarms | A::RaiseWork | A::ReportOnWork | A::ReportDowntime
        ),
        Requester | Manager => action == A::RaiseWork,
        Viewer => false,
        Gateway => action == A::SendReadings,
    };
    if allowed { Ok(()) } else { Err(MayNot { role, action }) }
}

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
    /// Their own crew's, that of no crew, and what is theirs otherwise: assigned to them, asked of them, or raised by them.
    OwnCrew,
    /// What they raised.
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
}

impl WorkSeen {
    /// Whether a person of that crew sees that work order.
    #[must_use]
    pub fn includes(self, whose: Whose, person: PersonId, crew: Option<CrewId>) -> bool {
        match self {
            Self::All => true,
            Self::None => false,
            Self::Own => whose.raised_by == person,
            Self::OwnCrew => {
                whose.crew.is_none()
                    || whose.crew == crew
                    || whose.raised_by == person
                    || [whose.assignee, whose.asked].contains(&Some(person))
            }
        }
    }
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

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::gateway(Role::Gateway, &[Action::SendReadings])]
    #[case::viewer(Role::Viewer, &[])]
    #[case::requester(Role::Requester, &[Action::RaiseWork])]
    #[case::manager(Role::Manager, &[Action::RaiseWork])]
    #[case::technician(Role::Technician, &[Action::SendReadings, Action::AcknowledgeAlarms, Action::RaiseWork,
        Action::ReportOnWork, Action::ReportDowntime])]
    #[case::administrator(Role::Administrator, &Action::ALL)]
    fn a_role_may_do_just_this(#[case] role: Role, #[case] allowed: &[Action]) {
        for action in Action::ALL {
            assert_eq!(may(role, action).is_ok(), allowed.contains(&action), "{role:?} {action:?}");
        }
    }

    // rules.md §8.
    #[rstest]
    #[case::gateway(Role::Gateway, &[], WorkSeen::None)]
    #[case::viewer(Role::Viewer, &[Topic::Plant, Topic::Meters, Topic::Codes, Topic::Figures], WorkSeen::None)]
    #[case::requester(Role::Requester, &[Topic::Plant, Topic::Work, Topic::Codes], WorkSeen::Own)]
    #[case::technician(Role::Technician, &[Topic::Plant, Topic::Meters, Topic::Work, Topic::Codes], WorkSeen::OwnCrew)]
    #[case::administrator(Role::Administrator, &Topic::ALL, WorkSeen::All)]
    fn a_role_sees_just_this(#[case] role: Role, #[case] seen: &[Topic], #[case] work: WorkSeen) {
        for topic in Topic::ALL {
            assert_eq!(may_see(role, topic).is_ok(), seen.contains(&topic), "{role:?} {topic:?}");
        }
        assert_eq!(role.sees_work(), work);
    }

    #[test]
    fn a_technician_sees_the_crews_work_and_what_is_theirs_otherwise() {
        let (me, other) = (PersonId(1), PersonId(2));
        let (mine, theirs) = (Some(CrewId(7)), Some(CrewId(8)));
        let nobodys = Whose { crew: theirs, assignee: None, raised_by: other, asked: None };
        let sees = |whose| WorkSeen::OwnCrew.includes(whose, me, mine);
        assert!(!sees(nobodys));
        for whose in [
            Whose { crew: mine, ..nobodys },
            Whose { crew: None, ..nobodys },
            Whose { assignee: Some(me), ..nobodys },
            Whose { raised_by: me, ..nobodys },
            Whose { asked: Some(me), ..nobodys },
        ] {
            assert!(sees(whose), "{whose:?}");
        }
        assert!(!WorkSeen::OwnCrew.includes(nobodys, me, None), "without a crew, no crew's work is theirs");
        assert!(WorkSeen::Own.includes(Whose { raised_by: me, ..nobodys }, me, None));
        assert!(!WorkSeen::Own.includes(Whose { crew: mine, ..nobodys }, me, mine));
    }

    #[test]
    fn a_refusal_names_the_role_and_the_deed() {
        let refusal = may(Role::Technician, Action::SetLimits).unwrap_err();
        assert_eq!(refusal.to_string(), "a technician may not set limits");
    }

    #[test]
    fn only_planner_and_administrator_touch_closed_cost() {
        let who: Vec<Role> = Role::ALL.into_iter().filter(|&r| may(r, Action::AdjustClosedWork).is_ok()).collect();
        assert_eq!(who, [Role::Planner, Role::Administrator]);
    }
}
