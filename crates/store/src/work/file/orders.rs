//! Orders as a table: one line each, and a line more for each further failure or interval of downtime.

use super::{FileColumn, Line, lines, whole};
use crate::{
    codes::failures,
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{
        downtime,
        master::{Form, Given, GivenRow, InPieces, MasterReceipt, Outcome, Writing},
    },
    work,
};
use rusqlite::{OptionalExtension, params};
use std::collections::BTreeMap;
use tally_core::{
    access::roles::Action,
    codes::failures::{Effect, NewFailure},
    ground::{ids::WorkOrderId, time::Instant},
    plant::downtime::{DowntimeKind, NewDowntime},
    work::{Clearable, DroppedDowntime, NewWork, StateMove, WayDates, WorkChange, WorkKind, WorkState, way_to},
};

const KINDS: Form = Form::Choice {
    words: &[
        "corrective_immediate",
        "corrective_deferred",
        "condition_based",
        "predetermined",
        "inspection",
        "improvement",
    ],
};
const STATES: Form = Form::Choice {
    words: &[
        "raised",
        "planning",
        "waiting",
        "ready",
        "scheduled",
        "under_way",
        "done",
        "returned",
        "closed",
        "dropped",
    ],
};
const WAITS: Form = Form::Choice { words: &["parts", "outage", "people", "other"] };
const EFFECTS: Form = Form::Choice { words: &["critical", "degraded", "incipient"] };
const NOTICED: Form =
    Form::Choice { words: &["operation", "inspection", "condition_monitoring", "maintenance", "chance"] };
const DOWN: Form = Form::Choice { words: &["unplanned", "planned", "external"] };

/// The columns, in the order in which files have them. An order is known again by its `reference`, the number that another program
/// has for it; where it has none, by the `number` it was written out with.
pub const COLUMNS: &[FileColumn] = &[
    ("reference", Form::Text),
    ("number", Form::Text),
    ("title", Form::Text),
    ("asset", Form::Code),
    ("kind", KINDS),
    ("risk_rank", Form::Number),
    ("state", STATES),
    ("raised_at", Form::Instant),
    ("started_at", Form::Instant),
    ("done_at", Form::Instant),
    ("since", Form::Instant),
    ("waiting_for", WAITS),
    ("expected_until", Form::Instant),
    ("question", Form::Text),
    ("asked", Form::Code),
    ("note", Form::Text),
    ("crew", Form::Code),
    ("assignee", Form::Code),
    ("estimated_hours", Form::Number),
    ("scheduled_start", Form::Instant),
    ("scheduled_end", Form::Instant),
    ("text", Form::Text),
    ("failed_asset", Form::Code),
    ("codebook", Form::Code),
    ("problem", Form::Text),
    ("cause", Form::Text),
    ("remedy", Form::Text),
    ("effect", EFFECTS),
    ("failed_at", Form::Instant),
    ("noticed", NOTICED),
    ("down_asset", Form::Code),
    ("down_kind", DOWN),
    ("down_from", Form::Instant),
    ("down_to", Form::Instant),
    ("down_slowed", Form::Number),
    ("down_note", Form::Text),
];

/// Columns that a file can't do without.
const NEEDED: [&str; 2] = ["title", "asset"];

/// Orders taken in one piece.
const PIECE: usize = 100;

/// Adds orders whose outside number is new. Those that are here already stay as they are, so that a file can be sent again.
#[derive(Debug)]
pub struct Taking {
    all: usize,
    done: usize,
    orders: std::vec::IntoIter<Vec<Line>>,
    receipt: MasterReceipt,
}

impl Taking {
    /// Reads the rows.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] where a column is missing.
    pub fn of(given: Given<'_, impl IntoIterator<Item = GivenRow>>, minor_digits: u8) -> Result<Self> {
        let writing = Writing { decimal: given.decimal, zone: given.zone, minor_digits };
        let mut receipt = MasterReceipt::default();
        let lines = lines(COLUMNS, &NEEDED, given, &writing, &mut receipt)?;
        let mut orders: Vec<Vec<Line>> = Vec::new();
        let mut places: BTreeMap<String, usize> = BTreeMap::new();
        for line in lines {
            let reference = known_as(&line);
            match places.get(&reference).filter(|_| !reference.is_empty()) {
                Some(place) => orders[*place].push(line),
                None => {
                    places.insert(reference, orders.len());
                    orders.push(vec![line]);
                }
            }
        }
        Ok(Self { all: orders.len(), done: 0, orders: orders.into_iter(), receipt })
    }
}

impl InPieces for Taking {
    fn done(&self) -> usize {
        self.done
    }

    fn all(&self) -> usize {
        self.all
    }

    fn piece(&mut self, tx: &mut Tx) -> Result<()> {
        tx.require(Action::PlanWork)?;
        for order in self.orders.by_ref().take(PIECE) {
            self.done += 1;
            let Some(first) = order.first() else { continue };
            let (line, code) = (first.number, known_as(first));
            whole(tx, &mut self.receipt, (line, &code), |tx| take(tx, &order))?;
        }
        Ok(())
    }

    fn receipt(self) -> MasterReceipt {
        self.receipt.in_order()
    }
}

/// What an order is known again by.
pub(super) fn known_as(line: &Line) -> String {
    line.some("reference").unwrap_or_else(|| line.text("number").to_owned())
}

/// Whether a line without an outside number is of an order that was raised here.
fn is_itself(tx: &Tx, line: &Line) -> Result<bool> {
    if line.some("reference").is_some() {
        return Ok(false);
    }
    let mut find =
        tx.conn.prepare_cached("SELECT 1 FROM work_orders WHERE number = ?1 AND title = ?2 AND raised_at = ?3")?;
    Ok(find.exists(params![line.text("number"), line.text("title"), line.instant("raised_at")])?)
}

/// The order that another program knows by a number.
pub(super) fn of_reference(tx: &Tx, reference: &str) -> Result<Option<WorkOrderId>> {
    let mut find = tx.conn.prepare_cached("SELECT number FROM work_orders WHERE reference = ?1")?;
    Ok(find.query_row([reference], |row| row.get(0)).optional()?)
}

fn take(tx: &mut Tx, lines: &[Line]) -> Result<Outcome> {
    let Some(line) = lines.first() else { return Ok(Outcome::Unchanged) };
    let reference = known_as(line);
    if reference.is_empty() {
        return Err(StoreError::invalid("reference", "is missing"));
    }
    if of_reference(tx, &reference)?.is_some() || is_itself(tx, line)? {
        return Ok(Outcome::Unchanged);
    }
    let raised_at = line.instant("raised_at").unwrap_or(tx.now);
    let rank = line.number("risk_rank").unwrap_or(3.0);
    let new = NewWork {
        title: line.needed("title")?,
        text: line.text("text").into(),
        kind: line.word("kind")?.unwrap_or(WorkKind::CorrectiveDeferred),
        asset: line.needed("asset")?,
        // Beyond what fits it is no rank either.
        risk_rank: if rank.fract() == 0.0 && (0.0..256.0).contains(&rank) { rank as u8 } else { 0 },
        target_start: None,
        target_finish: None,
        crew: line.some("crew"),
        assignee: line.some("assignee"),
        estimated_hours: line.number("estimated_hours"),
        state: WorkState::Raised,
        raised_at: Some(raised_at),
        job_sheet: None,
        linked: Vec::new(),
        follows: None,
        also_on: Vec::new(),
        attachments: Vec::new(),
    };
    let number = work::raise(tx, &new)?;
    let rest = WorkChange {
        reference: Some(reference),
        scheduled_start: line.instant("scheduled_start"),
        scheduled_end: line.instant("scheduled_end"),
        at: Some(raised_at),
        // Where a file says that it is nobody's, it is not the crew's of its asset.
        clear: if line.says_none("crew") { vec![Clearable::Crew] } else { Vec::new() },
        ..WorkChange::default()
    };
    work::change(tx, number, &rest)?;
    let state = line.word("state")?.unwrap_or(WorkState::Raised);
    let (started_at, done_at) = (line.instant("started_at"), line.instant("done_at"));
    let dates = WayDates { raised_at, started_at, done_at, since: line.instant("since") };
    let mut steps = way_to(state, dates)?;
    // What failed and stood is told before the order is over.
    let end = steps.pop_if(|(to, _)| to.is_over());
    for (to, at) in steps {
        step(tx, number, line, to, at)?;
    }
    for line in lines {
        failed(tx, number, line)?;
        stood(tx, number, line)?;
    }
    if let Some((to, at)) = end {
        step(tx, number, line, to, at)?;
    }
    Ok(Outcome::Added)
}

fn step(tx: &mut Tx, number: WorkOrderId, line: &Line, to: WorkState, at: Instant) -> Result<()> {
    let is = |state| to == state;
    let to = StateMove {
        at: Some(at),
        waiting_for: if is(WorkState::Waiting) { line.word("waiting_for")? } else { None },
        expected_until: line.instant("expected_until").filter(|_| is(WorkState::Waiting)),
        question: line.some("question").filter(|_| is(WorkState::Returned)),
        asked: line.some("asked").filter(|_| is(WorkState::Returned)),
        note: line.some("note").filter(|_| is(WorkState::Dropped)),
        // As the file says of it.
        downtime: Some(DroppedDowntime::End).filter(|_| is(WorkState::Dropped)),
        ..StateMove::to(to)
    };
    work::set_state(tx, number, &to)
}

fn failed(tx: &mut Tx, number: WorkOrderId, line: &Line) -> Result<()> {
    let is_told = ["problem", "cause", "remedy", "effect", "failed_at"].iter().any(|name| !line.text(name).is_empty());
    if !is_told {
        return Ok(());
    }
    let failed_at = line.instant("failed_at").or(line.instant("raised_at"));
    let new = NewFailure {
        reason: String::new(),
        id: None,
        asset: line.some("failed_asset"),
        codebook: line.some("codebook"),
        problem: line.some("problem"),
        cause: line.some("cause"),
        remedy: line.some("remedy"),
        failed_at: failed_at.ok_or_else(|| StoreError::invalid("failed_at", "is missing"))?,
        noticed: line.word("noticed")?,
        effect: line.word("effect")?.unwrap_or(Effect::Degraded),
        at: None,
    };
    failures::put(tx, number, &new)?;
    Ok(())
}

fn stood(tx: &mut Tx, number: WorkOrderId, line: &Line) -> Result<()> {
    let Some(start) = line.instant("down_from") else {
        return match line.instant("down_to") {
            Some(_) => Err(StoreError::invalid("down_from", "is missing")),
            None => Ok(()),
        };
    };
    let new = NewDowntime {
        kind: line.word("down_kind")?.unwrap_or(DowntimeKind::Unplanned),
        asset: line.some("down_asset"),
        start,
        end: line.instant("down_to"),
        slowed: line.number("down_slowed"),
        note: line.text("down_note").into(),
    };
    downtime::add_to_work(tx, number, &new).map_err(|error| match error {
        StoreError::Invalid { field, reason } if field == "end" => StoreError::invalid("down_to", reason),
        StoreError::Invalid { field, reason } if field == "start" => StoreError::invalid("down_from", reason),
        error => error,
    })?;
    Ok(())
}
