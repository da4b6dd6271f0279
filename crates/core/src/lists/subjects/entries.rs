//! Entries of cost.

use super::super::{
    column::{ColumnDef, Holds},
    context::Context,
    fill::{copied, ended, numbers, per_hour, words, worked_out},
    subject::{Fill, Subject},
};
use crate::facts::{Entries, Snapshot, columns::Columns, hours_ms};

/// Entries of cost.
pub(in crate::lists) struct EntriesOf;

impl Subject for EntriesOf {
    type Rows = Entries;
    const TIME: Option<&'static str> = Some("at");
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("at", "Date", Holds::Instant).usual(),
        ColumnDef::new("entry_kind", "Kind of cost", Holds::Word).usual(),
        ColumnDef::new("person", "Person", Holds::Reference).usual(),
        ColumnDef::new("description", "What", Holds::Text).usual(),
        ColumnDef::new("item", "Item", Holds::Reference),
        ColumnDef::new("supplier", "Supplier", Holds::Reference),
        ColumnDef::new("hours", "Hours", Holds::Hours).usual(),
        ColumnDef::new("rate", "Rate", Holds::Money).calculated().usual(),
        ColumnDef::new("cost", "Cost", Holds::Money).usual(),
        ColumnDef::new("settled", "Settled", Holds::YesNo).calculated(),
        ColumnDef::new("settled_at", "Settled at", Holds::Instant),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Entries> {
        &facts.entries
    }

    fn assets(part: &Entries) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Entries) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Entries>> {
        let now = context.now.ms();
        Some(match column {
            "at" => copied(|part: &Entries| &part.at),
            "entry_kind" => words(|part: &Entries| &part.kind),
            "person" => numbers(|part: &Entries| &part.person),
            "item" => numbers(|part: &Entries| &part.item),
            "supplier" => numbers(|part: &Entries| &part.supplier),
            "hours" => worked_out(|part: &Entries, place| Some(hours_ms(part, place)).filter(|ms| *ms != 0)),
            "rate" => {
                worked_out(|part: &Entries, place| per_hour(part.cost.of(place).abs(), hours_ms(part, place).abs()))
            }
            "cost" => copied(|part: &Entries| &part.cost),
            "settled" => worked_out(move |part: &Entries, place| Some(i64::from(part.settled_at.of(place) <= now))),
            "settled_at" => worked_out(|part: &Entries, place| ended(part.settled_at.of(place))),
            "recorded_at" => copied(|part: &Entries| &part.recorded_at),
            _ => return None,
        })
    }
}
