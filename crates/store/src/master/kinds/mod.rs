//! The tables, one module each: its columns, how its rows are read, added and changed.

mod assets;
mod meters;
mod people;

use super::columns::{Column, Kind};
use crate::{act::Act, error::Result};

/// The columns of a kind, in the order in which files have them.
#[must_use]
pub fn columns(kind: Kind) -> &'static [Column] {
    match kind {
        Kind::Assets => assets::COLUMNS,
        Kind::EquipmentClasses => people::CLASSES,
        Kind::Meters => meters::COLUMNS,
        Kind::People => people::PEOPLE,
        Kind::Crews => people::CREWS,
    }
}

/// A query of all rows: `id`, `parent_id` of the asset to filter by, and every listed column by its name.
pub(super) fn select(kind: Kind) -> &'static str {
    match kind {
        Kind::Assets => assets::SELECT,
        Kind::EquipmentClasses => people::SELECT_CLASSES,
        Kind::Meters => meters::SELECT,
        Kind::People => people::SELECT_PEOPLE,
        Kind::Crews => people::SELECT_CREWS,
    }
}

/// A row as it shall be, with what is needed to make it so.
#[derive(Debug)]
pub(super) struct Wanted<'a> {
    pub kind: Kind,
    /// Tidy texts, one a column.
    pub texts: &'a [String],
    pub minor_digits: u8,
    /// Where the rows come from, as the reason of a move.
    pub source: &'a str,
}

impl Wanted<'_> {
    pub fn text(&self, name: &str) -> &str {
        let place = columns(self.kind).iter().position(|column| column.name == name);
        place.map_or("", |place| &self.texts[place])
    }

    pub fn some(&self, name: &str) -> Option<String> {
        Some(self.text(name).to_owned()).filter(|text| !text.is_empty())
    }

    pub fn kept(&self, name: &str) -> rusqlite::types::Value {
        let column = columns(self.kind).iter().find(|column| column.name == name);
        column.map_or(rusqlite::types::Value::Null, |column| column.form.keep(self.text(name), self.minor_digits))
    }

    pub fn integer(&self, name: &str) -> Option<i64> {
        match self.kept(name) {
            rusqlite::types::Value::Integer(value) => Some(value),
            _ => None,
        }
    }

    pub fn real(&self, name: &str) -> Option<f64> {
        match self.kept(name) {
            rusqlite::types::Value::Real(value) => Some(value),
            _ => None,
        }
    }

    /// A choice as its enum. Its words are checked before, so a wrong one is a defect of the columns.
    pub fn choice<T: serde::de::DeserializeOwned>(&self, name: &str) -> Result<Option<T>> {
        self.some(name).map(|word| crate::rows::from_word("master", word)).transpose()
    }
}

/// Adds the row.
pub(super) fn add(act: &mut Act, wanted: &Wanted) -> Result<()> {
    match wanted.kind {
        Kind::Assets => assets::add(act, wanted),
        Kind::Meters => meters::add(act, wanted),
        Kind::EquipmentClasses => crate::assets::add_class(act, wanted.text("code"), wanted.text("name")),
        Kind::People => people::add_person(act, wanted),
        Kind::Crews => people::add_crew(act, wanted),
    }
}

/// Checks the row as it shall be and makes the changes that are not simply kept in a column.
pub(super) fn change(act: &mut Act, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    match wanted.kind {
        Kind::Assets => assets::change(act, id, wanted, changed),
        Kind::Meters => meters::change(act, id, wanted, changed),
        Kind::People => people::change_person(act, id, wanted, changed),
        Kind::EquipmentClasses | Kind::Crews => Ok(()),
    }
}
