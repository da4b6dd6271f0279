//! The rows behind a figure: the same contributions that add up to it, shown one by one.

use super::{
    Held, Places, Question,
    combined::{Running, running},
    figures::{figures, figures_of},
    formula::{Cells, Formula, Pass, Term},
    measures::{Contribution, Cost, DownCost, Failed, Measure, on_measure},
    set::Set,
    slots::Slots,
    times::{Asked, Times},
};
use crate::{
    facts::Snapshot,
    ground::{
        ids::{AssetId, DowntimeId},
        time::{DAY, HOUR, Instant},
    },
    plant::downtime::DowntimeKind,
    tally::indicators::{Indicator, Input, Part, RowKind, RowUnit, TraceRow, Unit, Why},
    work::entries::EntryKind,
};
use std::collections::{BTreeMap, HashMap};

/// The figure of one indicator at one asset, with its inputs and the rows that add up to it. `None` for an unknown asset.
#[must_use]
pub fn why(facts: &Snapshot, asset: AssetId, indicator: Indicator, q: Question) -> Option<Why> {
    let index = facts.tree.index(asset)?;
    let figure = figures(facts, &[asset], &[indicator], q)[0][0];
    let asked = Asked { asset: index as u32, stood: None };
    let slots = Slots::of_assets(facts, q, None);
    let (inputs, parts) = Row { facts, q, slots, held: None, row: index, asked: Some(asked) }.trace(indicator);
    Some(Why { indicator, figure, inputs, parts })
}

/// The same for one of the rows of a tally.
#[must_use]
pub fn why_of(facts: &Snapshot, places: &Places, place: usize, indicator: Indicator, q: Question) -> Option<Why> {
    let figure = *figures_of(facts, places, &[indicator], q).get(place)?.first()?;
    let asset = places.index(place);
    let stood = places.stood(facts, q).into_iter().nth(place);
    let asked = asset.map(|asset| Asked { asset: asset as u32, stood });
    let slots = Slots::of_places(facts, places, q);
    let (inputs, parts) = Row { facts, q, slots, held: places.held(), row: place, asked }.trace(indicator);
    Some(Why { indicator, figure, inputs, parts })
}

/// One row of an answer.
struct Row<'a> {
    facts: &'a Snapshot,
    q: Question,
    slots: Slots<'a>,
    held: Option<&'a Held>,
    row: usize,
    /// What is asked of its asset's time; none where it is no asset.
    asked: Option<Asked>,
}

impl Row<'_> {
    /// Inputs without rows, and the parts whose rows add up.
    fn trace(&self, indicator: Indicator) -> (Vec<Input>, Vec<Part>) {
        if self.q.is_ahead() {
            return (Vec::new(), Vec::new());
        }
        let formula = indicator.definition().made;
        let (mut inputs, mut parts) = (Vec::new(), Vec::new());
        let terms = formula.terms();
        for term in &terms {
            match term {
                Term::Of(Cells { pass: Pass::Cost(over), cells, .. }) => parts.extend(self.cost(cells, &Cost(*over))),
                Term::Of(cells) if matches!(formula, Formula::Hourly { .. }) => parts.push(self.hourly(cells)),
                Term::Of(cells) => {
                    // How many they are is how many rows their time has.
                    let is_said =
                        cells.unit == RowUnit::Count && terms.iter().any(|other| is_time_of(other, cells.pass));
                    if !is_said {
                        parts.push(self.part(cells));
                    }
                    inputs.extend((cells.pass == Pass::Failed).then(|| self.dropped()).flatten());
                }
                Term::Operating => {
                    let running = self.asked.as_ref().and_then(|asked| running(self.facts, asked, self.q));
                    match running {
                        Some(running) => inputs.extend(self.operating(&running)),
                        None => self.time(&KINDS, &mut inputs, &mut parts),
                    }
                }
                // Said once, with all that it is less.
                Term::Required if inputs.is_empty() => self.time(&KINDS, &mut inputs, &mut parts),
                Term::Down(kind) if matches!(formula, Formula::Sum(_)) => self.time(&[*kind], &mut inputs, &mut parts),
                Term::Passed => inputs.push(Input {
                    name: "Days".into(),
                    value: self.q.passed().map_or(0, |passed| passed.ms()) as f64 / DAY as f64,
                    unit: Unit::Days,
                    note: "of the period that have passed".into(),
                }),
                Term::Replacement | Term::Budget => inputs.extend(self.set(*term)),
                Term::Required | Term::Down(_) => {}
            }
        }
        (inputs, parts)
    }

    /// Operating time by the counter, and, where it does not reach, by required time less downtime: how much of each.
    fn operating(&self, Running { ms, rest }: &Running) -> Vec<Input> {
        let mut times = Times::new(self.facts, self.q, self.held, &[rest.asset], DowntimeKind::External);
        let up = if rest.is_nothing() { 0 } else { times.sums(&[rest])[0].up() };
        let by_counter = "by the running-hours counter, along a straight line between its readings";
        let whole = hours("Operating time", ms + up, if up == 0 { by_counter } else { "the two below together" });
        let mut inputs = vec![whole];
        if up != 0 {
            inputs.push(hours("By the counter", *ms, by_counter));
            let note = "where the counter was not read: required time less downtime";
            inputs.push(hours("By required time", up, note));
        }
        inputs
    }

    /// What is set for the asset.
    fn set(&self, term: Term) -> Option<Input> {
        let asset = self.asked.as_ref()?.asset;
        let set = Set::new(self.facts, self.q);
        let (name, value) = match term {
            Term::Budget => ("Budget", set.budget(asset)?),
            _ => ("Replacement value", set.replacement(asset)?),
        };
        let note = "its own where one is set, else the sum of its children's".into();
        Some(Input { name: name.into(), value: value as f64, unit: Unit::Money, note })
    }

    /// How many reports were left out because their work was dropped.
    fn dropped(&self) -> Option<Input> {
        let rows = self.rows(&Failed, &[Failed::DROPPED]);
        let note = "of work that was dropped: they count nowhere".into();
        let left_out = Input { name: "Left out".into(), value: rows.len() as f64, unit: Unit::Count, note };
        (!rows.is_empty()).then_some(left_out)
    }

    fn part(&self, cells: &Cells) -> Part {
        let rows = on_measure!(cells.pass, measure => self.rows(measure, cells.cells));
        Part::of(cells.name, cells.unit, rows)
    }

    /// Rows of a measure that count for this row, of some of its cells.
    fn rows<M: Measure>(&self, measure: &M, cells: &[usize]) -> Vec<TraceRow> {
        let found = self.contributions(measure, |cell| cells.contains(&cell)).into_iter();
        together(found.map(|(row, _)| row))
    }

    fn contributions<M: Measure>(&self, measure: &M, counts: impl Fn(usize) -> bool) -> Vec<(TraceRow, usize)> {
        let leaves = self.slots.leaves(self.slots.reach(measure));
        let is_ours = leaves.counts_for(self.row);
        let mut rows = Vec::new();
        let may_count = leaves.may_count();
        measure.each(self.facts, self.q, may_count, |part, place, one: Contribution| {
            if counts(one.cell) && is_ours(&one) {
                rows.push((measure.row(self.facts, self.q, part, place, one), one.cell));
            }
        });
        rows
    }

    /// A part a kind of entry that there is.
    fn cost(&self, cells: &[usize], measure: &Cost) -> Vec<Part> {
        let mut by_kind: BTreeMap<EntryKind, Vec<TraceRow>> = BTreeMap::new();
        for (row, cell) in self.contributions(measure, |cell| cells.contains(&cell)) {
            by_kind.entry(Cost::kind(cell)).or_default().push(row);
        }
        by_kind.into_iter().map(|(kind, rows)| Part::of(name_of(kind), RowUnit::Money, rows)).collect()
    }

    /// Money that is exact in more than minor units: each row as much as all before it and it come to, less those before it.
    fn hourly(&self, cells: &Cells) -> Part {
        let mut exact: BTreeMap<(Instant, i64), (TraceRow, i128)> = BTreeMap::new();
        for (row, cell) in self.contributions(&DownCost, |_| true) {
            let worth = if cell == DownCost::WHOLE { i128::from(HOUR) } else { 1 };
            let kept = exact.entry((row.at, row.id)).or_insert((row, 0));
            kept.1 += i128::from(row.amount) * worth;
        }
        let (mut so_far, mut told) = (0i128, 0i64);
        let rows = exact.into_values().map(|(row, amount)| {
            so_far += amount;
            let rounded = (so_far + i128::from(HOUR) / 2).div_euclid(i128::from(HOUR)) as i64;
            let amount = rounded - std::mem::replace(&mut told, rounded);
            TraceRow { amount, ..row }
        });
        Part::of(cells.name, RowUnit::Money, rows.collect())
    }

    /// Required time as an input, and downtime in it as parts.
    fn time(&self, kinds: &[DowntimeKind], inputs: &mut Vec<Input>, parts: &mut Vec<Part>) {
        let Some(asked) = &self.asked else { return };
        let (required_ms, down) =
            Times::new(self.facts, self.q, self.held, &[asked.asset], DowntimeKind::External).pieces(asked);
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

/// Each row once by its asset, with all that it adds there; what comes to nothing only because something is taken away again goes.
fn together(rows: impl Iterator<Item = TraceRow>) -> Vec<TraceRow> {
    let mut places: HashMap<(i64, AssetId), usize> = HashMap::new();
    let mut all: Vec<(TraceRow, bool)> = Vec::new();
    for row in rows {
        match places.get(&(row.id, row.asset)) {
            Some(place) => {
                all[*place].0.amount += row.amount;
                all[*place].1 = true;
            }
            None => {
                places.insert((row.id, row.asset), all.len());
                all.push((row, false));
            }
        }
    }
    all.into_iter().filter(|(row, several)| !several || row.amount != 0).map(|(row, _)| row).collect()
}

/// Whether a term is a time of the same rows.
fn is_time_of(term: &Term, pass: Pass) -> bool {
    matches!(term, Term::Of(cells) if cells.pass == pass && cells.unit == RowUnit::Ms)
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
