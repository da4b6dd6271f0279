//! Alarms.

use super::super::{
    column::{ColumnDef, Holds},
    context::Context,
    fill::{copied, ended, numbers, some, words, worked_out},
    subject::{Fill, Subject},
};
use crate::facts::{Alarms, Snapshot, columns::Columns};

/// Alarms.
pub(in crate::lists) struct AlarmsOf;

impl Subject for AlarmsOf {
    type Rows = Alarms;
    const TIME: Option<&'static str> = Some("entered_at");
    const FOLLOWS_WORK: bool = false;
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("entered_at", "Entered", Holds::Instant).usual(),
        ColumnDef::new("meter", "Meter", Holds::Reference).usual(),
        ColumnDef::new("severity", "Severity", Holds::Word).usual(),
        ColumnDef::new("side", "Side", Holds::Word),
        ColumnDef::new("alarm_kind", "Of", Holds::Word),
        ColumnDef::new("left_at", "Left", Holds::Instant).usual(),
        ColumnDef::new("left_by", "Left by", Holds::Word),
        ColumnDef::new("stands", "Stands", Holds::YesNo).calculated(),
        ColumnDef::new("stood", "Stood", Holds::Hours).calculated().usual(),
        ColumnDef::new("response", "Response", Holds::Word).usual(),
        ColumnDef::new("acknowledged_at", "Acknowledged", Holds::Instant),
        ColumnDef::new("acknowledged_by", "Acknowledged by", Holds::Reference),
        ColumnDef::new("to_acknowledge", "To acknowledge", Holds::Hours).calculated(),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Alarms> {
        &facts.alarms
    }

    fn assets(part: &Alarms) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Alarms) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Alarms>> {
        let now = context.now.ms();
        Some(match column {
            "entered_at" => copied(|part: &Alarms| &part.entered_at),
            "meter" => numbers(|part: &Alarms| &part.meter),
            "severity" => words(|part: &Alarms| &part.severity),
            "side" => words(|part: &Alarms| &part.side),
            "alarm_kind" => words(|part: &Alarms| &part.kind),
            "left_at" => worked_out(|part: &Alarms, place| ended(part.left_at.of(place))),
            "left_by" => words(|part: &Alarms| &part.left_by),
            "stands" => worked_out(|part: &Alarms, place| Some(i64::from(ended(part.left_at.of(place)).is_none()))),
            "stood" => worked_out(move |part: &Alarms, place| {
                Some(part.left_at.of(place).min(now) - part.entered_at.of(place))
            }),
            "response" => words(|part: &Alarms| &part.response),
            "acknowledged_at" => copied(|part: &Alarms| &part.acknowledged_at),
            "acknowledged_by" => numbers(|part: &Alarms| &part.acknowledged_by),
            "to_acknowledge" => worked_out(|part: &Alarms, place| {
                some(part.acknowledged_at.of(place)).map(|at| at - part.entered_at.of(place))
            }),
            "recorded_at" => copied(|part: &Alarms| &part.recorded_at),
            _ => return None,
        })
    }
}
