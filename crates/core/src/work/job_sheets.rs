//! Job sheets: reusable descriptions of work, with its steps, parts, tools and permits.

use super::{
    raising::{check_hours, check_rank},
    rounds::Walk,
    states::WorkKind,
};
use crate::{
    access::refusal::{Refusal, said},
    ground::{status::Status, texts},
};
use serde::{Deserialize, Serialize};

/// One step of a job.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JobStep {
    /// What is to be done; at a visit it may be left to its sheet.
    #[serde(default)]
    pub text: String,
    /// Code of the asset it is done on; the order's without it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub asset: Option<String>,
    /// Codes of meters that are read at it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub meters: Vec<String>,
    /// Code of the check sheet that is filled in at it; at a visit without one, and without a job sheet, the asset's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub check_sheet: Option<String>,
    /// Code of the job sheet that is followed at a visit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub job_sheet: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<f64>,
}

/// A part that a job takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JobPart {
    /// As it is called when it is bought.
    pub item: String,
    pub quantity: f64,
}

/// A reusable description of work.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JobSheet {
    /// The title of work that takes it, where that says none.
    pub title: String,
    #[serde(default)]
    pub status: Status,
    #[serde(default)]
    pub text: String,
    #[serde(default)]
    pub kind: Option<WorkKind>,
    /// 1 (worst) to 5.
    #[serde(default)]
    pub risk_rank: Option<u8>,
    /// What whoever does it has learnt.
    #[serde(default)]
    pub trade: Option<String>,
    /// Code of the crew; without it the asset's.
    #[serde(default)]
    pub crew: Option<String>,
    /// Without it those of its steps.
    #[serde(default)]
    pub estimated_hours: Option<f64>,
    #[serde(default)]
    pub steps: Vec<JobStep>,
    #[serde(default)]
    pub parts: Vec<JobPart>,
    #[serde(default)]
    pub tools: Vec<String>,
    /// What must be permitted or isolated before it begins.
    #[serde(default)]
    pub permits: Vec<String>,
    /// Its asset has to stand still for it.
    #[serde(default)]
    pub needs_outage: bool,
    /// Codes of the check sheets that are filled in for the order's asset.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub check_sheets: Vec<String>,
    /// It is a round, walked so: each step is a visit to an asset.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub round: Option<Walk>,
}

/// The most steps of a job sheet, or visits of a round.
pub const MOST_STEPS: usize = 200;
const MOST_LINES: usize = 100;

impl JobStep {
    /// Whether it makes sense as a step, or as a visit of a round.
    fn check_place(&self, place: usize, is_visit: bool) -> Result<(), Refusal> {
        let at = |field: &str| format!("steps[{place}].{field}");
        if is_visit {
            said(&at("asset"), self.asset.as_deref().unwrap_or_default(), "say which asset is visited")?;
            if self.check_sheet.is_some() && self.job_sheet.is_some() {
                return Err(Refusal::field(at("job_sheet"), "a visit has a check sheet or a job sheet, not both"));
            }
            return Ok(());
        }
        said(&at("text"), &self.text, "say what is to be done")?;
        match self.job_sheet {
            Some(_) => {
                Err(Refusal::field(at("job_sheet"), "only the visits of a round follow a job sheet of their own"))
            }
            None => Ok(()),
        }
    }
}

impl JobSheet {
    /// Whether it makes sense.
    ///
    /// # Errors
    /// [`Refusal::Field`], with the path of the field.
    pub fn check(&self) -> Result<(), Refusal> {
        said("title", &self.title, "say in a few words what is to be done")?;
        self.risk_rank.map_or(Ok(()), check_rank)?;
        check_hours(self.estimated_hours)?;
        if self.round.is_some() && self.steps.is_empty() {
            return Err(Refusal::field("steps", "a round visits something"));
        }
        if self.steps.len() > MOST_STEPS {
            return Err(Refusal::field("steps", format!("at most {MOST_STEPS}")));
        }
        for (place, step) in self.steps.iter().enumerate() {
            step.check_place(place, self.round.is_some())?;
            if check_hours(step.hours).is_err() {
                let field = format!("steps[{place}].hours");
                return Err(Refusal::field(field, "must be a number of hours, 0 or more"));
            }
        }
        for (field, lines) in [("tools", &self.tools), ("permits", &self.permits)] {
            if lines.len() > MOST_LINES {
                return Err(Refusal::field(field, format!("at most {MOST_LINES}")));
            }
            for (place, line) in lines.iter().enumerate() {
                said(&format!("{field}[{place}]"), line, "is empty")?;
                texts::line(line).map_err(|error| Refusal::field(format!("{field}[{place}]"), error.to_string()))?;
            }
        }
        if self.parts.len() > MOST_LINES {
            return Err(Refusal::field("parts", format!("at most {MOST_LINES}")));
        }
        for (place, part) in self.parts.iter().enumerate() {
            said(&format!("parts[{place}].item"), &part.item, "say what it takes")?;
            if !(part.quantity.is_finite() && part.quantity > 0.0) {
                return Err(Refusal::field(format!("parts[{place}].quantity"), "must be more than 0"));
            }
        }
        Ok(())
    }

    /// The hours of one job: as estimated, or those of its steps together.
    #[must_use]
    pub fn hours(&self) -> Option<f64> {
        let of_steps = || self.steps.iter().filter_map(|step| step.hours).reduce(|one, other| one + other);
        self.estimated_hours.or_else(of_steps)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use serde_json::json;

    fn sheet(more: serde_json::Value) -> JobSheet {
        let mut all = json!({"title": "Change the oil"});
        all.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        serde_json::from_value(all).unwrap()
    }

    #[rstest]
    #[case(json!({"title": " "}), "title")]
    #[case(json!({"risk_rank": 9}), "risk_rank")]
    #[case(json!({"estimated_hours": -1.0}), "estimated_hours")]
    #[case(json!({"steps": [{"text": "Drain"}, {"text": ""}]}), "steps[1].text")]
    #[case(json!({"steps": [{"text": "Drain", "hours": -2.0}]}), "steps[0].hours")]
    #[case(json!({"parts": [{"item": "Oil", "quantity": 0.0}]}), "parts[0].quantity")]
    #[case(json!({"parts": [{"item": "", "quantity": 1.0}]}), "parts[0].item")]
    #[case(json!({"permits": ["Lock the drive", ""]}), "permits[1]")]
    #[case(json!({"steps": [{"text": "Drain", "job_sheet": "OIL"}]}), "steps[0].job_sheet")]
    #[case(json!({"round": "in_order"}), "steps")]
    #[case(json!({"round": "any_order", "steps": [{"asset": "GBX"}, {"text": "Look"}]}), "steps[1].asset")]
    #[case(json!({"round": "any_order", "steps": [{"asset": "GBX", "check_sheet": "C", "job_sheet": "J"}]}), "steps[0].job_sheet")]
    fn what_makes_no_sense_is_named(#[case] more: serde_json::Value, #[case] at_fault: &str) {
        assert!(matches!(sheet(more).check(), Err(Refusal::Field { field, .. }) if field == at_fault));
    }

    #[test]
    fn hours_are_those_of_its_steps_unless_said() {
        let steps = json!([{"text": "Drain", "hours": 1.5}, {"text": "Fill"}, {"text": "Run", "hours": 0.5}]);
        assert_eq!(sheet(json!({"steps": steps})).hours(), Some(2.0));
        assert_eq!(sheet(json!({"steps": steps, "estimated_hours": 3.0})).hours(), Some(3.0));
        assert_eq!(sheet(json!({})).hours(), None);
        assert_eq!(sheet(json!({"steps": steps})).check(), Ok(()));
        let visits = json!([{"asset": "GBX"}, {"asset": "MOT", "job_sheet": "OIL"}]);
        assert_eq!(sheet(json!({"round": "in_order", "steps": visits})).check(), Ok(()));
    }
}
