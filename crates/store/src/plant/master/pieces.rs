//! Rows of a file that are taken a piece at a time, so that others write in between.

use super::MasterReceipt;
use crate::ground::{
    error::{Result, StoreError},
    tx::Tx,
};

/// Told before each piece how many of how many rows are done; when it answers `false`, no more are taken.
pub type Watch<'a> = dyn FnMut(usize, usize) -> bool + 'a;

/// What a file gives, read, and taken one piece after another: each in a transaction of its own, or all in one.
pub trait InPieces {
    /// How many are done, of what progress is told in.
    fn done(&self) -> usize;

    /// How many there are.
    fn all(&self) -> usize;

    /// Takes the next piece. What is wrong with a row is in the receipt.
    ///
    /// # Errors
    /// What ends the whole: [`StoreError::MayNot`], SQLite's own.
    fn piece(&mut self, tx: &mut Tx) -> Result<()>;

    /// What became of the rows taken until now.
    fn receipt(self) -> MasterReceipt;
}

/// Takes all pieces in one transaction.
///
/// # Errors
/// A piece's, and [`StoreError::Cancelled`] when `watch` says so.
pub fn whole(tx: &mut Tx, taking: &mut impl InPieces, watch: &mut Watch) -> Result<()> {
    while watch(taking.done(), taking.all()) {
        if taking.done() == taking.all() {
            return Ok(());
        }
        taking.piece(tx)?;
    }
    Err(StoreError::Cancelled)
}
