//! Raising work, for people and for limits, and changing what it says and plans.

use super::{
    attachments, checks,
    current::{Logged, log_state, state},
    job_sheets,
    job_sheets::Taken,
    links,
};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    outside::webhooks,
    plant::{assets, settings},
};
use rusqlite::{Connection, OptionalExtension, params};
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, CrewId, PersonId, WorkOrderId},
        severity::Severity,
        time::Instant,
    },
    work::{Clearable, NewWork, RankWindows, WorkChange, WorkKind, WorkSource, WorkState},
};

/// Work about to be raised, whoever or whatever raises it.
#[derive(Debug)]
pub(crate) struct Draft {
    pub title: String,
    pub text: String,
    pub kind: WorkKind,
    pub asset: AssetId,
    pub risk_rank: u8,
    pub target_start: Option<Instant>,
    pub target_finish: Option<Instant>,
    pub crew: Option<CrewId>,
    pub assignee: Option<PersonId>,
    pub estimated_hours: Option<f64>,
    pub state: WorkState,
    pub raised_at: Instant,
    pub source: WorkSource,
    /// Its window ends then at the earliest.
    pub lasts_until: Option<Instant>,
    /// The version of the job sheet that it follows.
    pub job_version: Option<i64>,
}

/// Raises work for a person; its number.
///
/// # Errors
/// [`StoreError::Invalid`] by field, [`StoreError::NotTheirs`] for a state the person may not raise work in.
pub fn raise(tx: &mut Tx, new: &NewWork) -> Result<WorkOrderId> {
    Ok(raise_on_each(tx, new)?.0)
}

/// Raises work for a person: on its asset, and the same on each of the others. Its number, and theirs.
///
/// # Errors
/// As [`raise`].
pub fn raise_on_each(tx: &mut Tx, new: &NewWork) -> Result<(WorkOrderId, Vec<WorkOrderId>)> {
    tx.require(Action::RaiseWork)?;
    let raised_at = new.check(tx.actor.role, tx.now)?;
    let asset = assets::require_reached_in(tx, &new.asset, "asset")?;
    let mut others = Vec::new();
    for (place, code) in new.also_on.iter().enumerate() {
        let field = format!("also_on[{place}]");
        let other = assets::require_reached_in(tx, code, &field)?;
        if other == asset || others.contains(&other) {
            return Err(StoreError::invalid(field, format!("{code} is named twice")));
        }
        others.push(other);
    }
    let source = match new.follows {
        Some(work) => {
            links::require_other(tx, work, "follows")?;
            WorkSource::Work(work)
        }
        None => WorkSource::Person,
    };
    let crew = match &new.crew {
        Some(crew) => Some(people::require_crew(tx.conn, crew, "crew")?),
        None => None,
    };
    let assignee = match &new.assignee {
        Some(person) => Some(people::require_person(tx.conn, person, "assignee")?.id),
        None => None,
    };
    let job = match &new.job_sheet {
        Some(code) => Some(job_sheets::require_active(tx.conn, code, "job_sheet")?),
        None => None,
    };
    // What is not said comes from the sheet.
    let of_sheet = |crew: &Taken| crew.sheet.crew.clone();
    let crew = match (crew, job.as_ref().and_then(of_sheet)) {
        (None, Some(crew)) => Some(people::require_crew(tx.conn, &crew, "crew")?),
        (crew, _) => crew,
    };
    let draft = |asset| Draft {
        title: new.title.trim().into(),
        text: new.text.trim().into(),
        kind: new.kind,
        asset,
        risk_rank: new.risk_rank,
        target_start: new.target_start,
        target_finish: new.target_finish,
        crew,
        assignee,
        estimated_hours: new.estimated_hours.or(job.as_ref().and_then(|job| job.sheet.hours())),
        state: new.state,
        raised_at,
        source,
        lasts_until: None,
        job_version: job.as_ref().map(|job| job.version),
    };
    let mut raise_on = |asset| {
        let number = insert(tx, draft(asset))?;
        for (place, other) in new.linked.iter().enumerate() {
            links::insert(tx, number, *other, &format!("linked[{place}]"))?;
        }
        attachments::insert(tx, number, &new.attachments, raised_at)?;
        Ok(number)
    };
    Ok((raise_on(asset)?, others.into_iter().map(raise_on).collect::<Result<_>>()?))
}

pub(super) fn windows(conn: &Connection) -> Result<RankWindows> {
    Ok(RankWindows(settings::get(conn)?.rank_windows))
}

/// What must be permitted or isolated before work on an asset begins: what it says itself, or the nearest above that says some.
fn permits_of(conn: &Connection, asset: AssetId) -> Result<String> {
    let mut select = conn.prepare_cached(
        "WITH RECURSIVE up (id, steps) AS (SELECT ?1, 0 UNION ALL
             SELECT p.parent_id, up.steps + 1 FROM placements p JOIN up ON p.asset_id = up.id
             WHERE p.to_at IS NULL AND p.parent_id IS NOT NULL)
         SELECT a.permits FROM up JOIN assets a ON a.id = up.id WHERE a.permits <> '[]' ORDER BY up.steps LIMIT 1",
    )?;
    Ok(select.query_row([asset], |row| row.get(0)).optional()?.unwrap_or_else(|| "[]".into()))
}

/// Writes a new work order: the one way there is, for people and for limits.
pub(crate) fn insert(tx: &mut Tx, draft: Draft) -> Result<WorkOrderId> {
    let conn = tx.conn;
    let window_end = windows(conn)?.window_end(draft.risk_rank, draft.raised_at);
    let window_end = draft.lasts_until.map_or(window_end, |until| window_end.max(until));
    let crew = match draft.crew {
        Some(crew) => Some(crew.0),
        None => conn
            .prepare_cached("SELECT crew_id FROM assets WHERE id = ?1")?
            .query_row([draft.asset], |row| row.get(0))?,
    };
    let permits = permits_of(conn, draft.asset)?;
    let mut insert = conn.prepare_cached(
        "INSERT INTO work_orders (number, title, text, kind, asset_id, source, source_meter_id, source_side,
             source_severity, raised_severity, source_at, raised_at, raised_by, recorded_at, risk_rank, window_end, target_start,
             target_finish, crew_id, department, assignee_id, estimated_hours, state, state_since, plan_id, cycle, job_version_id,
             source_work, permits, source_check)
         VALUES ((SELECT ifnull(max(number), 1000) + 1 FROM work_orders), ?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?8, ?9, ?10, ?11,
             ?12, ?13, ?14, ?15, ?16, ?17, (SELECT department FROM crews WHERE id = ?17), ?18, ?19, ?20, ?10, ?21, ?22, ?23, ?24, ?25, ?26)",
    )?;
    let (rung, cycle) = (draft.source.rung(), draft.source.cycle());
    insert.execute(params![
        draft.title,
        draft.text,
        draft.kind,
        draft.asset,
        draft.source.word(),
        rung.map(|rung| rung.meter),
        rung.map(|rung| rung.side),
        rung.map(|rung| rung.severity),
        rung.map(|rung| rung.at),
        draft.raised_at,
        tx.actor.id,
        tx.now,
        draft.risk_rank,
        window_end,
        draft.target_start,
        draft.target_finish,
        crew,
        draft.assignee,
        draft.estimated_hours,
        draft.state,
        cycle.map(|cycle| cycle.plan),
        cycle.map(|cycle| cycle.number),
        draft.job_version,
        draft.source.work(),
        permits,
        draft.source.check(),
    ])?;
    let number = WorkOrderId(conn.last_insert_rowid());
    log_state(tx, number, draft.state, draft.raised_at, &Logged::default())?;
    if let Some(version) = draft.job_version {
        checks::of_job(tx, number, draft.asset, version)?;
    }
    tx.news.work = true;
    webhooks::emit(
        tx,
        "work_order",
        &serde_json::json!({ "number": number, "title": draft.title, "risk_rank": draft.risk_rank, "state": draft.state }),
    )?;
    Ok(number)
}

/// A change of fields that keep their history: what they were the database keeps by itself.
pub(super) struct Dated {
    /// Versions of them that were, before.
    former: i64,
}

impl Dated {
    pub(super) fn begin(tx: &Tx, work: WorkOrderId) -> Result<Self> {
        Ok(Self { former: former(tx, work)? })
    }

    /// Where one of them is another now, says since when.
    pub(super) fn end(self, tx: &Tx, work: WorkOrderId, since: Instant) -> Result<()> {
        if former(tx, work)? > self.former {
            tx.conn.execute(
                "UPDATE work_orders SET fields_since = ?2, fields_recorded_at = ?3, fields_recorded_by = ?4 WHERE number = ?1",
                params![work, since, tx.now, tx.actor.id],
            )?;
        }
        Ok(())
    }
}

fn former(tx: &Tx, work: WorkOrderId) -> Result<i64> {
    let mut count = tx.conn.prepare_cached("SELECT count(*) FROM former_fields WHERE work_order = ?1")?;
    Ok(count.query_row([work], |row| row.get(0))?)
}

/// Makes open work more urgent, because a worse rung of the same side was entered.
pub(crate) fn escalate(
    tx: &mut Tx,
    work: WorkOrderId,
    severity: Severity,
    rank: u8,
    start: Option<Instant>,
    text: &str,
) -> Result<()> {
    let current = state(tx.conn, work)?;
    let tighter = rank < current.risk_rank;
    let window_end =
        if tighter { windows(tx.conn)?.tightened(current.window_end, rank, tx.now) } else { current.window_end };
    let dated = Dated::begin(tx, work)?;
    tx.conn.execute(
        "UPDATE work_orders SET source_severity = ?2, risk_rank = min(risk_rank, ?3), window_end = ?4,
             target_start = CASE WHEN target_start IS NULL OR ?5 < target_start THEN ifnull(?5, target_start)
                                 ELSE target_start END,
             text = text || char(10) || ?6
         WHERE number = ?1",
        params![work, severity.strokes(), rank, window_end, start, text],
    )?;
    dated.end(tx, work, tx.now)?;
    tx.audit(
        "escalated",
        "work order",
        &work.to_string(),
        &serde_json::json!({
            "severity": severity, "risk_rank": rank.min(current.risk_rank), "text": text,
        }),
    )
}

/// What a decision on risk makes of work: a tighter rank with its window from now on, and when it is to begin.
pub(super) fn decide(tx: &mut Tx, work: WorkOrderId, rank: Option<u8>, start: Instant) -> Result<()> {
    let current = state(tx.conn, work)?;
    let window_end = match rank {
        Some(rank) if rank < current.risk_rank => windows(tx.conn)?.tightened(current.window_end, rank, tx.now),
        _ => current.window_end,
    };
    let dated = Dated::begin(tx, work)?;
    tx.conn.execute(
        "UPDATE work_orders SET risk_rank = min(risk_rank, ifnull(?2, risk_rank)), window_end = ?3, target_start = ?4
         WHERE number = ?1",
        params![work, rank, window_end, start],
    )?;
    dated.end(tx, work, tx.now)
}

/// Makes open work as urgent as a rank says, where it is milder: its window tightens from now on.
pub(super) fn tighten(tx: &mut Tx, work: WorkOrderId, rank: u8) -> Result<()> {
    let current = state(tx.conn, work)?;
    let window_end = windows(tx.conn)?.tightened(current.window_end, rank, tx.now);
    let dated = Dated::begin(tx, work)?;
    tx.conn.execute(
        "UPDATE work_orders SET risk_rank = min(risk_rank, ?2), window_end = ?3 WHERE number = ?1",
        params![work, rank, window_end],
    )?;
    dated.end(tx, work, tx.now)
}

/// Changes what work says and plans. A tighter rank tightens the window from then on, a milder one leaves it.
///
/// # Errors
/// [`StoreError::Invalid`] by field.
pub fn change(tx: &mut Tx, work: WorkOrderId, to: &WorkChange) -> Result<()> {
    tx.require(Action::PlanWork)?;
    tx.require_seen(work)?;
    let current = state(tx.conn, work)?;
    if current.state.is_over() {
        let state = current.state.word();
        let reason = format!("this work is {state}: it takes adjustments of its cost and corrected codes alone");
        return Err(StoreError::Conflict(reason));
    }
    let since = to.check(current.fields_since, tx.now)?;
    let crew = match &to.crew {
        Some(crew) => Some(people::require_crew(tx.conn, crew, "crew")?.0),
        None => None,
    };
    let assignee = match &to.assignee {
        Some(person) => Some(people::require_person(tx.conn, person, "assignee")?.id.0),
        None => None,
    };
    let window_end = match to.risk_rank {
        Some(rank) if rank < current.risk_rank => {
            Some(windows(tx.conn)?.tightened(current.window_end, rank, since).ms())
        }
        _ => None,
    };
    let job = match &to.job_sheet {
        Some(code) => Some(job_sheets::require_active(tx.conn, code, "job_sheet")?.version),
        None => None,
    };
    let gone = |field| to.clear.contains(&field);
    if job.is_some() || gone(Clearable::JobSheet) {
        // What was ticked off was of the sheet before.
        job_sheets::forget_ticks(tx, work)?;
        checks::forget_of_job(tx, work)?;
    }
    let dated = Dated::begin(tx, work)?;
    tx.conn.execute(
        "UPDATE work_orders SET title = ifnull(?2, title), text = ifnull(?3, text), kind = ifnull(?4, kind),
             risk_rank = ifnull(?5, risk_rank), window_end = ifnull(?6, window_end),
             crew_id = iif(?15, NULL, ifnull(?7, crew_id)),
             department = CASE WHEN ?15 THEN NULL WHEN ?7 IS NULL THEN department
                               ELSE (SELECT department FROM crews WHERE id = ?7) END,
             assignee_id = iif(?16, NULL, ifnull(?8, assignee_id)),
             estimated_hours = iif(?17, NULL, ifnull(?9, estimated_hours)),
             target_start = iif(?18, NULL, ifnull(?10, target_start)),
             target_finish = iif(?19, NULL, ifnull(?11, target_finish)),
             scheduled_start = iif(?20, NULL, ifnull(?12, scheduled_start)),
             scheduled_end = iif(?20, NULL, ifnull(?13, scheduled_end)),
             reference = ifnull(?14, reference), job_version_id = iif(?22, NULL, ifnull(?21, job_version_id))
         WHERE number = ?1",
        params![
            work,
            to.title.as_deref().map(str::trim),
            to.text.as_deref().map(str::trim),
            to.kind,
            to.risk_rank,
            window_end,
            crew,
            assignee,
            to.estimated_hours,
            to.target_start,
            to.target_finish,
            to.scheduled_start,
            to.scheduled_end,
            to.reference.as_deref().map(str::trim),
            gone(Clearable::Crew),
            gone(Clearable::Assignee),
            gone(Clearable::EstimatedHours),
            gone(Clearable::TargetStart),
            gone(Clearable::TargetFinish),
            gone(Clearable::Schedule),
            job,
            gone(Clearable::JobSheet),
        ],
    )?;
    if let Some(version) = job {
        checks::of_job(tx, work, current.asset, version)?;
    }
    dated.end(tx, work, since)?;
    tx.audit("changed", "work order", &work.to_string(), to)
}
