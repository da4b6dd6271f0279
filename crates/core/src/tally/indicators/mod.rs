//! The catalogue of indicators. [`crate::tally`] computes them.
//!
//! Clause and metric numbers of standards are from memory; the note stands in [`Definition::source`] wherever shown.

mod compare;
mod figure;
mod traced;

pub use compare::{Moved, heat, moved};
pub use figure::Figure;
pub use traced::{Input, Part, RowKind, RowUnit, TraceRow, Why};

use super::formula::{AVAILABILITY, FAILURES, Formula, MTBF, MTTR, Over, Term, cost, down};
use crate::{plant::downtime::DowntimeKind, work::entries::EntryKind};
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
    UnplannedDowntime,
    PlannedDowntime,
    ExternalDowntime,
    Availability,
    Failures,
    Mtbf,
    Mttr,
    OpenWork,
    OpenHours,
    OpenWithoutEstimate,
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

/// An indicator's entry in the catalogue.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Definition {
    pub id: Indicator,
    pub name: &'static str,
    pub unit: Unit,
    /// In words.
    pub formula: &'static str,
    pub source: &'static str,
    pub direction: Direction,
    pub roll_up: RollUp,
    pub course: Course,
    #[serde(skip)]
    pub(super) made: Formula,
}

const COST_SOURCE: &str = "common practice";

macro_rules! define {
    (
        $id:ident, $name:literal, $unit:ident, $direction:ident, $roll_up:ident, $course:ident, $made:expr, $formula:expr,
        $source:expr
    ) => {
        Definition {
            id: Indicator::$id,
            name: $name,
            unit: Unit::$unit,
            formula: $formula,
            source: $source,
            direction: Direction::$direction,
            roll_up: RollUp::$roll_up,
            course: Course::$course,
            made: $made,
        }
    };
}

/// All indicators there are, in the order they are offered.
pub const CATALOGUE: &[Definition] = &[
    define!(
        CostTotal,
        "Cost",
        Money,
        Lower,
        Additive,
        Flow,
        cost(None, Over::Period),
        "Labour, material, service and tool entries dated in the period; settled and provisional apart",
        COST_SOURCE
    ),
    define!(
        CostLabour,
        "Labour",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Labour), Over::Period),
        "Labour entries dated in the period",
        COST_SOURCE
    ),
    define!(
        CostMaterial,
        "Material",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Material), Over::Period),
        "Material entries dated in the period",
        COST_SOURCE
    ),
    define!(
        CostService,
        "Services",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Service), Over::Period),
        "Service entries dated in the period",
        COST_SOURCE
    ),
    define!(
        CostTool,
        "Tools",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Tool), Over::Period),
        "Tool entries dated in the period",
        COST_SOURCE
    ),
    define!(
        CostYtd,
        "Cost, year to date",
        Money,
        Lower,
        Additive,
        Stock,
        cost(None, Over::Year),
        "Entries dated from the start of the fiscal year in which the period ends, up to the period's end",
        COST_SOURCE
    ),
    define!(
        CostLife,
        "Cost, life",
        Money,
        Lower,
        Additive,
        Stock,
        cost(None, Over::Life),
        "Entries dated from the beginning up to the period's end",
        COST_SOURCE
    ),
    define!(
        UnplannedDowntime,
        "Unplanned downtime",
        Hours,
        Lower,
        Union,
        Flow,
        down(DowntimeKind::Unplanned),
        "Hours of required time in which the asset was down unplanned, by its own downtime or by what puts it down; \
         overlaps once",
        "EN 13306 (terms); common practice"
    ),
    define!(
        PlannedDowntime,
        "Planned downtime",
        Hours,
        Lower,
        Union,
        Flow,
        down(DowntimeKind::Planned),
        "Hours of required time in which the asset was down as planned and not unplanned at once",
        "EN 13306 (terms); common practice"
    ),
    define!(
        ExternalDowntime,
        "External downtime",
        Hours,
        Neither,
        Union,
        Flow,
        down(DowntimeKind::External),
        "Hours of required time in which only weather, power or a third party kept the asset down",
        "EN 13306 (terms); common practice"
    ),
    define!(
        Availability,
        "Availability",
        Share,
        Higher,
        Ratio,
        Flow,
        AVAILABILITY,
        "(required − external − unplanned − planned downtime) ÷ (required − external downtime)",
        "EN 15341:2007, T group; ISO 14224 (from memory)"
    ),
    define!(
        Failures,
        "Failures",
        Count,
        Lower,
        Additive,
        Flow,
        FAILURES,
        "Failure reports, critical and degraded, with failed-at in the period; incipient ones apart",
        "EN 13306; ISO 14224 (from memory)"
    ),
    define!(
        Mtbf,
        "MTBF",
        Hours,
        Higher,
        Ratio,
        Flow,
        MTBF,
        "Operating time ÷ critical failures; operating time by a running-hours counter where the asset has one, \
         else required time − all downtime",
        "EN 13306; SMRP 3.5.1 (from memory)"
    ),
    define!(
        Mttr,
        "MTTR",
        Hours,
        Lower,
        Ratio,
        Flow,
        MTTR,
        "Time to restore of the critical failures that had downtime, waiting included and not cut to calendars ÷ \
         their number",
        "EN 15341; SMRP 3.5.2 (from memory)"
    ),
    define!(
        OpenWork,
        "Open work",
        Count,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::Open),
        "Work orders neither done, returned, closed nor dropped at the end of the period",
        "EN 13306 (backlog)"
    ),
    define!(
        OpenHours,
        "Open hours",
        Hours,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::OpenMs),
        "Estimated minus spent hours of open work at the end of the period, never below 0 for one order",
        "EN 13306 (backlog)"
    ),
    define!(
        OpenWithoutEstimate,
        "Open work without an estimate",
        Count,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::OpenUnestimated),
        "Work orders open at the end of the period whose hours nobody estimated: the open hours leave them out",
        "EN 13306 (backlog)"
    ),
];

impl Indicator {
    /// The entry in the catalogue.
    #[must_use]
    pub fn definition(self) -> &'static Definition {
        CATALOGUE.iter().find(|d| d.id == self).expect("the catalogue test holds an entry for each indicator")
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
