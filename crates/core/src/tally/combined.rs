//! How sums become figures.

use super::{
    Held, Question,
    formula::{Cells, Formula, Pass, Scale, Term, Wanted},
    measures::Cost,
    passes::{Spread, sums_of},
    set::Set,
    slots::{Slots, Sums},
    times::{Asked, TimeSums, Times},
};
use crate::{
    facts::Snapshot,
    ground::time::{DAY, HOUR},
    plant::downtime::DowntimeKind,
    tally::indicators::{Figure, Indicator, Unit},
};

/// The sums of all measures that are needed, the lists of those that are told as distributions, what is set, and the time of each
/// row.
pub(super) struct All {
    q: Question,
    sums: Vec<(Pass, Sums)>,
    spreads: Vec<(Spread, Vec<Figure>)>,
    set: Option<Set>,
    /// Rows that are one asset's, each maybe while it stood somewhere only.
    pub(super) times: Vec<Option<RowTime>>,
}

/// An asset's row, with its time where that is asked for.
#[derive(Debug, Clone, Copy)]
pub(super) struct RowTime {
    asset: u32,
    sums: TimeSums,
    running_ms: Option<i64>,
}

/// The time of each row that is one asset's, with downtime up to the last kind that is asked for; without any there is none.
fn times_of(
    facts: &Snapshot,
    (q, held): (Question, Option<&Held>),
    rows: &[Option<Asked>],
    last: Option<DowntimeKind>,
) -> Vec<Option<RowTime>> {
    let of_row = |asked: &Asked, sums, running_ms| RowTime { asset: asked.asset, sums, running_ms };
    let Some(last) = last else {
        let untimed = |asked| of_row(asked, TimeSums::default(), None);
        return rows.iter().map(|row| row.as_ref().map(untimed)).collect();
    };
    let asked: Vec<&Asked> = rows.iter().flatten().collect();
    let assets: Vec<u32> = asked.iter().map(|asked| asked.asset).collect();
    let mut sums = Times::new(facts, q, held, &assets, last).sums(&asked).into_iter();
    let timed = |row: &Option<Asked>| {
        let asked = row.as_ref()?;
        Some(of_row(asked, sums.next()?, running_ms(facts, asked, q)))
    };
    rows.iter().map(timed).collect()
}

fn push<T: PartialEq>(all: &mut Vec<T>, one: T) {
    if !all.contains(&one) {
        all.push(one);
    }
}

/// What some indicators are made of.
struct Needs {
    passes: Vec<(Pass, Wanted)>,
    spreads: Vec<Spread>,
    /// Something that only an asset has, when it stood where it is asked for: its required time, and downtime up to that kind.
    time: Option<DowntimeKind>,
    set: bool,
}

impl Needs {
    fn of(indicators: &[Indicator]) -> Self {
        let mut needs = Self { passes: Vec::new(), spreads: Vec::new(), time: None, set: false };
        for made in indicators.iter().map(|indicator| indicator.definition().made) {
            if let Formula::Spread { of, bands } = made {
                push(&mut needs.spreads, (of, bands));
            }
            made.wanted().into_iter().for_each(|(pass, wanted)| needs.add(pass, wanted));
            for term in made.terms() {
                match term {
                    Term::Of(_) | Term::Passed => {}
                    Term::Required => needs.time = needs.time.max(Some(DowntimeKind::Unplanned)),
                    Term::Down(kind) => needs.time = needs.time.max(Some(kind)),
                    Term::Operating => needs.time = Some(DowntimeKind::External),
                    Term::Replacement | Term::Budget => needs.set = true,
                }
            }
        }
        needs
    }

    fn add(&mut self, pass: Pass, wanted: Wanted) {
        match self.passes.iter_mut().find(|(known, _)| *known == pass) {
            Some((_, known)) => *known = known.and(wanted),
            None => self.passes.push((pass, wanted)),
        }
    }
}

impl All {
    /// Of the rows that `asked` names, which is told whether it matters when they stood where they are asked for.
    pub(super) fn new(
        facts: &Snapshot,
        slots: &Slots,
        indicators: &[Indicator],
        (q, held): (Question, Option<&Held>),
        asked: impl FnOnce(bool) -> Vec<Option<Asked>> + Send,
    ) -> Self {
        let needs = Needs::of(indicators);
        let times = || times_of(facts, (q, held), &asked(needs.time.is_some()), needs.time);
        let (times, ((sums, spreads), set)) = rayon::join(times, || {
            let set = needs.set.then(|| Set::new(facts, q));
            (sums_of(facts, slots, needs.passes, &needs.spreads, q), set)
        });
        Self { q, sums, spreads, set, times }
    }

    /// How an indicator is made of what was added up.
    pub(super) fn made(&self, indicator: Indicator) -> Made<'_> {
        let definition = indicator.definition();
        let made = definition.made;
        let named =
            |terms: &'static [(i64, Term)]| terms.iter().map(|(sign, term)| (*sign, self.source(*term))).collect();
        let terms = match made {
            Formula::Sum(term) => Terms::Sum(self.source(term)),
            Formula::Apart { sum, apart } => Terms::Apart(self.cells(sum), self.cells(apart)),
            Formula::Hourly { whole, rest } => Terms::Hourly(self.cells(whole), rest),
            Formula::Ratio { over, by, .. } => Terms::Ratio(named(over), named(by)),
            Formula::Spread { of, bands } => {
                let found = self.spreads.iter().find(|(spread, _)| *spread == (of, bands));
                Terms::Spread(found.map_or(&[], |(_, figures)| figures))
            }
        };
        Made { q: self.q, unit: definition.unit, made, terms }
    }

    fn cells(&self, cells: Cells) -> (Option<&Sums>, &'static [usize]) {
        (self.sums.iter().find(|(pass, _)| *pass == cells.pass).map(|(_, sums)| sums), cells.cells)
    }

    fn source(&self, term: Term) -> Source<'_> {
        match term {
            Term::Of(cells) => {
                let (sums, cells) = self.cells(cells);
                sums.map_or(Source::Nothing, |sums| Source::Cells(sums, cells))
            }
            Term::Required => Source::Required,
            Term::Down(kind) => Source::Down(kind),
            Term::Operating => Source::Operating,
            Term::Passed => Source::Passed(self.q.passed().map_or(0, |passed| passed.ms())),
            Term::Replacement => self.set.as_ref().map_or(Source::Nothing, Source::Replacement),
            Term::Budget => self.set.as_ref().map_or(Source::Nothing, Source::Budget),
        }
    }
}

/// Where a term's value is.
enum Source<'a> {
    Cells(&'a Sums, &'static [usize]),
    Required,
    Down(DowntimeKind),
    Operating,
    Passed(i64),
    Replacement(&'a Set),
    Budget(&'a Set),
    Nothing,
}

impl Source<'_> {
    /// None where the row is not one asset's, and that matters; or nothing is set for it.
    fn of(&self, row: usize, time: &Option<RowTime>) -> Option<i64> {
        Some(match self {
            Self::Cells(sums, cells) => sums.of_cells(row, cells),
            Self::Required => time.as_ref()?.sums.required,
            Self::Down(kind) => time.as_ref()?.sums.of(*kind),
            Self::Operating => {
                let RowTime { sums, running_ms, .. } = time.as_ref()?;
                running_ms.unwrap_or(sums.required - sums.unplanned - sums.planned - sums.external)
            }
            Self::Passed(ms) => *ms,
            Self::Replacement(set) => set.replacement(time.as_ref()?.asset)?,
            Self::Budget(set) => set.budget(time.as_ref()?.asset)?,
            Self::Nothing => 0,
        })
    }
}

type Signed<'a> = Vec<(i64, Source<'a>)>;
type OfCells<'a> = (Option<&'a Sums>, &'static [usize]);

enum Terms<'a> {
    Sum(Source<'a>),
    Apart(OfCells<'a>, OfCells<'a>),
    Hourly(OfCells<'a>, usize),
    Ratio(Signed<'a>, Signed<'a>),
    Spread(&'a [Figure]),
}

/// An indicator with all that it is made of.
pub(super) struct Made<'a> {
    q: Question,
    unit: Unit,
    made: Formula,
    terms: Terms<'a>,
}

fn of_cells((sums, cells): &OfCells, row: usize) -> i64 {
    sums.map_or(0, |sums| sums.of_cells(row, cells))
}

impl Made<'_> {
    /// The figure of a row.
    pub(super) fn figure(&self, row: usize, time: &Option<RowTime>) -> Figure {
        let value = |value: Option<f64>| value.map_or_else(Figure::default, Figure::of);
        match &self.terms {
            Terms::Sum(Source::Cells(sums, cells)) if self.unit == Unit::Money => {
                let part = |is_settled| {
                    let cells = cells.iter().filter(|cell| Cost::is_settled(**cell) == is_settled);
                    cells.map(|cell| sums.of(row, *cell)).sum()
                };
                Figure { settled: Some(part(true)), provisional: Some(part(false)), ..value(self.value(row, time)) }
            }
            Terms::Apart(_, apart) => Figure { incipient: Some(of_cells(apart, row)), ..value(self.value(row, time)) },
            Terms::Ratio(over, by) => {
                let (Some(above), Some(below)) = (self.scaled(over, row, time), sum(by, row, time)) else {
                    return Figure::default();
                };
                let is_bounded = matches!(self.made, Formula::Ratio { bounded: true, .. });
                let at_least = (is_bounded && below == 0 && above > 0.0).then_some(above);
                Figure { at_least, ..value(self.value(row, time)) }
            }
            Terms::Spread(figures) => figures.get(row).copied().unwrap_or_default(),
            Terms::Sum(_) | Terms::Hourly(..) => value(self.value(row, time)),
        }
    }

    /// The values of all rows, each with its time.
    pub(super) fn values(&self, times: &[Option<RowTime>]) -> Vec<Option<f64>> {
        match &self.terms {
            // What is added up is told without a look at times.
            Terms::Sum(Source::Cells(sums, cells)) => sums.each(cells).map(|sum| Some(self.in_unit(sum))).collect(),
            Terms::Apart((Some(sums), cells), _) => sums.each(cells).map(|sum| Some(sum as f64)).collect(),
            _ => times.iter().enumerate().map(|(row, time)| self.value(row, time)).collect(),
        }
    }

    /// The value of a row, without what stands beside it.
    pub(super) fn value(&self, row: usize, time: &Option<RowTime>) -> Option<f64> {
        match &self.terms {
            Terms::Sum(source) => Some(self.in_unit(source.of(row, time)?)),
            Terms::Apart(sum, _) => Some(of_cells(sum, row) as f64),
            Terms::Hourly(whole, rest) => {
                let left = whole.0.map_or(0, |sums| sums.of(row, *rest));
                Some(of_cells(whole, row) as f64 + left as f64 / HOUR as f64)
            }
            Terms::Ratio(over, by) => {
                let (above, below) = (self.scaled(over, row, time)?, sum(by, row, time)?);
                (below != 0).then(|| above / below as f64)
            }
            Terms::Spread(figures) => figures.get(row)?.value,
        }
    }

    fn in_unit(&self, sum: i64) -> f64 {
        if self.unit == Unit::Hours { sum as f64 / HOUR as f64 } else { sum as f64 }
    }

    /// What is above, so that divided by what is below it is in the indicator's unit.
    fn scaled(&self, over: &Signed, row: usize, time: &Option<RowTime>) -> Option<f64> {
        let Formula::Ratio { scale, .. } = self.made else { return None };
        let above = sum(over, row, time)? as f64;
        Some(match (scale, self.unit) {
            (Scale::Yearly, _) => {
                let passed = self.q.passed().map_or(0, |passed| passed.ms());
                if passed > 0 { above * YEAR_MS / passed as f64 } else { above }
            }
            (Scale::Daily, _) => above * DAY as f64,
            (Scale::Plain, Unit::Hours) => above / HOUR as f64,
            (Scale::Plain, Unit::MoneyPerHour) => above * HOUR as f64,
            (Scale::Plain, _) => above,
        })
    }
}

/// A year as the calendar has it in the mean.
const YEAR_MS: f64 = 365.2425 * DAY as f64;

fn sum(terms: &Signed, row: usize, time: &Option<RowTime>) -> Option<i64> {
    terms.iter().map(|(sign, source)| Some(sign * source.of(row, time)?)).sum()
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
