//! What can be listed.

use super::{
    asked::{Summary, SummaryAsked},
    column::ColumnDef,
    joined::columns,
    subject::Subject,
    subjects::{AlarmsOf, Downtime, EntriesOf, FailuresOf, Work},
};
use crate::access::seen::Topic;
use serde::{Deserialize, Serialize};

/// What can be listed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum SubjectId {
    Work,
    Entries,
    Downtime,
    Failures,
    Alarms,
}

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

crate::kept_as_words!(SubjectId);

impl SubjectId {
    /// All there are.
    pub const ALL: [Self; 5] = [Self::Work, Self::Entries, Self::Downtime, Self::Failures, Self::Alarms];

    /// The subject of that id, as it stands in links.
    #[must_use]
    pub fn parse(id: &str) -> Option<Self> {
        serde_json::from_value(serde_json::Value::String(id.into())).ok()
    }

    /// What somebody must be allowed to look at.
    #[must_use]
    pub fn topic(self) -> Topic {
        match self {
            Self::Work | Self::Entries | Self::Downtime | Self::Failures => Topic::Work,
            Self::Alarms => Topic::Meters,
        }
    }

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
        }
    }
}

fn of<S: Subject>(id: SubjectId, [name, one]: [&'static str; 2], facets: &[&'static str], sums: &[&str]) -> SubjectDef {
    let sum = |column: &&str| SummaryAsked { column: (*column).into(), of: Summary::Sum };
    let summaries = sums.iter().map(sum).collect();
    SubjectDef { id, name, one, columns: columns::<S>(), time: S::TIME, facets: facets.to_vec(), summaries }
}
