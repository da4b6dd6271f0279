//! What a list answers.

use super::column::ColumnDef;
use crate::ground::time::Instant;
use serde::Serialize;

/// The value of a column in a row.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum Cell {
    None,
    /// In the column's unit, money in minor units.
    Number(f64),
    Instant(Instant),
    YesNo(bool),
    /// A word as the API has it, or a text.
    Text(String),
    Reference {
        code: String,
        name: String,
    },
}

/// A row, by the columns that were asked for.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Row {
    pub id: i64,
    pub cells: Vec<Cell>,
}

/// What a summary comes to, in the column's unit; an instant for the earliest, latest, mean and median of instants.
pub type SummaryCell = Cell;

/// A group, before those inside it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroupRow {
    /// How deep it stands; the outermost is 0.
    pub depth: usize,
    /// What its rows have in common, as it is told and as a filter takes it.
    pub key: Cell,
    pub filter: String,
    /// Where instants fall together: when the next one begins.
    pub until: Option<Instant>,
    pub count: u64,
    pub summaries: Vec<SummaryCell>,
}

/// A value of a column, with how many rows have it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ListFacetValue {
    /// As a filter takes it; empty for none.
    pub value: String,
    /// As it is called.
    pub name: String,
    pub count: u64,
}

/// The values of a column, under all filters but its own.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ListFacet {
    pub column: &'static str,
    /// Words in their order; the most frequent of what there is much of.
    pub values: Vec<ListFacetValue>,
    /// Values beyond those.
    pub more: usize,
}

/// A part of a list, with what all of it comes to.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = ListAnswer))]
pub struct Answer {
    pub columns: Vec<ColumnDef>,
    pub rows: Vec<Row>,
    /// At most 5,000; how many there are beyond.
    pub groups: Vec<GroupRow>,
    pub more_groups: usize,
    /// How many more rows the innermost groups come to than there are, because some stand in several.
    pub overlap: u64,
    /// Of all rows under the filters.
    pub count: u64,
    pub summaries: Vec<SummaryCell>,
    /// The columns that those are of, in the same order.
    pub summed: Vec<ColumnDef>,
    pub facets: Vec<ListFacet>,
    pub next_cursor: Option<String>,
    /// The change of the database that this is true for.
    pub change: i64,
}
