//! What was spent on work as a table: one line an entry.

use super::{
    FileColumn, Line, lines,
    orders::{known_as, of_reference},
    whole,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{list_of, word},
        tx::Tx,
        view::View,
    },
    plant::master::{Form, Given, GivenRow, InPieces, MasterReceipt, Outcome, Writing},
    work::entries::add,
};
use rusqlite::{Row, params};
use rust_decimal::Decimal;
use std::collections::HashMap;
use tally_core::{
    access::roles::Action,
    ground::{
        ids::{AssetId, WorkOrderId},
        time::Instant,
    },
    outside::files::RowSink,
    work::entries::{EntryKind, NewEntry},
};

const KINDS: Form = Form::Choice { words: &["labour", "material", "service", "tool"] };

/// The columns, in the order in which files have them; an order is known as in the file of orders.
pub const COLUMNS: &[FileColumn] = &[
    ("reference", Form::Text),
    ("number", Form::Text),
    ("kind", KINDS),
    ("at", Form::Instant),
    ("asset", Form::Code),
    ("person", Form::Code),
    ("quantity", Form::Number),
    ("unit_price", Form::Number),
    ("item", Form::Text),
    ("supplier", Form::Text),
    ("description", Form::Text),
];

/// Columns that a file can't do without.
const NEEDED: [&str; 3] = ["kind", "at", "quantity"];

/// Entries taken in one piece.
const PIECE: usize = 300;

/// Adds entries. Of those that say the same as one that is there, only what is more than there are is added, so that a file can be
/// sent again.
#[derive(Debug)]
pub struct Taking {
    all: usize,
    lines: std::vec::IntoIter<Line>,
    minor_digits: u8,
    /// How often an entry came in this file.
    came: HashMap<(WorkOrderId, String), i64>,
    receipt: MasterReceipt,
}

impl Taking {
    /// Reads the rows.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] where a column is missing.
    pub fn of(given: Given<'_, impl IntoIterator<Item = GivenRow>>, minor_digits: u8) -> Result<Self> {
        let writing = Writing { decimal: given.decimal, zone: given.zone, minor_digits };
        let mut receipt = MasterReceipt::default();
        let lines = lines(COLUMNS, &NEEDED, given, &writing, &mut receipt)?;
        Ok(Self { all: lines.len(), lines: lines.into_iter(), minor_digits, came: HashMap::new(), receipt })
    }
}

impl InPieces for Taking {
    fn done(&self) -> usize {
        self.all - self.lines.len()
    }

    fn all(&self) -> usize {
        self.all
    }

    fn piece(&mut self, tx: &mut Tx) -> Result<()> {
        tx.require(Action::PlanWork)?;
        let (digits, came) = (self.minor_digits, &mut self.came);
        for line in self.lines.by_ref().take(PIECE) {
            let code = known_as(&line);
            whole(tx, &mut self.receipt, (line.number, &code), |tx| take(tx, &line, digits, came))?;
        }
        Ok(())
    }

    fn receipt(self) -> MasterReceipt {
        self.receipt.in_order()
    }
}

fn decimal(line: &Line, name: &str) -> Result<Option<Decimal>> {
    let read = |text: String| text.parse::<Decimal>().map_err(|error| StoreError::invalid(name, error));
    line.some(name).map(read).transpose()
}

fn take(tx: &mut Tx, line: &Line, minor_digits: u8, came: &mut HashMap<(WorkOrderId, String), i64>) -> Result<Outcome> {
    let reference = known_as(line);
    let order = match of_reference(tx, &reference)? {
        None if line.some("reference").is_none() => own(tx, &reference)?,
        found => found,
    };
    let order = order.ok_or_else(|| StoreError::invalid("reference", format!("there is no order {reference:?}")))?;
    let at = line.instant("at").ok_or_else(|| StoreError::invalid("at", "is missing"))?;
    let kind: EntryKind = line.word("kind")?.ok_or_else(|| StoreError::invalid("kind", "is missing"))?;
    let quantity = decimal(line, "quantity")?.ok_or_else(|| StoreError::invalid("quantity", "is missing"))?;
    let minor = Decimal::from(10_u64.pow(u32::from(minor_digits)));
    let new = NewEntry {
        kind,
        asset: line.some("asset"),
        person: line.some("person"),
        quantity,
        unit_price: decimal(line, "unit_price")?.map(|price| price * minor),
        description: line.text("description").into(),
        item: line.some("item"),
        supplier: line.some("supplier"),
        at: Some(at),
    };
    let same = serde_json::json!([new.kind, new.person, new.quantity.normalize(), new.description, new.item, at]);
    let count = came.entry((order, same.to_string())).or_default();
    *count += 1;
    if like_it(tx, order, &new, at)? >= *count {
        return Ok(Outcome::Unchanged);
    }
    add(tx, order, &new)?;
    Ok(Outcome::Added)
}

/// The order of that number given here, where no other program has one for it.
fn own(tx: &Tx, reference: &str) -> Result<Option<WorkOrderId>> {
    let Ok(number) = reference.parse::<i64>() else { return Ok(None) };
    let mut find = tx.conn.prepare_cached("SELECT 1 FROM work_orders WHERE number = ?1")?;
    Ok(find.exists([number])?.then_some(WorkOrderId(number)))
}

/// How many entries of an order say the same.
fn like_it(tx: &Tx, order: WorkOrderId, new: &NewEntry, at: Instant) -> Result<i64> {
    let mut count = tx.conn.prepare_cached(
        "SELECT count(*) FROM entries e LEFT JOIN people p ON p.id = e.person_id LEFT JOIN items i ON i.id = e.item_id
         WHERE e.work_order = ?1 AND e.kind = ?2 AND e.at = ?3 AND e.quantity = ?4 AND e.description = ?5
             AND (?6 IS NULL OR p.code = ?6) AND ifnull(i.name, '') = ifnull(?7, '') COLLATE NOCASE",
    )?;
    let quantity = new.quantity.normalize().to_string();
    let description = new.description.trim();
    let like = params![order, new.kind, at, quantity, description, new.person.as_deref(), new.item.as_deref()];
    Ok(count.query_row(like, |row| row.get(0))?)
}

fn cells(row: &Row, minor_digits: u8) -> Result<Vec<String>> {
    let text = |name: &str| row.get::<_, Option<String>>(name).map(Option::unwrap_or_default);
    let price: Decimal = text("unit_price")?.parse().unwrap_or_default();
    let minor = Decimal::from(10_u64.pow(u32::from(minor_digits)));
    Ok(vec![
        text("reference")?,
        row.get::<_, i64>("number")?.to_string(),
        word(&row.get::<_, EntryKind>("kind")?),
        row.get::<_, Instant>("at")?.to_string(),
        text("asset")?,
        text("person")?,
        text("quantity")?,
        (price / minor).normalize().to_string(),
        text("item")?,
        text("supplier")?,
        text("description")?,
    ])
}

/// Writes entries, below some assets or all, in the order of their orders. What was taken back, and what takes it back, cancel out
/// and are left out.
///
/// # Errors
/// SQLite's own, and the writer's.
pub fn export(view: &View, scope: Option<&[AssetId]>, minor_digits: u8, to: &mut dyn RowSink) -> Result<()> {
    to.row(&COLUMNS.iter().map(|(name, _)| *name).collect::<Vec<_>>())?;
    let sql = format!(
        "SELECT w.reference, w.number, e.kind, e.at, a.code AS asset, p.code AS person,
             e.quantity, e.unit_price, i.name AS item, s.name AS supplier, e.description
         FROM entries e JOIN work_orders w ON w.number = e.work_order JOIN assets a ON a.id = e.asset_id
         LEFT JOIN people p ON p.id = e.person_id LEFT JOIN items i ON i.id = e.item_id
         LEFT JOIN suppliers s ON s.id = e.supplier_id
         WHERE e.reverses IS NULL AND NOT EXISTS (SELECT 1 FROM entries r WHERE r.reverses = e.id)
             AND (?1 IS NULL OR e.asset_id IN rarray(?2)) AND {} ORDER BY w.number, e.id",
        view.viewer.condition("w")
    );
    let mut select = view.conn.prepare(&sql)?;
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let mut rows = select.query(params![scope.map(|_| 1), ids])?;
    while let Some(row) = rows.next()? {
        view.go_on()?;
        let cells = cells(row, minor_digits)?;
        to.row(&cells.iter().map(String::as_str).collect::<Vec<_>>())?;
    }
    Ok(())
}
