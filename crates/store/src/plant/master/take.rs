//! Adding and changing rows by their code, each whole or not at all.

use super::{
    Column, FieldChange, FieldReason, Form, Given, GivenRow, InPieces, Kind, MasterReceipt, Outcome, RowReport, Watch,
    columns,
    columns::Keep,
    given::{Read, ordered},
    kinds::{self, Wanted},
    list::of_codes,
    pieces::whole,
};
use crate::{
    access::people,
    ground::{
        error::{Result, StoreError},
        sql::Rows,
        tx::Tx,
    },
    plant::{assets, settings},
    watch::alarms,
};
use rusqlite::{OptionalExtension, ToSql, types::Value};
use std::collections::{HashMap, HashSet};

/// Rows taken in one piece.
const PIECE: usize = 500;

/// Adds rows whose code is new and changes the others. A row with anything wrong is refused whole; the others are taken.
/// Assets are taken parents first, whatever their order.
#[derive(Debug)]
pub struct Taking {
    kind: Kind,
    minor_digits: u8,
    source: String,
    all: usize,
    rows: std::vec::IntoIter<Read>,
    /// Classes and crews known to be there, so that each is looked up once.
    named: HashSet<(Kind, String)>,
    receipt: MasterReceipt,
}

impl Taking {
    /// Reads the rows.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] when the source has no column of codes, and SQLite's own.
    pub fn of(rows: &dyn Rows, kind: Kind, given: Given<'_, impl IntoIterator<Item = GivenRow>>) -> Result<Self> {
        let conn = rows.sql().conn;
        let mut receipt = MasterReceipt::default();
        let (minor_digits, source) = (settings::get(conn)?.minor_digits, given.source.to_owned());
        let rows = ordered(kind, given, minor_digits, &mut receipt)?;
        let (all, named) = (rows.len(), HashSet::new());
        Ok(Self { kind, minor_digits, source, all, rows: rows.into_iter(), named, receipt })
    }
}

impl InPieces for Taking {
    fn done(&self) -> usize {
        self.all - self.rows.len()
    }

    fn all(&self) -> usize {
        self.all
    }

    fn piece(&mut self, tx: &mut Tx) -> Result<()> {
        tx.require(self.kind.action())?;
        let rows: Vec<Read> = self.rows.by_ref().take(PIECE).collect();
        let existing = existing(tx, self.kind, &rows)?;
        for row in rows {
            let found = existing.get(&row.code).cloned();
            let report = self.one(tx, row, found)?;
            self.receipt.note(report);
        }
        Ok(())
    }

    fn receipt(self) -> MasterReceipt {
        self.receipt.in_order()
    }
}

/// Takes all rows in one transaction, see [`Taking`].
///
/// # Errors
/// As [`Taking::of`], [`StoreError::Cancelled`] when `watch` says so, and [`StoreError::MayNot`].
pub fn take<R: IntoIterator<Item = GivenRow>>(
    tx: &mut Tx,
    kind: Kind,
    given: Given<'_, R>,
    watch: &mut Watch,
) -> Result<MasterReceipt> {
    tx.require(kind.action())?;
    let mut taking = Taking::of(tx.conn, kind, given)?;
    whole(tx, &mut taking, watch)?;
    Ok(taking.receipt())
}

/// What is there of the given codes, old codes of assets too.
fn existing(tx: &Tx, kind: Kind, rows: &[Read]) -> Result<HashMap<String, (i64, Vec<String>)>> {
    let mut find = tx.conn.prepare_cached(&format!("SELECT id FROM {} WHERE code = ?1", kind.table()))?;
    let mut ids: HashMap<String, i64> = HashMap::new();
    for row in rows {
        let found = find.query_row([&row.code], |found| found.get(0)).optional()?;
        let id = match (found, kind) {
            (None, Kind::Assets) => assets::find(tx.conn, &row.code)?.map(|id| id.0),
            (found, _) => found,
        };
        if let Some(id) = id {
            ids.insert(row.code.clone(), id);
        }
    }
    let mut wanted: Vec<i64> = ids.values().copied().collect();
    wanted.sort_unstable();
    wanted.dedup();
    let texts: HashMap<i64, Vec<String>> = of_codes(tx.conn, kind, &wanted)?.into_iter().collect();
    Ok(ids.into_iter().filter_map(|(code, id)| Some((code, (id, texts.get(&id)?.clone())))).collect())
}

impl Taking {
    fn one(&mut self, tx: &mut Tx, row: Read, found: Option<(i64, Vec<String>)>) -> Result<RowReport> {
        let Read { line, code, cells, was } = row;
        tx.conn.prepare_cached("SAVEPOINT one_row")?.execute([])?;
        let mut new_names = Vec::new();
        let done = self.make(tx, &code, cells, &was, found, &mut new_names);
        let (outcome, changes, reasons) = match done {
            Ok((outcome, changes)) => {
                self.receipt.also_added.append(&mut new_names);
                (outcome, changes, vec![])
            }
            Err(error) => {
                tx.conn.prepare_cached("ROLLBACK TO one_row")?.execute([])?;
                self.named.retain(|(kind, name)| !new_names.contains(&format!("{} {name}", kind.noun())));
                (Outcome::Refused, vec![], vec![reason(error)?])
            }
        };
        tx.conn.prepare_cached("RELEASE one_row")?.execute([])?;
        Ok(RowReport { line, code, outcome, changes, reasons })
    }

    fn make(
        &mut self,
        tx: &mut Tx,
        code: &str,
        cells: Vec<Option<String>>,
        was: &[(String, String)],
        found: Option<(i64, Vec<String>)>,
        new_names: &mut Vec<String>,
    ) -> Result<(Outcome, Vec<FieldChange>)> {
        let columns = columns(self.kind);
        let is_new = found.is_none();
        let (id, kept) = found.unwrap_or_else(|| (0, columns.iter().map(|c| c.default.to_owned()).collect()));
        for (field, was) in was {
            let now = columns.iter().position(|column| column.name == field).map(|place| &kept[place]);
            if let Some(now) = now.filter(|now| *now != was) {
                return Err(StoreError::invalid(field, format!("was changed to {now:?} meanwhile")));
            }
        }
        let mut wanted: Vec<String> =
            cells.into_iter().zip(&kept).map(|(cell, kept)| cell.unwrap_or(kept.clone())).collect();
        // An old code stands for the asset; its code stays the new one.
        wanted[0] = if is_new { code.into() } else { kept[0].clone() };
        for (place, column) in columns.iter().enumerate() {
            if wanted[place].is_empty() {
                match (self.kind, column.name) {
                    (Kind::Meters, "name") => wanted[place] = wanted[0].clone(),
                    _ if column.required => return Err(StoreError::invalid(column.name, "is missing")),
                    _ => {}
                }
            }
            if column.name == "scope" {
                let mut scope = super::forms::parts(&wanted[place]);
                scope.sort_unstable();
                wanted[place] = scope.join(" | ");
            }
            if column.name == "old_codes" {
                // Old codes are never taken away: those that are kept and those that are given stand together.
                let mut both = super::forms::parts(&kept[place]);
                both.extend(super::forms::parts(&wanted[place]).into_iter().filter(|code| *code != wanted[0]));
                both.sort_unstable();
                both.dedup();
                let both = both.join(" | ");
                wanted[place] = both;
            }
            self.name(tx, column, &wanted[place], new_names)?;
        }
        let changed: Vec<(usize, &Column)> =
            columns.iter().enumerate().filter(|(place, _)| wanted[*place] != kept[*place]).collect();
        let row =
            Wanted { kind: self.kind, columns, texts: &wanted, minor_digits: self.minor_digits, source: &self.source };
        if is_new {
            kinds::add(tx, &row)?;
            return Ok((Outcome::Added, vec![]));
        }
        if changed.is_empty() {
            return Ok((Outcome::Unchanged, vec![]));
        }
        let only_columns: Vec<&Column> = changed.iter().map(|(_, column)| *column).collect();
        // What is checked against the row as it was comes before the row is written.
        kinds::change(tx, id, &row, &only_columns)?;
        for column in &only_columns {
            self.keep(tx, id, column, &row)?;
        }
        if only_columns.iter().any(|column| column.name == "retired_at") {
            // What stands on a meter or an asset that is retired ends with it.
            alarms::end_retired(tx)?;
        }
        let changes: Vec<FieldChange> = changed
            .into_iter()
            .map(|(place, column)| FieldChange {
                field: column.name.into(),
                from: kept[place].clone(),
                to: wanted[place].clone(),
            })
            .collect();
        tx.audit("changed", self.kind.noun(), &wanted[0], &changes)?;
        Ok((Outcome::Changed, changes))
    }

    fn keep(&self, tx: &Tx, id: i64, column: &Column, row: &Wanted) -> Result<()> {
        let table = self.kind.table();
        match column.keep {
            Keep::Apart => Ok(()),
            Keep::Own(name) => {
                let mut update = tx.conn.prepare_cached(&format!("UPDATE {table} SET {name} = ?2 WHERE id = ?1"))?;
                let value: Value = row.kept(column.name);
                update.execute([&id as &dyn ToSql, &value])?;
                Ok(())
            }
            Keep::Id { column: name, of } => {
                let sql = format!(
                    "UPDATE {table} SET {name} = (SELECT id FROM {} WHERE code = ?2) WHERE id = ?1",
                    of.table()
                );
                tx.conn.prepare_cached(&sql)?.execute([&id as &dyn ToSql, &row.text(column.name)])?;
                Ok(())
            }
        }
    }

    /// Sees to it that what a cell names is there. Classes and crews that are not are added by their code.
    fn name(&mut self, tx: &mut Tx, column: &Column, code: &str, new_names: &mut Vec<String>) -> Result<()> {
        let Form::Refers { to } = column.form else { return Ok(()) };
        if code.is_empty() || self.named.contains(&(to, code.to_owned())) {
            return Ok(());
        }
        if to == Kind::Assets {
            assets::require_in(tx.conn, code, column.name)?;
            return Ok(());
        }
        let sql = format!("SELECT 1 FROM {} WHERE code = ?1", to.table());
        if !tx.conn.prepare_cached(&sql)?.exists([code])? {
            match to {
                Kind::EquipmentClasses => assets::add_class(tx, code, code)?,
                Kind::Crews => {
                    let crew = people::Crew {
                        code: code.into(),
                        name: code.into(),
                        department: code.into(),
                        weekly_hours: 0.0,
                    };
                    people::add_crew(tx, &crew)?;
                }
                Kind::Assets | Kind::Meters | Kind::People | Kind::UpkeepPlans | Kind::Storeroom => {
                    return Err(StoreError::invalid(column.name, format!("there is no {} {code:?}", to.noun())));
                }
            }
            new_names.push(format!("{} {code}", to.noun()));
        }
        self.named.insert((to, code.to_owned()));
        Ok(())
    }
}

/// What is wrong with a row, where that is all: other errors end the taking.
fn reason(error: StoreError) -> Result<FieldReason> {
    match error {
        StoreError::Invalid { field, reason } => Ok(FieldReason { field, reason }),
        StoreError::Conflict(reason) | StoreError::NotTheirs(reason) => {
            Ok(FieldReason { field: "code".into(), reason })
        }
        StoreError::MayNotSee(refusal) => Ok(FieldReason { field: String::new(), reason: refusal.to_string() }),
        StoreError::MayNot(refusal) => Ok(FieldReason { field: String::new(), reason: refusal.to_string() }),
        other => Err(other),
    }
}
