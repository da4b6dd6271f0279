//! Writing the ladder of a family: each of its meters gets a version of its own, or keeps what it has.

use crate::{
    ground::{
        error::{Result, StoreError},
        rows::to_json,
        tx::Tx,
        viewer::Viewer,
    },
    plant::assets::NamedAsset,
    watch::{
        families::members::{Found, Written, class_of, members, written},
        limits,
        limits::NewLadder,
        meters,
    },
};
use rusqlite::{Connection, params};
use serde::Serialize;
use tally_core::{
    ground::ids::{PersonId, WorkOrderId},
    watch::limits::{
        Ladder,
        changes::{LadderChange, changes},
        family::{FamilyFate, FamilyLadder},
    },
};
use utoipa::ToSchema;

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

/// What becomes, or would become, of all meters of a family.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FamilyReceipt {
    pub number: i64,
    /// It waits for a second engineer; nothing else has changed.
    pub pending: bool,
    pub rows: Vec<FamilyReceiptRow>,
}

/// A family as it is before something is written for it.
pub(super) struct Family {
    pub(super) class_id: i64,
    pub(super) class: String,
    pub(super) name: String,
    pub(super) members: Vec<Found>,
    pub(super) before: Option<Written>,
}

impl Family {
    pub(super) fn of(conn: &Connection, class: &str, name: &str) -> Result<Self> {
        let (class_id, _) = class_of(conn, class)?;
        let (members, before) =
            (members(conn, class_id, name, &Viewer::all().reaches("m.asset_id"))?, written(conn, class_id, name)?);
        Ok(Self { class_id, class: class.into(), name: name.into(), members, before })
    }

    pub(super) fn path(&self) -> String {
        format!("{}/{}", self.class, self.name)
    }

    /// The family's ladder before.
    pub(super) fn ladder(&self) -> Option<&Ladder> {
        self.before.as_ref().map(|before| &before.ladder)
    }

    /// Codes of its meters, each with its own ladder.
    pub(super) fn ladders(&self) -> impl Iterator<Item = (&str, Option<&Ladder>)> {
        self.members.iter().map(|one| (one.code.as_str(), one.own.as_ref()))
    }

    pub(super) fn row(&self, one: &Found, new: &FamilyLadder) -> FamilyReceiptRow {
        let own = one.own.clone().unwrap_or_default();
        FamilyReceiptRow {
            meter: one.code.clone(),
            asset: one.asset.clone(),
            fate: new.fate(&one.code, one.own.as_ref(), self.ladder()),
            changes: changes(&own, &new.ladder, &one.rules),
            reason: None,
            ended_alarms: 0,
            alarms: 0,
            work_orders: Vec::new(),
        }
    }
}

/// The one way a family's ladder is written.
pub(super) fn write(
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

pub(super) fn withdraw(tx: &Tx, family: &Family) -> Result<()> {
    tx.conn.execute(
        "DELETE FROM proposed_family_ladders WHERE class_id = ?1 AND meter_name = ?2",
        params![family.class_id, family.name],
    )?;
    Ok(())
}
