//! One rung of a ladder: what it looks at, when it is entered, and what that sets off.

use crate::{ground::severity::Severity, work::WorkKind};
use serde::{Deserialize, Serialize};

/// Which way a rung looks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RungSide {
    High,
    Low,
    Grade,
}

crate::kept_as_words!(RungSide);

impl RungSide {
    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::High => "high",
            Self::Low => "low",
            Self::Grade => "grade",
        }
    }
}

/// Which series of a meter a rung looks at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RungOn {
    /// The readings themselves.
    #[default]
    Value,
    /// How fast they change, in the meter's unit per hour.
    Rate,
    /// How far they are from a baseline, in the meter's unit.
    Change,
}

impl RungOn {
    fn is_value(&self) -> bool {
        *self == Self::Value
    }

    /// What a rung's name gets behind it.
    fn suffix(self) -> &'static str {
        match self {
            Self::Value => "",
            Self::Rate => " (rate)",
            Self::Change => " (change)",
        }
    }
}

/// What a newly entered rung does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum ResponseKind {
    /// Only the alarm itself.
    Record,
    /// People are told; no work.
    Notify,
    /// Work is raised.
    Raise,
    /// An upkeep plan is done early.
    BringForward,
}

impl ResponseKind {
    /// Whether work comes of it; the others only record or tell.
    #[must_use]
    pub fn makes_work(self) -> bool {
        matches!(self, Self::Raise | Self::BringForward)
    }
}

/// What a rung does, and the template of the work it raises. In title and text, `{meter}`, `{asset}`, `{reading}` and
/// `{limit}` stand for what they say.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Response {
    pub kind: ResponseKind,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub title: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub text: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub work_kind: Option<WorkKind>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub job_sheet: Option<String>,
    /// 1 (worst) to 5; without it the rank follows from severity and criticality.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub risk_rank: Option<u8>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub start_within_days: Option<u32>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub estimated_hours: Option<f64>,
    /// Code of the crew; without it the asset's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub crew: Option<String>,
    /// Codes of the people to tell.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tell: Vec<String>,
    /// Code of the upkeep plan to bring forward.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plan: Option<String>,
    /// Code of the person whose decision this is: they are told that it was handed up to them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decides: Option<String>,
}

impl Response {
    /// A response with nothing else said.
    #[must_use]
    pub fn of(kind: ResponseKind) -> Self {
        Self {
            kind,
            title: None,
            text: None,
            work_kind: None,
            job_sheet: None,
            risk_rank: None,
            start_within_days: None,
            estimated_hours: None,
            crew: None,
            tell: Vec::new(),
            plan: None,
            decides: None,
        }
    }
}

/// One limit of a ladder.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rung {
    pub side: RungSide,
    #[serde(default, skip_serializing_if = "RungOn::is_value")]
    pub on: RungOn,
    /// For a change: the value it is counted from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub baseline: Option<f64>,
    /// For a rate: the least time between the two readings it is taken from; any two neighbours without it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub over_seconds: Option<u32>,
    pub severity: Severity,
    /// In the meter's unit, for a rate per hour; none for a grade.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub setpoint: Option<f64>,
    /// How far back behind the setpoint a value must be to leave the rung. 0 where neither this nor `reset` is given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub deadband: Option<f64>,
    /// Instead of a deadband: the value behind which the rung is left.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reset: Option<f64>,
    /// For a grade: the named values of this severity.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub grades: Vec<String>,
    #[serde(default)]
    pub on_delay_seconds: u32,
    #[serde(default)]
    pub off_delay_seconds: u32,
    pub response: Response,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cause: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub consequence: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub what_to_do: Option<String>,
}

impl Rung {
    /// As people call it: `alert high`.
    #[must_use]
    pub fn name(&self) -> String {
        format!("{} {}{}", self.severity, self.side.word(), self.on.suffix())
    }

    /// The value strictly behind which the rung is left, for a rung with a setpoint.
    #[must_use]
    pub fn clears_at(&self) -> Option<f64> {
        let setpoint = self.setpoint?;
        let deadband = self.deadband.unwrap_or(0.0);
        Some(self.reset.unwrap_or(match self.side {
            RungSide::Low => setpoint + deadband,
            RungSide::High | RungSide::Grade => setpoint - deadband,
        }))
    }
}
