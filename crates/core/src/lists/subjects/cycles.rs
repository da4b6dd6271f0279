//! Cycles of upkeep plans that were settled.

use super::super::{
    column::{ColumnDef, Holds},
    context::Context,
    fill::{copied, numbers, words, worked_out},
    subject::{Fill, Subject},
};
use crate::{
    facts::{Cycles, Snapshot, columns::Columns},
    ground::time::Instant,
};

/// Cycles of upkeep plans.
pub(in crate::lists) struct CyclesOf;

impl Subject for CyclesOf {
    type Rows = Cycles;
    const TIME: Option<&'static str> = Some("due");
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("due", "Due", Holds::Instant).usual(),
        ColumnDef::new("plan", "Plan", Holds::Reference).usual(),
        ColumnDef::new("outcome", "Outcome", Holds::Word).usual(),
        ColumnDef::new("in_time_until", "In time until", Holds::Instant),
        ColumnDef::new("done_at", "Done", Holds::Instant).calculated().usual(),
        ColumnDef::new("in_time", "In time", Holds::YesNo).calculated().usual(),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Cycles> {
        &facts.cycles
    }

    fn assets(part: &Cycles) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Cycles) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Cycles>> {
        let (facts, now) = (context.facts, context.now);
        Some(match column {
            "due" => copied(|part: &Cycles| &part.due),
            "plan" => numbers(|part: &Cycles| &part.plan),
            "outcome" => words(|part: &Cycles| &part.outcome),
            "in_time_until" => copied(|part: &Cycles| &part.in_time_until),
            "done_at" => worked_out(move |part: &Cycles, place| facts.cycle_done_at(part, place, now).map(Instant::ms)),
            "in_time" => worked_out(move |part: &Cycles, place| facts.cycle_in_time(part, place, now).map(i64::from)),
            "recorded_at" => copied(|part: &Cycles| &part.recorded_at),
            _ => return None,
        })
    }
}
