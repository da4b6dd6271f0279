//! What a column holds.

use super::buckets::Step;
use serde::Serialize;

/// What a column holds, and how the whole numbers in it are to be read. None is [`NONE`](crate::facts::packed::NONE) in all.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Holds {
    /// A plain number, such as that of an order.
    Number,
    /// How many, to be added up.
    Count,
    /// Milliseconds; told as hours.
    Hours,
    /// Milliseconds; told as days.
    Days,
    /// Minor units.
    Money,
    /// Millionths of a quotient.
    Ratio,
    /// Milliseconds since 1970.
    Instant,
    /// One of a few words, by its place among them.
    Word,
    /// Several words, by the number of their set: a row is in the group of each.
    Words,
    /// Something with a code and a name, by its number.
    Reference,
    YesNo,
    /// Read for the rows that are shown only: it is neither sorted nor grouped by.
    Text,
}

/// Parts of one in a [`Holds::Ratio`].
pub(super) const RATIO: f64 = 1e6;

impl Holds {
    /// Whether its values are few enough to be offered with counts, and to be grouped by as they are.
    #[must_use]
    pub const fn is_word(self) -> bool {
        matches!(self, Self::Word | Self::Words | Self::Reference | Self::YesNo)
    }

    /// Whether it makes sense to add its values up.
    #[must_use]
    pub fn adds_up(self) -> bool {
        matches!(self, Self::Count | Self::Hours | Self::Days | Self::Money)
    }

    /// Whether its values lie before and behind each other.
    #[must_use]
    pub fn is_measured(self) -> bool {
        !self.is_word() && self != Self::Text
    }
}

/// A column of a subject.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ColumnDef {
    pub id: &'static str,
    pub name: &'static str,
    pub holds: Holds,
    /// Worked out from others, as of now.
    pub is_calculated: bool,
    /// Shown where nothing else is asked for.
    pub is_usual: bool,
    /// Its values are few enough to be offered with counts, and to be grouped by as they are.
    pub is_word: bool,
    /// Its values are grouped by in these steps.
    pub steps: &'static [Step],
}

impl ColumnDef {
    pub(super) const fn new(id: &'static str, name: &'static str, holds: Holds) -> Self {
        let steps: &[Step] = if matches!(holds, Holds::Instant) { &Step::ALL } else { &[] };
        Self { id, name, holds, is_calculated: false, is_usual: false, is_word: holds.is_word(), steps }
    }

    pub(super) const fn calculated(self) -> Self {
        Self { is_calculated: true, ..self }
    }

    pub(super) const fn usual(self) -> Self {
        Self { is_usual: true, ..self }
    }
}
