//! A ladder as set: its rungs, and the check that they make sense together.

use super::{
    response::{Does, Response},
    rung::{Rung, RungOn, Watched},
};
use crate::{
    ground::{side::RungSide, texts, texts::TextError, units},
    watch::meters::Meter,
};
use serde::{Deserialize, Serialize};

/// Whose raised work the raise interval looks at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RaiseIntervalOf {
    #[default]
    Ladder,
    Asset,
}

/// When a ladder looks away: while another meter says that nothing runs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Suspension {
    /// Code of the other meter.
    pub meter: String,
    /// Suspended while its last reading is below this.
    pub below: f64,
}

/// The set of limits on one meter.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ladder {
    /// The time after raising work in which the same ladder (or asset) raises no other.
    #[serde(default)]
    pub raise_interval_seconds: u32,
    #[serde(default)]
    pub raise_interval_of: RaiseIntervalOf,
    /// Raise separate work instead of joining what is open.
    #[serde(default)]
    pub separate_work: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub suspended_while: Option<Suspension>,
    pub rungs: Vec<Rung>,
}

/// What is wrong with a ladder; `rung` counts from 0 as in the list.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LadderError {
    #[error("a {side} rung does not fit a {kind}: {wanted}")]
    Side { rung: usize, side: &'static str, kind: &'static str, wanted: &'static str },
    #[error("{name} needs a setpoint")]
    NoSetpoint { rung: usize, name: String },
    #[error("{name}: {field} must be a finite number")]
    NotFinite { rung: usize, name: String, field: &'static str },
    #[error("{name}: give a deadband or a reset value, not both")]
    BothResets { rung: usize, name: String },
    #[error("{name}: the deadband must not be negative")]
    NegativeDeadband { rung: usize, name: String },
    #[error("{name}: the reset value {reset} must not lie beyond the setpoint {setpoint}")]
    ResetBeyond { rung: usize, name: String, reset: String, setpoint: String },
    #[error("{name} stands twice")]
    Twice { rung: usize, name: String },
    #[error("{worse} at {worse_at} must lie {direction} {milder} at {milder_at}")]
    OutOfOrder {
        rung: usize,
        worse: String,
        worse_at: String,
        direction: &'static str,
        milder: String,
        milder_at: String,
    },
    #[error("{high} is left below {high_clears}, {low} above {low_clears}: no value in between could clear both")]
    NoNormalZone { rung: usize, high: String, high_clears: String, low: String, low_clears: String },
    #[error("{name} needs at least one of the meter's named values")]
    NoGrades { rung: usize, name: String },
    #[error("{name}: {grade:?} is none of the meter's named values")]
    UnknownGrade { rung: usize, name: String, grade: String },
    #[error("{grade:?} stands in two rungs, {name} and {other}")]
    GradeTwice { rung: usize, name: String, other: String, grade: String },
    #[error("{name}: the rank must be 1 (worst) to 5, not {rank}")]
    Rank { rung: usize, name: String, rank: u8 },
    #[error("{name}: the {field} must be 0 to {most}")]
    Response { rung: usize, name: String, field: &'static str, most: f64 },
    #[error("{name}: only a number has a rate and a change")]
    GradeOn { rung: usize, name: String },
    #[error("a ladder can't be suspended by a value that is no finite number")]
    Suspension,
    #[error("{name}: the {field} {error}")]
    Text { rung: usize, name: String, field: &'static str, error: TextError },
    #[error("{name}: say which upkeep plan is brought forward")]
    NoPlan { rung: usize, name: String },
}

impl LadderError {
    /// The field at fault, as a path into the ladder.
    #[must_use]
    pub fn field(&self) -> String {
        let (rung, field) = match self {
            Self::Side { rung, .. } => (rung, "side"),
            Self::NoSetpoint { rung, .. } | Self::OutOfOrder { rung, .. } => (rung, "setpoint"),
            Self::NotFinite { rung, field, .. } => (rung, *field),
            Self::BothResets { rung, .. } | Self::ResetBeyond { rung, .. } => (rung, "reset"),
            Self::NegativeDeadband { rung, .. } | Self::NoNormalZone { rung, .. } => (rung, "deadband"),
            Self::Twice { rung, .. } => (rung, "severity"),
            Self::NoGrades { rung, .. } | Self::UnknownGrade { rung, .. } | Self::GradeTwice { rung, .. } => {
                (rung, "grades")
            }
            Self::Rank { rung, .. } => (rung, "response.risk_rank"),
            Self::Response { rung, field: "estimated hours", .. } => (rung, "response.estimated_hours"),
            Self::Response { rung, .. } => (rung, "response.start_within_days"),
            Self::Text { rung, field: "title", .. } => (rung, "response.title"),
            Self::Text { rung, field: "text", .. } => (rung, "response.text"),
            Self::Text { rung, field, .. } => (rung, *field),
            Self::NoPlan { rung, .. } => (rung, "response.plan"),
            Self::GradeOn { rung, .. } => (rung, "on"),
            Self::Suspension => return "suspended_while.below".into(),
        };
        format!("rungs[{rung}].{field}")
    }
}

impl Ladder {
    /// Whether the rungs fit the meter and each other.
    ///
    /// # Errors
    /// The first [`LadderError`] in the order of the rungs; those between two rungs name both.
    pub fn check(&self, meter: &Meter) -> Result<(), LadderError> {
        for (index, rung) in self.rungs.iter().enumerate() {
            check_rung(index, rung, meter)?;
        }
        if self.suspended_while.as_ref().is_some_and(|other| !other.below.is_finite()) {
            return Err(LadderError::Suspension);
        }
        for on in [RungOn::Value, RungOn::Rate, RungOn::Change] {
            for side in [RungSide::High, RungSide::Low] {
                self.check_order(side, on)?;
            }
            self.check_normal_zone(on)?;
        }
        self.check_grades()
    }

    /// Whether some rung looks at a rate or a change.
    #[must_use]
    pub fn derives(&self) -> bool {
        self.rungs.iter().any(|rung| rung.on() != RungOn::Value)
    }

    fn of_side(&self, side: RungSide, on: RungOn) -> impl Iterator<Item = (usize, &Rung)> {
        self.rungs.iter().enumerate().filter(move |(_, rung)| rung.side == side && rung.on() == on)
    }

    fn check_order(&self, side: RungSide, on: RungOn) -> Result<(), LadderError> {
        let mut rungs: Vec<_> = self.of_side(side, on).collect();
        rungs.sort_by_key(|(_, rung)| rung.severity);
        for pair in rungs.windows(2) {
            let ((_, milder), (index, worse)) = (pair[0], pair[1]);
            if milder.severity == worse.severity {
                return Err(LadderError::Twice { rung: index, name: worse.name() });
            }
            let (Some(low), Some(high)) = (milder.setpoint, worse.setpoint) else { continue };
            let ordered = if side == RungSide::High { high > low } else { high < low };
            if !ordered {
                return Err(LadderError::OutOfOrder {
                    rung: index,
                    worse: worse.name(),
                    worse_at: units::number(high),
                    direction: if side == RungSide::High { "above" } else { "below" },
                    milder: milder.name(),
                    milder_at: units::number(low),
                });
            }
        }
        Ok(())
    }

    fn check_grades(&self) -> Result<(), LadderError> {
        let named =
            self.of_side(RungSide::Grade, RungOn::Value).flat_map(|(i, r)| r.grades.iter().map(move |g| (i, r, g)));
        let mut seen: Vec<(&Rung, &String)> = Vec::new();
        for (index, rung, grade) in named {
            if let Some((other, _)) = seen.iter().find(|(_, g)| *g == grade) {
                return Err(LadderError::GradeTwice {
                    rung: index,
                    name: rung.name(),
                    other: other.name(),
                    grade: grade.clone(),
                });
            }
            seen.push((rung, grade));
        }
        Ok(())
    }

    /// The lowest clearing value of the high side must lie above the highest of the low side.
    fn check_normal_zone(&self, on: RungOn) -> Result<(), LadderError> {
        let clears = |side| self.of_side(side, on).filter_map(|(i, r)| Some((r.clears_at()?, i, r)));
        let lowest_high = clears(RungSide::High).min_by(|a, b| a.0.total_cmp(&b.0));
        let highest_low = clears(RungSide::Low).max_by(|a, b| a.0.total_cmp(&b.0));
        if let (Some((high_clears, index, high)), Some((low_clears, _, low))) = (lowest_high, highest_low)
            && high_clears <= low_clears
        {
            return Err(LadderError::NoNormalZone {
                rung: index,
                high: high.name(),
                high_clears: units::number(high_clears),
                low: low.name(),
                low_clears: units::number(low_clears),
            });
        }
        Ok(())
    }
}

/// Hours that one work order can be estimated at.
const MOST_HOURS: f64 = 100_000.0;

/// Ten years: what starts later is no response to an alarm.
const MOST_DAYS: f64 = 3_650.0;

fn check_rung(index: usize, rung: &Rung, meter: &Meter) -> Result<(), LadderError> {
    let (name, at) = (rung.name(), index);
    let is_grade = meter.is_grade();
    if is_grade != (rung.side == RungSide::Grade) {
        let (kind, wanted) = if is_grade {
            ("grade", "map its named values to severities")
        } else {
            ("number", "use high or low with a setpoint")
        };
        return Err(LadderError::Side { rung: at, side: rung.side.word(), kind, wanted });
    }
    check_response(at, &name, &rung.response)?;
    for (field, text) in [
        ("title", &rung.response.title),
        ("text", &rung.response.text),
        ("cause", &rung.cause),
        ("consequence", &rung.consequence),
        ("what_to_do", &rung.what_to_do),
    ] {
        if let Some(error) = text.as_ref().and_then(|text| texts::check(field, text).err()) {
            return Err(LadderError::Text { rung: at, name, field, error });
        }
    }
    if rung.side == RungSide::Grade && rung.on() != RungOn::Value {
        return Err(LadderError::GradeOn { rung: at, name });
    }
    if is_grade {
        if rung.grades.is_empty() {
            return Err(LadderError::NoGrades { rung: at, name });
        }
        return match rung.grades.iter().find(|grade| !meter.grades().contains(grade)) {
            Some(grade) => Err(LadderError::UnknownGrade { rung: at, name, grade: grade.clone() }),
            None => Ok(()),
        };
    }
    let Some(setpoint) = rung.setpoint else { return Err(LadderError::NoSetpoint { rung: at, name }) };
    let baseline = if let Watched::Change { baseline } = rung.watched { Some(baseline) } else { None };
    let numbers =
        [("setpoint", rung.setpoint), ("deadband", rung.deadband), ("reset", rung.reset), ("baseline", baseline)];
    for (field, value) in numbers {
        if value.is_some_and(|v| !v.is_finite()) {
            return Err(LadderError::NotFinite { rung: at, name, field });
        }
    }
    if rung.deadband.is_some() && rung.reset.is_some() {
        return Err(LadderError::BothResets { rung: at, name });
    }
    if rung.deadband.is_some_and(|deadband| deadband < 0.0) {
        return Err(LadderError::NegativeDeadband { rung: at, name });
    }
    if let Some(reset) = rung.reset {
        let beyond = if rung.side == RungSide::High { reset > setpoint } else { reset < setpoint };
        if beyond {
            return Err(LadderError::ResetBeyond {
                rung: at,
                name,
                reset: units::number(reset),
                setpoint: units::number(setpoint),
            });
        }
    }
    Ok(())
}

/// Whether what a rung does can be done, as far as it can be said without the plant.
fn check_response(rung: usize, name: &str, response: &Response) -> Result<(), LadderError> {
    let name = || name.to_owned();
    if let Does::BringForward { plan: None, .. } = response.does {
        return Err(LadderError::NoPlan { rung, name: name() });
    }
    let Some(work) = response.work() else { return Ok(()) };
    if let Some(rank) = work.risk_rank.filter(|rank| !(1..=5).contains(rank)) {
        return Err(LadderError::Rank { rung, name: name(), rank });
    }
    let bounded = [
        ("estimated hours", work.estimated_hours, MOST_HOURS),
        ("days to the start", work.start_within_days.map(f64::from), MOST_DAYS),
    ];
    for (field, value, most) in bounded {
        // Not a number is in no range.
        if value.is_some_and(|value| !(0.0..=most).contains(&value)) {
            return Err(LadderError::Response { rung, name: name(), field, most });
        }
    }
    Ok(())
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use crate::{
        ground::severity::Severity,
        watch::{limits::ResponseKind, meters::MeterKind},
    };
    use rstest::rstest;

    pub(crate) fn rung(side: RungSide, severity: Severity, setpoint: f64, deadband: f64) -> Rung {
        Rung {
            setpoint: Some(setpoint),
            deadband: Some(deadband),
            ..Rung::blank(side, severity, Response::of(ResponseKind::Raise))
        }
    }

    fn ladder(rungs: Vec<Rung>) -> Ladder {
        Ladder { rungs, ..Ladder::default() }
    }

    use RungSide::{High, Low};
    use Severity::{Alert, Danger, Serious};

    #[rstest]
    #[case::high_falls_with_severity(
        vec![rung(High, Alert, 9.0, 0.0), rung(High, Serious, 4.0, 0.0)],
        "rungs[1].setpoint", "serious high at 4 must lie above alert high at 9")]
    #[case::low_rises_with_severity(
        vec![rung(Low, Alert, 110.0, 0.0), rung(Low, Danger, 120.0, 0.0)],
        "rungs[1].setpoint", "danger low at 120 must lie below alert low at 110")]
    #[case::no_normal_zone(
        vec![rung(High, Alert, 185.0, 40.0), rung(Low, Alert, 110.0, 35.0)],
        "rungs[0].deadband",
        "alert high is left below 145, alert low above 145: no value in between could clear both")]
    #[case::same_severity_twice(
        vec![rung(High, Alert, 4.0, 0.0), rung(High, Alert, 5.0, 0.0)],
        "rungs[1].severity", "alert high stands twice")]
    #[case::negative_deadband(
        vec![rung(High, Alert, 4.0, -1.0)], "rungs[0].deadband", "alert high: the deadband must not be negative")]
    #[case::reset_beyond_the_setpoint(
        vec![Rung { reset: Some(5.0), deadband: None, ..rung(High, Alert, 4.0, 0.0) }],
        "rungs[0].reset", "alert high: the reset value 5 must not lie beyond the setpoint 4")]
    fn rungs_that_make_no_sense_are_refused_by_name(
        #[case] rungs: Vec<Rung>,
        #[case] field: &str,
        #[case] message: &str,
    ) {
        let error = ladder(rungs).check(&Meter::measurement("bar")).unwrap_err();
        assert_eq!((error.field().as_str(), error.to_string().as_str()), (field, message));
    }

    #[test]
    fn a_reset_value_is_a_deadband_in_absolute_terms() {
        let reset = Rung { reset: Some(1.5), deadband: None, ..rung(High, Alert, 4.0, 0.0) };
        assert_eq!(reset.clears_at(), rung(High, Alert, 4.0, 2.5).clears_at());
        let both = Rung { reset: Some(1.5), ..rung(High, Alert, 4.0, 2.5) };
        let error = ladder(vec![both]).check(&Meter::measurement("[g]")).unwrap_err();
        assert_eq!(error.to_string(), "alert high: give a deadband or a reset value, not both");
    }

    #[test]
    fn a_grade_is_mapped_by_its_named_values() {
        let grades = ["bright", "rust film", "pitted"].map(String::from).to_vec();
        let grade = Meter { unit: "1".into(), kind: MeterKind::Grade(grades) };
        let of = |severity, grades: &[&str]| Rung {
            side: RungSide::Grade,
            setpoint: None,
            deadband: None,
            grades: grades.iter().map(ToString::to_string).collect(),
            ..rung(High, severity, 0.0, 0.0)
        };
        assert_eq!(ladder(vec![of(Alert, &["rust film"]), of(Danger, &["pitted"])]).check(&grade), Ok(()));
        let error = ladder(vec![of(Alert, &["pitted"]), of(Danger, &["pitted"])]).check(&grade).unwrap_err();
        assert_eq!(error.to_string(), "\"pitted\" stands in two rungs, danger grade and alert grade");
        let error = ladder(vec![of(Alert, &["broken"])]).check(&grade).unwrap_err();
        assert_eq!(error.to_string(), "alert grade: \"broken\" is none of the meter's named values");
        assert!(ladder(vec![rung(High, Alert, 1.0, 0.0)]).check(&grade).is_err());
    }
}
