//! A shift: the work of one person, or of a crew, on one line of time.

use crate::{
    access::people,
    ground::{
        error::Result,
        rows::{list_of, word},
        view::View,
    },
    plant::{assets, assets::NamedAsset, settings},
    work::running_time::{OwnTime, own},
};
use jiff::civil::Date;
use rusqlite::{Row, params};
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::{AssetId, WorkOrderId},
        severity::Severity,
        time::{HOUR, Instant},
    },
    work::{
        SourceWord, WorkKind, WorkState,
        shift::{OnLine, ToDo, is_finished, is_to_do},
    },
};
use utoipa::ToSchema;

/// An order on the line.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ShiftOrder {
    pub number: WorkOrderId,
    pub title: String,
    pub kind: WorkKind,
    pub asset: NamedAsset,
    /// What the asset is part of, from the outermost down.
    pub above: Vec<NamedAsset>,
    pub state: WorkState,
    pub risk_rank: u8,
    pub source: SourceWord,
    pub source_severity: Option<Severity>,
    /// By when it is to be done.
    pub due: Instant,
    /// The day that it is to be done on, as `2026-03-02`.
    pub day: Option<String>,
    pub estimated_hours: Option<f64>,
    pub crew: Option<String>,
    /// Whose it is.
    pub assignee: Option<String>,
    /// Check sheets that are not finished.
    pub open_checks: i64,
}

/// What stands at one place of the line, the most urgent first.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ShiftPart {
    pub at: OnLine,
    /// The day, of what lies ahead.
    pub day: Option<String>,
    pub orders: Vec<ShiftOrder>,
}

/// The line of time of one person or one crew.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Shift {
    /// Whose it is: a person's name, or a crew's.
    pub of: String,
    pub now: Instant,
    /// From what is late to what is finished; what holds nothing is left out.
    pub parts: Vec<ShiftPart>,
    /// Orders that are to be done, in all parts.
    pub to_do: usize,
    /// The time of whoever looks, where it runs.
    pub running: Option<OwnTime>,
}

/// Whose line it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Whose<'a> {
    /// Of whoever looks: what is theirs, and what is scheduled for their crew and nobody's yet.
    Own,
    /// Of the person of that code: the same.
    Person(&'a str),
    /// Of the crew of that code: all of it.
    Crew(&'a str),
}

/// The line of time of a person or a crew, as far as the viewer sees the work on it.
///
/// # Errors
/// [`crate::StoreError::Invalid`] for a person or a crew there is not.
pub fn shift(view: &View, whose: Whose) -> Result<Shift> {
    let zone = settings::time_zone(view)?;
    let (of, mut orders) = match whose {
        Whose::Crew(code) => {
            let crew = people::require_crew(view.conn, code, "crew")?;
            let mut name = view.conn.prepare_cached("SELECT name FROM crews WHERE id = ?1")?;
            (name.query_row([crew], |row| row.get(0))?, select(view, "w.crew_id = ?1", crew.0)?)
        }
        Whose::Own | Whose::Person(_) => {
            let (person, crew) = match whose {
                Whose::Person(code) => {
                    let person = people::require_person(view.conn, code, "person")?;
                    (person.id, person.crew)
                }
                _ => (view.viewer.person(), view.viewer.crew()),
            };
            let mut name = view.conn.prepare_cached("SELECT name FROM people WHERE id = ?1")?;
            let mut orders = select(view, "w.assignee_id = ?1", person.0)?;
            if let Some(crew) = crew {
                let nobodys = "w.crew_id = ?1 AND w.assignee_id IS NULL AND w.scheduled_start IS NOT NULL";
                orders.extend(select(view, nobodys, crew.0)?);
            }
            (name.query_row([person], |row| row.get(0))?, orders)
        }
    };
    let mut parts: HashMap<(OnLine, Option<Date>), Vec<OnShift>> = HashMap::new();
    for mut order in orders.drain(..) {
        let Some(at) = order.to_do.on_line(view.now, &zone) else { continue };
        let day = order.to_do.day(&zone);
        order.row.due = order.to_do.due(&zone);
        order.row.day = day.map(|day| day.to_string());
        parts.entry((at, day.filter(|_| at == OnLine::Ahead))).or_default().push(order);
    }
    let mut parts: Vec<_> = parts.into_iter().collect();
    parts.sort_by_key(|(place, _)| *place);
    let to_do = parts.iter().filter(|((at, _), _)| *at != OnLine::Finished).map(|(_, orders)| orders.len()).sum();
    let above = assets::above_each(view, parts.iter().flat_map(|(_, orders)| orders).map(|order| order.asset))?;
    let mut told = Vec::with_capacity(parts.len());
    for ((at, day), mut orders) in parts {
        orders.sort_by_key(|order| (order.row.risk_rank, order.row.due, order.row.number));
        for order in &mut orders {
            order.row.above = above.get(&order.asset).cloned().unwrap_or_default();
        }
        let orders = orders.into_iter().map(|order| order.row).collect();
        told.push(ShiftPart { at, day: day.map(|day| day.to_string()), orders });
    }
    Ok(Shift { of, now: view.now, parts: told, to_do, running: own(view)? })
}

/// An order with what says where it stands.
struct OnShift {
    asset: AssetId,
    to_do: ToDo,
    row: ShiftOrder,
}

/// Work that a shift looks at and the viewer sees, under a condition on `w` with one number.
fn select(view: &View, condition: &str, of: i64) -> Result<Vec<OnShift>> {
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT w.*, a.code AS asset, a.name AS asset_name, p.name AS assignee, c.code AS crew,
             (SELECT count(*) FROM checks k WHERE k.work_order = w.number AND k.finished_at IS NULL) AS open_checks
         FROM work_orders w JOIN assets a ON a.id = w.asset_id LEFT JOIN people p ON p.id = w.assignee_id
         LEFT JOIN crews c ON c.id = w.crew_id
         WHERE {condition} AND w.state IN rarray(?2) AND w.state_since > ?3 AND {}",
        view.viewer.condition("w")
    ))?;
    let of_states = |is_meant: fn(WorkState) -> bool| {
        list_of(WorkState::ALL.into_iter().filter(|state| is_meant(*state)).map(|state| word(&state)))
    };
    // What was finished today began no longer ago than a day of 25 hours.
    let today = view.now.plus(-26 * HOUR);
    let mut found = Vec::new();
    for (states, since) in [(of_states(is_to_do), Instant::EARLIEST), (of_states(is_finished), today)] {
        let rows = select.query_map(params![of, states, since], on_shift)?;
        for row in rows {
            found.push(row?);
        }
    }
    Ok(found)
}

fn on_shift(row: &Row) -> rusqlite::Result<OnShift> {
    let to_do = ToDo {
        state: row.get("state")?,
        state_since: row.get("state_since")?,
        scheduled_start: row.get("scheduled_start")?,
        scheduled_end: row.get("scheduled_end")?,
        target_start: row.get("target_start")?,
        target_finish: row.get("target_finish")?,
        window_end: row.get("window_end")?,
    };
    let asset = row.get("asset_id")?;
    let row = ShiftOrder {
        number: row.get("number")?,
        title: row.get("title")?,
        kind: row.get("kind")?,
        asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
        above: Vec::new(),
        state: to_do.state,
        risk_rank: row.get("risk_rank")?,
        source: row.get("source")?,
        source_severity: row.get("source_severity")?,
        due: to_do.window_end,
        day: None,
        estimated_hours: row.get("estimated_hours")?,
        crew: row.get("crew")?,
        assignee: row.get("assignee")?,
        open_checks: row.get("open_checks")?,
    };
    Ok(OnShift { asset, to_do, row })
}
