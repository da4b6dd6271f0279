//! What an entered rung does: it is decided by core, done, and written down.

use super::{
    repairs,
    said::{Said, tell},
    situation::situation,
    subject::{Entered, Subject},
};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        rows::{to_json, word},
        tx::Tx,
    },
    outside::webhooks,
    watch::meters,
    work,
    work::{
        decisions, job_sheets,
        upkeep::{self, Forwarded},
    },
};
use rusqlite::params;
use serde::Serialize;
use tally_core::{
    ground::{
        ids::{AlarmId, WorkOrderId},
        severity::Severity,
        time::Instant,
    },
    watch::{
        alarms::ResponseGiven,
        batch::Receipt,
        limits::{Decision, Does, HeldBy, Part, Rung, RungSide, Waits, parts, respond},
    },
    work::{RungEntered, WorkKind, WorkSource, WorkState},
};

/// What an answer came to.
#[derive(Clone)]
struct Answered {
    given: ResponseGiven,
    held: Option<HeldBy>,
    work: Option<WorkOrderId>,
    waits: Waiting,
}

/// What an answer waits for, as it is kept.
#[derive(Clone, Copy)]
enum Waiting {
    Never,
    Until(Instant),
    Work(WorkOrderId),
    /// The first reading after that work was finished.
    Reading {
        work: WorkOrderId,
        finished_at: Instant,
    },
}

impl From<Waits> for Waiting {
    fn from(waits: Waits) -> Self {
        match waits {
            Waits::Never => Self::Never,
            Waits::Until(until) => Self::Until(until),
            Waits::Work(work) => Self::Work(work),
        }
    }
}

/// What a receiver of events is told of an answer.
#[derive(Serialize)]
struct AlarmEvent<'a> {
    meter: String,
    severity: Severity,
    side: RungSide,
    at: Instant,
    value: f64,
    response: ResponseGiven,
    work_order: Option<WorkOrderId>,
    text: &'a str,
}

/// Lets rungs answer that are to answer at the same instant. Where they speak of an older reading (`read_at`), work on them
/// that was finished since waits for a new one first.
pub(super) fn answer_together(
    tx: &mut Tx,
    subject: &Subject,
    answering: &[Entered],
    read_at: Option<Instant>,
    receipt: &mut Receipt,
) -> Result<()> {
    let mut answers: Vec<(usize, Answered)> = Vec::with_capacity(answering.len());
    for (rung, part) in parts(&subject.ladder.rungs, answering.iter().map(|one| one.rung).collect()) {
        let Some(entered) = answering.iter().find(|one| one.rung == rung) else { continue };
        let answered = match part {
            Part::Answers => match repairs::unread_since_finished(tx, subject, rung, read_at, entered.at)? {
                Some((work, finished_at)) => Answered {
                    given: ResponseGiven::Recorded,
                    held: None,
                    work: None,
                    waits: Waiting::Reading { work, finished_at },
                },
                None => answer(tx, subject, *entered, receipt)?,
            },
            Part::Shares { with } => {
                let shared = answers.iter().find(|(rung, _)| *rung == with).map(|(_, answered)| answered.clone());
                let shared = shared.ok_or_else(|| StoreError::corrupt("alarms", "a rung shares with none"))?;
                // What holds the worse holds this one: its end may move for both.
                Answered { given: ResponseGiven::Recorded, ..shared }
            }
        };
        answered.write(tx, subject, entered, receipt)?;
        answers.push((rung, answered));
    }
    if answers.iter().any(|(_, answered)| matches!(answered.waits, Waiting::Reading { .. })) {
        repairs::expect_reading(tx, subject.id)?;
    }
    tx.news.alarms |= !answers.is_empty();
    Ok(())
}

/// Decides what an entered rung does, and does it.
fn answer(tx: &mut Tx, subject: &Subject, entered: Entered, receipt: &mut Receipt) -> Result<Answered> {
    let rung = &subject.ladder.rungs[entered.rung];
    let decision = respond(rung, &situation(tx, subject, rung, entered)?, entered.at);
    let said = Said::of(tx, subject, rung, entered)?;
    let (given, held, work) = match &decision {
        Decision::Held(held) => (ResponseGiven::Held, Some(held.clone()), None),
        Decision::Record => (ResponseGiven::Record, None, None),
        Decision::Notify => {
            tell(tx, subject, rung, &said, None)?;
            (ResponseGiven::Notify, None, None)
        }
        Decision::Join { work, escalates } => {
            if *escalates {
                work::escalate(tx, *work, rung.severity, said.rank, said.start, &said.text)?;
                tell(tx, subject, rung, &said, Some(*work))?;
            }
            (if *escalates { ResponseGiven::Escalated } else { ResponseGiven::Joined }, None, Some(*work))
        }
        Decision::Raise => {
            let work = raise(tx, subject, rung, entered, &said)?;
            tell(tx, subject, rung, &said, Some(work))?;
            (ResponseGiven::Raised, None, Some(work))
        }
        Decision::BringForward => {
            let (given, work) = forward(tx, subject, rung, entered, &said)?;
            tell(tx, subject, rung, &said, Some(work))?;
            (given, None, Some(work))
        }
    };
    if matches!(given, ResponseGiven::Raised | ResponseGiven::Escalated)
        && let Some((work, decides)) = work.zip(rung.response.told().and_then(|told| told.decides.as_deref()))
    {
        decisions::ask(tx, work, entered_rung(subject, rung, entered), decides)?;
    }
    receipt.work_orders.extend(work);
    let told = AlarmEvent {
        meter: meters::code_of(tx.conn, subject.id)?,
        severity: rung.severity,
        side: rung.side,
        at: entered.at,
        value: entered.value,
        response: given,
        work_order: work,
        text: &said.text,
    };
    webhooks::emit(tx, "alarm", &told)?;
    Ok(Answered { given, held, work, waits: decision.waits(work).into() })
}

impl Answered {
    /// Writes the answer of an alarm that begins, or the newest one of an alarm that stands.
    fn write(&self, tx: &mut Tx, subject: &Subject, entered: &Entered, receipt: &mut Receipt) -> Result<()> {
        let held = self.held.as_ref().map(to_json);
        let (due_at, waits_work, finished_at) = match self.waits {
            Waiting::Never => (None, None, None),
            Waiting::Until(until) => (Some(until.ms()), None, None),
            Waiting::Work(work) => (None, Some(work.0), None),
            Waiting::Reading { work, finished_at } => (None, Some(work.0), Some(finished_at.ms())),
        };
        let (given, work) = (word(&self.given), self.work.map(|work| work.0));
        let alarm = match entered.alarm {
            Some(alarm) => {
                let mut update = tx.conn.prepare_cached(
                    "UPDATE alarms SET response = ?2, answered_at = ?3, held_by = ?4, work_order = ifnull(?5, work_order),
                         due_at = ?6, waits_work = ?7, finished_at = ?8 WHERE id = ?1",
                )?;
                update.execute(params![alarm, given, entered.at, held, work, due_at, waits_work, finished_at])?;
                alarm
            }
            None => {
                let rung = &subject.ladder.rungs[entered.rung];
                let mut insert = tx.conn.prepare_cached(
                    "INSERT INTO alarms (meter_id, version_id, rung, side, severity, entered_at, value, looked_at, response,
                         answered_at, held_by, work_order, due_at, waits_work, finished_at, recorded_at)
                     VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?6, ?10, ?11, ?12, ?13, ?14, ?15)",
                )?;
                insert.execute(params![
                    subject.id,
                    subject.version,
                    entered.rung,
                    rung.side,
                    rung.severity.strokes(),
                    entered.at,
                    entered.value,
                    entered.looked_at,
                    given,
                    held,
                    work,
                    due_at,
                    waits_work,
                    finished_at,
                    tx.now,
                ])?;
                let alarm = AlarmId(tx.conn.last_insert_rowid());
                receipt.alarms.push(alarm);
                alarm
            }
        };
        let mut keep = tx.conn.prepare_cached(
            "INSERT INTO alarm_answers (alarm_id, at, response, held_by, work_order, after_work)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?;
        keep.execute(params![alarm, entered.at, given, held, work, entered.after])?;
        Ok(())
    }
}

fn entered_rung(subject: &Subject, rung: &Rung, entered: Entered) -> RungEntered {
    RungEntered { meter: subject.id, side: rung.side, severity: rung.severity, at: entered.at }
}

/// Brings the rung's plan forward: its next cycle is raised with what the rung says, or its open work is joined. A plan that makes
/// no work any more is no reason to let the rung go unanswered: it raises work of its own.
fn forward(
    tx: &mut Tx,
    subject: &Subject,
    rung: &Rung,
    entered: Entered,
    said: &Said,
) -> Result<(ResponseGiven, WorkOrderId)> {
    let Does::BringForward { plan: Some(code), .. } = &rung.response.does else {
        return Err(StoreError::corrupt("ladder_versions", "no plan to bring forward"));
    };
    let brought = match upkeep::require_active(tx.conn, code, "plan") {
        Ok(plan) => upkeep::bring_forward(tx, plan, subject.asset, &said.text),
        Err(error) => Err(error),
    };
    match brought {
        Ok(Forwarded::Raised(work)) => Ok((ResponseGiven::Raised, work)),
        Ok(Forwarded::Open(work)) => Ok((ResponseGiven::Joined, work)),
        Err(StoreError::Invalid { .. }) => Ok((ResponseGiven::Raised, raise(tx, subject, rung, entered, said)?)),
        Err(error) => Err(error),
    }
}

fn raise(tx: &mut Tx, subject: &Subject, rung: &Rung, entered: Entered, said: &Said) -> Result<WorkOrderId> {
    let template = rung.response.work().cloned().unwrap_or_default();
    let crew = match &template.crew {
        Some(crew) => Some(people::require_crew(tx.conn, crew, "crew")?),
        None => None,
    };
    // A sheet that is retired by now is no reason to leave the rung unanswered.
    let job = template.job_sheet.as_ref().and_then(|code| job_sheets::require_active(tx.conn, code, "job_sheet").ok());
    let new = work::Draft {
        title: said.title.clone(),
        text: said.text.clone(),
        kind: template.kind.unwrap_or(WorkKind::ConditionBased),
        asset: subject.asset,
        risk_rank: said.rank,
        target_start: said.start,
        target_finish: None,
        crew,
        assignee: None,
        estimated_hours: template.estimated_hours.or(job.as_ref().and_then(|job| job.sheet.hours())),
        state: WorkState::Raised,
        raised_at: tx.now,
        source: WorkSource::Ladder(entered_rung(subject, rung, entered)),
        lasts_until: None,
        job_version: job.map(|job| job.version),
    };
    work::insert(tx, new)
}
