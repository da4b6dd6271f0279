//! Small helpers between SQL values and the core's types.

use crate::ground::error::{Result, StoreError};
use jiff::civil::Date;
use rusqlite::types::Value;
use serde::{Serialize, de::DeserializeOwned};
use std::rc::Rc;
pub use tally_core::ground::words::word;

/// The enum that a word of a file stands for.
pub fn from_word<T: DeserializeOwned>(table: &'static str, text: String) -> Result<T> {
    serde_json::from_value(serde_json::Value::String(text)).map_err(|error| StoreError::corrupt(table, error))
}

/// A kept JSON document.
pub fn from_json<T: DeserializeOwned>(table: &'static str, text: &str) -> Result<T> {
    serde_json::from_str(text).map_err(|error| StoreError::corrupt(table, error))
}

/// A kept date.
pub(crate) fn date(table: &'static str, text: &str) -> Result<Date> {
    text.parse().map_err(|error| StoreError::corrupt(table, error))
}

/// Ids, or whatever else, to be bound in one place and looked through as `rarray(?1)`.
pub(crate) fn list_of<T: Into<Value>>(values: impl IntoIterator<Item = T>) -> Rc<Vec<Value>> {
    Rc::new(values.into_iter().map(Into::into).collect())
}

/// A document to keep.
pub fn to_json<T: Serialize>(value: &T) -> String {
    serde_json::to_string(value).expect("documents are plain data with string keys")
}
