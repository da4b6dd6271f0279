//! Which tables of master data there are, and what a column is.

use super::{forms::Form, kind::Kind};
use serde::Serialize;
use utoipa::ToSchema;

/// A column of a table of master data.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Column {
    /// As files name it.
    pub name: &'static str,
    /// As people read it.
    pub label: &'static str,
    pub form: Form,
    /// It can't be empty.
    pub required: bool,
    /// What an empty cell stands for.
    pub default: &'static str,
    /// What to write, where the form alone does not say it.
    pub hint: &'static str,
    /// It makes sense to give many rows the same value.
    pub many: bool,
    /// It is shown and written out; otherwise it is only taken in.
    pub listed: bool,
    #[serde(skip)]
    pub(crate) keep: Keep,
}

/// How a column's value is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Keep {
    /// In the column of that name.
    Own(&'static str),
    /// As the id of the row of that code.
    Id { column: &'static str, of: Kind },
    /// In a way of its own.
    Apart,
}

impl Column {
    pub(crate) const fn new(name: &'static str, label: &'static str, form: Form) -> Self {
        Self {
            name,
            label,
            form,
            required: false,
            default: "",
            hint: "",
            many: false,
            listed: true,
            keep: Keep::Own(name),
        }
    }

    pub(crate) const fn required(self) -> Self {
        Self { required: true, ..self }
    }

    pub(crate) const fn default(self, default: &'static str) -> Self {
        Self { default, ..self }
    }

    pub(crate) const fn hint(self, hint: &'static str) -> Self {
        Self { hint, ..self }
    }

    pub(crate) const fn many(self) -> Self {
        Self { many: true, ..self }
    }

    pub(crate) const fn taken_in_only(self) -> Self {
        Self { listed: false, ..self }
    }

    pub(crate) const fn apart(self) -> Self {
        Self { keep: Keep::Apart, ..self }
    }

    pub(crate) const fn id(self, column: &'static str, of: Kind) -> Self {
        Self { keep: Keep::Id { column, of }, ..self }
    }
}
