//! The rows that a figure of the tally is made of, as a list has them.

use super::{
    column::{ColumnDef, Holds},
    id::SubjectId,
};
use crate::tally::indicators::{Part, RowKind, RowUnit};
use rustc_hash::FxHashMap;
use std::sync::Arc;

/// The rows of one subject that a figure is made of, with what each adds.
#[derive(Debug, Clone)]
pub struct Counted {
    unit: RowUnit,
    by_id: Arc<FxHashMap<i64, i64>>,
}

/// What the column is called that says what a row adds.
pub(super) const COUNTED: &str = "counted";

impl Counted {
    /// Of the parts of a why those rows that are the subject's, each with all that it adds; of a row in several parts what it adds
    /// to the last, which is what is divided.
    #[must_use]
    pub fn of(subject: SubjectId, parts: Vec<Part>) -> Self {
        let kind = match subject {
            SubjectId::Work => Some(RowKind::WorkOrder),
            SubjectId::Entries => Some(RowKind::Entry),
            SubjectId::Downtime => Some(RowKind::Downtime),
            SubjectId::Failures => Some(RowKind::Failure),
            SubjectId::Alarms => Some(RowKind::Alarm),
            SubjectId::Cycles => Some(RowKind::Cycle),
        };
        let (mut unit, mut by_id) = (RowUnit::Count, FxHashMap::<i64, i64>::default());
        for part in parts {
            let mut of_part = FxHashMap::<i64, i64>::default();
            for row in part.rows.into_iter().filter(|row| Some(row.kind) == kind) {
                unit = part.unit;
                // An order counts on each asset of its open steps.
                *of_part.entry(row.id).or_default() += row.amount;
            }
            by_id.extend(of_part);
        }
        Self { unit, by_id: by_id.into() }
    }

    /// The column that says what a row adds.
    #[must_use]
    pub fn column(&self) -> ColumnDef {
        let holds = match self.unit {
            RowUnit::Money => Holds::Money,
            RowUnit::Ms => Holds::Hours,
            RowUnit::Count => Holds::Count,
        };
        ColumnDef::new(COUNTED, "Counted", holds).calculated().usual()
    }

    /// What a row adds; `None` where the figure is not made of it.
    pub(super) fn amount(&self, id: i64) -> Option<i64> {
        self.by_id.get(&id).copied()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        ground::{ids::AssetId, time::Instant},
        tally::indicators::TraceRow,
    };

    fn part(rows: &[(i64, i64, i64)]) -> Part {
        let row = |&(id, asset, amount): &(i64, i64, i64)| TraceRow {
            kind: RowKind::WorkOrder,
            id,
            asset: AssetId(asset),
            work_order: None,
            at: Instant::from_ms(0),
            amount,
            whole: None,
            settled: None,
        };
        Part::of("Open hours", RowUnit::Ms, rows.iter().map(row).collect())
    }

    /// An order whose steps stand on two assets adds the hours of both; one in two parts what it adds to the last.
    #[test]
    fn an_order_on_several_assets_adds_all_that_counts() {
        let counted = Counted::of(SubjectId::Work, vec![part(&[(1, 4, 5), (1, 5, 3), (2, 4, 7)])]);
        assert_eq!((counted.amount(1), counted.amount(2), counted.amount(3)), (Some(8), Some(7), None));
        let counted = Counted::of(SubjectId::Work, vec![part(&[(1, 4, 5)]), part(&[(1, 4, 2), (1, 5, 2)])]);
        assert_eq!(counted.amount(1), Some(4));
    }
}
