//! A list as a file: its rows, or its groups where it is grouped, as they are asked for.

use super::{files::write_aside, format::Format};
use std::fs::File;
use tally_core::{
    lists::{Answer, Asked, Cell, Holds, SubjectId},
    outside::files::RowSink,
};
use tally_store::{
    StoreError, View,
    lists::answer,
    plant::{master::money_text, settings},
};

/// Rows of one file at the most: as many as a workbook has room for.
const MOST: usize = 1_048_575;

/// Writes all of a list into a file without a name.
///
/// # Errors
/// [`StoreError::Invalid`] for what can't be asked, or is too much for one file.
pub fn written(view: &View, subject: SubjectId, asked: &Asked, form: Format) -> Result<File, StoreError> {
    let is_grouped = !asked.group.is_empty();
    let limit = Some(if is_grouped { 0 } else { MOST + 1 });
    let all = Asked { limit, cursor: None, facets: Vec::new(), ..asked.clone() };
    let answer = answer::of_most(view, subject, &all, MOST + 1)?;
    if answer.rows.len() > MOST || answer.more_groups > 0 {
        return Err(StoreError::invalid(
            "ask",
            format!("more than {MOST} rows are too many for one file; filter them"),
        ));
    }
    let name = subject.definition().name;
    let digits = settings::get(view)?.minor_digits;
    let (file, ()) = write_aside(form, name, |sink| match is_grouped {
        true => groups(subject, &all, &answer, digits, sink),
        false => rows(&answer, digits, sink),
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

fn rows(answer: &Answer, digits: u8, sink: &mut dyn RowSink) -> Result<(), StoreError> {
    let heads: Vec<String> = answer.columns.iter().flat_map(|def| heads(def.name, def.holds)).collect();
    line(sink, &heads)?;
    for row in &answer.rows {
        let of_row = answer.columns.iter().zip(&row.cells).flat_map(|(def, cell)| cells(cell, def.holds, digits));
        line(sink, &of_row.collect::<Vec<_>>())?;
    }
    Ok(())
}

/// A line a group, those inside it below it; each says all that its rows have in common.
fn groups(
    subject: SubjectId,
    asked: &Asked,
    answer: &Answer,
    digits: u8,
    sink: &mut dyn RowSink,
) -> Result<(), StoreError> {
    let columns = subject.definition().columns;
    let def = |id: &str| columns.iter().find(|def| def.id == id);
    let grouped: Vec<_> = asked.group.iter().filter_map(|one| def(&one.column)).collect();
    let mut head: Vec<String> = grouped.iter().flat_map(|def| heads(def.name, def.holds)).collect();
    head.push("Rows".into());
    let word = |summary: &tally_core::lists::Summary| match serde_json::to_value(summary) {
        Ok(serde_json::Value::String(word)) => word,
        other => unreachable!("summaries are words, not {other:?}"),
    };
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
