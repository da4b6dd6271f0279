//! Adding and changing rows by their code, each whole or not at all.

use super::{
    Column, FieldChange, FieldReason, Form, Kind, MasterReceipt, Outcome, RowReport, columns,
    columns::Keep,
    forms::Writing,
    kinds::{self, Wanted},
    list::of_codes,
    receipt::MOST_REFUSED,
};
use crate::{
    act::Act,
    alarms, assets,
    error::{Result, StoreError},
    people, settings,
};
use jiff::tz::TimeZone;
use rusqlite::{ToSql, types::Value};
use std::collections::{HashMap, HashSet};
use tally_core::files::Decimal;

/// Told after every few rows how many of how many are done; when it answers `false`, nothing of it all is kept.
pub type Watch<'a> = dyn FnMut(usize, usize) -> bool + 'a;

/// Rows between two questions whether to go on.
const STRIDE: usize = 256;

/// A row as it is given: its line, its cells in the order of the columns, and what its fields are believed to hold now.
#[derive(Debug, Clone)]
pub struct GivenRow {
    pub line: u64,
    pub cells: Result<Vec<String>, String>,
    /// Field and value: where it is another by now, the row is refused rather than written over somebody's change.
    pub was: Vec<(String, String)>,
}

/// Rows to add or change, from a file or a form.
#[derive(Debug)]
pub struct Given<'a, R> {
    /// Names of the columns. Those that are left out stay as they are.
    pub columns: &'a [String],
    pub rows: R,
    pub decimal: Decimal,
    /// Of times without an offset.
    pub zone: Option<&'a TimeZone>,
    /// Where the rows come from, such as a file's name: the reason of moves.
    pub source: &'a str,
}

/// A row that could be read: one cell a column of the kind, `None` where the source has no such column.
struct Read {
    line: u64,
    code: String,
    cells: Vec<Option<String>>,
    was: Vec<(String, String)>,
}

/// Adds rows whose code is new and changes the others. A row with anything wrong is refused whole; the others are taken.
///
/// Assets are taken parents first, whatever their order.
///
/// # Errors
/// [`StoreError::Invalid`] when the source has no column of codes, [`StoreError::Cancelled`] when `watch` says so, and
/// [`StoreError::MayNot`].
pub fn take<R: IntoIterator<Item = GivenRow>>(
    act: &mut Act,
    kind: Kind,
    given: Given<'_, R>,
    watch: &mut Watch,
) -> Result<MasterReceipt> {
    act.require(kind.action())?;
    let minor_digits = settings::get(act.conn)?.minor_digits;
    let writing = Writing { decimal: given.decimal, zone: given.zone, minor_digits };
    let mut receipt = MasterReceipt::default();
    let places = places(kind, given.columns, &mut receipt)?;
    let rows = read(kind, given.rows, &places, &writing, &mut receipt);
    let mut taking = Taking { kind, minor_digits, source: given.source, named: HashSet::new() };
    let existing = existing(act, kind, &rows)?;
    let rows = if kind == Kind::Assets { parents_first(rows, &existing, &mut receipt) } else { rows };
    let all = rows.len();
    for (done, row) in rows.into_iter().enumerate() {
        if done % STRIDE == 0 && !watch(done, all) {
            return Err(StoreError::Cancelled);
        }
        let found = existing.get(&row.code).cloned();
        let report = taking.one(act, row, found, &mut receipt.also_added)?;
        receipt.note(report);
    }
    receipt.lines.sort_by_key(|report| report.line);
    if !watch(all, all) {
        return Err(StoreError::Cancelled);
    }
    Ok(receipt)
}

/// For each column of the kind, its place in the source.
fn places(kind: Kind, given: &[String], receipt: &mut MasterReceipt) -> Result<Vec<Option<usize>>> {
    let known = columns(kind);
    let place = |column: &Column| given.iter().position(|name| name == column.name);
    let places: Vec<Option<usize>> = known.iter().map(place).collect();
    if places[0].is_none() {
        return Err(StoreError::invalid("code", "the first line must name the columns, one of them \"code\""));
    }
    let unknown = given.iter().filter(|name| !name.is_empty() && known.iter().all(|column| column.name != **name));
    receipt.ignored_columns = unknown.cloned().collect();
    Ok(places)
}

fn read(
    kind: Kind,
    rows: impl IntoIterator<Item = GivenRow>,
    places: &[Option<usize>],
    writing: &Writing,
    receipt: &mut MasterReceipt,
) -> Vec<Read> {
    let mut found: Vec<Read> = Vec::new();
    let mut lines: HashMap<String, u64> = HashMap::new();
    for row in rows {
        if receipt.refused >= MOST_REFUSED {
            receipt.given_up = true;
            break;
        }
        let whole = |reason: String| vec![FieldReason { field: String::new(), reason }];
        let cells = match row.cells {
            Ok(cells) => cells,
            Err(reason) => {
                receipt.refuse(row.line, "", whole(reason));
                continue;
            }
        };
        let mut reasons = Vec::new();
        let tidy: Vec<Option<String>> = columns(kind)
            .iter()
            .zip(places)
            .map(|(column, place)| {
                let cell = cells.get((*place)?)?;
                let text = column.form.tidy(cell, writing).unwrap_or_else(|reason| {
                    reasons.push(FieldReason { field: column.name.into(), reason });
                    cell.clone()
                });
                if text.is_empty() && column.required {
                    reasons.push(FieldReason { field: column.name.into(), reason: "is missing".into() });
                }
                Some(if text.is_empty() { column.default.into() } else { text })
            })
            .collect();
        let code = tidy[0].clone().unwrap_or_default();
        if reasons.is_empty()
            && let Some(first) = lines.insert(code.clone(), row.line)
        {
            reasons.push(FieldReason { field: "code".into(), reason: format!("line {first} gives {code} already") });
            lines.insert(code.clone(), first);
        }
        if reasons.is_empty() {
            found.push(Read { line: row.line, code, cells: tidy, was: row.was });
        } else {
            receipt.refuse(row.line, &code, reasons);
        }
    }
    found
}

/// What is there of the given codes, old codes of assets too.
fn existing(act: &Act, kind: Kind, rows: &[Read]) -> Result<HashMap<String, (i64, Vec<String>)>> {
    let mut find = act.conn.prepare_cached(&format!("SELECT id FROM {} WHERE code = ?1", kind.table()))?;
    let mut ids: HashMap<String, i64> = HashMap::new();
    for row in rows {
        let found = crate::rows::optional(find.query_row([&row.code], |found| found.get(0)))?;
        let id = match (found, kind) {
            (None, Kind::Assets) => assets::find(act.conn, &row.code)?.map(|id| id.0),
            (found, _) => found,
        };
        if let Some(id) = id {
            ids.insert(row.code.clone(), id);
        }
    }
    let mut wanted: Vec<i64> = ids.values().copied().collect();
    wanted.sort_unstable();
    wanted.dedup();
    let texts: HashMap<i64, Vec<String>> = of_codes(act.conn, kind, &wanted)?.into_iter().collect();
    Ok(ids.into_iter().filter_map(|(code, id)| Some((code, (id, texts.get(&id)?.clone())))).collect())
}

/// Rows in an order in which a parent comes before what is below it. Rows whose parents lead back to themselves, and
/// rows below a refused one that is not there yet, are refused.
fn parents_first(
    rows: Vec<Read>,
    existing: &HashMap<String, (i64, Vec<String>)>,
    receipt: &mut MasterReceipt,
) -> Vec<Read> {
    let parent_at = columns(Kind::Assets).iter().position(|column| column.name == "parent").unwrap_or_default();
    let places: HashMap<&str, usize> = rows.iter().enumerate().map(|(at, row)| (row.code.as_str(), at)).collect();
    let parent = |row: &Read| -> Option<String> {
        let given = row.cells[parent_at].clone();
        let kept = || existing.get(&row.code).map(|(_, texts)| texts[parent_at].clone());
        given.or_else(kept).filter(|parent| !parent.is_empty())
    };
    let above: Vec<Option<usize>> =
        rows.iter().map(|row| parent(row).and_then(|parent| places.get(parent.as_str()).copied())).collect();
    let depths = depths(&above);
    let mut ordered: Vec<(usize, Read)> = Vec::with_capacity(rows.len());
    for (row, depth) in rows.into_iter().zip(depths) {
        match depth {
            Some(depth) => ordered.push((depth, row)),
            None => {
                let reason = "the parents of this row lead back to it".to_owned();
                receipt.refuse(row.line, &row.code, vec![FieldReason { field: "parent".into(), reason }]);
            }
        }
    }
    ordered.sort_by_key(|(depth, row)| (*depth, row.line));
    ordered.into_iter().map(|(_, row)| row).collect()
}

/// For each row the steps up to one whose parent is not in the source; `None` where the way leads back to the row itself.
/// Rows below such a ring count from it.
fn depths(above: &[Option<usize>]) -> Vec<Option<usize>> {
    #[derive(Clone, Copy, PartialEq)]
    enum Seen {
        Not,
        OnTheWay,
        Depth(usize),
        InRing,
    }
    let mut seen = vec![Seen::Not; above.len()];
    for from in 0..above.len() {
        let mut way = Vec::new();
        let mut at = Some(from);
        while let Some(row) = at.filter(|&row| seen[row] == Seen::Not) {
            seen[row] = Seen::OnTheWay;
            way.push(row);
            at = above[row];
        }
        if let Some(again) = at.filter(|&row| seen[row] == Seen::OnTheWay) {
            let begins = way.iter().position(|&row| row == again).unwrap_or_default();
            way.drain(begins..).for_each(|row| seen[row] = Seen::InRing);
        }
        let top = match at.map(|row| seen[row]) {
            Some(Seen::Depth(depth)) => depth + 1,
            _ => 0,
        };
        (top..).zip(way.into_iter().rev()).for_each(|(depth, row)| seen[row] = Seen::Depth(depth));
    }
    let depth = |seen| match seen {
        Seen::Depth(depth) => Some(depth),
        Seen::Not | Seen::OnTheWay | Seen::InRing => None,
    };
    seen.into_iter().map(depth).collect()
}

/// One taking of rows.
struct Taking<'a> {
    kind: Kind,
    minor_digits: u8,
    source: &'a str,
    /// Classes and crews known to be there, so that each is looked up once.
    named: HashSet<(Kind, String)>,
}

impl Taking<'_> {
    fn one(
        &mut self,
        act: &mut Act,
        row: Read,
        found: Option<(i64, Vec<String>)>,
        also_added: &mut Vec<String>,
    ) -> Result<RowReport> {
        let Read { line, code, cells, was } = row;
        act.conn.prepare_cached("SAVEPOINT one_row")?.execute([])?;
        let mut new_names = Vec::new();
        let done = self.make(act, &code, cells, &was, found, &mut new_names);
        let (outcome, changes, reasons) = match done {
            Ok((outcome, changes)) => {
                also_added.append(&mut new_names);
                (outcome, changes, vec![])
            }
            Err(error) => {
                act.conn.prepare_cached("ROLLBACK TO one_row")?.execute([])?;
                self.named.retain(|(kind, name)| !new_names.contains(&format!("{} {name}", kind.noun())));
                (Outcome::Refused, vec![], vec![reason(error)?])
            }
        };
        act.conn.prepare_cached("RELEASE one_row")?.execute([])?;
        Ok(RowReport { line, code, outcome, changes, reasons })
    }

    fn make(
        &mut self,
        act: &mut Act,
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
            if column.name == "old_codes" {
                // Old codes are never taken away: those that are kept and those that are given stand together.
                let mut both = super::forms::parts(&kept[place]);
                both.extend(super::forms::parts(&wanted[place]).into_iter().filter(|code| *code != wanted[0]));
                both.sort_unstable();
                both.dedup();
                let both = both.join(" | ");
                wanted[place] = both;
            }
            self.name(act, column, &wanted[place], new_names)?;
        }
        let changed: Vec<(usize, &Column)> =
            columns.iter().enumerate().filter(|(place, _)| wanted[*place] != kept[*place]).collect();
        let row = Wanted { kind: self.kind, texts: &wanted, minor_digits: self.minor_digits, source: self.source };
        if is_new {
            kinds::add(act, &row)?;
            return Ok((Outcome::Added, vec![]));
        }
        if changed.is_empty() {
            return Ok((Outcome::Unchanged, vec![]));
        }
        let only_columns: Vec<&Column> = changed.iter().map(|(_, column)| *column).collect();
        // What is checked against the row as it was comes before the row is written.
        kinds::change(act, id, &row, &only_columns)?;
        for column in &only_columns {
            self.keep(act, id, column, &row)?;
        }
        if only_columns.iter().any(|column| column.name == "retired_at") {
            // What stands on a meter or an asset that is retired ends with it.
            alarms::end_retired(act)?;
        }
        let changes: Vec<FieldChange> = changed
            .into_iter()
            .map(|(place, column)| FieldChange {
                field: column.name.into(),
                from: kept[place].clone(),
                to: wanted[place].clone(),
            })
            .collect();
        act.audit("changed", self.kind.noun(), &wanted[0], &changes)?;
        Ok((Outcome::Changed, changes))
    }

    fn keep(&self, act: &Act, id: i64, column: &Column, row: &Wanted) -> Result<()> {
        let table = self.kind.table();
        match column.keep {
            Keep::Apart => Ok(()),
            Keep::Own(name) => {
                let mut update = act.conn.prepare_cached(&format!("UPDATE {table} SET {name} = ?2 WHERE id = ?1"))?;
                let value: Value = row.kept(column.name);
                update.execute([&id as &dyn ToSql, &value])?;
                Ok(())
            }
            Keep::Id { column: name, of } => {
                let sql = format!(
                    "UPDATE {table} SET {name} = (SELECT id FROM {} WHERE code = ?2) WHERE id = ?1",
                    of.table()
                );
                act.conn.prepare_cached(&sql)?.execute([&id as &dyn ToSql, &row.text(column.name)])?;
                Ok(())
            }
        }
    }

    /// Sees to it that what a cell names is there. Classes and crews that are not are added by their code.
    fn name(&mut self, act: &mut Act, column: &Column, code: &str, new_names: &mut Vec<String>) -> Result<()> {
        let Form::Refers { to } = column.form else { return Ok(()) };
        if code.is_empty() || self.named.contains(&(to, code.to_owned())) {
            return Ok(());
        }
        if to == Kind::Assets {
            assets::require_in(act.conn, code, column.name)?;
            return Ok(());
        }
        let sql = format!("SELECT 1 FROM {} WHERE code = ?1", to.table());
        if !act.conn.prepare_cached(&sql)?.exists([code])? {
            match to {
                Kind::EquipmentClasses => assets::add_class(act, code, code)?,
                Kind::Crews => {
                    let crew = people::Crew {
                        code: code.into(),
                        name: code.into(),
                        department: code.into(),
                        weekly_hours: 0.0,
                    };
                    people::add_crew(act, &crew)?;
                }
                Kind::Assets | Kind::Meters | Kind::People => {
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
