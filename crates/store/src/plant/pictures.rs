//! One picture an asset.

use crate::{
    ground::{
        error::{Result, StoreError},
        sql::Rows,
        tx::Tx,
    },
    plant::assets,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde_json::json;
use tally_core::access::roles::Action;

/// The largest picture that is kept, in bytes.
pub const LARGEST: usize = 4 << 20;

/// Kinds that browsers show.
const SHOWN: [&str; 4] = ["image/png", "image/jpeg", "image/gif", "image/webp"];

/// What a client says of a file is not asked: its bytes say what it is.
fn media_type(bytes: &[u8]) -> Option<&'static str> {
    infer::get(bytes).map(|kind| kind.mime_type()).filter(|kind| SHOWN.contains(kind))
}

/// Keeps a picture of an asset in place of the one it had.
///
/// # Errors
/// [`StoreError::Invalid`] for a file that is no picture, or one that is too large.
pub fn put(tx: &mut Tx, code: &str, bytes: &[u8]) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let asset = assets::require(tx.conn, code)?;
    if bytes.len() > LARGEST {
        return Err(StoreError::invalid("picture", format!("is larger than {} MB", LARGEST >> 20)));
    }
    let media_type =
        media_type(bytes).ok_or_else(|| StoreError::invalid("picture", "is no PNG, JPEG, WebP or GIF file"))?;
    tx.conn.execute(
        "INSERT INTO pictures (asset_id, media_type, bytes, recorded_at, recorded_by) VALUES (?1, ?2, ?3, ?4, ?5)
         ON CONFLICT (asset_id) DO UPDATE SET media_type = excluded.media_type, bytes = excluded.bytes,
             recorded_at = excluded.recorded_at, recorded_by = excluded.recorded_by",
        params![asset, media_type, bytes, tx.now, tx.actor.id],
    )?;
    tx.audit("picture kept", "asset", code, &json!({ "media_type": media_type, "bytes": bytes.len() }))
}

/// Takes the picture of an asset away.
///
/// # Errors
/// [`StoreError::NotFound`] where there is none.
pub fn remove(tx: &mut Tx, code: &str) -> Result<()> {
    tx.require(Action::ChangeMasterData)?;
    let asset = assets::require(tx.conn, code)?;
    if tx.conn.execute("DELETE FROM pictures WHERE asset_id = ?1", [asset.0])? == 0 {
        return Err(StoreError::not_found("picture", code));
    }
    tx.audit("picture taken away", "asset", code, &json!({}))
}

/// The picture of an asset, with its media type.
///
/// # Errors
/// [`StoreError::NotFound`] where there is none.
pub fn get(rows: &dyn Rows, code: &str) -> Result<(String, Vec<u8>)> {
    let conn = rows.sql().conn;
    let asset = assets::require(conn, code)?;
    let found = conn.query_row("SELECT media_type, bytes FROM pictures WHERE asset_id = ?1", [asset.0], |row| {
        Ok((row.get::<_, String>(0)?, row.get::<_, Vec<u8>>(1)?))
    });
    match found {
        Err(rusqlite::Error::QueryReturnedNoRows) => Err(StoreError::not_found("picture", code)),
        found => Ok(found?),
    }
}

pub(crate) fn has(conn: &Connection, asset: i64) -> Result<bool> {
    let mut find = conn.prepare_cached("SELECT 1 FROM pictures WHERE asset_id = ?1")?;
    Ok(find.query_row([asset], |row| row.get::<_, i64>(0)).optional()?.is_some())
}
