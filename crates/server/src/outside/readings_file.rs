//! Readings of a file, taken a piece at a time.

use crate::outside::incoming;
use serde::Serialize;
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    watch::{
        batch::{Batch, Row},
        readings::Source,
    },
};
use tally_store::{
    StoreError, Tx,
    plant::master::{InPieces, MasterReceipt},
    watch::readings,
};
use utoipa::ToSchema;

/// What readings of a file set off.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct ReadingsTaken {
    pub late: usize,
    pub quarantined: usize,
    pub alarms: usize,
    pub work_orders: Vec<WorkOrderId>,
}

/// Rows taken in one piece.
const PIECE: usize = 5_000;

/// Takes the readings of a file in order of time over all meters, so that the pieces set off what the whole would.
#[derive(Debug)]
pub struct ReadingsTaking<'a> {
    name: Option<&'a str>,
    rows: Vec<Option<Row>>,
    /// For each row the line it stands on.
    lines: Vec<u64>,
    /// Places of the rows, in order of time.
    order: Vec<usize>,
    done: usize,
    taken: ReadingsTaken,
    receipt: MasterReceipt,
}

impl<'a> ReadingsTaking<'a> {
    /// Of the rows of a file with that name.
    pub fn of(found: incoming::Rows, name: Option<&'a str>) -> Self {
        let incoming::Rows { rows, lines, given_up, .. } = found;
        let receipt = MasterReceipt { rows: rows.len(), given_up, ..MasterReceipt::default() };
        let mut order: Vec<usize> = (0..rows.len()).collect();
        order.sort_by_key(|place| (rows[*place].as_ref().map_or(Instant::EARLIEST, |row| row.at), *place));
        let rows = rows.into_iter().map(Some).collect();
        Self { name, rows, lines, order, done: 0, taken: ReadingsTaken::default(), receipt }
    }

    /// What they set off until now.
    pub fn set_off(&mut self) -> ReadingsTaken {
        let mut taken = std::mem::take(&mut self.taken);
        taken.work_orders.sort_unstable();
        taken.work_orders.dedup();
        taken
    }
}

impl InPieces for ReadingsTaking<'_> {
    fn done(&self) -> usize {
        self.done
    }

    fn all(&self) -> usize {
        self.order.len()
    }

    fn piece(&mut self, tx: &mut Tx) -> Result<(), StoreError> {
        let places = &self.order[self.done..(self.done + PIECE).min(self.order.len())];
        let rows: Vec<Row> = places.iter().filter_map(|place| self.rows[*place].take()).collect();
        let taken = readings::ingest(tx, &rows, Batch { source: Source::File, name: self.name, strict: false })?;
        self.done += places.len();
        self.receipt.added += taken.accepted;
        self.receipt.unchanged += taken.duplicates;
        for refused in taken.refused {
            let code = rows[refused.index].as_ref().map_or("", |row| row.meter.as_str());
            self.receipt.refuse_counted(self.lines[places[refused.index]], code, &refused.reason);
        }
        self.taken.late += taken.late;
        self.taken.quarantined += taken.quarantined;
        self.taken.alarms += taken.alarms.len();
        self.taken.work_orders.extend(taken.work_orders);
        Ok(())
    }

    fn receipt(self) -> MasterReceipt {
        self.receipt.in_order()
    }
}
