//! Check sheets: what is asked ([`sheet`]), what is answered and what follows from it ([`judging`]).

mod condition;
mod judging;
mod sheet;
#[cfg(test)]
mod tests;

pub use condition::Condition;
pub use judging::{AnswerValue, Found, GivenAnswer, Judged, may_fill_in};
pub use sheet::{AnswerRule, Asks, CheckSheet, FAIL, OnlyIf, PASS, Question};
