//! What somebody asks of a list, as it comes in.

use super::buckets::Step;
use crate::{
    access::refusal::{Refusal, said},
    ground::time::Instant,
    plant::assets::Basis,
    tally::{HeldTo, PlaceKind, indicators::Indicator},
};
use serde::{Deserialize, Serialize};

/// A condition on one column: one of these.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FilterAsked {
    pub column: String,
    /// One of these values, as a column's values are told; an empty one stands for none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub is: Option<Vec<String>>,
    /// None of these values.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub not: Option<Vec<String>>,
    /// From this on; an instant, a number, hours, days, or money in minor units.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<String>,
    /// Before this instant; up to this number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<String>,
    /// In a period as it stands in links, such as `last_month`, `2026-03`, or `last_7_days`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub within: Option<String>,
    /// Without a value, or with one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blank: Option<bool>,
}

/// A column to group by.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct GroupAsked {
    pub column: String,
    /// Of an instant; by month without it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub by: Option<Step>,
}

/// A column to sort by.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SortAsked {
    pub column: String,
    #[serde(default)]
    pub descending: bool,
}

/// What many values come to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Summary {
    Sum,
    Mean,
    /// The earliest, of instants.
    Least,
    /// The latest, of instants.
    Greatest,
    Median,
    /// Of the sum of all rows, 0 to 1.
    Share,
}

/// A summary of a column.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SummaryAsked {
    pub column: String,
    pub of: Summary,
}

/// A figure of the tally, as it is asked for there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FigureAsked {
    pub indicator: Indicator,
    /// Code of the asset; all roots without it.
    #[serde(default)]
    pub scope: Option<String>,
    /// Codes of the rows it stands in, with `/` between.
    #[serde(default)]
    pub under: Option<String>,
    /// Of the scope's own, or of what was formerly below it, instead of all of it.
    #[serde(default)]
    pub part: Option<PlaceKind>,
    #[serde(default)]
    pub period: Option<String>,
    #[serde(default)]
    pub from: Option<String>,
    #[serde(default)]
    pub to: Option<String>,
    #[serde(default)]
    pub basis: Basis,
    /// Of some work and some assets only.
    #[serde(default)]
    pub held: HeldTo,
}

/// What somebody asks of a list.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Asked {
    /// Code of the asset, with all below it; everything without it.
    pub scope: Option<String>,
    /// A past instant: work stands where it stood then, and nothing later has happened.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub as_of: Option<Instant>,
    /// Only what had been recorded by then; as of that instant where no other is asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub known_at: Option<Instant>,
    /// Only the rows that a figure of the tally is made of, with what each adds to it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub figure: Option<FigureAsked>,
    /// Letters in a number, a title or an asset.
    pub text: Option<String>,
    /// All of these.
    pub filter: Vec<FilterAsked>,
    /// The usual ones where none are named.
    pub columns: Vec<String>,
    /// Up to six, from the outermost.
    pub group: Vec<GroupAsked>,
    /// Up to six; in the order of the rows without any.
    pub sort: Vec<SortAsked>,
    /// Of all rows and of each group.
    pub summaries: Vec<SummaryAsked>,
    /// Columns whose values are told with counts, each under all filters but its own.
    pub facets: Vec<String>,
    /// Ids of rows, such as those that are selected; all without it.
    pub only: Option<Vec<i64>>,
    pub cursor: Option<String>,
    /// Rows at the most: 50 without it, 500 in one answer.
    pub limit: Option<usize>,
}

/// A view of a list that somebody keeps under a name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewView {
    pub name: String,
    /// Everybody has it.
    #[serde(default)]
    pub shared: bool,
    pub ask: Asked,
}

impl NewView {
    /// Whether it may be kept.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self) -> Result<(), Refusal> {
        let name = said("name", &self.name, "a view needs a name")?;
        if name.chars().count() > LONGEST_NAME {
            return Err(Refusal::field("name", format!("at most {LONGEST_NAME} letters")));
        }
        Ok(())
    }
}

/// Letters of a view's name at the most.
const LONGEST_NAME: usize = 80;

/// The most columns to group or to sort by.
pub const MOST_KEYS: usize = 6;

/// Rows in one answer, where nothing is said and at the most.
pub(super) const USUAL_ROWS: usize = 50;
pub const MOST_ROWS: usize = 500;
