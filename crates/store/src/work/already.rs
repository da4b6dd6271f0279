//! *Already raised?* Open work that may be about what somebody is about to raise.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        view::View,
    },
    plant::{assets, assets::NamedAsset},
};
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::WorkOrderId,
        time::{Instant, Span},
    },
    plant::assets::reached,
    work::{Kin, Other, RAISED_WITHIN_MS, WaitingFor, WorkState, most_alike},
};
use utoipa::ToSchema;

/// So many of the nearest are compared word by word.
const MOST_COMPARED: usize = 500;
/// So many are told.
const MOST_TOLD: usize = 8;

/// Open work that may be about the same. Told to whoever may raise work there, also where the order itself is not theirs to see.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AlreadyRow {
    pub number: WorkOrderId,
    pub title: String,
    pub asset: NamedAsset,
    pub kin: Kin,
    pub state: WorkState,
    pub waiting_for: Option<WaitingFor>,
    pub raised_at: Instant,
    pub raised_by: String,
    /// How often it was reported again.
    pub reports: i64,
    /// Its words or its problem are those that were asked with.
    pub is_alike: bool,
    /// Its problem, where the words name it.
    pub problem: Option<String>,
    /// Whoever asks may open it.
    pub may_open: bool,
}

/// The most alike of the open work near an asset.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AlreadyRaised {
    /// How much open work there is on the asset, what is above it and its parts, raised lately.
    pub count: u64,
    /// What may be about the same first.
    pub work_orders: Vec<AlreadyRow>,
}

/// Open work on an asset, what is above it and its parts that was raised lately, by how alike it is to words.
///
/// # Errors
/// [`StoreError::Invalid`] for an asset there is not.
pub fn already_raised(view: &View, asset: &str, words: &str) -> Result<AlreadyRaised> {
    let asset = assets::require_reached(view, asset)?;
    let facts = view.facts()?;
    let index = facts.tree.index(asset).ok_or_else(|| StoreError::not_found("asset", asset))?;
    let reached = reached(&facts.tree, view.viewer.bounds());
    let counts = |asset: u32| reached.as_ref().is_none_or(|reached| reached[asset as usize]);
    let window = Span::new(view.now.plus(-RAISED_WITHIN_MS), view.now.plus(1));
    let near = window.map(|window| facts.open_near(index as u32, window, counts)).unwrap_or_default();
    let compared = &near[..near.len().min(MOST_COMPARED)];
    let mut rows = rows(view, compared.iter().map(|one| one.number.0))?;
    let found: Vec<(Kin, u32, Told)> =
        compared.iter().filter_map(|one| Some((one.kin, one.steps, rows.remove(&one.number)?))).collect();
    let others: Vec<Other> = found
        .iter()
        .map(|(_, steps, told)| Other {
            title: &told.row.title,
            problem: told.problem.as_deref(),
            steps: *steps,
            raised_at: told.row.raised_at,
        })
        .collect();
    let first = most_alike(words, &others).into_iter().take(MOST_TOLD);
    let work_orders = first.map(|one| {
        let (kin, _, told) = &found[one.place];
        let problem = told.problem.clone().filter(|_| one.names_problem);
        AlreadyRow { kin: *kin, is_alike: one.is_alike(), problem, ..told.row.clone() }
    });
    Ok(AlreadyRaised { count: near.len() as u64, work_orders: work_orders.collect() })
}

/// A row, with the name of its problem.
struct Told {
    row: AlreadyRow,
    problem: Option<String>,
}

fn rows(view: &View, numbers: impl Iterator<Item = i64>) -> Result<HashMap<WorkOrderId, Told>> {
    let mut select = view.conn.prepare_cached(&format!(
        "SELECT w.number, w.title, a.code, a.name, w.state, w.waiting_for, w.raised_at, p.name,
             (SELECT count(*) FROM work_occurrences o WHERE o.work_order = w.number),
             (SELECT c.name FROM failure_reports f JOIN codes c ON c.id = f.problem_id
              WHERE f.work_order = w.number ORDER BY f.failed_at, f.id LIMIT 1), {}
         FROM rarray(?1) wanted CROSS JOIN work_orders w ON w.number = wanted.value
         JOIN assets a ON a.id = w.asset_id JOIN people p ON p.id = w.raised_by",
        view.viewer.condition("w")
    ))?;
    let told = select.query_map([list_of(numbers)], |row| {
        let told = AlreadyRow {
            number: row.get(0)?,
            title: row.get(1)?,
            asset: NamedAsset { code: row.get(2)?, name: row.get(3)? },
            kin: Kin::Same,
            state: row.get(4)?,
            waiting_for: row.get(5)?,
            raised_at: row.get(6)?,
            raised_by: row.get(7)?,
            reports: row.get(8)?,
            is_alike: false,
            problem: None,
            may_open: row.get(10)?,
        };
        Ok((told.number, Told { row: told, problem: row.get(9)? }))
    })?;
    Ok(told.collect::<rusqlite::Result<_>>()?)
}
