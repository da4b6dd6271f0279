//! Failures.

use super::super::{
    column::{ColumnDef, Holds},
    context::Context,
    fill::{copied, ended, numbers, some, words, worked_out},
    subject::{Fill, Subject},
};
use crate::facts::{Failures, Snapshot, columns::Columns, packed::NONE};

/// Failure reports.
pub(in crate::lists) struct FailuresOf;

impl Subject for FailuresOf {
    type Rows = Failures;
    const TIME: Option<&'static str> = Some("at");
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("at", "Failed at", Holds::Instant).usual(),
        ColumnDef::new("effect", "Effect", Holds::Word).usual(),
        ColumnDef::new("problem", "Problem", Holds::Reference).usual(),
        ColumnDef::new("cause", "Cause", Holds::Reference).usual(),
        ColumnDef::new("remedy", "Remedy", Holds::Reference).usual(),
        ColumnDef::new("coded_at", "Coded", Holds::Instant),
        ColumnDef::new("days_to_coded", "Days from done to coded", Holds::Days).calculated(),
        ColumnDef::new("time_to_restore", "Time to restore", Holds::Hours).calculated().usual(),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Failures> {
        &facts.failures
    }

    fn assets(part: &Failures) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Failures) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Failures>> {
        Some(match column {
            "at" => copied(|part: &Failures| &part.at),
            "effect" => words(|part: &Failures| &part.effect),
            "problem" => numbers(|part: &Failures| &part.problem),
            "cause" => numbers(|part: &Failures| &part.cause),
            "remedy" => numbers(|part: &Failures| &part.remedy),
            "coded_at" => copied(|part: &Failures| &part.coded_at),
            "days_to_coded" => {
                let done = context.by_work(NONE, |part, place| ended(part.done_at.of(place)).unwrap_or(NONE));
                worked_out(move |part: &Failures, place| {
                    let (coded, done) = (some(part.coded_at.of(place))?, some(done.of(part.work[place]))?);
                    Some((coded - done).max(0))
                })
            }
            "time_to_restore" => {
                let several = context.facts.several_reports();
                worked_out(move |part: &Failures, place| {
                    let own = context.facts.own_downtime(&several, part, place, context.now);
                    own.map(|own| own.ms())
                })
            }
            "recorded_at" => copied(|part: &Failures| &part.recorded_at),
            _ => return None,
        })
    }
}
