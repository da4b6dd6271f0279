//! What is asked, checked against the columns of its subject.

use super::{
    asked::{Asked, FilterAsked, GroupAsked, MOST_KEYS, Summary, SummaryAsked, USUAL_ROWS},
    buckets::{Buckets, Step},
    column::{ColumnDef, Holds},
    condition::Test,
    context::Context,
    joined::{Column, column, columns_of},
    subject::Subject,
};
use crate::{
    access::refusal::Refusal,
    ground::time::{DAY, Instant},
};

/// The most conditions, columns with counts, and summaries.
const MOST_PARTS: usize = 30;

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

impl<P> Question<'_, P> {
    /// Whether a row can stand in several groups.
    pub(super) fn may_overlap(&self) -> bool {
        self.group.iter().any(|grouping| grouping.column.sets.is_some())
    }
}

/// The columns of a subject, to be found by what somebody calls them.
struct Known<'a, S> {
    context: &'a Context<'a>,
    all: Vec<ColumnDef>,
    of: std::marker::PhantomData<S>,
}

impl<'a, S: Subject> Known<'a, S>
where
    S::Rows: 'a,
{
    fn def(&self, field: &str, id: &str) -> Result<ColumnDef, Refusal> {
        let def = self.all.iter().find(|def| def.id == id);
        def.copied().ok_or_else(|| Refusal::field(field, format!("there is no column {id:?}")))
    }

    fn column(&self, field: &str, id: &str) -> Result<Column<'a, S::Rows>, Refusal> {
        let def = self.def(field, id)?;
        let text = || Refusal::field(field, format!("{} is text, which is only shown", def.name));
        column::<S>(self.context, id).ok_or_else(text)
    }

    fn condition(&self, place: usize, asked: &FilterAsked) -> Result<Condition<'a, S::Rows>, Refusal> {
        let column = self.column(&format!("filter[{place}].column"), &asked.column)?;
        let test = asked.test(self.context, &column).map_err(|(part, reason)| {
            let dot = if part.is_empty() { "" } else { "." };
            Refusal::field(format!("filter[{place}]{dot}{part}"), reason)
        })?;
        Ok(Condition { column, test })
    }

    fn grouping(&self, place: usize, asked: &GroupAsked) -> Result<Grouping<'a, S::Rows>, Refusal> {
        let column = self.column(&format!("group[{place}].column"), &asked.column)?;
        let buckets = match column.def.holds {
            Holds::Instant => {
                let (from, until) = lasts::<S>(self.context);
                Some(Buckets::new(asked.by.unwrap_or(Step::Month), &self.context.facts.zone, from, until))
            }
            _ if asked.by.is_some() => {
                return Err(Refusal::field(format!("group[{place}].by"), "is said of instants only"));
            }
            _ => None,
        };
        Ok(Grouping { column, buckets })
    }

    fn summary(&self, place: usize, asked: &SummaryAsked) -> Result<(Column<'a, S::Rows>, Summary), Refusal> {
        let column = self.column(&format!("summaries[{place}].column"), &asked.column)?;
        let fits = match asked.of {
            Summary::Sum | Summary::Share => column.def.holds.adds_up(),
            Summary::Mean | Summary::Least | Summary::Greatest | Summary::Median => column.def.holds.is_measured(),
        };
        if !fits {
            let reason = format!("{} can't be summed up so", column.def.name);
            return Err(Refusal::field(format!("summaries[{place}].of"), reason));
        }
        Ok((column, asked.of))
    }

    fn facet(&self, place: usize, id: &str) -> Result<Column<'a, S::Rows>, Refusal> {
        let field = format!("facets[{place}]");
        let column = self.column(&field, id)?;
        if !column.def.holds.is_word() {
            return Err(Refusal::field(field, format!("{} has too many values to tell them", column.def.name)));
        }
        Ok(column)
    }
}

/// Each of the list by its place.
fn each<T, U>(asked: &[T], of: impl Fn(usize, &T) -> Result<U, Refusal>) -> Result<Vec<U>, Refusal> {
    asked.iter().enumerate().map(|(place, one)| of(place, one)).collect()
}

impl Asked {
    /// What is asked of a subject's columns, with at most so many rows.
    pub(super) fn check<'a, S: Subject>(
        &self,
        context: &'a Context<'a>,
        most: usize,
    ) -> Result<Question<'a, S::Rows>, Refusal>
    where
        S::Rows: 'a,
    {
        for (field, asked, most) in [
            ("group", self.group.len(), MOST_KEYS),
            ("sort", self.sort.len(), MOST_KEYS),
            ("filter", self.filter.len(), MOST_PARTS),
            ("columns", self.columns.len(), MOST_PARTS),
            ("summaries", self.summaries.len(), MOST_PARTS),
            ("facets", self.facets.len(), MOST_PARTS),
        ] {
            if asked > most {
                return Err(Refusal::field(field, format!("at most {most}")));
            }
        }
        let known = Known::<S> { context, all: columns_of::<S>(context), of: std::marker::PhantomData };
        let conditions = each(&self.filter, |place, asked| known.condition(place, asked))?;
        let named: Vec<ColumnDef> = match self.columns.is_empty() {
            true => known.all.iter().copied().filter(|def| def.is_usual).collect(),
            false => each(&self.columns, |place, id| known.def(&format!("columns[{place}]"), id))?,
        };
        let sort = each(&self.sort, |place, asked| {
            let field = format!("sort[{place}].column");
            let column = known.column(&field, &asked.column)?;
            if column.sets.is_some() {
                return Err(Refusal::field(
                    field,
                    format!("{} has several values: nothing is sorted by it", column.def.name),
                ));
            }
            Ok((column, asked.descending))
        })?;
        Ok(Question {
            conditions,
            shown: named.iter().map(|def| column::<S>(context, def.id)).collect(),
            columns: named,
            group: each(&self.group, |place, asked| known.grouping(place, asked))?,
            summaries: each(&self.summaries, |place, asked| known.summary(place, asked))?,
            facets: each(&self.facets, |place, id| known.facet(place, id))?,
            limit: self.limit.unwrap_or(USUAL_ROWS).min(most),
            after: self.cursor.as_deref().map(|cursor| after(cursor, sort.len())).transpose()?,
            sort,
        })
    }
}

/// The keys of the last row that was told, and its id.
fn after(cursor: &str, sorts: usize) -> Result<Vec<i64>, Refusal> {
    let wrong = || Refusal::field("cursor", "is none of this list");
    let keys = cursor.split('_').map(|key| key.parse().map_err(|_unparsed: std::num::ParseIntError| wrong()));
    let keys: Vec<i64> = keys.collect::<Result<_, _>>()?;
    if keys.len() == sorts + 1 { Ok(keys) } else { Err(wrong()) }
}

/// From when to about when there are rows.
fn lasts<S: Subject>(context: &Context) -> (Instant, Instant) {
    let rows = S::rows(context.facts);
    let from = (0..rows.parts().len()).map(|number| rows.lasts(number).0).min();
    (from.unwrap_or(context.now), context.now.plus(DAY))
}
