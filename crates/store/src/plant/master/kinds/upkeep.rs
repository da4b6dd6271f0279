//! Upkeep plans.

use super::{
    source::{Joined, Source},
    wanted::Wanted,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{
        assets,
        master::{columns::Column, forms::Form, kind::Kind},
        settings,
    },
    watch::meters,
    work::job_sheets,
};
use rusqlite::params;
use tally_core::work::{
    check_hours, check_rank,
    plans::{CountsFrom, Recurrence, Season},
};

const STATUS: Form = Form::Choice { words: &["draft", "active", "retired"] };
const COUNTS_FROM: Form = Form::Choice { words: &["planned", "last_done"] };
const FIRST_STATE: Form = Form::Choice { words: &["raised", "planning", "ready"] };
const KINDS: Form = Form::Choice {
    words: &[
        "predetermined",
        "inspection",
        "condition_based",
        "improvement",
        "corrective_deferred",
        "corrective_immediate",
    ],
};

pub(super) const COLUMNS: &[Column] = &[
    Column::new("code", "Code", Form::Code).required().apart(),
    Column::new("name", "Work", Form::Text).required().hint("the title of its work"),
    Column::new("status", "Status", STATUS).default("draft").hint("only what is active makes work").many(),
    Column::new("asset", "Asset", Form::Refers { to: Kind::Assets }).id("asset_id", Kind::Assets).hint("or a class"),
    Column::new("class", "Class", Form::Refers { to: Kind::EquipmentClasses })
        .id("class_id", Kind::EquipmentClasses)
        .hint("for each asset of it"),
    Column::new("every_days", "Every … days", Form::Number).many(),
    Column::new("every_units", "Every … units", Form::Number).hint("of the counter").many(),
    Column::new("counts_from", "Counted from", COUNTS_FROM)
        .default("planned")
        .hint("the date it was planned for, or when it was last done")
        .many(),
    Column::new("first_due", "First due", Form::Date).many(),
    Column::new("meter", "Counter", Form::Refers { to: Kind::Meters })
        .id("meter_id", Kind::Meters)
        .hint("the asset’s running hours without it"),
    Column::new("first_count", "First due at", Form::Number).hint("what the counter reads then").many(),
    Column::new("season", "Season", Form::Text).hint("such as 04-15..10-31; all year without it").many(),
    Column::new("lead_days", "Raised … days before", Form::Number).default("0").many(),
    Column::new("tolerance_days", "Moved by … days", Form::Number)
        .hint("to level the year; a tenth of the interval without it")
        .many(),
    Column::new("kind", "Kind", KINDS).default("predetermined").many(),
    Column::new("risk_rank", "Rank", Form::Number).default("3").hint("1 (worst) to 5").many(),
    Column::new("crew", "Crew", Form::Refers { to: Kind::Crews })
        .id("crew_id", Kind::Crews)
        .hint("the asset’s without it")
        .many(),
    Column::new("estimated_hours", "Hours", Form::Number).many(),
    Column::new("first_state", "Begins as", FIRST_STATE).default("ready").many(),
    Column::new("job_sheet", "Job sheet", Form::JobSheet)
        .apart()
        .hint("steps, parts and permits; hours where none are given")
        .many(),
    Column::new("text", "What to do", Form::Text),
];

pub(super) const SOURCE: Source = Source {
    own: "p.id, p.asset_id, p.class_id, p.meter_id, p.crew_id, p.code, p.name, p.status, p.every_days, p.every_units, p.counts_from,
        p.first_due, p.first_count, p.season, p.lead_days, p.tolerance_days, p.kind, p.risk_rank, p.estimated_hours, p.first_state,
        p.text",
    from: "upkeep_plans p",
    joined: &[
        Joined { column: "asset", is: "a.code", join: "LEFT JOIN assets a ON a.id = p.asset_id" },
        Joined { column: "class", is: "e.code", join: "LEFT JOIN equipment_classes e ON e.id = p.class_id" },
        Joined { column: "meter", is: "m.code", join: "LEFT JOIN meters m ON m.id = p.meter_id" },
        Joined { column: "job_sheet", is: "j.code", join: "LEFT JOIN job_sheets j ON j.id = p.job_sheet_id" },
        Joined { column: "crew", is: "c.code", join: "LEFT JOIN crews c ON c.id = p.crew_id" },
    ],
};

/// A whole number of a column, 0 or more.
fn whole(wanted: &Wanted, name: &str) -> Result<Option<u32>> {
    match wanted.real(name) {
        None => Ok(None),
        Some(value) if value >= 0.0 && value <= f64::from(u32::MAX) && value.fract() == 0.0 => Ok(Some(value as u32)),
        Some(_) => Err(StoreError::invalid(name, "must be a whole number, 0 or more")),
    }
}

fn recurrence(wanted: &Wanted) -> Result<Recurrence> {
    let season = wanted.some("season").map(|text| Season::parse(&text)).transpose();
    let first_due = wanted.some("first_due").map(|text| text.parse()).transpose();
    Ok(Recurrence {
        every_days: whole(wanted, "every_days")?,
        every_units: wanted.real("every_units"),
        counts_from: wanted.choice("counts_from")?.unwrap_or(CountsFrom::Planned),
        first_due: first_due.map_err(|error| StoreError::invalid("first_due", error))?,
        first_count: wanted.real("first_count"),
        season: season.map_err(|error| StoreError::invalid("season", error))?,
        lead_days: whole(wanted, "lead_days")?.unwrap_or(0),
        tolerance_days: whole(wanted, "tolerance_days")?,
    })
}

/// Whether the row makes sense.
fn check(tx: &Tx, wanted: &Wanted) -> Result<Recurrence> {
    let recurrence = recurrence(wanted)?;
    recurrence.check()?;
    let (asset, class) = (wanted.some("asset"), wanted.some("class"));
    if asset.is_some() == class.is_some() {
        let reason = if asset.is_some() { "is for an asset already" } else { "say for which asset, or which class" };
        return Err(StoreError::invalid(if asset.is_some() { "class" } else { "asset" }, reason));
    }
    check_rank(whole(wanted, "risk_rank")?.and_then(|rank| u8::try_from(rank).ok()).unwrap_or(0))?;
    check_hours(wanted.real("estimated_hours"))?;
    if let Some(sheet) = wanted.some("job_sheet") {
        job_sheets::require_active(tx.conn, &sheet, "job_sheet")?;
    }
    if recurrence.every_units.is_none() && wanted.some("meter").is_some() {
        return Err(StoreError::invalid("every_units", "say how many units of the counter lie between"));
    }
    if let Some(meter) = wanted.some("meter") {
        if class.is_some() {
            return Err(StoreError::invalid("meter", "of a class each asset has its own: leave it out"));
        }
        let id = meters::id_of(tx.conn, &meter)?
            .ok_or_else(|| StoreError::invalid("meter", format!("there is no meter {meter:?}")))?;
        if meters::rules_of(tx.conn, id)?.counter().is_none() {
            return Err(StoreError::invalid("meter", "only a counter is used up"));
        }
    } else if let (Some(asset), Some(_)) = (&asset, recurrence.every_units) {
        let id = assets::require_in(tx.conn, asset, "asset")?;
        let running = "SELECT 1 FROM meters WHERE asset_id = ?1 AND running_hours = 1 AND retired_at IS NULL";
        if !tx.conn.prepare_cached(running)?.exists([id])? {
            return Err(StoreError::invalid("meter", "say which counter: the asset has none of its running hours"));
        }
    }
    Ok(recurrence)
}

pub(super) fn add(tx: &mut Tx, wanted: &Wanted) -> Result<()> {
    check(tx, wanted)?;
    let id = |sql: &str, name: &str| -> Result<Option<i64>> {
        match wanted.some(name) {
            Some(code) => Ok(Some(tx.conn.prepare_cached(sql)?.query_row([code], |row| row.get(0))?)),
            None => Ok(None),
        }
    };
    let asset = match wanted.some("asset") {
        Some(asset) => Some(assets::require_in(tx.conn, &asset, "asset")?.0),
        None => None,
    };
    tx.conn.execute(
        "INSERT INTO upkeep_plans (code, name, status, asset_id, class_id, text, kind, risk_rank, crew_id, estimated_hours,
             first_state, every_days, every_units, counts_from, first_due, meter_id, first_count, season, lead_days, tolerance_days,
             active_since, job_sheet_id)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18, ?19, ?20, ?21,
             ?22)",
        params![
            wanted.text("code"),
            wanted.text("name"),
            wanted.text("status"),
            asset,
            id("SELECT id FROM equipment_classes WHERE code = ?1", "class")?,
            wanted.kept("text"),
            wanted.text("kind"),
            wanted.kept("risk_rank"),
            id("SELECT id FROM crews WHERE code = ?1", "crew")?,
            wanted.kept("estimated_hours"),
            wanted.text("first_state"),
            wanted.kept("every_days"),
            wanted.kept("every_units"),
            wanted.text("counts_from"),
            wanted.kept("first_due"),
            id("SELECT id FROM meters WHERE code = ?1", "meter")?,
            wanted.kept("first_count"),
            wanted.kept("season"),
            wanted.kept("lead_days"),
            wanted.kept("tolerance_days"),
            active_since(tx, wanted)?,
            id("SELECT id FROM job_sheets WHERE code = ?1", "job_sheet")?,
        ],
    )?;
    tx.audit("added", "upkeep plan", wanted.text("code"), &serde_json::json!({ "name": wanted.text("name") }))
}

/// Since when it makes work, where it does.
fn active_since(tx: &Tx, wanted: &Wanted) -> Result<Option<String>> {
    let zone = settings::time_zone(tx)?;
    let is_active = wanted.text("status") == "active";
    Ok(is_active.then(|| tx.now.in_zone(&zone).date().to_string()))
}

/// How often it recurs says which cycles there are: once that is another, moves of those ahead hold no more. What it was for stays
/// once there are cycles, so that their history speaks of the same.
pub(super) fn change(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    check(tx, wanted)?;
    let is_changed = |names: &[&str]| changed.iter().any(|column| names.contains(&column.name));
    let mut settled =
        tx.conn.prepare_cached("SELECT 1 FROM upkeep_cycles WHERE plan_id = ?1 AND outcome IS NOT NULL")?;
    if is_changed(&["asset", "class", "meter"]) && settled.exists([id])? {
        let field = changed.iter().find(|column| ["asset", "class", "meter"].contains(&column.name));
        let field = field.map_or("asset", |column| column.name);
        return Err(StoreError::invalid(field, "stays: cycles were done of it; retire the plan and set up another"));
    }
    if is_changed(&["every_days", "every_units", "counts_from", "first_due", "first_count", "season", "class"]) {
        tx.conn.execute("DELETE FROM upkeep_cycles WHERE plan_id = ?1 AND outcome IS NULL", [id])?;
    }
    if is_changed(&["job_sheet"]) {
        let sheet = wanted.some("job_sheet");
        tx.conn.execute(
            "UPDATE upkeep_plans SET job_sheet_id = (SELECT id FROM job_sheets WHERE code = ?2) WHERE id = ?1",
            params![id, sheet],
        )?;
    }
    if let Some(since) = active_since(tx, wanted)? {
        tx.conn.execute(
            "UPDATE upkeep_plans SET active_since = ifnull(active_since, ?2) WHERE id = ?1",
            params![id, since],
        )?;
    }
    Ok(())
}
