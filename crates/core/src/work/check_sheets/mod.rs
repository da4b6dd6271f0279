//! Check sheets: what is asked ([`sheet`]), what is answered ([`answer`]) and what follows from it ([`judging`]); and what other
//! sheets ask already ([`library`]).

mod answer;
mod condition;
mod judging;
mod library;
mod sheet;
#[cfg(test)]
mod tests;

pub use answer::{AnswerValue, GivenAnswer};
pub use condition::Condition;
pub use judging::{Found, Judged, may_fill_in};
pub use library::{LibraryQuestion, library};
pub use sheet::{AnswerRule, Asks, CheckSheet, FAIL, OnlyIf, PASS, Question};
