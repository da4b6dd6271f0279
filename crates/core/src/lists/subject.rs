//! What can be listed, and how its columns are filled.

use super::{
    asked::{Summary, SummaryAsked},
    column::{ColumnDef, Holds},
    context::{ByWork, Context},
    subjects::{Downtime, EntriesOf, FailuresOf, Work},
    words::{Dictionary, dictionary},
};
use crate::{
    facts::{
        Snapshot,
        columns::{Columns, Part},
        packed::NONE,
    },
    plant::assets::{Level, NOBODY},
};
use serde::{Deserialize, Serialize};

/// What can be listed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum SubjectId {
    Work,
    Entries,
    Downtime,
    Failures,
}

/// A subject with its columns.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SubjectDef {
    pub id: SubjectId,
    pub name: &'static str,
    pub columns: Vec<ColumnDef>,
    /// The column that says when a row was, where a period chooses among rows.
    pub time: Option<&'static str>,
    /// Columns that are filtered by first, and what is summed up, where nothing else is asked for.
    pub facets: Vec<&'static str>,
    pub summaries: Vec<SummaryAsked>,
}

crate::kept_as_words!(SubjectId);

impl SubjectId {
    /// All there are.
    pub const ALL: [Self; 4] = [Self::Work, Self::Entries, Self::Downtime, Self::Failures];

    /// The subject with its columns.
    #[must_use]
    pub fn definition(self) -> SubjectDef {
        match self {
            Self::Work => of::<Work>(
                self,
                "Work orders",
                &["state", "rank", "work_kind", "crew", "department"],
                &["estimated", "spent", "cost"],
            ),
            Self::Entries => of::<EntriesOf>(
                self,
                "Entries of cost",
                &["entry_kind", "person", "order_crew", "order_state", "class"],
                &["hours", "cost"],
            ),
            Self::Downtime => of::<Downtime>(
                self,
                "Intervals of downtime",
                &["downtime_kind", "unit", "class", "order_state"],
                &["hours"],
            ),
            Self::Failures => of::<FailuresOf>(
                self,
                "Failures",
                &["effect", "problem", "cause", "class", "order_crew"],
                &["time_to_restore"],
            ),
        }
    }
}

fn of<S: Subject>(id: SubjectId, name: &'static str, facets: &[&'static str], sums: &[&str]) -> SubjectDef {
    let sum = |column: &&str| SummaryAsked { column: (*column).into(), of: Summary::Sum };
    let summaries = sums.iter().map(sum).collect();
    SubjectDef { id, name, columns: columns::<S>(), time: S::TIME, facets: facets.to_vec(), summaries }
}

/// Writes the values of a column of a part, one a row.
pub(super) type Fill<'a, P> = Box<dyn Fn(&P, &mut Vec<i64>) + Send + Sync + 'a>;

/// Rows of one kind.
pub(super) trait Subject {
    type Rows: Part;
    /// Its own columns; those of its asset and its order come on top.
    const COLUMNS: &'static [ColumnDef];
    /// The column that rows are in order of, if one is.
    const TIME: Option<&'static str>;

    fn rows(facts: &Snapshot) -> &Columns<Self::Rows>;
    fn assets(part: &Self::Rows) -> &[u32];
    /// Numbers of orders, one a row, where it is not work itself.
    fn orders(part: &Self::Rows) -> Option<&[u32]>;
    /// Whether a row of work itself is seen; what belongs to work is seen as that is.
    fn sees(_: &Context, _: &Self::Rows, _: usize) -> bool {
        true
    }
    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Self::Rows>>;
}

/// What a row's asset is.
const OF_ASSET: &[ColumnDef] = &[
    ColumnDef::new("asset", "Asset", Holds::Reference).usual(),
    ColumnDef::new("class", "Equipment class", Holds::Reference),
    ColumnDef::new("criticality", "Criticality", Holds::Word),
    ColumnDef::new("level", "Level", Holds::Word),
    ColumnDef::new("asset_crew", "Asset's crew", Holds::Reference),
    ColumnDef::new("site", "Site", Holds::Reference),
    ColumnDef::new("unit", "Unit", Holds::Reference),
    ColumnDef::new("system", "System", Holds::Reference),
    ColumnDef::new("equipment", "Equipment", Holds::Reference),
];

/// What a row's order is.
const OF_ORDER: &[ColumnDef] = &[
    ColumnDef::new("order", "Order", Holds::Number).usual(),
    ColumnDef::new("order_title", "Order's title", Holds::Text).usual(),
    ColumnDef::new("order_work_kind", "Order's kind", Holds::Word),
    ColumnDef::new("order_state", "Order's state", Holds::Word),
    ColumnDef::new("order_rank", "Order's rank", Holds::Word),
    ColumnDef::new("order_crew", "Order's crew", Holds::Reference),
    ColumnDef::new("order_department", "Order's department", Holds::Word),
    ColumnDef::new("order_source", "Order's source", Holds::Word),
    ColumnDef::new("order_raised_at", "Asked for", Holds::Instant),
    ColumnDef::new("order_window_end", "Due", Holds::Instant),
    ColumnDef::new("order_done_at", "Done", Holds::Instant).calculated(),
];

/// All columns of a subject.
pub(super) fn columns<S: Subject>() -> Vec<ColumnDef> {
    let of_order = if S::orders(&S::Rows::default()).is_some() { OF_ORDER } else { &[] };
    S::COLUMNS.iter().chain(OF_ASSET).chain(of_order).copied().collect()
}

/// A column that can be read.
pub(super) struct Column<'a, P> {
    pub(super) def: ColumnDef,
    pub(super) fill: Fill<'a, P>,
    pub(super) words: Dictionary<'a>,
}

/// The column of that id; `None` where there is none, or it is text.
pub(super) fn column<'a, S: Subject>(context: &'a Context<'a>, id: &str) -> Option<Column<'a, S::Rows>>
where
    S::Rows: 'a,
{
    let def = columns::<S>().into_iter().find(|def| def.id == id)?;
    let words = dictionary(context, id);
    let fill = S::fill(context, id).or_else(|| of_asset::<S>(context, id)).or_else(|| of_order::<S>(context, id))?;
    Some(Column { def, fill, words })
}

fn of_asset<'a, S: Subject>(context: &'a Context<'a>, id: &str) -> Option<Fill<'a, S::Rows>>
where
    S::Rows: 'a,
{
    let facts = context.facts;
    if id == "asset" {
        return Some(Box::new(|part, out| out.extend(S::assets(part).iter().map(|asset| i64::from(*asset)))));
    }
    let of_each = |value: &dyn Fn(&crate::facts::AssetFact) -> Option<i64>| -> Vec<i64> {
        facts.assets.iter().map(|asset| value(asset).unwrap_or(NONE)).collect()
    };
    let table = match id {
        "class" => of_each(&|asset| asset.class),
        "criticality" => of_each(&|asset| asset.criticality.map(|criticality| criticality as i64)),
        "level" => of_each(&|asset| Some(asset.level as i64)),
        "asset_crew" => of_each(&|asset| asset.crew.map(|crew| crew.0)),
        "site" => above(context, Level::Site),
        "unit" => above(context, Level::Unit),
        "system" => above(context, Level::System),
        "equipment" => above(context, Level::Equipment),
        _ => return None,
    };
    let value = move |asset: &u32| table.get(*asset as usize).copied().unwrap_or(NONE);
    Some(Box::new(move |part, out| out.extend(S::assets(part).iter().map(&value))))
}

/// By asset the nearest one of that level, itself or above it, as the tree stands now.
fn above(context: &Context, level: Level) -> Vec<i64> {
    let mut table = vec![NONE; context.facts.assets.len()];
    for &asset in context.shape.order() {
        let index = asset as usize;
        let parent = context.shape.parent(asset);
        table[index] = match context.facts.assets.get(index) {
            Some(fact) if fact.level == level => index as i64,
            _ if parent == NOBODY => NONE,
            _ => table[parent as usize],
        };
    }
    table
}

fn of_order<'a, S: Subject>(context: &'a Context<'a>, id: &str) -> Option<Fill<'a, S::Rows>>
where
    S::Rows: 'a,
{
    S::orders(&S::Rows::default())?;
    if id == "order" {
        return Some(Box::new(|part, out| {
            let orders = S::orders(part).unwrap_or_default().iter();
            out.extend(orders.map(|number| if *number == u32::MAX { NONE } else { i64::from(*number) }));
        }));
    }
    let fill = Work::fill(context, id.strip_prefix("order_")?)?;
    let mut table: ByWork<i64> = context.by_work(NONE, |_, _| NONE);
    let mut values = Vec::new();
    for part in context.facts.works.parts() {
        values.clear();
        fill(part, &mut values);
        part.number.iter().zip(&values).for_each(|(number, value)| table.put(*number, *value));
    }
    Some(Box::new(move |part, out| {
        out.extend(S::orders(part).unwrap_or_default().iter().map(|number| table.of(*number)));
    }))
}
