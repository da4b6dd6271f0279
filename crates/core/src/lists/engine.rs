//! A question about a subject, answered.

use super::{
    answer::Answer,
    asked::Asked,
    base::{Base, Narrowed},
    context::Context,
    id::SubjectId,
    pass::pass,
    subject::Subject,
    subjects::{AlarmsOf, CyclesOf, Downtime, EntriesOf, FailuresOf, Work},
    told::told,
};
use crate::access::refusal::Refusal;

/// Answers a question about a subject, with at most so many rows.
///
/// # Errors
/// [`Refusal::Field`] for what can't be asked.
pub fn answer(
    subject: SubjectId,
    context: &Context,
    asked: &Asked,
    narrowed: &Narrowed,
    most: usize,
) -> Result<Answer, Refusal> {
    match subject {
        SubjectId::Work => run::<Work>(context, asked, narrowed, most),
        SubjectId::Entries => run::<EntriesOf>(context, asked, narrowed, most),
        SubjectId::Downtime => run::<Downtime>(context, asked, narrowed, most),
        SubjectId::Alarms => run::<AlarmsOf>(context, asked, narrowed, most),
        SubjectId::Cycles => run::<CyclesOf>(context, asked, narrowed, most),
        SubjectId::Failures => run::<FailuresOf>(context, asked, narrowed, most),
    }
}

fn run<S: Subject>(context: &Context, asked: &Asked, narrowed: &Narrowed, most: usize) -> Result<Answer, Refusal> {
    let q = asked.check::<S>(context, most)?;
    let base = Base::new::<S>(context, asked, narrowed);
    Ok(told::<S>(context, &q, pass::<S>(context, &q, &base)))
}
