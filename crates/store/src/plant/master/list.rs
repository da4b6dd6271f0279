//! Looking at master data: a page of rows, filtered and sorted, and all of it as a file.

use super::{Column, Form, Kind, columns, columns::Keep, kinds};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        sql::Rows,
    },
    lists::{facet::FacetValue, letters::Letters},
    plant::settings,
};
use rusqlite::{
    Connection, ToSql,
    types::{Value, ValueRef},
};
use serde::Serialize;
use std::collections::{BTreeMap, HashMap};
use tally_core::{ground::ids::AssetId, outside::files::RowSink};
use utoipa::ToSchema;

/// Which rows, in which order.
#[derive(Debug, Clone, Default)]
pub struct Query {
    /// Ids of the assets whose rows are asked for; all without it.
    pub scope: Option<Vec<AssetId>>,
    /// In code or name.
    pub text: Option<String>,
    /// Column and value; an empty value asks for rows without one.
    pub filters: Vec<(String, String)>,
    /// A column's name; the code without it.
    pub sort: Option<String>,
    pub descending: bool,
    /// Rows that are retired or not active, too.
    pub all: bool,
    pub offset: usize,
    pub limit: usize,
}

/// A row, by column.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct MasterRow {
    pub values: BTreeMap<&'static str, String>,
}

/// The values of one column.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Facet {
    pub column: &'static str,
    pub label: &'static str,
    pub values: Vec<FacetValue>,
}

/// A part of a table of master data.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MasterPage {
    pub columns: Vec<Column>,
    pub rows: Vec<MasterRow>,
    /// How many there are in all.
    pub total: i64,
    pub facets: Vec<Facet>,
    pub next_cursor: Option<String>,
}

fn listed(kind: Kind) -> impl Iterator<Item = &'static Column> {
    columns(kind).iter().filter(|column| column.listed)
}

fn column(kind: Kind, name: &str, field: &str) -> Result<&'static Column> {
    listed(kind)
        .find(|column| column.name == name)
        .ok_or_else(|| StoreError::invalid(field, format!("there is no column {name:?}")))
}

struct Narrowed {
    sql: String,
    values: Vec<Box<dyn ToSql>>,
}

/// What a row is looked for by.
const TEXTS: &str = "t.code || ' ' || t.name";

/// The rows of a query as a table `t`, with the joined columns that it filters by, and others. Only names of columns reach
/// the text; all values are bound.
fn narrow(conn: &Connection, kind: Kind, query: &Query, except: Option<&str>, with: &[&str]) -> Result<Narrowed> {
    let filtered = |name: &str| query.filters.iter().any(|(of, _)| of == name && except != Some(name));
    let rows = kinds::source(kind).select(|name| filtered(name) || with.contains(&name));
    let mut sql = format!("FROM ({rows}) t WHERE 1");
    let mut values: Vec<Box<dyn ToSql>> = Vec::new();
    if let Some(scope) = &query.scope {
        values.push(Box::new(list_of(scope.iter().copied())));
        sql.push_str(&format!(" AND t.asset_id IN rarray(?{})", values.len()));
    }
    if let Some(letters) = query.text.as_deref().and_then(Letters::of) {
        let place = format!("?{}", values.len() + 1);
        let (sought, value) = match kind {
            Kind::Assets => letters.condition("search_assets", "t.id", TEXTS, &place),
            Kind::Meters => letters.condition("search_meters", "t.id", TEXTS, &place),
            // Few enough to be looked through.
            Kind::People | Kind::EquipmentClasses | Kind::Crews | Kind::UpkeepPlans | Kind::Storeroom => {
                (format!("instr(lower({TEXTS}), lower({place})) > 0"), Value::from(letters.text))
            }
        };
        values.push(Box::new(value));
        sql.push_str(&format!(" AND {sought}"));
    }
    if !query.all {
        sql.push_str(match kind {
            Kind::Assets | Kind::Meters => " AND t.retired_at IS NULL",
            Kind::People => " AND t.active = 1",
            Kind::UpkeepPlans => " AND t.status <> 'retired'",
            Kind::EquipmentClasses | Kind::Crews | Kind::Storeroom => "",
        });
    }
    let digits = settings::get(conn)?.minor_digits;
    for (name, value) in query.filters.iter().filter(|(name, _)| Some(name.as_str()) != except) {
        let column = column(kind, name, "filter")?;
        match column.form.keep(value, digits) {
            Value::Null => sql.push_str(&format!(" AND t.{} IS NULL", column.name)),
            kept => {
                values.push(Box::new(kept));
                sql.push_str(&format!(" AND t.{} = ?{}", column.name, values.len()));
            }
        }
    }
    Ok(Narrowed { sql, values })
}

impl Narrowed {
    fn params(&self) -> Vec<&dyn ToSql> {
        self.values.iter().map(AsRef::as_ref).collect()
    }
}

/// Whether a filter on the column is worth offering.
fn has_facet(column: &Column) -> bool {
    match column.form {
        Form::Choice { .. } | Form::YesNo | Form::Calendar | Form::JobSheet => true,
        Form::Refers { to } => to != Kind::Assets,
        _ => column.name == "unit",
    }
}

/// One page.
///
/// # Errors
/// [`StoreError::Invalid`] for a column that is none.
pub fn list(rows: &dyn Rows, kind: Kind, query: &Query) -> Result<MasterPage> {
    let conn = rows.sql().conn;
    let mut rows = Vec::new();
    each(conn, kind, query, |_, texts| {
        rows.push(MasterRow { values: listed(kind).map(|column| column.name).zip(texts).collect() });
        Ok(())
    })?;
    let (facets, total) = facets(conn, kind, query)?;
    let next = query.offset + rows.len();
    let more = (next as i64) < total;
    Ok(MasterPage { columns: columns(kind).to_vec(), rows, total, facets, next_cursor: more.then(|| next.to_string()) })
}

/// Values of a column at the most.
const MOST_VALUES: usize = 60;

/// The values of all columns that are worth a filter, each under all filters but its own, and how many rows there are under all.
fn facets(conn: &Connection, kind: Kind, query: &Query) -> Result<(Vec<Facet>, i64)> {
    let offered: Vec<&Column> = listed(kind).filter(|column| has_facet(column)).collect();
    let is_joined = |column: &&Column| matches!(column.keep, Keep::Apart);
    if !query.filters.is_empty() || offered.iter().all(is_joined) {
        let narrowed = narrow(conn, kind, query, None, &[])?;
        let mut count = conn.prepare_cached(&format!("SELECT count(*) {}", narrowed.sql))?;
        let total = count.query_row(&*narrowed.params(), |row| row.get(0))?;
        let mut facets = Vec::with_capacity(offered.len());
        for column in offered {
            facets.extend(counted(conn, kind, query, Of::AllBut(column))?.0);
        }
        return Ok((facets, total));
    }
    // All of them are of the same rows: those are passed over once, and few have what stands apart.
    let own: Vec<&Column> = offered.iter().filter(|column| !is_joined(column)).copied().collect();
    let (mut facets, total) = counted(conn, kind, query, Of::All(&own))?;
    for column in offered.iter().filter(|column| is_joined(column)) {
        facets.extend(counted(conn, kind, query, Of::Rest(column, total))?.0);
    }
    facets.sort_by_key(|facet| offered.iter().position(|column| column.name == facet.column));
    Ok((facets, total))
}

/// What is counted.
enum Of<'a> {
    /// Some columns, under all filters.
    All(&'a [&'static Column]),
    /// One, under all filters but its own.
    AllBut(&'static Column),
    /// One that most rows have nothing in, under all filters: of so many rows.
    Rest(&'static Column, i64),
}

/// The values of columns, with how many rows have each, and how many rows there are. What is kept by id is counted by id, so that no
/// row is joined.
fn counted(conn: &Connection, kind: Kind, query: &Query, of: Of) -> Result<(Vec<Facet>, i64)> {
    let (columns, except) = match &of {
        Of::All(columns) => (*columns, None),
        Of::AllBut(column) => (std::slice::from_ref(column), Some(column.name)),
        Of::Rest(column, _) => (std::slice::from_ref(column), None),
    };
    let digits = settings::get(conn)?.minor_digits;
    let (mut names, mut with, mut codes_of) = (Vec::new(), Vec::new(), Vec::new());
    for column in columns {
        let (name, codes) = match column.keep {
            Keep::Id { column, of } => (column, Some(codes(conn, of)?)),
            Keep::Own(_) | Keep::Apart => {
                with.push(column.name);
                (column.name, None)
            }
        };
        names.push(format!("t.{name}"));
        codes_of.push(codes);
    }
    let names = names.join(", ");
    let narrowed = narrow(conn, kind, query, except, &with)?;
    let some = if matches!(of, Of::Rest(..)) { format!(" AND {names} IS NOT NULL") } else { String::new() };
    let mut select =
        conn.prepare_cached(&format!("SELECT count(*), {names} {}{some} GROUP BY {names}", narrowed.sql))?;
    let mut rows = select.query(&*narrowed.params())?;
    let (mut total, mut counts) = (0, vec![HashMap::<String, i64>::new(); columns.len()]);
    while let Some(row) = rows.next()? {
        let count: i64 = row.get(0)?;
        total += count;
        for (place, counts) in counts.iter_mut().enumerate() {
            let value = match (&codes_of[place], row.get_ref(place + 1)?) {
                (Some(codes), ValueRef::Integer(id)) => codes.get(&id).cloned().unwrap_or_default(),
                (_, value) => columns[place].form.show(value, digits)?,
            };
            *counts.entry(value).or_default() += count;
        }
    }
    if let (Of::Rest(column, all), [counts]) = (&of, counts.as_mut_slice())
        && *all > total
    {
        *counts.entry(column.form.show(ValueRef::Null, digits)?).or_default() += all - total;
    }
    let facets = columns.iter().zip(counts).map(|(column, counts)| {
        let mut values: Vec<FacetValue> =
            counts.into_iter().map(|(value, count)| FacetValue { value, count }).collect();
        values.sort_by(|a, b| (b.count, &a.value).cmp(&(a.count, &b.value)));
        values.truncate(MOST_VALUES);
        Facet { column: column.name, label: column.label, values }
    });
    Ok((facets.collect(), total))
}

/// The codes of all rows of a kind by their ids.
fn codes(conn: &Connection, of: Kind) -> Result<HashMap<i64, String>> {
    let mut select = conn.prepare_cached(&format!("SELECT id, code FROM ({})", kinds::source(of).select(|_| false)))?;
    let rows = select.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Every row of the query: its id and tidy texts, one a listed column. The rows are chosen and put in order by what is needed for
/// that alone; the rest is read of those that are told.
fn each(
    conn: &Connection,
    kind: Kind,
    query: &Query,
    mut take: impl FnMut(i64, Vec<String>) -> Result<()>,
) -> Result<()> {
    let sort = match &query.sort {
        Some(name) => column(kind, name, "sort")?,
        None => column(kind, "code", "sort")?,
    };
    let narrowed = narrow(conn, kind, query, None, &[sort.name])?;
    let direction = if query.descending { "DESC" } else { "ASC" };
    // Every row has a code, in an index.
    let order = match sort.name {
        "code" => format!("t.code {direction}"),
        name => format!("t.{name} IS NULL, t.{name} {direction}, t.code"),
    };
    let sql = format!("SELECT t.id {} ORDER BY {order} LIMIT {} OFFSET {}", narrowed.sql, query.limit, query.offset);
    let mut select = conn.prepare_cached(&sql)?;
    let ids = select.query_map(&*narrowed.params(), |row| row.get(0))?.collect::<rusqlite::Result<Vec<i64>>>()?;
    for ids in ids.chunks(PIECE) {
        let mut texts: HashMap<i64, Vec<String>> =
            of_ids(conn, kind, ids, |column| column.listed)?.into_iter().collect();
        for id in ids {
            texts.remove(id).map_or(Ok(()), |texts| take(*id, texts))?;
        }
    }
    Ok(())
}

/// Rows read at once.
const PIECE: usize = 5_000;

/// Rows of some ids: id and tidy texts, one for each column that is wanted.
fn of_ids(
    conn: &Connection,
    kind: Kind,
    ids: &[i64],
    wanted: impl Fn(&Column) -> bool,
) -> Result<Vec<(i64, Vec<String>)>> {
    let digits = settings::get(conn)?.minor_digits;
    let rows = kinds::source(kind).select(|_| true);
    let mut select = conn.prepare_cached(&format!("SELECT * FROM ({rows}) t WHERE t.id IN rarray(?1)"))?;
    let wanted: Vec<&Column> = columns(kind).iter().filter(|column| wanted(column)).collect();
    let places = wanted
        .iter()
        .map(|column| column.listed.then(|| select.column_index(column.name)).transpose())
        .collect::<rusqlite::Result<Vec<_>>>()?;
    let mut rows = select.query([list_of(ids.iter().copied())])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        let texts = wanted.iter().zip(&places).map(|(column, place)| match place {
            Some(place) => column.form.show(row.get_ref(*place)?, digits),
            None => Ok(String::new()),
        });
        found.push((row.get("id")?, texts.collect::<Result<_>>()?));
    }
    Ok(found)
}

/// Rows of the given codes: id and tidy texts, one a column, those that are only taken in left empty.
pub(super) fn of_codes(conn: &Connection, kind: Kind, ids: &[i64]) -> Result<Vec<(i64, Vec<String>)>> {
    of_ids(conn, kind, ids, |_| true)
}

/// Writes all rows of a query below their columns, parents not before children but by code.
///
/// # Errors
/// SQLite's own, and the writer's.
pub fn export(rows: &dyn Rows, kind: Kind, query: &Query, to: &mut dyn RowSink) -> Result<()> {
    let conn = rows.sql().conn;
    let query = Query { limit: usize::MAX >> 1, offset: 0, ..query.clone() };
    to.row(&listed(kind).map(|column| column.name).collect::<Vec<_>>())?;
    each(conn, kind, &query, |_, texts| Ok(to.row(&texts.iter().map(String::as_str).collect::<Vec<_>>())?))
}
