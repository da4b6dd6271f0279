//! Figures: the sums of the measures that indicators are made of, for every row at once, and how they combine.

use super::{
    Places, Question,
    formula::{Formula, Over, Term},
    measures::{Cost, Failed, Measure, Open, Restored},
    slots::{Slots, Sums},
    times::{Asked, TimeSums, Times},
};
use crate::{
    facts::Snapshot,
    ground::{ids::AssetId, time::HOUR},
    tally::indicators::{Figure, Indicator, Unit},
};
use rayon::prelude::*;

/// Figures of `indicators` for each of `assets`, in both orders. An unknown asset has figures without base.
#[must_use]
pub fn figures(facts: &Snapshot, assets: &[AssetId], indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    let slots = Slots::of_assets(facts, q);
    let rows: Vec<Option<u32>> =
        assets.iter().map(|asset| facts.tree.index(*asset).map(|index| index as u32)).collect();
    let all = All::new(facts, &slots, indicators, q);
    let times =
        all.times(&rows.iter().map(|asset| asset.map(|asset| Asked { asset, stood: None })).collect::<Vec<_>>());
    let of_row = |(place, row): (usize, &Option<u32>)| -> Vec<Figure> {
        let Some(row) = row else { return vec![Figure::default(); indicators.len()] };
        indicators.iter().map(|indicator| all.figure(*indicator, *row as usize, &times[place])).collect()
    };
    rows.iter().enumerate().map(of_row).collect()
}

/// Values of `indicators` for every asset by its dense index, indicator by indicator; none where there is no base.
#[must_use]
pub fn values(facts: &Snapshot, indicators: &[Indicator], q: Question) -> Vec<Vec<Option<f64>>> {
    let slots = Slots::of_assets(facts, q);
    let all = All::new(facts, &slots, indicators, q);
    let times =
        all.times(&(0u32..).take(facts.tree.len()).map(|asset| Some(Asked { asset, stood: None })).collect::<Vec<_>>());
    indicators.iter().map(|indicator| all.values(*indicator, &times)).collect()
}

/// Figures of `indicators` for each row, in both orders: what each came to while it stood in its place. What is no asset
/// (own, formerly here) has additive figures only.
#[must_use]
pub fn figures_of(facts: &Snapshot, places: &Places, indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    let slots = Slots::of_places(facts, places, q);
    let all = All::new(facts, &slots, indicators, q);
    let stood = if all.needs.time { places.stood(facts, q) } else { Vec::new() };
    let mut stood = stood.into_iter();
    let rows = (0..places.list().len()).map(|place| {
        let stood = stood.next();
        places.index(place).map(|asset| Asked { asset: asset as u32, stood })
    });
    let times = all.times(&rows.collect::<Vec<_>>());
    let of_row = |(row, time)| indicators.iter().map(|indicator| all.figure(*indicator, row, time)).collect();
    times.iter().enumerate().map(of_row).collect()
}

/// The same for several questions about the same rows, on all cores.
#[must_use]
pub fn figures_of_each(
    facts: &Snapshot,
    places: &Places,
    indicators: &[Indicator],
    questions: &[Question],
) -> Vec<Vec<Vec<Figure>>> {
    questions.par_iter().map(|q| figures_of(facts, places, indicators, *q)).collect()
}

/// Which passes the asked indicators need.
#[derive(Debug, Default)]
struct Needs {
    cost: bool,
    year: bool,
    life: bool,
    failed: bool,
    restored: bool,
    open: bool,
    time: bool,
}

impl Needs {
    fn of(indicators: &[Indicator]) -> Self {
        let mut needs = Self::default();
        for term in indicators.iter().flat_map(|indicator| indicator.definition().made.terms()) {
            match term {
                Term::Cost(_, Over::Period) => needs.cost = true,
                Term::Cost(_, Over::Year) => needs.year = true,
                Term::Cost(_, Over::Life) => needs.life = true,
                Term::Failed(_) => needs.failed = true,
                Term::Restored | Term::Restoring => needs.restored = true,
                Term::Open | Term::OpenMs | Term::OpenUnestimated => needs.open = true,
                Term::Required | Term::Down(_) | Term::Operating => needs.time = true,
            }
        }
        needs
    }
}

/// The sums of all measures that are needed.
struct All<'a> {
    facts: &'a Snapshot,
    q: Question,
    needs: Needs,
    cost: Sums,
    year: Sums,
    life: Sums,
    failed: Sums,
    restored: Sums,
    open: Sums,
}

/// Times of a row, where it is one asset's.
#[derive(Debug, Clone, Copy)]
struct RowTime {
    sums: TimeSums,
    running_ms: Option<i64>,
}

fn sums<M: Measure>(measure: &M, facts: &Snapshot, slots: &Slots, q: Question) -> Sums {
    let mut sums = Sums::new(slots.len(), M::CELLS);
    let leaves = slots.leaves(measure.window(facts, q));
    if !measure.kept(facts, q, |one| leaves.add(&mut sums, one.asset, one.at, one.cell, one.amount)) {
        measure.each(facts, q, |_, _, one| leaves.add(&mut sums, one.asset, one.at, one.cell, one.amount));
    }
    sums.done(&leaves)
}

impl<'a> All<'a> {
    fn new(facts: &'a Snapshot, slots: &Slots, indicators: &[Indicator], q: Question) -> Self {
        let needs = Needs::of(indicators);
        let cost = |needed: bool, over| if needed { sums(&Cost(over), facts, slots, q) } else { Sums::default() };
        // The fiscal year is mostly the very year that is asked for.
        let is_year = needs.cost && needs.year && Cost(Over::Year).window(facts, q) == q.period;
        let entries = || {
            let period = cost(needs.cost, Over::Period);
            let year = if is_year { period.clone() } else { cost(needs.year, Over::Year) };
            (period, year, cost(needs.life, Over::Life))
        };
        let others = || {
            let failed = if needs.failed { sums(&Failed, facts, slots, q) } else { Sums::default() };
            let restored = if needs.restored { sums(&Restored, facts, slots, q) } else { Sums::default() };
            let open = if needs.open { sums(&Open, facts, slots, q) } else { Sums::default() };
            (failed, restored, open)
        };
        let ((cost, year, life), (failed, restored, open)) = rayon::join(entries, others);
        Self { facts, q, cost, year, life, failed, restored, open, needs }
    }

    /// Times of rows that are one asset's, each maybe while it stood somewhere only.
    fn times(&self, rows: &[Option<Asked>]) -> Vec<Option<RowTime>> {
        if !self.needs.time {
            return vec![None; rows.len()];
        }
        let asked: Vec<Asked> = rows.iter().flatten().cloned().collect();
        let mut sums = Times::new(self.facts, self.q).sums(&asked).into_iter().zip(&asked);
        let of_row = |row: &Option<Asked>| {
            row.as_ref().and_then(|_| sums.next()).map(|(sums, asked)| {
                let running_ms = running_ms(self.facts, asked, self.q);
                RowTime { sums, running_ms }
            })
        };
        rows.iter().map(of_row).collect()
    }

    fn figure(&self, indicator: Indicator, row: usize, time: &Option<RowTime>) -> Figure {
        let definition = indicator.definition();
        let sum = |terms: &[(i64, Term)]| -> Option<i64> {
            terms.iter().map(|(sign, term)| Some(sign * self.term(*term, row, time)?)).sum()
        };
        let in_unit = |sum: i64, term: Term| if term.is_time() { sum as f64 / HOUR as f64 } else { sum as f64 };
        match definition.made {
            Formula::Sum(term @ Term::Cost(kind, over)) => {
                let part = |is_settled: bool| -> i64 {
                    Term::kinds(kind).iter().map(|kind| self.money(over).of(row, Cost::cell(*kind, is_settled))).sum()
                };
                Figure {
                    settled: Some(part(true)),
                    provisional: Some(part(false)),
                    ..self.term(term, row, time).map_or_else(Figure::default, |sum| Figure::of(sum as f64))
                }
            }
            Formula::Sum(term) => {
                self.term(term, row, time).map_or_else(Figure::default, |sum| Figure::of(in_unit(sum, term)))
            }
            Formula::Apart { sum, apart } => {
                let incipient = self.term(apart, row, time);
                Figure {
                    incipient,
                    ..self.term(sum, row, time).map_or_else(Figure::default, |sum| Figure::of(sum as f64))
                }
            }
            Formula::Ratio { over, by, bounded } => {
                let (Some(above), Some(below)) = (sum(over), sum(by)) else { return Figure::default() };
                let above = match (definition.unit, over.first()) {
                    (Unit::Share, _) | (_, None) => above as f64,
                    (_, Some((_, term))) => in_unit(above, *term),
                };
                let at_least = (bounded && below == 0 && above > 0.0).then_some(above);
                Figure { at_least, ..Figure::ratio(above, below as f64) }
            }
        }
    }

    /// The values of one indicator for every row, without what stands beside them.
    fn values(&self, indicator: Indicator, times: &[Option<RowTime>]) -> Vec<Option<f64>> {
        let in_hours = |ms: i64| ms as f64 / HOUR as f64;
        match indicator.definition().made {
            Formula::Sum(term) | Formula::Apart { sum: term, .. } => {
                let is_time = term.is_time();
                let value = |(row, time)| {
                    let sum = self.term(term, row, time)?;
                    Some(if is_time { in_hours(sum) } else { sum as f64 })
                };
                times.iter().enumerate().map(value).collect()
            }
            Formula::Ratio { .. } => {
                times.iter().enumerate().map(|(row, time)| self.figure(indicator, row, time).value).collect()
            }
        }
    }

    fn money(&self, over: Over) -> &Sums {
        match over {
            Over::Period => &self.cost,
            Over::Year => &self.year,
            Over::Life => &self.life,
        }
    }

    fn term(&self, term: Term, row: usize, time: &Option<RowTime>) -> Option<i64> {
        let sums = || time.as_ref().map(|time| &time.sums);
        Some(match term {
            Term::Cost(kind, over) => {
                let cells =
                    Term::kinds(kind).iter().flat_map(|kind| [Cost::cell(*kind, true), Cost::cell(*kind, false)]);
                cells.map(|cell| self.money(over).of(row, cell)).sum()
            }
            Term::Failed(effects) => effects.iter().map(|effect| self.failed.of(row, Failed::cell(*effect))).sum(),
            Term::Restored => self.restored.of(row, Restored::COUNT),
            Term::Restoring => self.restored.of(row, Restored::MS),
            Term::Open => self.open.of(row, Open::COUNT),
            Term::OpenMs => self.open.of(row, Open::MS),
            Term::OpenUnestimated => self.open.of(row, Open::UNESTIMATED),
            Term::Required => sums()?.required,
            Term::Down(kind) => sums()?.of(kind),
            Term::Operating => {
                let RowTime { sums, running_ms } = time.as_ref()?;
                running_ms.unwrap_or(sums.required - sums.unplanned - sums.planned - sums.external)
            }
        })
    }
}

/// Running time by the asset's counters, while it stood there.
pub(super) fn running_ms(facts: &Snapshot, asked: &Asked, q: Question) -> Option<i64> {
    let window = q.passed()?;
    match &asked.stood {
        None => facts.running_ms(asked.asset, window),
        Some(stood) => {
            let parts = stood.iter().filter_map(|span| facts.running_ms(asked.asset, span.clip(window)?));
            parts.fold(None, |sum, ms| Some(sum.unwrap_or(0) + ms))
        }
    }
}
