//! Intervals of downtime.

use super::super::{
    column::{ColumnDef, Holds},
    context::Context,
    fill::{copied, ended, words, worked_out},
    subject::{Fill, Subject},
};
use crate::facts::{Downtimes, STOP, Snapshot, columns::Columns};

/// Recorded downtime.
pub(in crate::lists) struct Downtime;

impl Subject for Downtime {
    type Rows = Downtimes;
    const TIME: Option<&'static str> = Some("start");
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("start", "From", Holds::Instant).usual(),
        ColumnDef::new("end", "To", Holds::Instant).usual(),
        ColumnDef::new("downtime_kind", "Kind", Holds::Word).usual(),
        ColumnDef::new("hours", "Down", Holds::Hours).calculated().usual(),
        ColumnDef::new("is_stop", "Stood", Holds::YesNo),
        ColumnDef::new("slowed", "Slowed by", Holds::Ratio),
        ColumnDef::new("note", "Note", Holds::Text).usual(),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Downtimes> {
        &facts.downtimes
    }

    fn assets(part: &Downtimes) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Downtimes) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Downtimes>> {
        let now = context.now.ms();
        Some(match column {
            "start" => copied(|part: &Downtimes| &part.start),
            "end" => worked_out(|part: &Downtimes, place| ended(part.end.of(place))),
            "downtime_kind" => words(|part: &Downtimes| &part.kind),
            "hours" => {
                worked_out(move |part: &Downtimes, place| Some(part.end.of(place).min(now) - part.start.of(place)))
            }
            "is_stop" => worked_out(|part: &Downtimes, place| Some(i64::from(part.share[place] == STOP))),
            "slowed" => {
                worked_out(|part: &Downtimes, place| (part.share[place] != STOP).then(|| i64::from(part.share[place])))
            }
            "recorded_at" => copied(|part: &Downtimes| &part.recorded_at),
            _ => return None,
        })
    }
}
