//! A list answered: what core can't know beforehand is looked up (the scope, what has letters), and afterwards the texts of the
//! rows that are shown.

use super::letters::Letters;
use crate::{
    ground::{error::Result, reach, reach::Named, rows::list_of, view::View},
    plant::assets,
};
use rusqlite::Connection;
use std::collections::{HashMap, HashSet};
use tally_core::{
    ground::ids::{AssetId, WorkOrderId},
    lists::{self, Answer, Asked, Cell, Context, Counted, Holds, Narrowed, Row, SubjectId},
};

/// A part of a list, as it is asked for; of the rows of a figure, where they are given.
///
/// # Errors
/// [`crate::StoreError::Invalid`] by field, [`crate::StoreError::NotFound`] for an unknown scope.
pub fn answer(view: &View, subject: SubjectId, asked: &Asked, counted: Option<Counted>) -> Result<Answer> {
    of_most(view, subject, asked, counted, lists::MOST_ROWS)
}

/// The same, with more rows in one answer: for files.
///
/// # Errors
/// As [`answer`].
pub fn of_most(
    view: &View,
    subject: SubjectId,
    asked: &Asked,
    counted: Option<Counted>,
    most: usize,
) -> Result<Answer> {
    let view = &view.then(asked.as_of, asked.known_at)?;
    let narrowed = narrowed(view, asked)?;
    view.go_on()?;
    let now = Context::new(view.facts()?, view.now, view.viewer.sees_work(view.conn)?);
    let context = Context { today: view.today()?, counted, ..now };
    let mut answer = lists::answer(subject, &context, asked, &narrowed, most)?;
    texts(view, subject, &mut answer)?;
    Ok(answer)
}

fn narrowed(view: &View, asked: &Asked) -> Result<Narrowed> {
    let scope = asked.scope.as_deref().filter(|code| !code.is_empty());
    let scope = scope.map(|code| scope_of(view, code)).transpose()?;
    let letters = asked.text.as_deref().and_then(Letters::of);
    let letters = letters.map(|letters| {
        let assets = ids(view.conn, "assets", &letters)?.into_iter().map(AssetId).collect();
        Ok::<_, crate::StoreError>((orders(view, &letters)?, assets))
    });
    Ok(Narrowed { scope, letters: letters.transpose()? })
}

fn scope_of(view: &View, code: &str) -> Result<AssetId> {
    let asset = assets::require_in(view.conn, code, "scope")?;
    reach::require(view, view.viewer.bounds(), &Named::Asset(code.into()))?;
    Ok(asset)
}

/// Ids of `work` or `assets` whose texts have the letters.
fn ids(conn: &Connection, of: &str, letters: &Letters) -> Result<Vec<i64>> {
    let (index, asked) = letters.index(of);
    let mut select = conn.prepare_cached(&format!("SELECT rowid FROM {index} WHERE {index} MATCH ?1"))?;
    let rows = select.query_map([asked], |row| row.get(0))?;
    Ok(rows.collect::<rusqlite::Result<_>>()?)
}

/// Orders that have the letters in their titles, or whose numbers begin with them.
fn orders(view: &View, letters: &Letters) -> Result<lists::Numbers> {
    let titled = ids(view.conn, "work", letters)?;
    let mut found: lists::Numbers = titled.into_iter().filter_map(|number| u32::try_from(number).ok()).collect();
    if let Some(number) = letters.number() {
        for (from, to) in numbers_that_begin_with(number) {
            let works = view.facts()?.works.between((WorkOrderId(from),), (WorkOrderId(to + 1),));
            for (part, places) in works {
                found.extend(&part.number[places]);
            }
        }
    }
    Ok(found)
}

/// Ranges of numbers that begin with a number: itself, ten times it to that and nine more, and so on.
pub(crate) fn numbers_that_begin_with(number: i64) -> impl Iterator<Item = (i64, i64)> {
    (0..9).map(|digits| 10_i64.pow(digits)).map(move |step| (number * step, (number + 1) * step - 1))
}

/// Where the texts of a column stand: rows of `id` and text, for ids in `?1`.
fn source(subject: SubjectId, column: &str) -> Option<&'static str> {
    Some(match (subject, column) {
        (SubjectId::Work, "title") => "SELECT number, title FROM work_orders WHERE number IN rarray(?1)",
        (SubjectId::Entries, "description") => "SELECT id, description FROM entries WHERE id IN rarray(?1)",
        (SubjectId::Downtime, "note") => "SELECT id, note FROM downtimes WHERE id IN rarray(?1)",
        (SubjectId::Entries, "order_title") => {
            "SELECT e.id, w.title FROM entries e JOIN work_orders w ON w.number = e.work_order WHERE e.id IN rarray(?1)"
        }
        (SubjectId::Downtime, "order_title") => {
            "SELECT d.id, w.title FROM downtimes d JOIN work_orders w ON w.number = d.work_order WHERE d.id IN rarray(?1)"
        }
        (SubjectId::Alarms, "order_title") => {
            "SELECT n.alarm_id, w.title FROM alarm_answers n JOIN work_orders w ON w.number = n.work_order
             WHERE n.alarm_id IN rarray(?1)"
        }
        (SubjectId::Cycles, "order_title") => {
            "SELECT c.id, w.title FROM upkeep_cycles c JOIN work_orders w ON w.number = c.work_order WHERE c.id IN rarray(?1)"
        }
        (SubjectId::Failures, "order_title") => {
            "SELECT f.id, w.title FROM failure_reports f JOIN work_orders w ON w.number = f.work_order
             WHERE f.id IN rarray(?1)"
        }
        _ => return None,
    })
}

/// Rows whose texts are read at once.
const PIECE: usize = 5_000;

/// Reads the texts of the rows.
fn texts(view: &View, subject: SubjectId, answer: &mut Answer) -> Result<()> {
    let text_columns = answer.columns.iter().enumerate().filter(|(_, def)| def.holds == Holds::Text);
    let text_columns: Vec<(usize, &'static str)> = text_columns.map(|(place, def)| (place, def.id)).collect();
    for (place, column) in text_columns {
        let Some(mut sql) = source(subject, column).map(str::to_owned) else { continue };
        match (subject, column) {
            // An alarm is seen also by those who don't see its work.
            (SubjectId::Alarms, _) => sql.push_str(&format!(" AND {} ORDER BY n.id", view.viewer.condition("w"))),
            // What is booked in somebody's part may be of an order that stands elsewhere.
            (_, "order_title") => sql.push_str(&format!(" AND {}", view.viewer.reaches("w.asset_id"))),
            _ => {}
        }
        for rows in answer.rows.chunks_mut(PIECE) {
            view.go_on()?;
            put_texts(view.conn, &sql, place, rows)?;
        }
    }
    Ok(())
}

fn put_texts(conn: &Connection, sql: &str, place: usize, rows: &mut [Row]) -> Result<()> {
    let mut select = conn.prepare_cached(sql)?;
    let ids: HashSet<i64> = rows.iter().map(|row| row.id).collect();
    let found = select.query_map([list_of(ids)], |row| Ok((row.get(0)?, row.get(1)?)))?;
    let mut texts: HashMap<i64, String> = found.collect::<rusqlite::Result<_>>()?;
    for row in rows {
        if let Some(text) = texts.remove(&row.id) {
            row.cells[place] = Cell::Text(text);
        }
    }
    Ok(())
}
