//! What can be listed.

use super::{
    asked::{Summary, SummaryAsked},
    column::ColumnDef,
    id::SubjectId,
    joined::columns,
    subject::Subject,
    subjects::{AlarmsOf, CyclesOf, Downtime, EntriesOf, FailuresOf, Work},
};
use serde::Serialize;

/// A subject with its columns.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SubjectDef {
    pub id: SubjectId,
    pub name: &'static str,
    /// As one of its rows is called.
    pub one: &'static str,
    pub columns: Vec<ColumnDef>,
    /// The column that says when a row was, where a period chooses among rows.
    pub time: Option<&'static str>,
    /// Columns that are filtered by first, and what is summed up, where nothing else is asked for.
    pub facets: Vec<&'static str>,
    pub summaries: Vec<SummaryAsked>,
}

impl SubjectId {
    /// The subject with its columns.
    #[must_use]
    pub fn definition(self) -> SubjectDef {
        match self {
            Self::Work => of::<Work>(
                self,
                ["Work orders", "Work order"],
                &["state", "rank", "work_kind", "crew", "department"],
                &["estimated", "spent", "cost"],
            ),
            Self::Entries => of::<EntriesOf>(
                self,
                ["Entries of cost", "Entry of cost"],
                &["entry_kind", "person", "order_crew", "order_state", "class"],
                &["hours", "cost"],
            ),
            Self::Downtime => of::<Downtime>(
                self,
                ["Intervals of downtime", "Interval of downtime"],
                &["downtime_kind", "unit", "class", "order_state"],
                &["hours"],
            ),
            Self::Failures => of::<FailuresOf>(
                self,
                ["Failures", "Failure"],
                &["effect", "problem", "cause", "class", "order_crew"],
                &["time_to_restore"],
            ),
            Self::Alarms => of::<AlarmsOf>(
                self,
                ["Alarms", "Alarm"],
                &["stands", "severity", "response", "unit", "class", "order_verdict"],
                &["stood"],
            ),
            Self::Cycles => of::<CyclesOf>(
                self,
                ["Cycles of upkeep", "Cycle of upkeep"],
                &["in_time", "outcome", "plan", "unit", "order_crew"],
                &[],
            ),
        }
    }
}

fn of<S: Subject>(id: SubjectId, [name, one]: [&'static str; 2], facets: &[&'static str], sums: &[&str]) -> SubjectDef {
    let sum = |column: &&str| SummaryAsked { column: (*column).into(), of: Summary::Sum };
    let summaries = sums.iter().map(sum).collect();
    SubjectDef { id, name, one, columns: columns::<S>(), time: S::TIME, facets: facets.to_vec(), summaries }
}
