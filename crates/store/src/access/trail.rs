//! What changes nothing and stands in the trail all the same: what somebody was refused, and what they took away as a file.

use crate::ground::{error::Result, tx::Tx};
use serde::Serialize;

/// Notes that the actor was refused something by who they are.
///
/// # Errors
/// SQLite's own.
pub fn note_refused(tx: &Tx, what: &str, address: &str) -> Result<()> {
    #[derive(Serialize)]
    struct From<'a> {
        address: &'a str,
    }
    tx.audit("was refused", "request", what, &From { address })
}

/// Notes that the actor took something away as a file.
///
/// # Errors
/// SQLite's own.
pub fn note_taken(tx: &Tx, file: &str) -> Result<()> {
    tx.audit("took", "file", file, &())
}
