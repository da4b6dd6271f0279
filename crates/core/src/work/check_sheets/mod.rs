//! Check sheets: what is asked ([`sheet`]), what is answered ([`answer`]) and what follows from it ([`judging`]).

mod answer;
mod condition;
mod judging;
mod sheet;
#[cfg(test)]
mod tests;

pub use answer::{AnswerValue, GivenAnswer};
pub use condition::Condition;
pub use judging::{Found, Judged, may_fill_in};
pub use sheet::{AnswerRule, Asks, CheckSheet, FAIL, OnlyIf, PASS, Question};
