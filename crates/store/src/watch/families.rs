//! Families: the meters of one name on assets of one equipment class, and the ladder written once for all of them.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, to_json},
        sql::Rows,
        tx::Tx,
        view::View,
    },
    plant::{assets::NamedAsset, settings},
    watch::{
        limits,
        limits::NewLadder,
        meters, replay,
        replay::{FinderAsked, FinderView, JudgedBy, ManyReplay, Member, MeterForecast, ProposalsAsked, ProposalsView},
    },
};
use rusqlite::{Connection, OptionalExtension, params, types::Value};
use serde::{Deserialize, Serialize};
use std::rc::Rc;
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{PersonId, WorkOrderId},
        severity::Severity,
        time::{Instant, Span},
    },
    watch::{
        limits::{
            Ladder,
            changes::{LadderChange, changes, touches_danger},
        },
        meters::{Meter, MeterKind},
    },
};
use utoipa::ToSchema;

/// A family as listed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FamilyRow {
    /// Code and name of the equipment class.
    pub class: String,
    pub class_name: String,
    /// Name that its meters share.
    pub name: String,
    pub kind: MeterKind,
    pub unit: String,
    pub meters: usize,
    pub with_limits: usize,
    /// Whether a ladder was written for it.
    pub has_ladder: bool,
    /// Meters whose own ladder is another than the family's.
    pub deviating: usize,
}

/// One meter of a family.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FamilyMeter {
    pub meter: String,
    pub asset: NamedAsset,
    pub has_ladder: bool,
    pub deviates: bool,
    /// From the family's ladder to the meter's own.
    pub changes: Vec<LadderChange>,
    pub worst_severity: Option<Severity>,
}

/// A family with its ladder and its meters.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FamilyView {
    pub class: String,
    pub class_name: String,
    pub name: String,
    pub kind: MeterKind,
    pub unit: String,
    pub grades: Vec<String>,
    /// None until one is written for it.
    pub ladder: Option<Ladder>,
    pub number: i64,
    pub reason: Option<String>,
    pub by: Option<String>,
    pub at: Option<Instant>,
    /// What waits for a second engineer.
    pub proposed: Option<Box<ProposedFamily>>,
    pub meters: Vec<FamilyMeter>,
}

/// A family's ladder that waits for a second engineer; until then the family and all its meters have the old one.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ProposedFamily {
    pub ladder: Ladder,
    pub reason: String,
    /// Deviating meters that are to have it too.
    pub also: Vec<String>,
    pub at: Instant,
    /// Code and name of who proposed it.
    pub by: String,
    pub by_name: String,
    /// From the family's ladder.
    pub changes: Vec<LadderChange>,
}

/// A ladder for a family.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct FamilyLadder {
    pub reason: String,
    pub ladder: Ladder,
    /// Codes of deviating meters that are to have it too; the others keep their own.
    #[serde(default)]
    pub also: Vec<String>,
}

/// What becomes, or would become, of one meter.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FamilyReceiptRow {
    pub meter: String,
    pub asset: NamedAsset,
    pub fate: FamilyFate,
    /// From what it has now to the new ladder.
    pub changes: Vec<LadderChange>,
    /// Why it can't have it.
    pub reason: Option<String>,
    pub ended_alarms: usize,
    pub alarms: usize,
    pub work_orders: Vec<WorkOrderId>,
}

/// What a new family ladder means for one meter.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FamilyFate {
    /// It gets the new ladder.
    Changed,
    /// It has just this ladder.
    Unchanged,
    /// It has one of its own, and keeps it.
    KeepsItsOwn,
    /// It waits for a second engineer.
    Proposed,
    /// It can't have it.
    Refused,
}

/// What becomes, or would become, of all meters of a family.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FamilyReceipt {
    pub number: i64,
    /// It waits for a second engineer; nothing else has changed.
    pub pending: bool,
    pub rows: Vec<FamilyReceiptRow>,
}

/// A row of the family's meters.
struct Found {
    code: String,
    asset: NamedAsset,
    rules: Meter,
    own: Option<Ladder>,
    worst: Option<Severity>,
}

struct Written {
    number: i64,
    ladder: Ladder,
    reason: String,
    by: String,
    at: Instant,
}

/// Families in scope with at least two meters, or with a ladder, by class and name.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows, scope: Option<&[i64]>) -> Result<Vec<FamilyRow>> {
    let conn = rows.sql().conn;
    let ids: Rc<Vec<Value>> = Rc::new(scope.unwrap_or_default().iter().map(|id| Value::from(*id)).collect());
    let mut select = conn.prepare_cached(
        "SELECT c.code AS class, c.name AS class_name, m.name, min(m.kind) AS kind, min(m.unit) AS unit,
                count(*) AS meters, sum(v.definition IS NOT NULL) AS with_limits, max(f.definition) IS NOT NULL AS has,
                sum(f.definition IS NOT NULL AND v.definition IS NOT NULL AND v.definition <> f.definition) AS deviating
         FROM meters m JOIN assets a ON a.id = m.asset_id JOIN equipment_classes c ON c.id = a.class_id
         LEFT JOIN ladder_versions v ON v.meter_id = m.id
              AND v.number = (SELECT max(number) FROM ladder_versions WHERE meter_id = m.id)
         LEFT JOIN family_ladders f ON f.class_id = c.id AND f.meter_name = m.name
              AND f.number = (SELECT max(number) FROM family_ladders WHERE class_id = c.id AND meter_name = m.name)
         WHERE m.retired_at IS NULL AND (?1 OR m.asset_id IN rarray(?2))
         GROUP BY c.id, m.name HAVING count(*) > 1 OR has ORDER BY c.name, m.name",
    )?;
    let mut rows = select.query(params![scope.is_none(), ids])?;
    let mut families = Vec::new();
    while let Some(row) = rows.next()? {
        families.push(FamilyRow {
            class: row.get("class")?,
            class_name: row.get("class_name")?,
            name: row.get("name")?,
            kind: row.get("kind")?,
            unit: row.get("unit")?,
            meters: row.get("meters")?,
            with_limits: row.get("with_limits")?,
            has_ladder: row.get("has")?,
            deviating: row.get("deviating")?,
        });
    }
    Ok(families)
}

fn class_of(conn: &Connection, class: &str) -> Result<(i64, String)> {
    let found = conn
        .prepare_cached("SELECT id, name FROM equipment_classes WHERE code = ?1")?
        .query_row([class], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?;
    found.ok_or_else(|| StoreError::not_found("equipment class", class))
}

fn members(conn: &Connection, class: i64, name: &str) -> Result<Vec<Found>> {
    let mut select = conn.prepare_cached(
        "SELECT m.*, a.code AS asset, a.name AS asset_name, v.definition,
                (SELECT max(severity) FROM alarms WHERE meter_id = m.id AND left_at IS NULL AND kind = 'limit') AS worst
         FROM meters m JOIN assets a ON a.id = m.asset_id
         LEFT JOIN ladder_versions v ON v.meter_id = m.id
              AND v.number = (SELECT max(number) FROM ladder_versions WHERE meter_id = m.id)
         WHERE a.class_id = ?1 AND m.name = ?2 AND m.retired_at IS NULL ORDER BY m.code",
    )?;
    let mut rows = select.query(params![class, name])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let own: Option<String> = row.get("definition")?;
        found.push(Found {
            code: row.get("code")?,
            asset: NamedAsset { code: row.get("asset")?, name: row.get("asset_name")? },
            rules: meters::rules(row)?,
            own: own.map(|text| from_json("ladder_versions", &text)).transpose()?,
            worst: row.get("worst")?,
        });
    }
    if found.is_empty() {
        return Err(StoreError::not_found("family", name));
    }
    Ok(found)
}

fn written(conn: &Connection, class: i64, name: &str) -> Result<Option<Written>> {
    let found = conn
        .prepare_cached(
            "SELECT f.number, f.definition, f.reason, p.name, f.recorded_at FROM family_ladders f
             JOIN people p ON p.id = f.recorded_by
             WHERE f.class_id = ?1 AND f.meter_name = ?2 ORDER BY f.number DESC LIMIT 1",
        )?
        .query_row(params![class, name], |row| {
            Ok((row.get(0)?, row.get::<_, String>(1)?, row.get(2)?, row.get(3)?, row.get("recorded_at")?))
        })
        .optional()?;
    let Some((number, text, reason, by, at)) = found else { return Ok(None) };
    Ok(Some(Written { number, ladder: from_json("family_ladders", &text)?, reason, by, at }))
}

/// A family with its ladder; meters that deviate from it say in what.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown class or a name none of its meters has.
pub fn view(rows: &dyn Rows, class: &str, name: &str) -> Result<FamilyView> {
    let conn = rows.sql().conn;
    let (class_id, class_name) = class_of(conn, class)?;
    let found = members(conn, class_id, name)?;
    let family = written(conn, class_id, name)?;
    let rules = found[0].rules.clone();
    let proposed = proposed_view(conn, class_id, name, family.as_ref(), &rules)?;
    let meters = found
        .into_iter()
        .map(|one| {
            let differs = match (&family, &one.own) {
                (Some(family), Some(own)) => changes(&family.ladder, own, &one.rules),
                _ => Vec::new(),
            };
            let deviates = matches!((&family, &one.own), (Some(family), Some(own)) if family.ladder != *own);
            FamilyMeter {
                meter: one.code,
                asset: one.asset,
                has_ladder: one.own.is_some(),
                deviates,
                changes: differs,
                worst_severity: one.worst,
            }
        })
        .collect();
    Ok(FamilyView {
        class: class.into(),
        class_name,
        name: name.into(),
        kind: rules.kind,
        unit: rules.unit,
        grades: rules.grades,
        number: family.as_ref().map_or(0, |family| family.number),
        reason: family.as_ref().map(|family| family.reason.clone()),
        by: family.as_ref().map(|family| family.by.clone()),
        at: family.as_ref().map(|family| family.at),
        ladder: family.map(|family| family.ladder),
        proposed,
        meters,
    })
}

/// Writes a ladder for a family: every meter that had the family's ladder, or none, gets a new version; those with one
/// of their own keep it unless they are named. As a trial run it shows what would change. Where danger rungs need a second
/// engineer and one is touched, of the family or of a meter, all of it is proposed instead.
///
/// # Errors
/// [`StoreError::Invalid`] without a reason or with rungs that make no sense for the family's meters.
pub fn set(tx: &mut Tx, class: &str, name: &str, new: &FamilyLadder) -> Result<FamilyReceipt> {
    tx.require(Action::SetLimits)?;
    if new.reason.trim().is_empty() {
        return Err(StoreError::invalid("reason", "say why the limits are changed"));
    }
    let family = Family::of(tx.conn, class, name)?;
    new.ladder
        .check(&family.members[0].rules)
        .map_err(|error| StoreError::invalid(format!("ladder.{}", error.field()), error))?;
    if settings::get(tx.conn)?.second_approval && family.touches_danger(new) {
        return propose(tx, &family, new);
    }
    tx.audit("family limits changed", "family", &family.path(), new)?;
    write(tx, &family, new, tx.actor.id, None)
}

/// A family as it is before something is written for it.
struct Family {
    class_id: i64,
    class: String,
    name: String,
    members: Vec<Found>,
    before: Option<Written>,
}

impl Family {
    fn of(conn: &Connection, class: &str, name: &str) -> Result<Self> {
        let (class_id, _) = class_of(conn, class)?;
        let (members, before) = (members(conn, class_id, name)?, written(conn, class_id, name)?);
        Ok(Self { class_id, class: class.into(), name: name.into(), members, before })
    }

    fn path(&self) -> String {
        format!("{}/{}", self.class, self.name)
    }

    /// What a new ladder means for a member, approval aside.
    fn fate(&self, one: &Found, new: &FamilyLadder) -> FamilyFate {
        let follows = match (&one.own, &self.before) {
            (None, _) => true,
            (Some(own), Some(before)) => *own == before.ladder,
            (Some(_), None) => false,
        };
        if one.own.as_ref() == Some(&new.ladder) {
            FamilyFate::Unchanged
        } else if !follows && !new.also.contains(&one.code) {
            FamilyFate::KeepsItsOwn
        } else {
            FamilyFate::Changed
        }
    }

    fn touches_danger(&self, new: &FamilyLadder) -> bool {
        let nothing = Ladder::default();
        let of_family = self.before.as_ref().map_or(&nothing, |before| &before.ladder);
        let changed = self.members.iter().filter(|one| self.fate(one, new) == FamilyFate::Changed);
        let own = changed.map(|one| one.own.as_ref().unwrap_or(&nothing));
        own.chain([of_family]).any(|before| touches_danger(before, &new.ladder))
    }

    fn row(&self, one: &Found, new: &FamilyLadder) -> FamilyReceiptRow {
        let own = one.own.clone().unwrap_or_default();
        FamilyReceiptRow {
            meter: one.code.clone(),
            asset: one.asset.clone(),
            fate: self.fate(one, new),
            changes: changes(&own, &new.ladder, &one.rules),
            reason: None,
            ended_alarms: 0,
            alarms: 0,
            work_orders: Vec::new(),
        }
    }
}

/// The one way a family's ladder is written.
fn write(
    tx: &mut Tx,
    family: &Family,
    new: &FamilyLadder,
    author: PersonId,
    second: Option<PersonId>,
) -> Result<FamilyReceipt> {
    let number = family.before.as_ref().map_or(1, |before| before.number + 1);
    tx.conn.execute(
        "INSERT INTO family_ladders (class_id, meter_name, number, reason, definition, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
        params![family.class_id, family.name, number, new.reason.trim(), to_json(&new.ladder), tx.now, author.0],
    )?;
    let mut rows = Vec::with_capacity(family.members.len());
    for one in &family.members {
        let mut row = family.row(one, new);
        if row.fate == FamilyFate::Changed {
            let wanted = NewLadder { reason: new.reason.clone(), ladder: new.ladder.clone() };
            let meter = meters::require(tx.conn, &one.code)?;
            // Such as a meter of another unit: the check comes before anything is written.
            match limits::check(tx, &one.code, &wanted.ladder) {
                Ok(()) => {
                    tx.audit("limits changed", "meter", &one.code, &wanted)?;
                    let receipt = limits::write(tx, &one.code, meter, &wanted, author, second)?;
                    (row.ended_alarms, row.alarms) = (receipt.ended_alarms, receipt.alarms);
                    row.work_orders = receipt.work_orders;
                }
                Err(StoreError::Invalid { field, reason }) => {
                    row.fate = FamilyFate::Refused;
                    row.reason = Some(format!("{field}: {reason}"));
                }
                Err(error) => return Err(error),
            }
        }
        rows.push(row);
    }
    Ok(FamilyReceipt { number, pending: false, rows })
}

fn propose(tx: &Tx, family: &Family, new: &FamilyLadder) -> Result<FamilyReceipt> {
    tx.conn.execute(
        "INSERT INTO proposed_family_ladders (class_id, meter_name, reason, definition, also, recorded_at, recorded_by)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)
         ON CONFLICT (class_id, meter_name) DO UPDATE SET reason = excluded.reason, definition = excluded.definition,
             also = excluded.also, recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by",
        params![
            family.class_id,
            family.name,
            new.reason.trim(),
            to_json(&new.ladder),
            to_json(&new.also),
            tx.now,
            tx.actor.id,
        ],
    )?;
    tx.audit("family limits proposed", "family", &family.path(), new)?;
    let mut rows: Vec<FamilyReceiptRow> = family.members.iter().map(|one| family.row(one, new)).collect();
    for row in rows.iter_mut().filter(|row| row.fate == FamilyFate::Changed) {
        row.fate = FamilyFate::Proposed;
    }
    Ok(FamilyReceipt { number: family.before.as_ref().map_or(0, |before| before.number), pending: true, rows })
}

/// A second engineer's yes to what was proposed for a family: its meters get their new versions now.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed, [`StoreError::NotTheirs`] for whoever proposed it.
pub fn approve(tx: &mut Tx, class: &str, name: &str) -> Result<FamilyReceipt> {
    tx.require(Action::SetLimits)?;
    let family = Family::of(tx.conn, class, name)?;
    let (new, author) = proposed(tx.conn, &family)?;
    if author == tx.actor.id {
        return Err(StoreError::NotTheirs("a second engineer approves what you proposed".into()));
    }
    withdraw(tx, &family)?;
    tx.audit("family limits approved", "family", &family.path(), &new)?;
    write(tx, &family, &new, author, Some(tx.actor.id))
}

/// Takes back or turns down what was proposed for a family. Nothing of it was on its meters.
///
/// # Errors
/// [`StoreError::NotFound`] where nothing is proposed.
pub fn turn_down(tx: &mut Tx, class: &str, name: &str) -> Result<()> {
    tx.require(Action::SetLimits)?;
    let family = Family::of(tx.conn, class, name)?;
    let (new, _) = proposed(tx.conn, &family)?;
    withdraw(tx, &family)?;
    tx.audit("proposed family limits turned down", "family", &family.path(), &new)
}

fn withdraw(tx: &Tx, family: &Family) -> Result<()> {
    tx.conn.execute(
        "DELETE FROM proposed_family_ladders WHERE class_id = ?1 AND meter_name = ?2",
        params![family.class_id, family.name],
    )?;
    Ok(())
}

fn proposed(conn: &Connection, family: &Family) -> Result<(FamilyLadder, PersonId)> {
    let found = proposed_row(conn, family.class_id, &family.name)?;
    let (new, by, ..) = found.ok_or_else(|| StoreError::not_found("proposed ladder of family", family.path()))?;
    Ok((new, by))
}

/// What is proposed, by whom, with their code and name, and when.
type ProposedRow = (FamilyLadder, PersonId, String, String, Instant);

fn proposed_row(conn: &Connection, class: i64, name: &str) -> Result<Option<ProposedRow>> {
    let mut select = conn.prepare_cached(
        "SELECT f.reason, f.definition, f.also, f.recorded_by, f.recorded_at, p.code, p.name
         FROM proposed_family_ladders f JOIN people p ON p.id = f.recorded_by
         WHERE f.class_id = ?1 AND f.meter_name = ?2",
    )?;
    let mut rows = select.query(params![class, name])?;
    let Some(row) = rows.next()? else { return Ok(None) };
    let new = FamilyLadder {
        reason: row.get("reason")?,
        ladder: from_json("proposed_family_ladders", &row.get::<_, String>("definition")?)?,
        also: from_json("proposed_family_ladders", &row.get::<_, String>("also")?)?,
    };
    let by = row.get("recorded_by")?;
    Ok(Some((new, by, row.get("code")?, row.get("name")?, row.get("recorded_at")?)))
}

fn proposed_view(
    conn: &Connection,
    class: i64,
    name: &str,
    family: Option<&Written>,
    rules: &Meter,
) -> Result<Option<Box<ProposedFamily>>> {
    let Some((new, _, by, by_name, at)) = proposed_row(conn, class, name)? else { return Ok(None) };
    let FamilyLadder { reason, ladder, also } = new;
    let before = family.map(|family| family.ladder.clone()).unwrap_or_default();
    let changes = changes(&before, &ladder, rules);
    Ok(Some(Box::new(ProposedFamily { ladder, reason, also, at, by, by_name, changes })))
}

fn to_run(view: &View, class: &str, name: &str, ladder: Option<Ladder>) -> Result<(Vec<Member>, Ladder)> {
    let (class_id, _) = class_of(view.conn, class)?;
    let found = members(view.conn, class_id, name)?;
    let ladder = match ladder {
        Some(ladder) => ladder,
        None => written(view.conn, class_id, name)?.map(|family| family.ladder).unwrap_or_default(),
    };
    ladder.check(&found[0].rules).map_err(|error| StoreError::invalid(format!("ladder.{}", error.field()), error))?;
    let members = found.into_iter().map(|one| Member { code: one.code, asset: one.asset });
    Ok((members.collect(), ladder))
}

/// What a ladder would have done on all meters of a family.
///
/// # Errors
/// As [`view`]; [`StoreError::Invalid`] for a ladder that can't be.
pub fn replay_of(
    view: &View,
    class: &str,
    name: &str,
    span: Span,
    ladder: Option<Ladder>,
    asked: &JudgedBy,
) -> Result<ManyReplay> {
    let (members, ladder) = to_run(view, class, name, ladder)?;
    replay::of_many(view, &members, span, &ladder, asked)
}

/// What each of many settings of one rung would have come to on all meters of a family.
///
/// # Errors
/// As [`replay_of`].
pub fn finder_of(
    view: &View,
    class: &str,
    name: &str,
    span: Span,
    ladder: Option<Ladder>,
    which: &FinderAsked,
    asked: &JudgedBy,
) -> Result<FinderView> {
    let (members, ladder) = to_run(view, class, name, ladder)?;
    replay::find_many(view, &members, span, &ladder, which, asked)
}

/// Setpoints that the baseline windows of a family's meters speak for together.
///
/// # Errors
/// As [`view`], and as for one meter.
pub fn proposals_of(view: &View, class: &str, name: &str, span: Span, asked: &ProposalsAsked) -> Result<ProposalsView> {
    let (members, _) = to_run(view, class, name, None)?;
    replay::proposals_of_many(view, &members, span, asked)
}

/// Meters of a family that get to a rung of the ladder given (or of the family's), the soonest first.
///
/// # Errors
/// As [`replay_of`].
pub fn forecast_of(
    view: &View,
    class: &str,
    name: &str,
    span: Span,
    ladder: Option<Ladder>,
) -> Result<Vec<MeterForecast>> {
    let (members, ladder) = to_run(view, class, name, ladder)?;
    replay::forecast_many(view, &members, span, &ladder)
}
