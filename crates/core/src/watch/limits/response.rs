//! What a newly entered rung does, and what it needs for that.

use crate::work::WorkKind;
use serde::{Deserialize, Serialize};

/// What a newly entered rung does, as a word.
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

/// Whom a response tells.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Told {
    /// Codes of the people to tell.
    pub tell: Vec<String>,
    /// Code of the person whose decision this is: they are told that it was handed up to them.
    pub decides: Option<String>,
}

/// The template of the work that a response raises.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct WorkTemplate {
    pub kind: Option<WorkKind>,
    /// Code of the job sheet that the work follows.
    pub job_sheet: Option<String>,
    /// 1 (worst) to 5; without it the rank follows from severity and criticality.
    pub risk_rank: Option<u8>,
    pub start_within_days: Option<u32>,
    pub estimated_hours: Option<f64>,
    /// Code of the crew; without it the asset's.
    pub crew: Option<String>,
}

/// What a response does, with what that needs.
#[derive(Debug, Clone, PartialEq)]
pub enum Does {
    /// Only the alarm itself.
    Record,
    /// People are told; no work.
    Notify(Told),
    /// Work is raised, and people are told.
    Raise(Told, WorkTemplate),
    /// An upkeep plan is done early, with people told; what its work is to say beyond the plan's.
    BringForward {
        /// Code of the plan.
        plan: Option<String>,
        told: Told,
        work: WorkTemplate,
    },
}

/// What a rung does, and how it says so. In title and text, `{meter}`, `{asset}`, `{reading}` and `{limit}` stand for what
/// they say.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(from = "ResponseFields", into = "ResponseFields")]
pub struct Response {
    pub title: Option<String>,
    pub text: Option<String>,
    pub does: Does,
}

/// What a rung does, and the template of the work it raises, field by field. In title and text, `{meter}`, `{asset}`,
/// `{reading}` and `{limit}` stand for what they say. What a response of its kind does not need is not kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = Response))]
pub struct ResponseFields {
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

impl From<ResponseFields> for Response {
    fn from(fields: ResponseFields) -> Self {
        let ResponseFields { kind, title, text, work_kind, job_sheet, risk_rank, .. } = fields;
        let ResponseFields { start_within_days, estimated_hours, crew, tell, plan, decides, .. } = fields;
        let told = Told { tell, decides };
        let work = WorkTemplate { kind: work_kind, job_sheet, risk_rank, start_within_days, estimated_hours, crew };
        let does = match kind {
            ResponseKind::Record => Does::Record,
            ResponseKind::Notify => Does::Notify(told),
            ResponseKind::Raise => Does::Raise(told, work),
            ResponseKind::BringForward => Does::BringForward { plan, told, work },
        };
        Self { title, text, does }
    }
}

impl From<Response> for ResponseFields {
    fn from(response: Response) -> Self {
        let kind = response.kind();
        let (plan, told, work) = match response.does {
            Does::Record => (None, Told::default(), WorkTemplate::default()),
            Does::Notify(told) => (None, told, WorkTemplate::default()),
            Does::Raise(told, work) => (None, told, work),
            Does::BringForward { plan, told, work } => (plan, told, work),
        };
        let WorkTemplate { kind: work_kind, job_sheet, risk_rank, start_within_days, estimated_hours, crew } = work;
        let Told { tell, decides } = told;
        let (title, text) = (response.title, response.text);
        Self {
            kind,
            title,
            text,
            work_kind,
            job_sheet,
            risk_rank,
            start_within_days,
            estimated_hours,
            crew,
            tell,
            plan,
            decides,
        }
    }
}

#[cfg(feature = "schema")]
crate::described_as!(Response, ResponseFields);

impl Response {
    /// A response with nothing else said.
    #[must_use]
    pub fn of(kind: ResponseKind) -> Self {
        let does = match kind {
            ResponseKind::Record => Does::Record,
            ResponseKind::Notify => Does::Notify(Told::default()),
            ResponseKind::Raise => Does::Raise(Told::default(), WorkTemplate::default()),
            ResponseKind::BringForward => {
                Does::BringForward { plan: None, told: Told::default(), work: WorkTemplate::default() }
            }
        };
        Self { title: None, text: None, does }
    }

    /// One that raises such work and tells nobody.
    #[must_use]
    pub fn raise(work: WorkTemplate) -> Self {
        Self { title: None, text: None, does: Does::Raise(Told::default(), work) }
    }

    /// What it does, as a word.
    #[must_use]
    pub fn kind(&self) -> ResponseKind {
        match self.does {
            Does::Record => ResponseKind::Record,
            Does::Notify(_) => ResponseKind::Notify,
            Does::Raise(..) => ResponseKind::Raise,
            Does::BringForward { .. } => ResponseKind::BringForward,
        }
    }

    /// Whom it tells, where it tells anyone.
    #[must_use]
    pub fn told(&self) -> Option<&Told> {
        match &self.does {
            Does::Record => None,
            Does::Notify(told) | Does::Raise(told, _) | Does::BringForward { told, .. } => Some(told),
        }
    }

    /// The template of its work, where work comes of it; the others only record or tell.
    #[must_use]
    pub fn work(&self) -> Option<&WorkTemplate> {
        match &self.does {
            Does::Record | Does::Notify(_) => None,
            Does::Raise(_, work) | Does::BringForward { work, .. } => Some(work),
        }
    }

    /// Whether work comes of it.
    #[must_use]
    pub fn makes_work(&self) -> bool {
        self.work().is_some()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn what_a_kind_does_not_need_is_not_kept() {
        let all = |kind: &str| {
            json!({"kind": kind, "title": "Look", "work_kind": "condition_based", "risk_rank": 2, "start_within_days": 3,
                "estimated_hours": 1.5, "crew": "MECH", "tell": ["anna"], "decides": "bert"})
        };
        let kept = |kind| {
            let response: Response = serde_json::from_value(all(kind)).unwrap();
            serde_json::to_value(response).unwrap()
        };
        assert_eq!(kept("record"), json!({"kind": "record", "title": "Look"}));
        assert_eq!(kept("notify"), json!({"kind": "notify", "title": "Look", "tell": ["anna"], "decides": "bert"}));
        assert_eq!(kept("raise"), all("raise"));
    }
}
