//! Lists: one way to ask for rows. A [`subject`] says which rows there are and what their [`column`]s hold; [`asked`] is what somebody
//! wants of them, checked into a [`question`]; one [`pass`] goes over the facts once, part by part, and answers rows, groups with
//! summaries, totals, and the values of filtered columns with counts.
//!
//! In a part every column is a run of whole numbers (see [`column::Holds`]), so that filters, groups and sums need not know what
//! they are about. Words are numbers of a [`words::Dictionary`].
//!
//! To add a column: a line in its subject's catalogue and one that fills it, in [`subjects`].

pub mod answer;
pub mod asked;
mod base;
mod buckets;
pub mod catalogue;
mod column;
mod condition;
mod context;
mod counted;
mod engine;
mod facets;
mod fill;
mod groups;
mod headlines;
mod id;
pub mod joined;
mod pass;
mod question;
mod several;
mod subject;
mod subjects;
mod summary;
#[cfg(test)]
mod tests;
mod told;
mod top;
pub mod words;

pub use answer::{Answer, Cell, GroupRow, ListFacet, ListFacetValue, Row, SummaryCell};
pub use asked::{Asked, FigureAsked, FilterAsked, GroupAsked, MOST_ROWS, NewView, SortAsked, Summary, SummaryAsked};
pub use base::{Narrowed, Numbers};
pub use buckets::Step;
pub use catalogue::SubjectDef;
pub use column::{ColumnDef, Holds};
pub use context::{Context, Sees};
pub use counted::Counted;
pub use engine::answer;
pub use headlines::of_headline;
pub use id::SubjectId;
