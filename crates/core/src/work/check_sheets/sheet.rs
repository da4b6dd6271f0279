//! What a check sheet asks.

use super::condition::Condition;
use crate::{
    access::refusal::{Refusal, said},
    ground::{status::Status, texts},
    work::{WorkKind, check_rank},
};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

/// What a question asks for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Asks {
    /// What a meter reads: the meter of that code, or the one so called of the asset that is checked. It goes to the meter.
    Reading {
        meter: String,
    },
    /// A number, with its unit as people say it.
    Number {
        #[serde(default)]
        unit: String,
    },
    Choice {
        choices: Vec<String>,
        /// More than one may be chosen.
        #[serde(default)]
        several: bool,
    },
    PassFail,
    Text,
    Photo,
    Signature,
}

/// The answers to [`Asks::PassFail`].
pub const PASS: &str = "pass";
pub const FAIL: &str = "fail";

/// When a question is asked at all: by the answer to one before it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OnlyIf {
    /// The key of the question.
    pub question: String,
    pub is: Condition,
}

/// An answer that raises work when the sheet is finished.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AnswerRule {
    pub is: Condition,
    /// What is to be done; without it the question says it.
    #[serde(default)]
    pub title: Option<String>,
    pub work_kind: WorkKind,
    /// 1 (worst) to 5.
    pub risk_rank: u8,
    /// What whoever does it has learnt.
    #[serde(default)]
    pub trade: Option<String>,
    /// Code of the crew; without it the asset's.
    #[serde(default)]
    pub crew: Option<String>,
    /// Code of the job sheet that it follows.
    #[serde(default)]
    pub job_sheet: Option<String>,
}

/// One question of a check sheet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Question {
    /// Stays when the words change: by it answers are followed over time.
    pub key: String,
    pub text: String,
    pub asks: Asks,
    /// What helps to answer it.
    #[serde(default)]
    pub help: Option<String>,
    /// The name of a file with a picture that helps.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub picture: Option<String>,
    #[serde(default)]
    pub compulsory: bool,
    /// From where to where a number is as it should be.
    #[serde(default)]
    pub low: Option<f64>,
    #[serde(default)]
    pub high: Option<f64>,
    #[serde(default)]
    pub only_if: Option<OnlyIf>,
    #[serde(default)]
    pub rules: Vec<AnswerRule>,
}

/// An inspection form.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CheckSheet {
    pub title: String,
    #[serde(default)]
    pub status: Status,
    #[serde(default)]
    pub text: String,
    /// Code of the equipment class whose assets it is recommended for.
    #[serde(default)]
    pub class: Option<String>,
    /// Codes of assets that it is recommended for besides.
    #[serde(default)]
    pub assets: Vec<String>,
    pub questions: Vec<Question>,
}

const MOST_QUESTIONS: usize = 200;
const MOST_CHOICES: usize = 50;
const MOST_RULES: usize = 10;
const LONGEST_KEY: usize = 40;

impl Asks {
    /// Whether a number answers it.
    #[must_use]
    pub fn is_number(&self) -> bool {
        matches!(self, Self::Reading { .. } | Self::Number { .. })
    }

    /// What can be chosen; nothing where it is no choice, or the meter knows.
    #[must_use]
    pub fn choices(&self) -> Option<Vec<&str>> {
        match self {
            Self::Choice { choices, .. } => Some(choices.iter().map(String::as_str).collect()),
            Self::PassFail => Some(vec![PASS, FAIL]),
            _ => None,
        }
    }

    /// Whether an answer to it can be held against that.
    fn takes(&self, condition: &Condition) -> Result<(), String> {
        match condition {
            Condition::Below { value } | Condition::Above { value } => {
                if !self.is_number() {
                    return Err("only a number can be below or above another".into());
                }
                if value.is_finite() { Ok(()) } else { Err("must be a number".into()) }
            }
            Condition::Among { values } => match (self, self.choices()) {
                _ if values.is_empty() => Err("say which answers".into()),
                (_, Some(choices)) => match values.iter().find(|value| !choices.contains(&value.as_str())) {
                    Some(value) => Err(format!("{value:?} can't be chosen there")),
                    None => Ok(()),
                },
                // The meter's grades are not known here.
                (Self::Reading { .. }, None) => Ok(()),
                _ => Err("only what is chosen can be one of these".into()),
            },
        }
    }
}

impl Question {
    fn check(&self, place: usize, before: &[Self]) -> Result<(), Refusal> {
        let at = |field: &str| format!("questions[{place}].{field}");
        let key_fits = (1..=LONGEST_KEY).contains(&self.key.len())
            && self.key.bytes().all(|byte| byte.is_ascii_lowercase() || byte.is_ascii_digit() || byte == b'-');
        if !key_fits {
            let reason = format!("1 to {LONGEST_KEY} small letters, digits and hyphens");
            return Err(Refusal::field(at("key"), reason));
        }
        if before.iter().any(|other| other.key == self.key) {
            return Err(Refusal::field(at("key"), "another question has it already"));
        }
        said(&at("text"), &self.text, "say what is asked")?;
        match &self.asks {
            Asks::Reading { meter } => drop(said(&at("asks.meter"), meter, "say which meter")?),
            Asks::Choice { choices, .. } => {
                let mut seen = HashSet::new();
                if !(2..=MOST_CHOICES).contains(&choices.len()) {
                    return Err(Refusal::field(at("asks.choices"), format!("2 to {MOST_CHOICES} can be chosen from")));
                }
                for (nth, choice) in choices.iter().enumerate() {
                    let field = at(&format!("asks.choices[{nth}]"));
                    said(&field, choice, "is empty")?;
                    texts::line(choice).map_err(|error| Refusal::field(&field, error.to_string()))?;
                    if !seen.insert(choice) {
                        return Err(Refusal::field(field, "stands there twice"));
                    }
                }
            }
            _ => {}
        }
        for (field, value) in [("low", self.low), ("high", self.high)] {
            match value {
                Some(_) if !self.asks.is_number() => return Err(Refusal::field(at(field), "only numbers have a band")),
                Some(value) if !value.is_finite() => return Err(Refusal::field(at(field), "must be a number")),
                _ => {}
            }
        }
        if let (Some(low), Some(high)) = (self.low, self.high)
            && low >= high
        {
            return Err(Refusal::field(at("high"), "must lie above low"));
        }
        if let Some(OnlyIf { question, is }) = &self.only_if {
            let other = before.iter().find(|other| other.key == *question);
            let other = other.ok_or_else(|| Refusal::field(at("only_if.question"), "must be a question before it"))?;
            other.asks.takes(is).map_err(|reason| Refusal::field(at("only_if.is"), reason))?;
        }
        if self.rules.len() > MOST_RULES {
            return Err(Refusal::field(at("rules"), format!("at most {MOST_RULES}")));
        }
        for (nth, rule) in self.rules.iter().enumerate() {
            self.asks.takes(&rule.is).map_err(|reason| Refusal::field(at(&format!("rules[{nth}].is")), reason))?;
            if check_rank(rule.risk_rank).is_err() {
                return Err(Refusal::field(at(&format!("rules[{nth}].risk_rank")), "must be 1 (worst) to 5"));
            }
        }
        Ok(())
    }
}

impl CheckSheet {
    /// Whether it makes sense.
    ///
    /// # Errors
    /// [`Refusal::Field`], with the path of the field.
    pub fn check(&self) -> Result<(), Refusal> {
        said("title", &self.title, "say in a few words what is checked")?;
        if self.questions.is_empty() {
            return Err(Refusal::field("questions", "a check sheet asks something"));
        }
        if self.questions.len() > MOST_QUESTIONS {
            return Err(Refusal::field("questions", format!("at most {MOST_QUESTIONS}")));
        }
        self.questions
            .iter()
            .enumerate()
            .try_for_each(|(place, question)| question.check(place, &self.questions[..place]))
    }
}
