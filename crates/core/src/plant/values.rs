//! Values that are set for an asset or a crew from a day on.

use crate::{
    access::{refusal::Refusal, roles::Action},
    ground::time::HOUR,
};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// What is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum ValueKind {
    /// What an asset would cost anew.
    ReplacementValue,
    /// What an hour of its unplanned downtime costs.
    DowntimeCost,
    /// What may be spent on it in the fiscal year that the day lies in.
    Budget,
    /// Hours that a crew works in a week.
    WeeklyHours,
}

crate::kept_as_words!(ValueKind);

impl ValueKind {
    /// All there are.
    pub const ALL: [Self; 4] = [Self::ReplacementValue, Self::DowntimeCost, Self::Budget, Self::WeeklyHours];

    /// Whether it is a crew's rather than an asset's.
    #[must_use]
    pub fn is_of_crew(self) -> bool {
        self == Self::WeeklyHours
    }

    /// What somebody must be allowed to do to set it.
    #[must_use]
    pub fn action(self) -> Action {
        if self.is_of_crew() { Action::ChangeCrews } else { Action::ChangeMasterData }
    }
}

/// A value to set. The same kind for the same asset or crew from the same day replaces it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewValue {
    pub kind: ValueKind,
    /// Code of the asset or the crew.
    pub of: String,
    /// The day from which it holds, as the installation's clocks show it.
    #[cfg_attr(feature = "schema", schema(value_type = String, format = "date"))]
    pub from: Date,
    /// Money in minor units, or hours; none where nothing is set any more.
    pub value: Option<f64>,
}

/// Amounts and hours beyond this are mistakes.
const MOST: f64 = 1e15;
const MOST_HOURS: f64 = 100_000.0;

impl NewValue {
    /// What is kept: whole minor units, or milliseconds.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self) -> Result<Option<i64>, Refusal> {
        let Some(value) = self.value else { return Ok(None) };
        let most = if self.kind.is_of_crew() { MOST_HOURS } else { MOST };
        if !(0.0..=most).contains(&value) {
            return Err(Refusal::field("value", "must be 0 or more, and no more than there can be"));
        }
        if self.kind.is_of_crew() {
            return Ok(Some((value * HOUR as f64).round() as i64));
        }
        if value.fract() != 0.0 {
            return Err(Refusal::field("value", "is in whole minor units"));
        }
        Ok(Some(value as i64))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn money_is_whole_and_hours_may_be_half() {
        let value = |kind, value| NewValue { kind, of: "X".into(), from: date(2026, 1, 1), value };
        assert_eq!(value(ValueKind::Budget, Some(120_000.0)).check(), Ok(Some(120_000)));
        assert_eq!(value(ValueKind::Budget, None).check(), Ok(None));
        assert_eq!(value(ValueKind::WeeklyHours, Some(37.5)).check(), Ok(Some(135_000_000)));
        let refused = |new: NewValue| new.check().unwrap_err().to_string();
        assert_eq!(refused(value(ValueKind::DowntimeCost, Some(0.5))), "value: is in whole minor units");
        for bad in [-1.0, f64::NAN, 1e16] {
            assert!(refused(value(ValueKind::Budget, Some(bad))).starts_with("value: must be 0 or more"));
        }
    }
}
