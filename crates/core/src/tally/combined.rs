//! How sums become figures.

use super::{
    Held, Question,
    formula::{Cells, Formula, Pass, Scale, Term, Told, Wanted},
    measures::Cost,
    passes::{Spread, sums_of},
    set::Set,
    slots::{Slots, SumOf, Sums},
    times::{Asked, TimeSums, Times},
};
use crate::{
    facts::Snapshot,
    ground::{
        spans::{difference, union},
        time::{DAY, HOUR, Span},
    },
    plant::downtime::DowntimeKind,
    tally::indicators::{Figure, Indicator, Unit},
};

/// The sums of all measures that are needed, the lists of those that are told as distributions, what is set, and the time of each
/// row.
pub(super) struct All {
    q: Question,
    told: Told,
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
    /// Operating time by counters, and by required time where they do not reach; none where there is no counter.
    operating_ms: Option<i64>,
}

/// The time of each row that is one asset's, with downtime up to the last kind that is asked for; without any there is none.
fn times_of(
    facts: &Snapshot,
    (q, held): (Question, Option<&Held>),
    rows: &[Option<Asked>],
    last: Option<DowntimeKind>,
) -> Vec<Option<RowTime>> {
    let of_row = |asked: &Asked, sums, operating_ms| RowTime { asset: asked.asset, sums, operating_ms };
    let Some(last) = last else {
        let untimed = |asked| of_row(asked, TimeSums::default(), None);
        return rows.iter().map(|row| row.as_ref().map(untimed)).collect();
    };
    let asked: Vec<&Asked> = rows.iter().flatten().collect();
    let assets: Vec<u32> = asked.iter().map(|asked| asked.asset).collect();
    let running: Vec<Option<Running>> = asked.iter().map(|asked| running(facts, asked, q)).collect();
    // What counters do not cover is asked beside the rows.
    let beside = running.iter().flatten().map(|running| &running.rest).filter(|rest| !rest.is_nothing());
    let asked: Vec<&Asked> = asked.into_iter().chain(beside).collect();
    let sums = Times::new(facts, q, held, &assets, last).sums(&asked);
    let (of_rows, of_rest) = sums.split_at(running.len());
    let mut of_rest = of_rest.iter();
    let operating: Vec<Option<i64>> = running
        .iter()
        .map(|running| {
            let Running { ms, rest } = running.as_ref()?;
            let up = if rest.is_nothing() { None } else { of_rest.next() };
            Some(ms + up.map_or(0, TimeSums::up))
        })
        .collect();
    let mut found = of_rows.iter().zip(operating);
    let timed = |row: &Option<Asked>| {
        let asked = row.as_ref()?;
        let (sums, operating) = found.next()?;
        Some(of_row(asked, *sums, operating))
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
    fn of(indicators: &[Indicator], told: Told) -> Self {
        let mut needs = Self { passes: Vec::new(), spreads: Vec::new(), time: None, set: false };
        for made in indicators.iter().map(|indicator| indicator.definition().made) {
            if let Formula::Spread { of, bands } = made {
                push(&mut needs.spreads, (of, bands));
            }
            made.wanted(told).into_iter().for_each(|(pass, wanted)| needs.add(pass, wanted));
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
            Some((_, known)) => known.add(&wanted),
            None => self.passes.push((pass, wanted)),
        }
    }
}

impl All {
    /// Of the rows that `asked` names, which is told whether it matters when they stood where they are asked for.
    pub(super) fn new(
        facts: &Snapshot,
        slots: &Slots,
        (indicators, told): (&[Indicator], Told),
        (q, held): (Question, Option<&Held>),
        asked: impl FnOnce(bool) -> Vec<Option<Asked>> + Send,
    ) -> Self {
        let needs = Needs::of(indicators, told);
        let times = || times_of(facts, (q, held), &asked(needs.time.is_some()), needs.time);
        let (times, ((sums, spreads), set)) = rayon::join(times, || {
            let set = needs.set.then(|| Set::new(facts, q));
            (sums_of(facts, slots, needs.passes, &needs.spreads, q), set)
        });
        Self { q, told, sums, spreads, set, times }
    }

    /// How an indicator is made of what was added up.
    pub(super) fn made(&self, indicator: Indicator) -> Made<'_> {
        let definition = indicator.definition();
        let made = definition.made;
        let named =
            |terms: &'static [(i64, Term)]| terms.iter().map(|(sign, term)| (*sign, self.source(*term))).collect();
        let terms = match made {
            Formula::Sum(Term::Of(cells)) if self.told == Told::Figure && definition.unit == Unit::Money => {
                let part =
                    |settled: bool| cells.cells.iter().copied().filter(move |cell| Cost::is_settled(*cell) == settled);
                Terms::Money(self.sum(cells.pass, part(true)), self.sum(cells.pass, part(false)))
            }
            Formula::Sum(term) => Terms::Sum(self.source(term)),
            Formula::Apart { sum, apart } => {
                let apart = (self.told == Told::Figure).then(|| self.whole(apart));
                Terms::Apart(self.whole(sum), apart.unwrap_or_default())
            }
            Formula::Hourly { whole, rest } => {
                Terms::Hourly(self.whole(whole), self.sum(whole.pass, [rest].into_iter()))
            }
            Formula::Ratio { over, by, .. } => Terms::Ratio(named(over), named(by)),
            Formula::Spread { of, bands } => {
                let found = self.spreads.iter().find(|(spread, _)| *spread == (of, bands));
                Terms::Spread(found.map_or(&[], |(_, figures)| figures))
            }
        };
        Made { q: self.q, unit: definition.unit, made, terms }
    }

    /// The sum of some cells.
    fn sum(&self, pass: Pass, cells: impl Iterator<Item = usize>) -> SumOf<'_> {
        let sums = self.sums.iter().find(|(of, _)| *of == pass);
        sums.map(|(_, sums)| sums.of(cells)).unwrap_or_default()
    }

    fn whole(&self, Cells { pass, cells, .. }: Cells) -> SumOf<'_> {
        self.sum(pass, cells.iter().copied())
    }

    fn source(&self, term: Term) -> Source<'_> {
        match term {
            Term::Of(cells) => Source::Cells(self.whole(cells)),
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
    Cells(SumOf<'a>),
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
            Self::Cells(sum) => sum.row(row),
            Self::Required => time.as_ref()?.sums.required,
            Self::Down(kind) => time.as_ref()?.sums.of(*kind),
            Self::Operating => {
                let RowTime { sums, operating_ms, .. } = time.as_ref()?;
                operating_ms.unwrap_or_else(|| sums.up())
            }
            Self::Passed(ms) => *ms,
            Self::Replacement(set) => set.replacement(time.as_ref()?.asset)?,
            Self::Budget(set) => set.budget(time.as_ref()?.asset)?,
            Self::Nothing => 0,
        })
    }
}

type Signed<'a> = Vec<(i64, Source<'a>)>;

enum Terms<'a> {
    Sum(Source<'a>),
    /// What is settled, and what is not.
    Money(SumOf<'a>, SumOf<'a>),
    /// What counts, and what does not.
    Apart(SumOf<'a>, SumOf<'a>),
    /// Minor units, and what is left in minor units times milliseconds of an hour.
    Hourly(SumOf<'a>, SumOf<'a>),
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

impl Made<'_> {
    /// The figure of a row.
    pub(super) fn figure(&self, row: usize, time: &Option<RowTime>) -> Figure {
        let value = |value: Option<f64>| value.map_or_else(Figure::default, Figure::of);
        match &self.terms {
            Terms::Money(settled, provisional) => Figure {
                settled: Some(settled.row(row)),
                provisional: Some(provisional.row(row)),
                ..value(self.value(row, time))
            },
            Terms::Apart(_, apart) => Figure { incipient: Some(apart.row(row)), ..value(self.value(row, time)) },
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
            Terms::Sum(Source::Cells(sum)) => (0..times.len()).map(|row| Some(self.in_unit(sum.row(row)))).collect(),
            Terms::Apart(sum, _) => (0..times.len()).map(|row| Some(sum.row(row) as f64)).collect(),
            _ => times.iter().enumerate().map(|(row, time)| self.value(row, time)).collect(),
        }
    }

    /// The value of a row, without what stands beside it.
    pub(super) fn value(&self, row: usize, time: &Option<RowTime>) -> Option<f64> {
        match &self.terms {
            Terms::Sum(source) => Some(self.in_unit(source.of(row, time)?)),
            Terms::Money(settled, provisional) => Some(self.in_unit(settled.row(row) + provisional.row(row))),
            Terms::Apart(sum, _) => Some(sum.row(row) as f64),
            Terms::Hourly(whole, rest) => Some(whole.row(row) as f64 + rest.row(row) as f64 / HOUR as f64),
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

/// Running time by an asset's counters, and the time that they do not cover.
pub(super) struct Running {
    pub(super) ms: i64,
    pub(super) rest: Asked,
}

/// Running time by the asset's counters while it stood there, and what of that time they do not reach: there required time less
/// downtime stands in. `None` where no counter reaches into it.
pub(super) fn running(facts: &Snapshot, asked: &Asked, q: Question) -> Option<Running> {
    let window = q.passed()?;
    let stood = asked.stood.clone().unwrap_or_else(|| vec![window]);
    let stood: Vec<Span> = stood.iter().filter_map(|span| span.clip(window)).collect();
    let parts: Vec<(i64, Vec<Span>)> = stood.iter().filter_map(|span| facts.running_ms(asked.asset, *span)).collect();
    if parts.is_empty() {
        return None;
    }
    let ms = parts.iter().map(|(ms, _)| ms).sum();
    let covered = union(parts.into_iter().flat_map(|(_, covered)| covered).collect());
    Some(Running { ms, rest: Asked { asset: asked.asset, stood: Some(difference(&stood, &covered)) } })
}
