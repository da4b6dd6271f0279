//! All columns of a subject: its own, those of its asset, and those of its order.

use super::{
    column::{ColumnDef, Holds},
    context::Context,
    counted::{COUNTED, Counted},
    fill::worked_out,
    several::{Sets, tags},
    subject::{Fill, Subject},
    subjects::Work,
    words::{Dictionary, dictionary},
};
use crate::{
    facts::{ByWork, columns::Part, packed::NONE},
    plant::assets::{Level, NOBODY},
};

/// What a row's asset is.
const OF_ASSET: &[ColumnDef] = &[
    ColumnDef::new("asset", "Asset", Holds::Reference).usual(),
    ColumnDef::new("class", "Equipment class", Holds::Reference),
    ColumnDef::new("tags", "Tags", Holds::Words),
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
    ColumnDef::new("order_verdict", "Order's verdict", Holds::Word),
    ColumnDef::new("order_problem", "Order's problem", Holds::Reference).calculated(),
    ColumnDef::new("order_raised_at", "Asked for", Holds::Instant),
    ColumnDef::new("order_window_end", "Due", Holds::Instant),
    ColumnDef::new("order_done_at", "Done", Holds::Instant).calculated(),
];

/// All columns that can be asked for: those of a subject, and what its rows add to the figure that they are of.
pub(super) fn columns_of<S: Subject>(context: &Context) -> Vec<ColumnDef> {
    columns::<S>().into_iter().chain(context.counted.as_ref().map(Counted::column)).collect()
}

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
    /// Where a row has several values: what its numbers stand for.
    pub(super) sets: Option<Sets>,
}

/// The column of that id; `None` where there is none, or it is text.
pub(super) fn column<'a, S: Subject>(context: &'a Context<'a>, id: &str) -> Option<Column<'a, S::Rows>>
where
    S::Rows: 'a,
{
    let def = columns_of::<S>(context).into_iter().find(|def| def.id == id)?;
    if let Some(counted) = context.counted.as_ref().filter(|_| id == COUNTED) {
        let amount = worked_out(|part: &S::Rows, place| counted.amount(part.id(place)));
        return Some(Column { def, fill: amount, words: Dictionary::Numbers, sets: None });
    }
    if def.holds == Holds::Words {
        let (names, sets, table) = tags(context.facts);
        return Some(Column { def, fill: by_asset::<S>(table), words: Dictionary::Words(names), sets: Some(sets) });
    }
    let words = dictionary(context, id);
    let fill = S::fill(context, id).or_else(|| of_asset::<S>(context, id)).or_else(|| of_order::<S>(context, id))?;
    Some(Column { def, fill, words, sets: None })
}

fn of_asset<'a, S: Subject>(context: &'a Context<'a>, id: &str) -> Option<Fill<'a, S::Rows>>
where
    S::Rows: 'a,
{
    let facts = context.facts;
    if id == "asset" {
        return Some(Fill::Ids(Box::new(|part| S::assets(part))));
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
    Some(by_asset::<S>(table))
}

/// A value of each asset.
fn by_asset<'a, S: Subject>(table: Vec<i64>) -> Fill<'a, S::Rows> {
    let value = move |asset: &u32| table.get(*asset as usize).copied().unwrap_or(NONE);
    Fill::Written(Box::new(move |part, out| out.extend(S::assets(part).iter().map(&value))))
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
    let told = context.told(S::FOLLOWS_WORK);
    let is_told = move |number: u32| told.as_ref().is_none_or(|told| told.of(number));
    if id == "order" {
        return Some(Fill::Written(Box::new(move |part, out| {
            let orders = S::orders(part).unwrap_or_default().iter();
            let shown = |number: u32| if number == u32::MAX || !is_told(number) { NONE } else { i64::from(number) };
            out.extend(orders.map(|number| shown(*number)));
        })));
    }
    let fill = Work::fill(context, id.strip_prefix("order_")?)?;
    let mut table: ByWork<i64> = context.by_work(NONE, |_, _| NONE);
    let mut values = Vec::new();
    for part in context.facts.works.parts() {
        values.clear();
        fill.fill(part, &mut values);
        let values = part.number.iter().zip(&values).filter(|(number, _)| is_told(**number));
        values.for_each(|(number, value)| table.put(*number, *value));
    }
    Some(Fill::Written(Box::new(move |part, out| {
        out.extend(S::orders(part).unwrap_or_default().iter().map(|number| table.of(*number)));
    })))
}
