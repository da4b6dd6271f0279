//! The catalogue of indicators. [`crate::tally`] computes them.
//!
//! Clause and metric numbers of standards are from memory; the note stands in [`Definition::source`] wherever shown.

mod catalogue;
mod compare;
mod figure;
mod traced;

pub use super::traced_rows::{Part, RowKind, RowUnit, TraceRow};
pub use catalogue::CATALOGUE;
pub use compare::{Moved, heat, moved};
pub use figure::Figure;
pub use traced::{Input, Why};

use super::formula::Formula;
use serde::{Deserialize, Serialize};

/// A named figure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Indicator {
    CostTotal,
    CostLabour,
    CostMaterial,
    CostService,
    CostTool,
    CostYtd,
    CostLife,
    CostPerHour,
    CostOfValue,
    Budget,
    BudgetUsed,
    UnplannedDowntime,
    PlannedDowntime,
    ExternalDowntime,
    SlowedDowntime,
    DowntimeCost,
    Availability,
    Failures,
    Mtbf,
    Mttr,
    MeanRepairTime,
    RepeatFailures,
    CodedShare,
    OtherShare,
    OpenWork,
    OpenHours,
    OpenWithoutEstimate,
    PastWindow,
    PastWindowShare,
    OverStateLimit,
    BacklogWeeks,
    ReadyWeeks,
    Age,
    Raised,
    Completed,
    CycleTime,
    PreventiveCountShare,
    PreventiveHoursShare,
    PreventiveRaisedShare,
    ReactiveShare,
    PlanCompliance,
    ScheduleCompliance,
    EstimateRatio,
    Alarms,
    AlarmsPerDay,
    NuisanceShare,
    WorkFromAlarms,
}

/// What a figure is counted in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Unit {
    /// Minor units of the installation's currency.
    Money,
    Hours,
    /// 0 to 1.
    Share,
    Count,
    Days,
    Weeks,
    /// A quotient of two of the same.
    Factor,
    /// Minor units for an hour.
    MoneyPerHour,
    PerDay,
}

/// Which way is better.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Direction {
    Lower,
    Higher,
    Neither,
}

/// How a parent's figure follows from what is below it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RollUp {
    /// Its own plus its children's.
    Additive,
    /// From the intervals at that node, never summed over children.
    Union,
    /// Of two figures at the same node, never a mean of ratios.
    Ratio,
    /// Of all rows of that node.
    Distribution,
    /// As it is set at that node, else the sum of its children's.
    Set,
}

/// What a figure is of its period.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Course {
    /// What happened in it: of two periods that meet, what can be added adds up.
    Flow,
    /// What stands at its end.
    Stock,
}

/// A look at figures that shows some of them without their being chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Look {
    /// The tree with its figures.
    Figures,
    Cost,
    Downtime,
    Mix,
}

/// An indicator's entry in the catalogue.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Definition {
    pub id: Indicator,
    pub name: &'static str,
    /// The same where room is short.
    pub short: &'static str,
    pub unit: Unit,
    /// In words.
    pub formula: &'static str,
    pub source: &'static str,
    pub direction: Direction,
    pub roll_up: RollUp,
    pub course: Course,
    /// Where it is shown without being chosen.
    pub looks: &'static [Look],
    #[serde(skip)]
    pub(super) made: Formula,
}

impl Indicator {
    /// The entry in the catalogue.
    #[must_use]
    pub fn definition(self) -> &'static Definition {
        // In the order of the catalogue, as a test there says.
        &CATALOGUE[self as usize]
    }

    /// The indicator of that id, as it stands in links.
    #[must_use]
    pub fn parse(id: &str) -> Option<Self> {
        serde_json::from_value(serde_json::Value::String(id.into())).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_indicator_stands_in_the_catalogue_once_and_is_found_by_its_id() {
        for definition in CATALOGUE {
            let id = serde_json::to_value(definition.id).unwrap();
            assert_eq!(Indicator::parse(id.as_str().unwrap()), Some(definition.id));
            assert_eq!(CATALOGUE.iter().filter(|d| d.id == definition.id).count(), 1);
            assert!(!definition.formula.is_empty() && !definition.source.is_empty());
        }
        assert_eq!(CATALOGUE.last().map(|d| d.id as usize + 1), Some(CATALOGUE.len()), "none left out");
        assert_eq!(Indicator::parse("cost"), None);
    }

    #[test]
    fn a_zero_denominator_is_no_base() {
        assert_eq!(Figure::ratio(5.0, 0.0).value, None);
        assert_eq!(Figure::ratio(0.0, 4.0).value, Some(0.0));
    }
}
