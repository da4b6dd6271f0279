//! A list as a file: its rows, or its groups where it is grouped, as they are asked for.

use super::{files::write_aside, format::Format};
use std::fs::File;
use tally_core::{
    ground::words::word,
    lists::{Answer, Asked, Cell, Counted, Holds, SubjectId},
    outside::files::RowSink,
};
use tally_store::{
    StoreError, View,
    lists::answer,
    plant::{master::money_text, settings},
};

/// Rows of one file at the most: as many as a workbook has room for.
const MOST: u64 = 1_048_575;

/// Rows that are held at once.
const PIECE: usize = 100_000;

/// Writes all of a list into a file without a name.
///
/// # Errors
/// [`StoreError::Invalid`] for what can't be asked, or is too much for one file.
pub fn written(view: &View, list: List, form: Format) -> Result<File, StoreError> {
    in_pieces(view, list, form, PIECE)
}

/// What is written.
#[derive(Debug)]
pub struct List {
    pub subject: SubjectId,
    pub asked: Asked,
    /// The rows of a figure, where only those are asked for.
    pub counted: Option<Counted>,
}

impl List {
    /// The rows from a cursor on, and what all of them come to.
    fn piece(&self, view: &View, cursor: Option<String>, most: usize) -> Result<Answer, StoreError> {
        let asked = Asked { cursor, ..self.asked.clone() };
        answer::of_most(view, self.subject, &asked, self.counted.clone(), most)
    }
}

fn in_pieces(view: &View, list: List, form: Format, piece: usize) -> Result<File, StoreError> {
    let is_grouped = !list.asked.group.is_empty();
    let limit = Some(if is_grouped { 0 } else { piece });
    let asked = Asked { limit, cursor: None, facets: Vec::new(), ..list.asked };
    let list = List { asked, ..list };
    let answer = list.piece(view, None, piece)?;
    if answer.more_groups > 0 {
        let reason = format!("{} groups are more than one file takes; filter, or group by less", answer.more_groups);
        return Err(StoreError::invalid("ask", reason));
    }
    if !is_grouped && answer.count > MOST {
        let reason = format!("more than {MOST} rows are too many for one file; filter them");
        return Err(StoreError::invalid("ask", reason));
    }
    let digits = settings::get(view)?.minor_digits;
    let (file, ()) = write_aside(form, list.subject.definition().name, |sink| match is_grouped {
        true => groups(&list, &answer, digits, sink),
        false => rows(view, &list, answer, digits, sink),
    })?;
    Ok(file)
}

/// The cells of a column: of what has a code, its name and its code.
fn heads(name: &str, holds: Holds) -> Vec<String> {
    match holds {
        Holds::Reference => vec![name.into(), format!("{name} (code)")],
        Holds::Hours => vec![format!("{name} (h)")],
        Holds::Days => vec![format!("{name} (d)")],
        _ => vec![name.into()],
    }
}

/// Money is in units of the currency, of which `digits` come after the point.
fn cells(cell: &Cell, holds: Holds, digits: u8) -> Vec<String> {
    let text = match cell {
        Cell::None => String::new(),
        Cell::Number(minor) if holds == Holds::Money => money_text(minor.round() as i64, digits),
        Cell::Number(number) => number.to_string(),
        Cell::Instant(at) => at.to_string(),
        Cell::YesNo(yes) => if *yes { "yes" } else { "no" }.into(),
        Cell::Text(text) => text.clone(),
        Cell::Reference { code, name } => return vec![name.clone(), code.clone()],
    };
    match holds {
        Holds::Reference => vec![text, String::new()],
        _ => vec![text],
    }
}

fn line(sink: &mut dyn RowSink, cells: &[String]) -> Result<(), StoreError> {
    Ok(sink.row(&cells.iter().map(String::as_str).collect::<Vec<_>>())?)
}

/// All rows, piece by piece, from the first piece on; all of them as of one state of the data.
fn rows(view: &View, list: &List, first: Answer, digits: u8, sink: &mut dyn RowSink) -> Result<(), StoreError> {
    let heads: Vec<String> = first.columns.iter().flat_map(|def| heads(def.name, def.holds)).collect();
    line(sink, &heads)?;
    let mut piece = first;
    loop {
        for row in &piece.rows {
            let of_row = piece.columns.iter().zip(&row.cells).flat_map(|(def, cell)| cells(cell, def.holds, digits));
            line(sink, &of_row.collect::<Vec<_>>())?;
        }
        let Some(cursor) = piece.next_cursor else { return Ok(()) };
        piece = list.piece(view, Some(cursor), list.asked.limit.unwrap_or(PIECE))?;
    }
}

/// A line a group, those inside it below it; each says all that its rows have in common.
fn groups(list: &List, answer: &Answer, digits: u8, sink: &mut dyn RowSink) -> Result<(), StoreError> {
    let List { subject, asked, counted } = list;
    let columns = subject.definition().columns.into_iter().chain(counted.as_ref().map(Counted::column));
    let columns: Vec<_> = columns.collect();
    let def = |id: &str| columns.iter().find(|def| def.id == id);
    let grouped: Vec<_> = asked.group.iter().filter_map(|one| def(&one.column)).collect();
    let mut head: Vec<String> = grouped.iter().flat_map(|def| heads(def.name, def.holds)).collect();
    head.push("Rows".into());
    let summed: Vec<_> = asked.summaries.iter().filter_map(|one| Some((def(&one.column)?, word(&one.of)))).collect();
    head.extend(summed.iter().map(|(def, of)| format!("{}, {of}", heads(def.name, def.holds)[0])));
    line(sink, &head)?;
    let mut common: Vec<Vec<String>> = Vec::new();
    for group in &answer.groups {
        common.truncate(group.depth);
        common.push(cells(&group.key, grouped[group.depth].holds, digits));
        let mut of_group: Vec<String> = common.iter().flatten().cloned().collect();
        let wide: usize = grouped.iter().map(|def| heads(def.name, def.holds).len()).sum();
        of_group.resize(wide, String::new());
        of_group.push(group.count.to_string());
        let told = group.summaries.iter().zip(&summed);
        // A share of money is none.
        of_group.extend(told.flat_map(|(cell, (def, of))| {
            let holds = if def.holds == Holds::Money && of != "share" { Holds::Money } else { Holds::Number };
            cells(cell, holds, digits)
        }));
        line(sink, &of_group)?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;
    use std::io::Read;
    use tally_core::{ground::time::Instant, lists::SortAsked};
    use tally_store::{Store, access::people, plant::assets, work};

    #[test]
    fn a_file_in_pieces_is_the_file_in_one() {
        let folder = tempfile::tempdir().unwrap();
        let now = Instant::parse("2026-03-01T00:00:00Z").unwrap();
        let store = Store::open(folder.path(), now).unwrap();
        let actor = store.read(now, |view| people::first_administrator(view)).unwrap();
        store
            .write(actor, now, |tx| {
                let pump = json!({"code": "P1", "name": "Pump", "level": "equipment"});
                assets::add(tx, &serde_json::from_value(pump).unwrap())?;
                for n in 0..7 {
                    let order = json!({"title": format!("Job {n}"), "kind": "inspection", "asset": "P1", "risk_rank": n % 3 + 1});
                    work::raise(tx, &serde_json::from_value(order).unwrap())?;
                }
                Ok::<_, StoreError>(())
            })
            .unwrap();
        let asked = Asked {
            sort: vec![SortAsked { column: "rank".into(), descending: true }],
            columns: ["number", "title", "rank", "asset"].map(String::from).into(),
            ..Asked::default()
        };
        let text = |piece: usize| {
            let list = List { subject: SubjectId::Work, asked: asked.clone(), counted: None };
            let file = store.read(now, |view| in_pieces(view, list, Format::Csv, piece)).unwrap();
            let mut text = String::new();
            { file }.read_to_string(&mut text).unwrap();
            text
        };
        let whole = text(100);
        assert_eq!(whole.lines().count(), 8, "{whole}");
        assert!((0..7).all(|n| whole.contains(&format!("Job {n}"))), "{whole}");
        for piece in [1, 3, 7] {
            assert_eq!(text(piece), whole, "in pieces of {piece}");
        }
    }
}
