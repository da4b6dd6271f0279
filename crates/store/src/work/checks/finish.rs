//! Finishing a check sheet: its readings go to their meters and through their limits, its answer rules raise work, and the
//! result stays with the asset. All of it or nothing.

use super::{
    asked::{Answering, CheckRow, keep, merged, unit_of},
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
        current::done_at,
        job_sheets,
        raise::{Draft, insert},
    },
};
use rusqlite::params;
use serde::Serialize;
use std::collections::HashMap;
use tally_core::{
    ground::{
        ids::{AlarmId, CheckId, WorkOrderId},
        time::Instant,
        value::IncomingValue,
    },
    watch::{
        batch::{Batch, Incoming, Receipt},
        readings::Source,
    },
    work::{
        WorkSource, WorkState,
        check_sheets::{AnswerRule, AnswerValue, Asks, Found, GivenAnswer},
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
    /// Work that answers raised.
    pub by_answers: Vec<WorkOrderId>,
}

/// Finishes a check sheet with the answers it has, and these.
///
/// # Errors
/// As [`super::answer`], for what is compulsory and missing, and for a reading that its meter refuses.
pub fn finish(tx: &mut Tx, work: WorkOrderId, check: CheckId, last: &Answering) -> Result<FinishedCheck> {
    let mut kept = merged(tx, work, check, last)?;
    let at = done_at(tx, work, last.at)?;
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

/// Raises the work that an answer asks for.
fn follow_on(
    tx: &mut Tx,
    work: WorkOrderId,
    check: CheckId,
    kept: &CheckRow,
    found: &Found,
    finished: Instant,
) -> Result<WorkOrderId> {
    let rule = kept.sheet.questions.iter().find(|question| question.key == found.question);
    let rule: Option<&AnswerRule> = rule.and_then(|question| question.rules.get(found.rule));
    let Some(rule) = rule else { return Err(StoreError::corrupt("check_sheet_versions", "a rule is missing")) };
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
        lasts_until: None,
        job_version: job.as_ref().map(|job| job.version),
    };
    insert(tx, draft)
}
