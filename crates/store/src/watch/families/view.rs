//! Families as listed, and one with its meters.

use crate::{
    ground::{error::Result, rows::list_of, sql::Rows, view::View},
    plant::assets::NamedAsset,
    watch::families::{
        approval::proposed_row,
        members::{Written, class_of, members, written},
    },
};
use rusqlite::{Connection, params};
use serde::Serialize;
use tally_core::{
    ground::{ids::AssetId, severity::Severity, time::Instant},
    watch::{
        limits::{
            Ladder,
            changes::{LadderChange, changes},
            family::{FamilyLadder, deviates},
        },
        meters::{Meter, MeterWord},
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
    pub kind: MeterWord,
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
    pub kind: MeterWord,
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

/// Families in scope with at least two meters, or with a ladder, by class and name.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows, scope: Option<&[AssetId]>) -> Result<Vec<FamilyRow>> {
    let conn = rows.sql().conn;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
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

/// A family with its ladder; meters that deviate from it say in what.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown class or a name none of its meters has.
pub fn view(look: &View, class: &str, name: &str) -> Result<FamilyView> {
    let conn = look.conn;
    let (class_id, class_name) = class_of(conn, class)?;
    let found = members(conn, class_id, name, &look.viewer.reaches("m.asset_id"))?;
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
            let deviates = deviates(one.own.as_ref(), family.as_ref().map(|family| &family.ladder));
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
        kind: rules.word(),
        grades: rules.grades().to_vec(),
        unit: rules.unit,
        number: family.as_ref().map_or(0, |family| family.number),
        reason: family.as_ref().map(|family| family.reason.clone()),
        by: family.as_ref().map(|family| family.by.clone()),
        at: family.as_ref().map(|family| family.at),
        ladder: family.map(|family| family.ladder),
        proposed,
        meters,
    })
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
