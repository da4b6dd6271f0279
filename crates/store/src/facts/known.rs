//! Rows as they were known at an instant: those that stand, and what was before they were changed. What stands in a question is
//! written by the program alone.

use tally_core::ground::time::Instant;

/// Where rows of a table are read from: as they stand, or as they were known. Each keeps its `key`; `columns` are what is read,
/// and what keeps the former rows has them too.
pub(super) fn rows(table: &str, key: &[&str], columns: &str, known: Option<Instant>) -> String {
    let Some(known) = known.map(Instant::ms) else { return table.into() };
    let same = |one: &str, other: &str| {
        key.iter().map(|column| format!("{one}.{column} = {other}.{column}")).collect::<Vec<_>>().join(" AND ")
    };
    format!(
        "(SELECT {columns} FROM {table} t WHERE t.recorded_at <= {known} AND NOT EXISTS
             (SELECT 1 FROM former_{table} f WHERE f.known_until > {known} AND {})
         UNION ALL SELECT {columns} FROM former_{table} f
         WHERE f.known_until > {known} AND f.recorded_at <= {known} AND NOT EXISTS
             (SELECT 1 FROM former_{table} g WHERE g.known_until > {known} AND g.former < f.former AND {}))",
        same("f", "t"),
        same("g", "f"),
    )
}

/// The first row that was kept of what was known then, as a select by `key` of the row outside.
fn first(table: &str, column: &str, known: i64) -> String {
    format!(
        "(SELECT f.{column} FROM {table} f WHERE f.id = t.id AND f.known_until > {known} ORDER BY f.former LIMIT 1)"
    )
}

/// Assets with the lives that were known.
pub(super) fn lives(known: Option<Instant>) -> String {
    let Some(known) = known.map(Instant::ms) else { return "assets".into() };
    let changed = format!("EXISTS (SELECT 1 FROM former_lives f WHERE f.id = t.id AND f.known_until > {known})");
    let as_known =
        |column: &str| format!("iif({changed}, {}, t.{column}) AS {column}", first("former_lives", column, known));
    format!(
        "(SELECT t.id, {}, {}, t.code, t.name, t.level, t.class_id, t.criticality, t.crew_id, t.tags FROM assets t)",
        as_known("commissioned_at"),
        as_known("retired_at"),
    )
}

/// Calendars with the hours that were known.
pub(super) fn calendars(known: Option<Instant>) -> String {
    let Some(known) = known.map(Instant::ms) else { return "calendars".into() };
    format!(
        "(SELECT t.id, ifnull({}, t.definition) AS definition FROM calendars t)",
        first("former_calendars", "definition", known)
    )
}
