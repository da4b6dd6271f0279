//! Rows of master data, as a file would bring them.

use tally_core::outside::files::Decimal;
use tally_store::{
    Result, StoreError, Tx,
    plant::master::{self, Given, GivenRow, Kind},
};

/// Takes rows in; what is wrong with one ends it.
pub(super) fn take(tx: &mut Tx, kind: Kind, columns: &[&str], rows: Vec<Vec<String>>) -> Result<()> {
    let columns: Vec<String> = columns.iter().map(|column| (*column).to_owned()).collect();
    let rows = (1..).zip(rows).map(|(line, cells)| GivenRow { line, cells: Ok(cells), was: vec![] });
    let given = Given { columns: &columns, rows, decimal: Decimal::Point, zone: None, source: "set up" };
    let receipt = master::take(tx, kind, given, &mut |_, _| true)?;
    match receipt.lines.into_iter().find(|line| !line.reasons.is_empty()) {
        Some(refused) => Err(StoreError::Conflict(format!("{}: {:?}", refused.code, refused.reasons))),
        None => Ok(()),
    }
}
