//! A row of master data as it shall be.

use crate::{
    ground::{error::Result, rows::from_word},
    plant::master::{columns::Column, kind::Kind},
};
use rusqlite::types::Value;

/// A row as it shall be, with what is needed to make it so.
#[derive(Debug)]
pub struct Wanted<'a> {
    pub kind: Kind,
    pub columns: &'static [Column],
    /// Tidy texts, one a column.
    pub texts: &'a [String],
    pub minor_digits: u8,
    /// Where the rows come from, as the reason of a move.
    pub source: &'a str,
}

impl Wanted<'_> {
    pub fn text(&self, name: &str) -> &str {
        let place = self.columns.iter().position(|column| column.name == name);
        place.map_or("", |place| &self.texts[place])
    }

    pub fn some(&self, name: &str) -> Option<String> {
        Some(self.text(name).to_owned()).filter(|text| !text.is_empty())
    }

    pub fn kept(&self, name: &str) -> Value {
        let column = self.columns.iter().find(|column| column.name == name);
        column.map_or(Value::Null, |column| column.form.keep(self.text(name), self.minor_digits))
    }

    pub fn integer(&self, name: &str) -> Option<i64> {
        match self.kept(name) {
            Value::Integer(value) => Some(value),
            _ => None,
        }
    }

    pub fn real(&self, name: &str) -> Option<f64> {
        match self.kept(name) {
            Value::Real(value) => Some(value),
            _ => None,
        }
    }

    /// A choice as its enum. Its words are checked before, so a wrong one is a defect of the columns.
    pub fn choice<T: serde::de::DeserializeOwned>(&self, name: &str) -> Result<Option<T>> {
        self.some(name).map(|word| from_word("master", word)).transpose()
    }
}
