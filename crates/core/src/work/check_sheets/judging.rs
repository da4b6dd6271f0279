//! What follows from what is answered on a check sheet.

use super::{
    answer::{AnswerValue, GivenAnswer},
    condition::Condition,
    sheet::{Asks, CheckSheet, Question},
};
use crate::{access::refusal::Refusal, ground::time::Instant, work::WorkState};
use serde::{Deserialize, Serialize};

/// An answer that raises work.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Found {
    /// The question's key, and the place of its rule, from 0.
    pub question: String,
    pub rule: usize,
    /// What the work is called.
    pub title: String,
    /// What was found: `Pressure 96 bar, below 110 bar`.
    pub says: String,
}

/// What follows from answers.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Judged {
    /// Keys of the questions that are asked, by what was answered so far.
    pub asked: Vec<String>,
    /// Of those that are compulsory, those without an answer.
    pub missing: Vec<String>,
    /// Those whose number lies outside its band.
    pub outside: Vec<String>,
    /// What would be raised.
    pub found: Vec<Found>,
}

/// The most letters of an answer in words.
const LONGEST_TEXT: usize = 4_000;
/// Photos that answer one question.
const MOST_FILES: usize = 20;

/// Whether a check sheet of work in that state is filled in: work that is ready, or later, and not over.
#[must_use]
pub fn may_fill_in(state: WorkState) -> bool {
    use WorkState as S;
    matches!(state, S::Ready | S::Scheduled | S::UnderWay | S::Done | S::Returned)
}

impl Question {
    /// Whether that answers it.
    fn check_answer(&self, answer: &AnswerValue) -> Result<(), Refusal> {
        let wrong = |reason: String| Err(Refusal::field(format!("answers.{}", self.key), reason));
        match (&self.asks, answer) {
            (Asks::Number { .. } | Asks::Reading { .. }, AnswerValue::Number { value }) => {
                if value.is_finite() {
                    Ok(())
                } else {
                    wrong("must be a number".into())
                }
            }
            // One of the meter's grades; the meter says which there are.
            (Asks::Reading { .. }, AnswerValue::Choices { values }) if values.len() <= 1 => Ok(()),
            (Asks::Choice { .. } | Asks::PassFail, AnswerValue::Choices { values }) => {
                let choices = self.asks.choices().unwrap_or_default();
                let several = matches!(self.asks, Asks::Choice { several: true, .. });
                match values.iter().find(|value| !choices.contains(&value.as_str())) {
                    Some(value) => wrong(format!("{value:?} can't be chosen")),
                    None if values.len() > 1 && !several => wrong("choose one".into()),
                    None => Ok(()),
                }
            }
            (Asks::Text, AnswerValue::Text { text }) if text.chars().count() <= LONGEST_TEXT => Ok(()),
            (Asks::Text, AnswerValue::Text { .. }) => wrong(format!("at most {LONGEST_TEXT} letters")),
            (Asks::Photo | Asks::Signature, AnswerValue::Files { files }) if files.len() <= MOST_FILES => Ok(()),
            (Asks::Photo | Asks::Signature, AnswerValue::Files { .. }) => wrong(format!("at most {MOST_FILES}")),
            _ => wrong("is answered in another way".into()),
        }
    }

    /// Whether a number lies outside the band.
    fn is_outside(&self, answer: &AnswerValue) -> bool {
        let AnswerValue::Number { value } = answer else { return false };
        self.low.is_some_and(|low| *value < low) || self.high.is_some_and(|high| *value > high)
    }

    fn unit(&self) -> &str {
        match &self.asks {
            Asks::Number { unit } => unit,
            _ => "",
        }
    }

    /// What was found, in words; `unit` is the meter's where one was read.
    fn found(&self, answer: &AnswerValue, condition: &Condition, unit: &str) -> String {
        let text = self.text.trim().trim_end_matches(['?', ':']);
        let unit = if unit.is_empty() { String::new() } else { format!(" {unit}") };
        match (answer, condition) {
            (AnswerValue::Number { value }, Condition::Below { value: limit }) => {
                format!("{text} {value}{unit}, below {limit}{unit}")
            }
            (AnswerValue::Number { value }, Condition::Above { value: limit }) => {
                format!("{text} {value}{unit}, above {limit}{unit}")
            }
            (AnswerValue::Choices { values }, _) => format!("{text}: {}", values.join(", ")),
            _ => text.to_owned(),
        }
    }
}

impl CheckSheet {
    /// What follows from the answers so far. Answers to what is not asked any more count for nothing. `unit` says the unit of
    /// a question that reads a meter.
    ///
    /// # Errors
    /// [`Refusal::Field`] for `answers.` and the question's key.
    pub fn judge(&self, answers: &[GivenAnswer], unit: impl Fn(&Question) -> String) -> Result<Judged, Refusal> {
        for (place, answer) in answers.iter().enumerate() {
            if !self.questions.iter().any(|question| question.key == answer.question) {
                return Err(Refusal::field(format!("answers[{place}].question"), "is not asked on this sheet"));
            }
            if answers[..place].iter().any(|other| other.question == answer.question) {
                return Err(Refusal::field(format!("answers.{}", answer.question), "is answered twice"));
            }
        }
        let answer_to = |key: &str| {
            let given = answers.iter().find(|answer| answer.question == key);
            given.map(|given| &given.value).filter(|value| !value.is_empty())
        };
        let mut judged = Judged::default();
        for question in &self.questions {
            let is_asked = question.only_if.as_ref().is_none_or(|only| {
                judged.asked.contains(&only.question)
                    && answer_to(&only.question).is_some_and(|value| only.is.holds(value))
            });
            if !is_asked {
                continue;
            }
            judged.asked.push(question.key.clone());
            let Some(answer) = answer_to(&question.key) else {
                if question.compulsory {
                    judged.missing.push(question.key.clone());
                }
                continue;
            };
            question.check_answer(answer)?;
            if question.is_outside(answer) {
                judged.outside.push(question.key.clone());
            }
            let of_meter = unit(question);
            let unit = if question.unit().is_empty() { &of_meter } else { question.unit() };
            // Of several rules that one answer meets the worst raises.
            let met = question.rules.iter().enumerate().filter(|(_, rule)| rule.is.holds(answer));
            if let Some((place, rule)) = met.min_by_key(|(_, rule)| rule.risk_rank) {
                let says = question.found(answer, &rule.is, unit);
                let title = rule.title.as_deref().map(str::trim).filter(|title| !title.is_empty());
                let title = title.map_or_else(|| says.clone(), str::to_owned);
                judged.found.push(Found { question: question.key.clone(), rule: place, title, says });
            }
        }
        Ok(judged)
    }

    /// Whether answers are dated within the time in which they can have been given.
    ///
    /// # Errors
    /// [`Refusal::Field`] for `answers.` and the question's key.
    pub fn check_dates(answers: &[GivenAnswer], from: Instant, until: Instant) -> Result<(), Refusal> {
        let is_outside = |answer: &&GivenAnswer| answer.at.is_some_and(|at| at < from || at > until);
        match answers.iter().find(is_outside) {
            Some(GivenAnswer { question, at, .. }) => {
                let reason = match at.is_some_and(|at| at < from) {
                    true => format!("is dated before the sheet could be begun, at {from}"),
                    false => format!("is dated after the sheet was filled in, at {until}"),
                };
                Err(Refusal::field(format!("answers.{question}"), reason))
            }
            None => Ok(()),
        }
    }

    /// The same for a sheet that is finished: nothing compulsory is missing.
    ///
    /// # Errors
    /// As [`Self::judge`], and for the first that is missing.
    pub fn finish(&self, answers: &[GivenAnswer], unit: impl Fn(&Question) -> String) -> Result<Judged, Refusal> {
        let judged = self.judge(answers, unit)?;
        match judged.missing.first() {
            Some(key) => Err(Refusal::field(format!("answers.{key}"), "has to be answered")),
            None => Ok(judged),
        }
    }
}
