//! What somebody asks of a list, as it comes in, and what stands in the way of it.

use super::{
    buckets::{Buckets, Step},
    column::{ColumnDef, Holds, RATIO},
    context::Context,
    joined::{Column, column, columns},
    subject::Subject,
};
use crate::{
    access::refusal::{Refusal, said},
    facts::packed::NONE,
    ground::{
        period::Period,
        time::{DAY, HOUR, Instant},
    },
};
use rustc_hash::FxHashSet;
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

/// What somebody asks of a list.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Asked {
    /// Code of the asset, with all below it; everything without it.
    pub scope: Option<String>,
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
/// The most conditions, columns with counts, and summaries.
const MOST_PARTS: usize = 30;
const MOST_VALUES: usize = 5_000;

/// A condition that can be looked up row by row.
#[derive(Debug)]
pub(super) enum Test {
    /// Among these numbers, or not among them.
    Among {
        values: FxHashSet<i64>,
        wanted: bool,
    },
    /// As the same, of words: by number, with the last for none.
    Words {
        values: Vec<bool>,
        none: bool,
    },
    /// From one number to another, both included.
    Between(i64, i64),
    Blank(bool),
}

impl Test {
    pub(super) fn passes(&self, value: i64) -> bool {
        match self {
            Self::Among { values, wanted } => values.contains(&value) == *wanted,
            Self::Words { values, none } => match usize::try_from(value) {
                Ok(place) => values.get(place).copied().unwrap_or(false),
                Err(_negative) => *none,
            },
            Self::Between(from, to) => value != NONE && *from <= value && value <= *to,
            Self::Blank(blank) => (value == NONE) == *blank,
        }
    }
}

/// One condition on a column.
pub(super) struct Condition<'a, P> {
    pub(super) column: Column<'a, P>,
    pub(super) test: Test,
}

/// A column to group by, with how instants fall together.
pub(super) struct Grouping<'a, P> {
    pub(super) column: Column<'a, P>,
    pub(super) buckets: Option<Buckets>,
}

/// What is asked, checked and ready to be answered.
pub(super) struct Question<'a, P> {
    pub(super) conditions: Vec<Condition<'a, P>>,
    pub(super) columns: Vec<ColumnDef>,
    pub(super) shown: Vec<Option<Column<'a, P>>>,
    pub(super) group: Vec<Grouping<'a, P>>,
    pub(super) sort: Vec<(Column<'a, P>, bool)>,
    pub(super) summaries: Vec<(Column<'a, P>, Summary)>,
    pub(super) facets: Vec<Column<'a, P>>,
    pub(super) limit: usize,
    pub(super) after: Option<Vec<i64>>,
}

/// Rows in one answer, where nothing is said and at the most.
const USUAL_ROWS: usize = 50;
pub const MOST_ROWS: usize = 500;

impl Asked {
    pub(super) fn check<'a, S: Subject>(
        &self,
        context: &'a Context<'a>,
        most: usize,
    ) -> Result<Question<'a, S::Rows>, Refusal>
    where
        S::Rows: 'a,
    {
        let few = |field: &str, asked: usize, most: usize| match asked <= most {
            true => Ok(()),
            false => Err(Refusal::field(field, format!("at most {most}"))),
        };
        few("group", self.group.len(), MOST_KEYS)?;
        few("sort", self.sort.len(), MOST_KEYS)?;
        few("filter", self.filter.len(), MOST_PARTS)?;
        few("columns", self.columns.len(), MOST_PARTS)?;
        few("summaries", self.summaries.len(), MOST_PARTS)?;
        few("facets", self.facets.len(), MOST_PARTS)?;
        let all = columns::<S>();
        let find = |field: String, id: &str| -> Result<Column<'a, S::Rows>, Refusal> {
            let def = all.iter().find(|def| def.id == id);
            let def = def.ok_or_else(|| Refusal::field(&field, format!("there is no column {id:?}")))?;
            let text = || Refusal::field(&field, format!("{} is text, which is only shown", def.name));
            column::<S>(context, id).ok_or_else(text)
        };
        let mut conditions = Vec::new();
        for (place, asked) in self.filter.iter().enumerate() {
            let column = find(format!("filter[{place}].column"), &asked.column)?;
            let test = asked.test(context, &column).map_err(|(part, reason)| {
                let field =
                    if part.is_empty() { format!("filter[{place}]") } else { format!("filter[{place}].{part}") };
                Refusal::field(field, reason)
            })?;
            conditions.push(Condition { column, test });
        }
        let named: Vec<ColumnDef> = match self.columns.is_empty() {
            true => all.iter().copied().filter(|def| def.is_usual).collect(),
            false => {
                let mut named = Vec::new();
                for (place, id) in self.columns.iter().enumerate() {
                    let def = all.iter().find(|def| def.id == *id);
                    let unknown = || Refusal::field(format!("columns[{place}]"), format!("there is no column {id:?}"));
                    named.push(*def.ok_or_else(unknown)?);
                }
                named
            }
        };
        let shown = named.iter().map(|def| column::<S>(context, def.id)).collect();
        let mut group = Vec::new();
        for (place, asked) in self.group.iter().enumerate() {
            let column = find(format!("group[{place}].column"), &asked.column)?;
            let buckets = match column.def.holds {
                Holds::Instant => {
                    let (from, until) = lasts::<S>(context);
                    Some(Buckets::new(asked.by.unwrap_or(Step::Month), &context.facts.zone, from, until))
                }
                _ if asked.by.is_some() => {
                    return Err(Refusal::field(format!("group[{place}].by"), "is said of instants only"));
                }
                _ => None,
            };
            group.push(Grouping { column, buckets });
        }
        let sort = self.sort.iter().enumerate();
        let sort =
            sort.map(|(place, asked)| Ok((find(format!("sort[{place}].column"), &asked.column)?, asked.descending)));
        let mut summaries = Vec::new();
        for (place, asked) in self.summaries.iter().enumerate() {
            let column = find(format!("summaries[{place}].column"), &asked.column)?;
            let fits = match asked.of {
                Summary::Sum | Summary::Share => column.def.holds.adds_up(),
                Summary::Mean | Summary::Least | Summary::Greatest | Summary::Median => column.def.holds.is_measured(),
            };
            if !fits {
                let reason = format!("{} can't be summed up so", column.def.name);
                return Err(Refusal::field(format!("summaries[{place}].of"), reason));
            }
            summaries.push((column, asked.of));
        }
        let mut facets = Vec::new();
        for (place, id) in self.facets.iter().enumerate() {
            let column = find(format!("facets[{place}]"), id)?;
            if !column.def.holds.is_word() {
                let reason = format!("{} has too many values to tell them", column.def.name);
                return Err(Refusal::field(format!("facets[{place}]"), reason));
            }
            facets.push(column);
        }
        let sort: Vec<(Column<'a, S::Rows>, bool)> = sort.collect::<Result<_, Refusal>>()?;
        let wrong = || Refusal::field("cursor", "is none of this list");
        let keys = |cursor: &String| -> Result<Vec<i64>, Refusal> {
            let keys = cursor.split('_').map(|key| key.parse().map_err(|_unparsed: std::num::ParseIntError| wrong()));
            let keys: Vec<i64> = keys.collect::<Result<_, _>>()?;
            if keys.len() == sort.len() + 1 { Ok(keys) } else { Err(wrong()) }
        };
        let after = self.cursor.as_ref().map(keys).transpose()?;
        let limit = self.limit.unwrap_or(USUAL_ROWS).min(most);
        Ok(Question { conditions, columns: named, shown, group, sort, summaries, facets, limit, after })
    }
}

/// From when to about when there are rows.
fn lasts<S: Subject>(context: &Context) -> (Instant, Instant) {
    let rows = S::rows(context.facts);
    let from = (0..rows.parts().len()).map(|number| rows.lasts(number).0).min();
    (from.unwrap_or(context.now), context.now.plus(DAY))
}

/// A part of a condition and what is wrong with it.
type Wrong = (&'static str, String);

impl FilterAsked {
    fn test<P>(&self, context: &Context, column: &Column<P>) -> Result<Test, Wrong> {
        let given = [
            self.is.is_some(),
            self.not.is_some(),
            self.from.is_some() || self.to.is_some(),
            self.within.is_some(),
            self.blank.is_some(),
        ];
        if given.iter().filter(|given| **given).count() != 1 {
            return Err(("", "say one of is, not, from and to, within, blank".into()));
        }
        if let Some(blank) = self.blank {
            return Ok(Test::Blank(blank));
        }
        if let Some(within) = &self.within {
            return within_period(context, column, within);
        }
        if let Some((values, wanted)) =
            self.is.as_ref().map(|is| (is, true)).or(self.not.as_ref().map(|not| (not, false)))
        {
            let part = if wanted { "is" } else { "not" };
            return among(column, values, wanted).map_err(|reason| (part, reason));
        }
        if !column.def.holds.is_measured() {
            return Err(("from", format!("{} has no order; say is or not", column.def.name)));
        }
        let bound = |text: &Option<String>, part: &'static str| {
            text.as_deref().map(|text| number(column.def.holds, text).map_err(|reason| (part, reason))).transpose()
        };
        let (from, to) = (bound(&self.from, "from")?, bound(&self.to, "to")?);
        // An instant is not in what ends with it.
        let to = if column.def.holds == Holds::Instant { to.map(|to| to - 1) } else { to };
        Ok(Test::Between(from.unwrap_or(NONE + 1), to.unwrap_or(i64::MAX)))
    }
}

/// A number as somebody writes it, in the way the column holds it.
fn number(holds: Holds, text: &str) -> Result<i64, String> {
    if holds == Holds::Instant {
        return Instant::parse(text).map(Instant::ms).map_err(|error| error.to_string());
    }
    let wrong = || format!("{text:?} is not a number");
    let number: f64 = text.trim().parse().map_err(|_unparsed: std::num::ParseFloatError| wrong())?;
    let by = match holds {
        Holds::Hours => HOUR as f64,
        Holds::Days => DAY as f64,
        Holds::Ratio => RATIO,
        _ => 1.0,
    };
    let scaled = (number * by).round();
    if scaled.is_finite() && scaled.abs() < 9e15 { Ok(scaled as i64) } else { Err(wrong()) }
}

/// The last so many days.
fn last_days(text: &str) -> Option<i64> {
    let days = text.strip_prefix("last_")?.strip_suffix("_days")?.parse().ok()?;
    (1..=36_500).contains(&days).then_some(days)
}

fn within_period<P>(context: &Context, column: &Column<P>, text: &str) -> Result<Test, Wrong> {
    if column.def.holds != Holds::Instant {
        return Err(("within", format!("{} is no instant", column.def.name)));
    }
    if let Some(days) = last_days(text) {
        return Ok(Test::Between(context.now.plus(-days * DAY).ms(), context.now.ms()));
    }
    let period = Period::parse(text).map_err(|error| ("within", error.to_string()))?;
    let span = period.span(context.now, &context.facts.zone, context.facts.fiscal_month);
    Ok(Test::Between(span.start().ms(), span.end().ms() - 1))
}

fn among<P>(column: &Column<P>, values: &[String], wanted: bool) -> Result<Test, String> {
    if values.len() > MOST_VALUES {
        return Err(format!("at most {MOST_VALUES} values at once"));
    }
    let mut numbers = FxHashSet::default();
    for value in values {
        if value.is_empty() {
            numbers.insert(NONE);
        } else if column.def.holds.is_measured() {
            numbers.insert(number(column.def.holds, value)?);
        } else {
            let found = column.words.numbers(value);
            if found.is_empty() {
                return Err(format!("{} is never {value:?}", column.def.name));
            }
            numbers.extend(found);
        }
    }
    let most = numbers.iter().copied().max().unwrap_or(0);
    match usize::try_from(most) {
        Ok(most) if wanted && column.def.holds.is_word() => {
            let mut places = vec![false; most + 1];
            numbers.iter().filter_map(|value| usize::try_from(*value).ok()).for_each(|place| places[place] = true);
            Ok(Test::Words { values: places, none: numbers.contains(&NONE) })
        }
        _ => Ok(Test::Among { values: numbers, wanted }),
    }
}
