//! One check sheet of an order as it is filled in: what is asked, what was answered so far, and what follows from it.

use super::{
    meters::{self, AskedMeter, ReadMeter},
    sheets::VERSIONS,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, to_json},
        tx::Tx,
        view::View,
    },
    plant::assets::NamedAsset,
    work::{
        attachments,
        current::{done_at, raised_at, state},
        job_sheets, links,
        links::LinkedWork,
    },
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use tally_core::{
    access::roles::{Action, may},
    ground::{
        ids::{AssetId, CheckId, WorkOrderId},
        time::{CLOCK_OFF_MS, Instant},
    },
    work::{
        WorkState,
        check_sheets::{AnswerValue, CheckSheet, GivenAnswer, Judged, Question, may_fill_in},
    },
};
use utoipa::ToSchema;

/// A number that answered the same question of the same asset before.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct EarlierNumber {
    pub at: Instant,
    pub value: f64,
}

/// A question with what helps to answer it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct AskedQuestion {
    #[serde(flatten)]
    pub question: Question,
    /// None where the asset has no such meter.
    pub meter: Option<AskedMeter>,
    /// The last of them, the oldest first.
    pub earlier: Vec<EarlierNumber>,
}

/// A check sheet of an order, as it is filled in or was.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CheckView {
    pub id: CheckId,
    pub work_order: WorkOrderId,
    pub work_title: String,
    /// Code of the sheet.
    pub sheet: String,
    pub version: i64,
    pub title: String,
    pub text: String,
    pub asset: NamedAsset,
    pub questions: Vec<AskedQuestion>,
    pub answers: Vec<GivenAnswer>,
    /// What follows from them.
    pub judged: Judged,
    pub begun_at: Option<Instant>,
    pub answered_at: Option<Instant>,
    pub answered_by: Option<String>,
    pub finished_at: Option<Instant>,
    /// Whoever looks may fill it in now.
    pub may_fill_in: bool,
    /// Why not, where it is for the order's state.
    pub not_yet: Option<String>,
    /// Work that its answers raised, as far as it is seen.
    pub raised: Vec<LinkedWork>,
}

/// Answers to some questions; the others stay as they are.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Answering {
    #[serde(default)]
    pub answers: Vec<GivenAnswer>,
    /// Keys of questions that have no answer any more.
    #[serde(default)]
    pub cleared: Vec<String>,
    /// When, if that was earlier.
    #[serde(default)]
    pub at: Option<Instant>,
}

/// A check as it is kept.
pub(super) struct CheckRow {
    pub asset: AssetId,
    /// The place of the step that it is filled in at.
    pub step: Option<usize>,
    pub sheet: CheckSheet,
    pub answers: Vec<GivenAnswer>,
    pub begun_at: Option<Instant>,
    pub finished_at: Option<Instant>,
}

pub(super) fn row(conn: &Connection, work: WorkOrderId, check: CheckId) -> Result<CheckRow> {
    let mut select = conn.prepare_cached(
        "SELECT c.asset_id, v.sheet, c.answers, c.begun_at, c.finished_at, c.step FROM checks c
         JOIN check_sheet_versions v ON v.id = c.version_id WHERE c.id = ?1 AND c.work_order = ?2",
    )?;
    let mut rows = select.query(params![check, work])?;
    let row = rows.next()?.ok_or_else(|| StoreError::not_found("check sheet", check))?;
    Ok(CheckRow {
        asset: row.get(0)?,
        sheet: from_json(VERSIONS, &row.get::<_, String>(1)?)?,
        answers: from_json("checks", &row.get::<_, String>(2)?)?,
        begun_at: row.get(3)?,
        finished_at: row.get(4)?,
        step: row.get(5)?,
    })
}

/// Times that it was filled in before of which numbers are shown.
const EARLIER: usize = 24;

/// Numbers that were answered when the same sheet was filled in for the asset before, by the keys of their questions.
fn earlier(conn: &Connection, check: CheckId, asset: AssetId) -> Result<HashMap<String, Vec<EarlierNumber>>> {
    let mut select = conn.prepare_cached(
        "WITH this AS (SELECT c.finished_at, v.sheet_id FROM checks c JOIN check_sheet_versions v ON v.id = c.version_id
             WHERE c.id = ?1),
         before AS (SELECT o.id, o.finished_at FROM this JOIN checks o INDEXED BY checks_of_asset ON o.asset_id = ?2
                 AND o.finished_at IS NOT NULL AND o.finished_at < ifnull(this.finished_at, ?3)
             JOIN check_sheet_versions v ON v.id = o.version_id AND v.sheet_id = this.sheet_id
             WHERE o.id <> ?1 ORDER BY o.finished_at DESC LIMIT ?4)
         SELECT n.question, n.at, n.value FROM before JOIN check_numbers n ON n.check_id = before.id
         ORDER BY before.finished_at",
    )?;
    let mut rows = select.query(params![check, asset, i64::MAX, EARLIER])?;
    let mut found: HashMap<String, Vec<EarlierNumber>> = HashMap::new();
    while let Some(row) = rows.next()? {
        let number = EarlierNumber { at: row.get(1)?, value: row.get(2)? };
        found.entry(row.get(0)?).or_default().push(number);
    }
    Ok(found)
}

/// One check sheet of an order.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn view(view: &View, work: WorkOrderId, check: CheckId) -> Result<CheckView> {
    view.viewer.require(view.conn, work)?;
    let kept = row(view.conn, work, check)?;
    let read = meters::of_sheet(view.conn, kept.asset, &kept.sheet)?;
    let judged = kept.sheet.judge(&kept.answers, |question| unit_of(&read, question))?;
    let until = kept.finished_at.unwrap_or(view.now);
    let mut before = earlier(view.conn, check, kept.asset)?;
    let mut questions = Vec::with_capacity(kept.sheet.questions.len());
    for question in kept.sheet.questions {
        let meter = match read.get(&question.key) {
            Some(meter) => Some(AskedMeter::of(view.conn, meter, until)?),
            None => None,
        };
        let earlier = before.remove(&question.key).unwrap_or_default();
        questions.push(AskedQuestion { question, meter, earlier });
    }
    let role = view.viewer.mover().0;
    let (not_yet, is_finished) = (not_yet(state(view.conn, work)?.state), kept.finished_at.is_some());
    let mut select = view.conn.prepare_cached(
        "SELECT w.title, s.code, v.number, a.code, a.name, c.answered_at, p.name FROM checks c
         JOIN work_orders w ON w.number = c.work_order JOIN check_sheet_versions v ON v.id = c.version_id
         JOIN check_sheets s ON s.id = v.sheet_id JOIN assets a ON a.id = c.asset_id
         LEFT JOIN people p ON p.id = c.answered_by WHERE c.id = ?1",
    )?;
    let found = select.query_row([check], |row| {
        Ok(CheckView {
            id: check,
            work_order: work,
            work_title: row.get(0)?,
            sheet: row.get(1)?,
            version: row.get(2)?,
            title: kept.sheet.title,
            text: kept.sheet.text,
            asset: NamedAsset { code: row.get(3)?, name: row.get(4)? },
            questions,
            answers: kept.answers,
            judged,
            begun_at: kept.begun_at,
            answered_at: row.get(5)?,
            answered_by: row.get(6)?,
            finished_at: kept.finished_at,
            may_fill_in: may(role, Action::ReportOnWork).is_ok() && not_yet.is_none() && !is_finished,
            not_yet: not_yet.filter(|_| !is_finished),
            raised: Vec::new(),
        })
    })?;
    Ok(CheckView { raised: links::of_check(view, check)?, ..found })
}

/// Why a sheet of work in that state is not filled in.
fn not_yet(state: WorkState) -> Option<String> {
    if may_fill_in(state) {
        return None;
    }
    Some(if state.is_over() {
        format!("the order is {}", state.word())
    } else {
        format!("the order is {}: it is filled in once that is ready", state.word())
    })
}

/// The unit of what a question reads.
pub(super) fn unit_of(read: &HashMap<String, ReadMeter>, question: &Question) -> String {
    read.get(&question.key).map(|meter| meter.rules.unit.clone()).unwrap_or_default()
}

/// A check that may be filled in now, with more answers than it had.
pub(super) fn merged(tx: &Tx, work: WorkOrderId, check: CheckId, more: &Answering) -> Result<CheckRow> {
    tx.require(Action::ReportOnWork)?;
    tx.require_seen(work)?;
    let mut kept = row(tx.conn, work, check)?;
    if kept.finished_at.is_some() {
        return Err(StoreError::Conflict("this check sheet is finished".into()));
    }
    if let Some(reason) = not_yet(state(tx.conn, work)?.state) {
        return Err(StoreError::Conflict(reason));
    }
    kept.step.map_or(Ok(()), |step| job_sheets::require_turn(tx.conn, work, step))?;
    let goes = |key: &String| more.cleared.contains(key) || more.answers.iter().any(|answer| answer.question == *key);
    kept.answers.retain(|answer| !goes(&answer.question));
    let settled = |at: Instant| if at.since(tx.now) <= CLOCK_OFF_MS { at.min(tx.now) } else { at };
    let told = |answer: &GivenAnswer| GivenAnswer { at: answer.at.map(settled), ..answer.clone() };
    kept.answers.extend(more.answers.iter().map(told));
    Ok(kept)
}

/// From when on a check can have been answered: since its order was raised.
pub(super) fn begun(tx: &Tx, work: WorkOrderId, kept: &CheckRow) -> Result<Instant> {
    let raised = raised_at(tx, work)?;
    Ok(kept.begun_at.map_or(raised, |begun| begun.min(raised)))
}

/// Keeps answers as they stand at an instant; the first of them began it.
pub(super) fn keep(tx: &Tx, check: CheckId, answers: &[GivenAnswer], at: Instant) -> Result<()> {
    let begun = answers.iter().filter_map(|answer| answer.at).fold(at, Instant::min);
    tx.conn
        .prepare_cached(
            "UPDATE checks SET answers = ?2, begun_at = ifnull(begun_at, ?3), answered_at = ?4, answered_by = ?5 WHERE id = ?1",
        )?
        .execute(params![check, to_json(&answers), begun, at, tx.actor.id])?;
    tx.conn.prepare_cached("DELETE FROM check_files WHERE check_id = ?1")?.execute([check])?;
    for answer in answers {
        let AnswerValue::Files { files } = &answer.value else { continue };
        for one in files {
            let file = attachments::require_file(tx.conn, &one.file, &format!("answers.{}", answer.question))?;
            let mut insert =
                tx.conn.prepare_cached("INSERT OR IGNORE INTO check_files (check_id, file_id) VALUES (?1, ?2)")?;
            insert.execute(params![check, file])?;
        }
    }
    tx.touch("work order");
    Ok(())
}

/// Answers some questions of a check sheet; what follows from all answers there are.
///
/// # Errors
/// [`StoreError::Invalid`] for `answers.` and a question's key, [`StoreError::Conflict`] for a sheet that is finished or not to be
/// filled in yet.
pub fn answer(tx: &mut Tx, work: WorkOrderId, check: CheckId, more: &Answering) -> Result<Judged> {
    let kept = merged(tx, work, check, more)?;
    let at = done_at(tx, work, more.at)?;
    CheckSheet::check_dates(&more.answers, begun(tx, work, &kept)?, tx.now.plus(CLOCK_OFF_MS))?;
    let read = meters::of_sheet(tx.conn, kept.asset, &kept.sheet)?;
    let judged = kept.sheet.judge(&kept.answers, |question| unit_of(&read, question))?;
    keep(tx, check, &kept.answers, at)?;
    Ok(judged)
}

/// The media type of a file that answers a question.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn file_of(view: &View, work: WorkOrderId, check: CheckId, file: &str) -> Result<String> {
    view.viewer.require(view.conn, work)?;
    let mut select = view.conn.prepare_cached(
        "SELECT f.media_type FROM checks c JOIN check_files k ON k.check_id = c.id JOIN files f ON f.id = k.file_id
         WHERE c.id = ?1 AND c.work_order = ?2 AND f.name = ?3",
    )?;
    let found = select.query_row(params![check, work, file], |row| row.get(0)).optional()?;
    found.ok_or_else(|| StoreError::not_found("file", file))
}
