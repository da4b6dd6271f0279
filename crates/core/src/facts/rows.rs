//! What happened, as rows in columns. Assets are dense numbers of the [`Tree`](crate::plant::assets::Tree).

use super::{
    column::ROWS,
    columns::{Columns, columns},
    packed::Packed,
};
use crate::{
    codes::failures::Effect,
    ground::{
        ids::{
            AlarmId, CodeId, CrewId, CycleId, DowntimeId, EntryId, FailureId, ItemId, MeterId, PersonId, PlanId,
            SupplierId, WorkOrderId,
        },
        money::Cents,
        severity::Severity,
        side::RungSide,
        time::Instant,
    },
    plant::downtime::DowntimeKind,
    watch::alarms::{AlarmKind, LeftBy, ResponseGiven},
    work::{SourceWord, Verdict, WaitingFor, WorkKind, WorkState, entries::EntryKind, plans::CycleOutcome},
};

columns! {
    /// One entry of cost.
    EntryFact in Entries, by (at: Instant, id: EntryId), id id, lasts (at, at) {
        id: EntryId,
        asset: u32,
        work: WorkOrderId,
        kind: EntryKind,
        at: Instant,
        cost: Cents,
        /// Of labour milliseconds, else thousandths of a piece; negative in a reversing entry.
        quantity: i64,
        /// [`Instant::LATEST`] while provisional.
        settled_at: Instant,
        recorded_at: Instant,
        person: Option<PersonId>,
        item: Option<ItemId>,
        supplier: Option<SupplierId>,
    }
}

impl EntryFact {
    /// Hours of labour, in milliseconds; none of anything else.
    #[must_use]
    pub fn hours_ms(&self) -> i64 {
        if self.kind == EntryKind::Labour { self.quantity } else { 0 }
    }
}

/// Hours of labour of an entry in a part, in milliseconds; none of anything else.
#[must_use]
pub fn hours_ms(part: &Entries, place: usize) -> i64 {
    if part.kind[place] == EntryKind::Labour.pack() { part.quantity.of(place) } else { 0 }
}

columns! {
    /// Hours that an entry spent on work, to be found by the work.
    SpentFact in Spent, by (work: WorkOrderId, at: Instant, id: EntryId), id id, lasts (at, at) {
        id: EntryId,
        asset: u32,
        work: WorkOrderId,
        at: Instant,
        hours_ms: i64,
    }
}

columns! {
    /// One interval of downtime.
    DowntimeFact in Downtimes, by (start: Instant, id: DowntimeId), id id, lasts (start, end) {
        id: DowntimeId,
        asset: u32,
        work: Option<WorkOrderId>,
        kind: DowntimeKind,
        start: Instant,
        /// [`Instant::LATEST`] while open.
        end: Instant,
        /// Millionths of what it does that it could not do: [`STOP`] for all of it; less where it ran on, slowed.
        share: u32,
        recorded_at: Instant,
    }
}

/// The share of a stop.
pub const STOP: u32 = 1_000_000;

impl DowntimeFact {
    /// Whether it stood, rather than ran slower.
    #[must_use]
    pub fn is_stop(&self) -> bool {
        self.share == STOP
    }
}

columns! {
    /// Downtime of work, to be found by the work.
    DownFact in DownOfWork, by (work: WorkOrderId, start: Instant, id: DowntimeId), id id, lasts (start, end) {
        id: DowntimeId,
        asset: u32,
        work: WorkOrderId,
        kind: DowntimeKind,
        start: Instant,
        end: Instant,
    }
}

columns! {
    /// One failure report.
    FailureFact in Failures, by (at: Instant, id: FailureId), id id, lasts (at, at) {
        id: FailureId,
        asset: u32,
        work: WorkOrderId,
        at: Instant,
        effect: Effect,
        problem: Option<CodeId>,
        cause: Option<CodeId>,
        remedy: Option<CodeId>,
        coded_at: Option<Instant>,
        recorded_at: Instant,
    }
}

columns! {
    /// One alarm.
    AlarmFact in Alarms, by (entered_at: Instant, id: AlarmId), id id, lasts (entered_at, left_at) {
        id: AlarmId,
        meter: MeterId,
        /// That of its meter.
        asset: u32,
        /// The newest order that it raised or joined.
        work: Option<WorkOrderId>,
        kind: AlarmKind,
        /// None of a silent meter.
        side: Option<RungSide>,
        severity: Severity,
        entered_at: Instant,
        /// [`Instant::LATEST`] while it stands.
        left_at: Instant,
        left_by: Option<LeftBy>,
        acknowledged_at: Option<Instant>,
        acknowledged_by: Option<PersonId>,
        /// The newest answer.
        response: ResponseGiven,
        /// It asks for a response: its rung does more than record.
        asks: bool,
        recorded_at: Instant,
    }
}

columns! {
    /// One cycle of an upkeep plan that was settled: its work raised, or missed.
    CycleFact in Cycles, by (due: Instant, id: CycleId), id id, lasts (due, due) {
        id: CycleId,
        plan: PlanId,
        asset: u32,
        /// The beginning of the day it was due, before any move.
        due: Instant,
        /// What is done before this is in time.
        in_time_until: Instant,
        outcome: CycleOutcome,
        /// None where it was missed.
        work: Option<WorkOrderId>,
        recorded_at: Instant,
    }
}

columns! {
    /// One work order as it is now; its way through the states are [`MoveFact`]s.
    WorkFact in Works, by (number: WorkOrderId), id number, lasts (raised_at, until) {
        number: WorkOrderId,
        asset: u32,
        kind: WorkKind,
        source: SourceWord,
        source_severity: Option<Severity>,
        raised_at: Instant,
        raised_by: PersonId,
        recorded_at: Instant,
        rank: u8,
        window_end: Instant,
        target_start: Option<Instant>,
        target_finish: Option<Instant>,
        scheduled_start: Option<Instant>,
        scheduled_end: Option<Instant>,
        crew: Option<CrewId>,
        /// Place among the [names](super::Names) of departments.
        department: Option<u32>,
        assignee: Option<PersonId>,
        asked: Option<PersonId>,
        estimated_ms: Option<i64>,
        state: WorkState,
        state_since: Instant,
        waiting_for: Option<WaitingFor>,
        /// Until when it waits, as far as is known.
        expected_until: Option<Instant>,
        verdict: Option<Verdict>,
        spent_ms: i64,
        cost: Cents,
        /// When it was done first; [`Instant::LATEST`] while it was not.
        done_at: Instant,
        /// Since when it has not been open any more; [`Instant::LATEST`] while it is.
        until: Instant,
        /// Whether fields that keep their history were ever others: then [`FieldsFact`]s say what held when.
        changed: bool,
        /// Whether a failure of it has problem, cause and remedy.
        coded: bool,
    }
}

impl Columns<Works> {
    /// The part and the place of an order. Numbers come almost without gaps, so that it mostly stands where it would with none.
    #[must_use]
    pub fn order(&self, number: u32) -> Option<(&Works, usize)> {
        let first = *self.parts().next()?.number.first()?;
        let guessed = (number.checked_sub(first)? as usize / ROWS).min(self.parts().len() - 1);
        let part = self.part(guessed);
        let place = number.checked_sub(part.number[0]).map(|ahead| ahead as usize);
        match place {
            Some(place) if part.number.get(place) == Some(&number) => Some((part, place)),
            _ => self.find((WorkOrderId::unpack(number),)),
        }
    }
}

columns! {
    /// What the fields of a work order that keep their history were from an instant on: each version of an order that was changed,
    /// the newest included, in the order in which they were written.
    FieldsFact in Fields, by (work: WorkOrderId, version: u16), id work, lasts (since, since) {
        work: WorkOrderId,
        version: u16,
        since: Instant,
        recorded_at: Instant,
        asset: u32,
        kind: WorkKind,
        source_severity: Option<Severity>,
        rank: u8,
        window_end: Instant,
        target_start: Option<Instant>,
        target_finish: Option<Instant>,
        scheduled_start: Option<Instant>,
        scheduled_end: Option<Instant>,
        crew: Option<CrewId>,
        /// Place among the [names](super::Names) of departments.
        department: Option<u32>,
        assignee: Option<PersonId>,
        estimated_ms: Option<i64>,
    }
}

columns! {
    /// One step of the job sheet of a work order that takes hours, where a step of it names an asset.
    StepFact in Steps, by (work: WorkOrderId, place: u16), id work, lasts (settled_at, settled_at) {
        work: WorkOrderId,
        place: u16,
        /// None where it is the order's.
        asset: Option<u32>,
        hours_ms: i64,
        /// When it was done or skipped; [`Instant::LATEST`] while it is open.
        settled_at: Instant,
    }
}

columns! {
    /// One step of a work order on its way through the states, in the order in which they count.
    MoveFact in Moves, by (work: WorkOrderId, step: u16), id work, lasts (at, at) {
        work: WorkOrderId,
        step: u16,
        at: Instant,
        to: WorkState,
        /// Where it moved to waiting.
        waiting_for: Option<WaitingFor>,
        recorded_at: Instant,
    }
}
