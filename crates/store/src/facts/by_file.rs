//! All facts, from the column file and what changed since.

use super::{
    column_file::ColumnFile,
    load::{beside, newest_change},
    refresh::{is_swept, refresh},
};
use crate::ground::error::Result;
use rusqlite::Connection;
use std::{path::Path, sync::Arc};
use tally_core::facts::Snapshot;

/// More changes than that take longer, one by one, than reading everything.
const MANY: i64 = 100_000;

/// Takes what happened from the column file of a database, and what changed since from that; `None` where no file counts.
///
/// # Errors
/// As [`load`](super::load()).
pub(crate) fn load_by_file(conn: &Connection, database: &Path) -> Result<Option<Snapshot>> {
    let Some(file) = ColumnFile::of(conn, database)? else { return Ok(None) };
    if newest_change(conn)? - file.change() > MANY || is_swept(conn, file.change())? {
        return Ok(None);
    }
    let (snapshot, happened) = std::thread::scope(|scope| {
        let reading = scope.spawn(|| file.happened());
        (beside(conn), reading.join().unwrap_or_else(|panicked| std::panic::resume_unwind(panicked)))
    });
    let mut snapshot = snapshot?;
    let Some(happened) = happened.filter(|_| file.has_numbers_of(&snapshot.tree)) else { return Ok(None) };
    snapshot.change = file.change();
    Arc::make_mut(&mut snapshot.names).departments = file.departments().to_vec();
    snapshot.fill(happened);
    refresh(conn, &mut snapshot)?;
    Ok(Some(snapshot))
}
