//! Small helpers between SQL values and the core's types.

use crate::error::{Result, StoreError};
use rusqlite::Row;
use serde::{Serialize, de::DeserializeOwned};
use tally_core::time::Instant;

/// An enum as the word it has in the API.
pub fn word<T: Serialize>(value: &T) -> String {
    match serde_json::to_value(value) {
        Ok(serde_json::Value::String(word)) => word,
        other => unreachable!("enums kept as words are written as strings, not {other:?}"),
    }
}

/// The enum that a kept word stands for.
pub fn from_word<T: DeserializeOwned>(table: &'static str, text: String) -> Result<T> {
    serde_json::from_value(serde_json::Value::String(text)).map_err(|error| StoreError::corrupt(table, error))
}

/// A kept JSON document.
pub fn from_json<T: DeserializeOwned>(table: &'static str, text: &str) -> Result<T> {
    serde_json::from_str(text).map_err(|error| StoreError::corrupt(table, error))
}

/// A document to keep.
pub fn to_json<T: Serialize>(value: &T) -> String {
    serde_json::to_string(value).expect("documents are plain data with string keys")
}

/// A column that holds an instant.
pub fn instant(row: &Row, column: &str) -> rusqlite::Result<Instant> {
    Ok(Instant::from_ms(row.get(column)?))
}

/// A column that may hold an instant.
pub fn maybe_instant(row: &Row, column: &str) -> rusqlite::Result<Option<Instant>> {
    Ok(row.get::<_, Option<i64>>(column)?.map(Instant::from_ms))
}

/// A column that may be a word.
pub fn maybe_word<T: DeserializeOwned>(table: &'static str, row: &Row, column: &str) -> Result<Option<T>> {
    row.get::<_, Option<String>>(column)?.map(|text| from_word(table, text)).transpose()
}

/// One value, or `None` where no row is found.
pub fn optional<T>(result: rusqlite::Result<T>) -> rusqlite::Result<Option<T>> {
    match result {
        Ok(value) => Ok(Some(value)),
        Err(rusqlite::Error::QueryReturnedNoRows) => Ok(None),
        Err(error) => Err(error),
    }
}
