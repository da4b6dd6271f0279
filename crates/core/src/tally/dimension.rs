//! What a figure is taken apart by.

use serde::{Deserialize, Serialize};

/// What a figure is taken apart by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Dimension {
    /// The rows right below it.
    Child,
    /// The kind of what counts: of cost, of downtime, the effect of a failure.
    Kind,
    /// The kind of the work that it is of.
    WorkKind,
    /// The problem of that work.
    Problem,
    /// What was bought.
    Item,
    /// Who sold it.
    Supplier,
    /// Whose work it is.
    Crew,
}

impl Dimension {
    /// All there are.
    pub const ALL: [Self; 7] =
        [Self::Child, Self::Kind, Self::WorkKind, Self::Problem, Self::Item, Self::Supplier, Self::Crew];

    /// As people call it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Child => "Where",
            Self::Kind => "Kind",
            Self::WorkKind => "Kind of work",
            Self::Problem => "Problem",
            Self::Item => "Item",
            Self::Supplier => "Supplier",
            Self::Crew => "Crew",
        }
    }
}
