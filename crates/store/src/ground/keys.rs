//! Keys that clients give their writes, so that one sent again after a broken connection is not done again.

use super::{
    error::{Result, StoreError},
    sql::Rows,
    tx::Tx,
};
use rusqlite::{OptionalExtension, params};
use tally_core::ground::{
    ids::PersonId,
    time::{DAY, Instant},
};

/// How long a key is known, in milliseconds: longer than anyone works without a network.
const KNOWN_MS: i64 = 30 * DAY;

/// A write as its client named it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WriteKey {
    pub key: String,
    /// Of what was sent.
    pub fingerprint: String,
}

/// What is known of a key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Known {
    /// It was never kept.
    New,
    /// It was done, and this is the answer that went out.
    Answered { status: u16, body: String },
    /// It was done, and the answer never went out.
    Unanswered,
    /// The key names something else that was sent.
    Another,
}

/// What is known of a person's key.
///
/// # Errors
/// SQLite's own.
pub fn known(rows: &dyn Rows, person: PersonId, key: &WriteKey) -> Result<Known> {
    let mut find = rows
        .sql()
        .conn
        .prepare_cached("SELECT fingerprint, status, body FROM write_keys WHERE person_id = ?1 AND key = ?2")?;
    let found = find.query_row(params![person, key.key], |row| {
        Ok(match (row.get::<_, String>(0)?, row.get(1)?, row.get(2)?) {
            (fingerprint, ..) if fingerprint != key.fingerprint => Known::Another,
            (_, Some(status), Some(body)) => Known::Answered { status, body },
            _ => Known::Unanswered,
        })
    });
    Ok(found.optional()?.unwrap_or(Known::New))
}

/// Takes the key in the transaction that does what it names: so both are kept or neither.
///
/// # Errors
/// [`StoreError::Done`] where it was taken meanwhile.
pub fn take(tx: &Tx, key: &WriteKey) -> Result<()> {
    let mut insert = tx.conn.prepare_cached(
        "INSERT INTO write_keys (person_id, key, fingerprint, at) VALUES (?1, ?2, ?3, ?4) ON CONFLICT DO NOTHING",
    )?;
    match insert.execute(params![tx.actor.id, key.key, key.fingerprint, tx.now])? {
        0 => Err(StoreError::Done),
        _ => Ok(()),
    }
}

/// Whether there are keys past their time.
///
/// # Errors
/// SQLite's own.
pub fn any_old(rows: &dyn Rows, now: Instant) -> Result<bool> {
    let mut find = rows.sql().conn.prepare_cached("SELECT 1 FROM write_keys WHERE at < ?1 LIMIT 1")?;
    Ok(find.exists([now.plus(-KNOWN_MS)])?)
}

/// Forgets the keys past their time; how many there were.
///
/// # Errors
/// SQLite's own.
pub fn forget_old(tx: &Tx) -> Result<usize> {
    Ok(tx.conn.execute("DELETE FROM write_keys WHERE at < ?1", [tx.now.plus(-KNOWN_MS)])?)
}

/// Keeps the answer that goes out; nothing where the write took no key.
///
/// # Errors
/// SQLite's own.
pub fn answered(tx: &Tx, key: &WriteKey, status: u16, body: &str) -> Result<()> {
    tx.conn
        .prepare_cached("UPDATE write_keys SET status = ?3, body = ?4 WHERE person_id = ?1 AND key = ?2")?
        .execute(params![tx.actor.id, key.key, status, body])?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Store, access::people};

    /// The key goes with what it names: a write that fails leaves none, one that is kept leaves it, whether or not the
    /// answer went out; and after its time it is forgotten.
    #[test]
    fn a_key_is_kept_with_its_write_or_not_at_all() {
        let folder = tempfile::tempdir().unwrap();
        let now = Instant::from_ms(0);
        let store = Store::open(folder.path(), now).unwrap();
        let actor = store.read(now, |view| people::first_administrator(view)).unwrap();
        let key = WriteKey { key: "k".into(), fingerprint: "f".into() };
        let look = || store.read(now, |view| known(view, actor.id, &key)).unwrap();
        let failed = store.write(actor.clone(), now, |tx| {
            take(tx, &key)?;
            Err::<(), _>(StoreError::Conflict("no".into()))
        });
        assert!(failed.is_err());
        assert_eq!(look(), Known::New);
        store.write(actor.clone(), now, |tx| take(tx, &key)).unwrap();
        assert_eq!(look(), Known::Unanswered);
        assert!(matches!(store.write(actor.clone(), now, |tx| take(tx, &key)), Err(StoreError::Done)));
        store.write(actor.clone(), now, |tx| answered(tx, &key, 201, "{}")).unwrap();
        assert_eq!(look(), Known::Answered { status: 201, body: "{}".into() });
        let other = WriteKey { fingerprint: "g".into(), ..key.clone() };
        assert_eq!(store.read(now, |view| known(view, actor.id, &other)).unwrap(), Known::Another);
        for (later, forgotten) in [(KNOWN_MS, 0), (KNOWN_MS + 1, 1)] {
            let then = now.plus(later);
            assert_eq!(store.read(then, |view| any_old(view, then)).unwrap(), forgotten == 1);
            assert_eq!(store.write(actor.clone(), then, |tx| forget_old(tx)).unwrap(), forgotten);
        }
        assert_eq!(look(), Known::New);
    }
}
