//! Finishing a check sheet: its readings go to their meters and through their limits, its answer rules raise work, and the
//! result stays with the asset. All of it or nothing.

use super::{
    asked::{Answering, CheckRow, begun, keep, merged, unit_of},
    meters,
    meters::ReadMeter,
};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    watch::readings,
    work::{
        current::{done_at, state},
        job_sheets, occurrences,
        raise::{Draft, insert, tighten, windows},
    },
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::{AlarmId, CheckId, WorkOrderId},
        time::{CLOCK_OFF_MS, Instant},
        value::IncomingValue,
    },
    watch::{
        batch::{Batch, Incoming, Receipt},
        readings::Source,
    },
    work::{
        WorkSource, WorkState,
        check_sheets::{AnswerRule, AnswerValue, Asks, CheckSheet, Found, GivenAnswer},
    },
};
use utoipa::ToSchema;

/// What finishing a check sheet brought about.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FinishedCheck {
    /// Readings that went to their meters.
    pub readings: usize,
    /// Alarms that began.
    pub alarms: Vec<AlarmId>,
    /// Work that alarms raised or joined.
    pub by_limits: Vec<WorkOrderId>,
    /// Work that answers raised or joined.
    pub by_answers: Vec<WorkOrderId>,
}

/// Finishes a check sheet with the answers it has, and these.
///
/// # Errors
/// As [`super::answer`], for what is compulsory and missing, and for a reading that its meter refuses.
pub fn finish(tx: &mut Tx, work: WorkOrderId, check: CheckId, last: &Answering) -> Result<FinishedCheck> {
    let mut kept = merged(tx, work, check, last)?;
    let at = done_at(tx, work, last.at)?;
    CheckSheet::check_dates(&kept.answers, begun(tx, work, &kept)?, at.plus(CLOCK_OFF_MS))?;
    let read = meters::of_sheet(tx.conn, kept.asset, &kept.sheet)?;
    let judged = kept.sheet.finish(&kept.answers, |question| unit_of(&read, question))?;
    // What was answered and is not asked any more counts for nothing.
    kept.answers.retain(|answer| judged.asked.contains(&answer.question));
    keep(tx, check, &kept.answers, at)?;
    tx.conn.execute(
        "UPDATE checks SET finished_at = ?2, finished_by = ?3 WHERE id = ?1",
        params![check, at, tx.actor.id],
    )?;
    for answer in &kept.answers {
        if let AnswerValue::Number { value } = answer.value {
            tx.conn
                .prepare_cached("INSERT INTO check_numbers (check_id, question, at, value) VALUES (?1, ?2, ?3, ?4)")?
                .execute(params![check, answer.question, answer.at.unwrap_or(at), value])?;
        }
    }
    let receipt = take_readings(tx, &kept, &read, at)?;
    let mut by_answers = Vec::with_capacity(judged.found.len());
    for found in &judged.found {
        by_answers.push(follow_on(tx, work, check, &kept, found, at)?);
    }
    kept.step.map_or(Ok(()), |step| job_sheets::settle_visit(tx, work, step, at))?;
    let finished = FinishedCheck {
        readings: receipt.accepted,
        alarms: receipt.alarms,
        by_limits: receipt.work_orders,
        by_answers,
    };
    tx.audit("check sheet finished", "work order", &work.to_string(), &finished)?;
    Ok(finished)
}

/// Sends what was read to its meters.
fn take_readings(
    tx: &mut Tx,
    kept: &CheckRow,
    read: &HashMap<String, ReadMeter>,
    finished: Instant,
) -> Result<Receipt> {
    let mut rows = Vec::new();
    let mut keys = Vec::new();
    for GivenAnswer { question, value, at } in &kept.answers {
        let asked = kept.sheet.questions.iter().find(|one| one.key == *question);
        if !asked.is_some_and(|one| matches!(one.asks, Asks::Reading { .. })) {
            continue;
        }
        let value = match value {
            AnswerValue::Number { value } => IncomingValue::Number(*value),
            AnswerValue::Choices { values } => match values.first() {
                Some(grade) => IncomingValue::Name(grade.clone()),
                None => continue,
            },
            _ => continue,
        };
        let meter = read.get(question).ok_or_else(|| {
            StoreError::invalid(format!("answers.{question}"), "the asset has no such meter: clear the answer")
        })?;
        rows.push(Ok(Incoming { meter: meter.code.clone(), at: at.unwrap_or(finished), value }));
        keys.push(question.as_str());
    }
    if rows.is_empty() {
        return Ok(Receipt::default());
    }
    let batch = Batch { source: Source::CheckSheet, name: None, strict: true };
    readings::ingest(tx, &rows, batch).map_err(|error| match error {
        StoreError::Strict(receipt) => {
            let refused = receipt.refused.into_iter().next();
            let (place, reason) = refused.map_or((0, String::new()), |refused| (refused.index, refused.reason));
            StoreError::invalid(format!("answers.{}", keys.get(place).copied().unwrap_or_default()), reason)
        }
        error => error,
    })
}

/// The open order that the same question of the same sheet raised on the same asset before.
fn open_finding(conn: &Connection, check: CheckId, question: &str) -> Result<Option<WorkOrderId>> {
    let mut select = conn.prepare_cached(
        "SELECT f.work_order FROM checks this JOIN check_sheet_versions t ON t.id = this.version_id
         JOIN checks c INDEXED BY checks_of_asset ON c.asset_id = this.asset_id AND c.finished_at IS NOT NULL
         JOIN check_sheet_versions v ON v.id = c.version_id AND v.sheet_id = t.sheet_id
         JOIN check_findings f ON f.check_id = c.id AND f.question = ?2 JOIN work_orders w ON w.number = f.work_order
         WHERE this.id = ?1 AND w.state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way')
         ORDER BY f.work_order DESC LIMIT 1",
    )?;
    Ok(select.query_row(params![check, question], |row| row.get(0)).optional()?)
}

/// What was found again joins the order that is open about it, which becomes as urgent as what was found now.
fn join(
    tx: &mut Tx,
    open: WorkOrderId,
    check: CheckId,
    kept: &CheckRow,
    found: &Found,
    finished: Instant,
) -> Result<WorkOrderId> {
    let words = format!("{}: {}", kept.sheet.title.trim(), found.says);
    occurrences::note(tx, open, &words, finished)?;
    let rank = rule_of(kept, found)?.risk_rank;
    if rank < state(tx.conn, open)?.risk_rank {
        tighten(tx, open, rank)?;
    }
    note_finding(tx, check, &found.question, open)?;
    Ok(open)
}

fn note_finding(tx: &Tx, check: CheckId, question: &str, work: WorkOrderId) -> Result<()> {
    tx.conn
        .prepare_cached("INSERT INTO check_findings (check_id, question, work_order) VALUES (?1, ?2, ?3)")?
        .execute(params![check, question, work])?;
    Ok(())
}

fn rule_of<'a>(kept: &'a CheckRow, found: &Found) -> Result<&'a AnswerRule> {
    let question = kept.sheet.questions.iter().find(|question| question.key == found.question);
    let rule = question.and_then(|question| question.rules.get(found.rule));
    rule.ok_or_else(|| StoreError::corrupt("check_sheet_versions", "a rule is missing"))
}

/// Raises the work that an answer asks for, or joins what was raised for the same before and is open.
fn follow_on(
    tx: &mut Tx,
    work: WorkOrderId,
    check: CheckId,
    kept: &CheckRow,
    found: &Found,
    finished: Instant,
) -> Result<WorkOrderId> {
    if let Some(open) = open_finding(tx.conn, check, &found.question)? {
        return join(tx, open, check, kept, found, finished);
    }
    let rule = rule_of(kept, found)?;
    // A job sheet or crew that is gone since the sheet was written holds nothing up.
    let job = rule.job_sheet.as_deref().and_then(|job| job_sheets::require_active(tx.conn, job, "job_sheet").ok());
    let crew = rule.crew.clone().or_else(|| job.as_ref().and_then(|job| job.sheet.crew.clone()));
    let crew = crew.and_then(|crew| people::require_crew(tx.conn, &crew, "crew").ok());
    let asset = meters::asset_name(tx.conn, kept.asset)?;
    // What the rule leaves open is as for the job that it asks for.
    let trade = rule.trade.as_deref().or_else(|| job.as_ref()?.sheet.trade.as_deref());
    let trade = trade.map(|trade| format!("For: {trade}\n")).unwrap_or_default();
    let draft = Draft {
        title: found.title.clone(),
        text: format!("{trade}{} on {asset}, with work {work}: {}", kept.sheet.title.trim(), found.says),
        kind: rule.work_kind,
        asset: kept.asset,
        risk_rank: rule.risk_rank,
        target_start: None,
        target_finish: None,
        crew,
        assignee: None,
        estimated_hours: job.as_ref().and_then(|job| job.sheet.hours()),
        state: WorkState::Raised,
        raised_at: finished,
        source: WorkSource::AnswerRule { check, work },
        // Its window starts when somebody can see it, however long the sheet was on its way.
        lasts_until: Some(windows(tx.conn)?.window_end(rule.risk_rank, tx.now)),
        job_version: job.as_ref().map(|job| job.version),
    };
    let raised = insert(tx, draft)?;
    note_finding(tx, check, &found.question, raised)?;
    Ok(raised)
}
