//! Check sheets as crews fill them in.

use super::Player;
use tally_core::{
    ground::ids::WorkOrderId,
    work::check_sheets::{AnswerValue, Asks, GivenAnswer, PASS, Question},
};
use tally_store::{
    Result, Tx,
    work::{checks, checks::Answering},
};

/// Where in its band a number lies, in twentieths: one order differs from the next.
fn within(number: WorkOrderId, place: usize) -> f64 {
    let step = (number.0 + 3 * i64::try_from(place).unwrap_or_default()) % 9;
    (5.0 + step as f64) / 20.0
}

/// What a crew that finds all well answers; what meters read comes from elsewhere.
fn all_well(question: &Question, share: f64) -> Option<AnswerValue> {
    match &question.asks {
        Asks::Number { .. } => {
            let (low, high) = (question.low.unwrap_or(0.0), question.high?);
            Some(AnswerValue::Number { value: ((low + (high - low) * share) * 100.0).round() / 100.0 })
        }
        Asks::PassFail => Some(AnswerValue::Choices { values: vec![PASS.into()] }),
        Asks::Choice { choices, .. } => Some(AnswerValue::Choices { values: vec![choices.first()?.clone()] }),
        _ => None,
    }
}

impl Player {
    /// The check sheets of an order are filled in: all is well.
    pub(super) fn fill_in(tx: &mut Tx, number: WorkOrderId) -> Result<()> {
        for (check, sheet) in checks::to_fill_in(tx, number)? {
            let answers = sheet.questions.iter().enumerate().filter_map(|(place, question)| {
                let value = all_well(question, within(number, place))?;
                let asked = question.only_if.is_none();
                asked.then(|| GivenAnswer { question: question.key.clone(), value, at: None })
            });
            let all = Answering { answers: answers.collect(), cleared: Vec::new(), at: None };
            checks::finish(tx, number, check, &all)?;
        }
        Ok(())
    }
}
