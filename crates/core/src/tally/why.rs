//! The rows behind a figure: the same contributions that add up to it, shown one by one.

use super::{
    Places, Question,
    figures::{figures, figures_of, running_ms},
    formula::{Formula, Term},
    measures::{Contribution, Cost, Failed, Measure, Open, Restored},
    slots::Slots,
    times::{Asked, Times},
};
use crate::{
    codes::failures::Effect,
    facts::Snapshot,
    ground::{
        ids::{AssetId, DowntimeId},
        time::{HOUR, Instant},
    },
    plant::downtime::DowntimeKind,
    tally::indicators::{Indicator, Input, Part, RowKind, RowUnit, TraceRow, Unit, Why},
    work::entries::EntryKind,
};
use std::collections::HashMap;

/// The figure of one indicator at one asset, with its inputs and the rows that add up to it. `None` for an unknown asset.
#[must_use]
pub fn why(facts: &Snapshot, asset: AssetId, indicator: Indicator, q: Question) -> Option<Why> {
    let index = facts.tree.index(asset)?;
    let figure = figures(facts, &[asset], &[indicator], q)[0][0];
    let asked = Asked { asset: index as u32, stood: None };
    let row = Row { facts, q, slots: Slots::of_assets(facts, q), row: index, asked: Some(asked) };
    let (inputs, parts) = row.trace(indicator);
    Some(Why { indicator, figure, inputs, parts })
}

/// The same for one of the rows of a tally.
#[must_use]
pub fn why_of(facts: &Snapshot, places: &Places, place: usize, indicator: Indicator, q: Question) -> Option<Why> {
    let figure = *figures_of(facts, places, &[indicator], q).get(place)?.first()?;
    let asset = places.index(place);
    let stood = places.stood(facts, q).into_iter().nth(place);
    let asked = asset.map(|asset| Asked { asset: asset as u32, stood });
    let row = Row { facts, q, slots: Slots::of_places(facts, places, q), row: place, asked };
    let (inputs, parts) = row.trace(indicator);
    Some(Why { indicator, figure, inputs, parts })
}

/// One row of an answer.
struct Row<'a> {
    facts: &'a Snapshot,
    q: Question,
    slots: Slots<'a>,
    row: usize,
    /// What is asked of its asset's time; none where it is no asset.
    asked: Option<Asked>,
}

impl Row<'_> {
    /// Inputs without rows, and the parts whose rows add up.
    fn trace(&self, indicator: Indicator) -> (Vec<Input>, Vec<Part>) {
        let formula = indicator.definition().made;
        let (mut inputs, mut parts) = (Vec::new(), Vec::new());
        // What is divided by comes first, and what a figure is made of beside that.
        let terms = match formula {
            Formula::Sum(term) => vec![term],
            Formula::Apart { sum, .. } => vec![sum],
            Formula::Ratio { over, by, .. } => by.iter().chain(over).map(|(_, term)| *term).collect(),
        };
        for term in terms {
            match term {
                Term::Cost(kind, over) => parts.extend(self.cost(Term::kinds(kind), &Cost(over))),
                Term::Failed(effects) => {
                    let cells: Vec<usize> = effects.iter().map(|effect| Failed::cell(*effect)).collect();
                    let name = if effects == [Effect::Critical] { "Critical failures" } else { "Failures" };
                    parts.push(Part::of(name, RowUnit::Count, self.rows(&Failed, |cell| cells.contains(&cell))));
                }
                // How many those are is how many rows the time has.
                Term::Restored => {}
                Term::Restoring => {
                    parts.push(Part::of(
                        "Time to restore",
                        RowUnit::Ms,
                        self.rows(&Restored, |cell| cell == Restored::MS),
                    ));
                }
                Term::Open => parts.push(self.open("Open work orders", RowUnit::Count, Open::COUNT)),
                Term::OpenMs => parts.push(self.open("Hours still to do", RowUnit::Ms, Open::MS)),
                Term::OpenUnestimated => {
                    parts.push(self.open("Open work orders without an estimate", RowUnit::Count, Open::UNESTIMATED));
                }
                Term::Operating => {
                    let running = self.asked.as_ref().and_then(|asked| running_ms(self.facts, asked, self.q));
                    match running {
                        Some(ms) => inputs.push(hours(
                            "Operating time",
                            ms,
                            "by the running-hours counter, along a straight line between its readings",
                        )),
                        None => self.time(&KINDS, &mut inputs, &mut parts),
                    }
                }
                // Said once, with all that it is less.
                Term::Required if inputs.is_empty() => self.time(&KINDS, &mut inputs, &mut parts),
                Term::Down(kind) if matches!(formula, Formula::Sum(_)) => self.time(&[kind], &mut inputs, &mut parts),
                Term::Required | Term::Down(_) => {}
            }
        }
        (inputs, parts)
    }

    /// Rows of a measure that count for this row, of some of its cells.
    fn rows<M: Measure>(&self, measure: &M, counts: impl Fn(usize) -> bool) -> Vec<TraceRow> {
        self.contributions(measure, counts).into_iter().map(|(row, _)| row).collect()
    }

    fn contributions<M: Measure>(&self, measure: &M, counts: impl Fn(usize) -> bool) -> Vec<(TraceRow, usize)> {
        let leaves = self.slots.leaves(measure.window(self.facts, self.q));
        let is_ours = leaves.counts_for(self.row);
        let mut rows = Vec::new();
        measure.each(self.facts, self.q, |part, place, Contribution { asset, at, cell, amount }| {
            if counts(cell) && is_ours(asset, at) {
                rows.push((measure.row(self.facts, self.q, part, place, amount), cell));
            }
        });
        rows
    }

    /// A part a kind of entry that there is.
    fn cost(&self, kinds: &[EntryKind], measure: &Cost) -> Vec<Part> {
        let kind_of = |cell: usize| EntryKind::ALL[cell / 2];
        let mut by_kind: HashMap<EntryKind, Vec<TraceRow>> = HashMap::new();
        for (row, cell) in self.contributions(measure, |cell| kinds.contains(&kind_of(cell))) {
            by_kind.entry(kind_of(cell)).or_default().push(row);
        }
        let found = kinds.iter().filter_map(|kind| Some((kind, by_kind.remove(kind)?)));
        found.map(|(kind, rows)| Part::of(name_of(*kind), RowUnit::Money, rows)).collect()
    }

    fn open(&self, name: &str, unit: RowUnit, cell: usize) -> Part {
        let mut rows = self.rows(&Open, |one| one == cell);
        if cell == Open::MS {
            for row in &mut rows {
                let Some(number) = row.work_order else { continue };
                let estimated = match self.facts.fields_at(number, self.q.as_of()) {
                    Some(fields) => fields.estimated_ms,
                    None => self.facts.works.get((number,)).and_then(|work| work.estimated_ms),
                };
                row.whole = estimated.filter(|estimated| *estimated != row.amount);
            }
        }
        Part::of(name, unit, rows)
    }

    /// Required time as an input, and downtime in it as parts.
    fn time(&self, kinds: &[DowntimeKind], inputs: &mut Vec<Input>, parts: &mut Vec<Part>) {
        let Some(asked) = &self.asked else { return };
        let (required_ms, down) = Times::new(self.facts, self.q).pieces(asked);
        inputs.push(hours("Required time", required_ms, "operating calendar within the asset's life, up to now"));
        for kind in kinds {
            // A row may be counted in several pieces: cut by calendars, or around what overlaps it.
            let mut ms_of: HashMap<(Instant, i64), i64> = HashMap::new();
            for piece in down.iter().filter(|piece| piece.kind == *kind) {
                *ms_of.entry((piece.row_start, piece.row)).or_default() += piece.span.ms();
            }
            let rows = ms_of.into_iter().filter_map(|((start, row), ms)| {
                let fact = self.facts.downtimes.get((start, DowntimeId(row)))?;
                let whole = self.facts.lasted(&fact, self.q.now)?.ms();
                Some(TraceRow {
                    kind: RowKind::Downtime,
                    id: row,
                    asset: self.facts.tree.node(fact.asset as usize).id,
                    work_order: fact.work,
                    at: fact.start,
                    amount: ms,
                    whole: (whole != ms).then_some(whole),
                    settled: None,
                })
            });
            let mut rows: Vec<TraceRow> = rows.collect();
            rows.sort_by_key(|row| (row.at, row.id));
            parts.push(Part::of(&format!("{} downtime", capital(kind.word())), RowUnit::Ms, rows));
        }
    }
}

const KINDS: [DowntimeKind; 3] = [DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External];

fn hours(name: &str, ms: i64, note: &str) -> Input {
    Input { name: name.into(), value: ms as f64 / HOUR as f64, unit: Unit::Hours, note: note.into() }
}

fn name_of(kind: EntryKind) -> &'static str {
    match kind {
        EntryKind::Labour => "Labour",
        EntryKind::Material => "Material",
        EntryKind::Service => "Services",
        EntryKind::Tool => "Tools",
    }
}

fn capital(word: &str) -> String {
    let mut letters = word.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}
