//! Job sheets: reusable descriptions of work, with its steps, parts, tools and permits.

use super::{
    raising::{check_hours, check_rank},
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
    /// What is to be done.
    pub text: String,
    /// Code of the asset it is done on; the order's without it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub asset: Option<String>,
    /// Codes of meters that are read at it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub meters: Vec<String>,
    /// Code of the check sheet that is filled in at it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub check_sheet: Option<String>,
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
}

const MOST_STEPS: usize = 200;
const MOST_LINES: usize = 100;

impl JobSheet {
    /// Whether it makes sense.
    ///
    /// # Errors
    /// [`Refusal::Field`], with the path of the field.
    pub fn check(&self) -> Result<(), Refusal> {
        said("title", &self.title, "say in a few words what is to be done")?;
        self.risk_rank.map_or(Ok(()), check_rank)?;
        check_hours(self.estimated_hours)?;
        if self.steps.len() > MOST_STEPS {
            return Err(Refusal::field("steps", format!("at most {MOST_STEPS}")));
        }
        for (place, step) in self.steps.iter().enumerate() {
            said(&format!("steps[{place}].text"), &step.text, "say what is to be done")?;
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
    }
}
