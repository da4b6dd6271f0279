//! Who may do what, and who may see what: asked here and nowhere else.

use serde::{Deserialize, Serialize};

/// What a person is to the installation.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, strum::IntoStaticStr)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
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

crate::kept_as_words!(Role);

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
        self.into()
    }

    /// What somebody of that role is here for (rules.md §8).
    #[must_use]
    pub fn is_for(self) -> &'static str {
        match self {
            Self::Engineer => "sets limits, keeps codebooks, analyses",
            Self::Planner => "plans work and crews",
            Self::Technician => "does the crew’s work, reads meters",
            Self::Requester => "raises work, sees their own",
            Self::Manager => "looks at all, changes nothing",
            Self::Viewer => "looks at what is shared",
            Self::Gateway => "sends readings, sees nothing",
            Self::Administrator => "sets up people, keys, the plant",
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
    /// Make a backup of all there is.
    BackUp,
    /// Make keys of gateways and scripts, and revoke them.
    ChangeKeys,
}

impl Action {
    /// All there are.
    pub const ALL: [Self; 16] = [
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
        Self::BackUp,
        Self::ChangeKeys,
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
            Self::BackUp => "make backups",
            Self::ChangeKeys => "make keys",
        }
    }
}

impl Action {
    /// Whether it changes the plant as a whole: what is set up for all, and who comes in.
    #[must_use]
    pub fn is_of_whole(self) -> bool {
        use Action as A;
        matches!(
            self,
            A::ChangeMasterData | A::ChangePeople | A::ChangeCrews | A::ChangeCodebooks | A::BackUp | A::ChangeKeys
        )
    }

    /// Whether it takes a password that was given a short while ago: who opens the door to others.
    #[must_use]
    pub fn asks_fresh(self) -> bool {
        matches!(self, Self::ChangePeople | Self::ChangeKeys)
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
        Engineer => !matches!(action, A::AdjustClosedWork | A::ChangePeople | A::BackUp | A::ChangeKeys),
        Planner => {
            let not =
                [A::SetLimits, A::ChangeCodebooks, A::ChangeMasterData, A::ChangePeople, A::BackUp, A::ChangeKeys];
            !not.contains(&action)
        }
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

/// Whether somebody of that role says what they see and no more: they neither plan the work they raise nor do it.
#[must_use]
pub fn raises_briefly(role: Role) -> bool {
    may(role, Action::RaiseWork).is_ok() && may(role, Action::ReportOnWork).is_err()
}
