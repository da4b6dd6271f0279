//! One rung of a ladder: what it looks at, when it is entered, and what that sets off.

use super::response::Response;
use crate::ground::{severity::Severity, side::RungSide};
use serde::{Deserialize, Serialize};

/// Which series of a meter a rung looks at, as a word.
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

/// The series that a rung looks at, with what that series needs.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Watched {
    /// The readings themselves.
    Value,
    /// How fast they change, in the meter's unit per hour.
    Rate {
        /// The least time between the two readings it is taken from; any two neighbours without it.
        over_seconds: Option<u32>,
    },
    /// How far they are from a baseline, in the meter's unit.
    Change { baseline: f64 },
}

impl Watched {
    /// The word for it.
    #[must_use]
    pub fn on(self) -> RungOn {
        match self {
            Self::Value => RungOn::Value,
            Self::Rate { .. } => RungOn::Rate,
            Self::Change { .. } => RungOn::Change,
        }
    }
}

/// One limit of a ladder.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "RungFields", into = "RungFields")]
pub struct Rung {
    pub side: RungSide,
    pub watched: Watched,
    pub severity: Severity,
    /// In the meter's unit, for a rate per hour; none for a grade.
    pub setpoint: Option<f64>,
    /// How far back behind the setpoint a value must be to leave the rung. 0 where neither this nor `reset` is given.
    pub deadband: Option<f64>,
    /// Instead of a deadband: the value behind which the rung is left.
    pub reset: Option<f64>,
    /// For a grade: the named values of this severity.
    pub grades: Vec<String>,
    pub on_delay_seconds: u32,
    pub off_delay_seconds: u32,
    pub response: Response,
    pub cause: Option<String>,
    pub consequence: Option<String>,
    pub what_to_do: Option<String>,
}

/// One limit of a ladder, field by field.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = Rung))]
pub struct RungFields {
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

/// Fields that make no rung together.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("field `{field}`: {reason}")]
pub struct RungError {
    /// The field at fault.
    pub field: &'static str,
    /// What is wrong with it, beginning with the rung's name.
    pub reason: String,
}

impl TryFrom<RungFields> for Rung {
    type Error = RungError;

    fn try_from(fields: RungFields) -> Result<Self, RungError> {
        let name = name(fields.severity, fields.side, fields.on);
        let not_of = |field, on| Err(RungError { field, reason: format!("{name}: only a {on} has {field}") });
        let watched = match (fields.on, fields.baseline, fields.over_seconds) {
            (RungOn::Value | RungOn::Rate, Some(_), _) => return not_of("baseline", "change"),
            (RungOn::Value | RungOn::Change, _, Some(_)) => return not_of("over_seconds", "rate"),
            (RungOn::Value, None, None) => Watched::Value,
            (RungOn::Rate, None, over_seconds) => Watched::Rate { over_seconds },
            (RungOn::Change, Some(baseline), None) => Watched::Change { baseline },
            (RungOn::Change, None, None) => {
                let reason = format!("{name}: a change needs the baseline it is counted from");
                return Err(RungError { field: "baseline", reason });
            }
        };
        let RungFields { side, severity, setpoint, deadband, reset, grades, response, .. } = fields;
        let RungFields { on_delay_seconds, off_delay_seconds, cause, consequence, what_to_do, .. } = fields;
        Ok(Self {
            side,
            watched,
            severity,
            setpoint,
            deadband,
            reset,
            grades,
            on_delay_seconds,
            off_delay_seconds,
            response,
            cause,
            consequence,
            what_to_do,
        })
    }
}

impl From<Rung> for RungFields {
    fn from(rung: Rung) -> Self {
        let (baseline, over_seconds) = match rung.watched {
            Watched::Value => (None, None),
            Watched::Rate { over_seconds } => (None, over_seconds),
            Watched::Change { baseline } => (Some(baseline), None),
        };
        let Rung { side, watched, severity, setpoint, deadband, reset, grades, response, .. } = rung;
        let Rung { on_delay_seconds, off_delay_seconds, cause, consequence, what_to_do, .. } = rung;
        Self {
            side,
            on: watched.on(),
            baseline,
            over_seconds,
            severity,
            setpoint,
            deadband,
            reset,
            grades,
            on_delay_seconds,
            off_delay_seconds,
            response,
            cause,
            consequence,
            what_to_do,
        }
    }
}

#[cfg(feature = "schema")]
crate::described_as!(Rung, RungFields);

fn name(severity: Severity, side: RungSide, on: RungOn) -> String {
    format!("{severity} {}{}", side.word(), on.suffix())
}

impl Rung {
    /// A rung without its numbers, that looks at the values and does that.
    #[must_use]
    pub fn blank(side: RungSide, severity: Severity, response: Response) -> Self {
        Self {
            side,
            watched: Watched::Value,
            severity,
            setpoint: None,
            deadband: None,
            reset: None,
            grades: Vec::new(),
            on_delay_seconds: 0,
            off_delay_seconds: 0,
            response,
            cause: None,
            consequence: None,
            what_to_do: None,
        }
    }

    /// Which series it looks at.
    #[must_use]
    pub fn on(&self) -> RungOn {
        self.watched.on()
    }

    /// As people call it: `alert high`.
    #[must_use]
    pub fn name(&self) -> String {
        name(self.severity, self.side, self.on())
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
