//! What a fiscal year will have cost. Common practice, no published source: what was spent to date, and for the rest the mean of
//! the same rest of the last three years (as many as there are), scaled by what was spent to date against the same part of those
//! years, kept between half and double. Only years count in which the asset was in service, its first by the part in which it was; in
//! its first year what it costs a day in service goes on.

use super::{Places, Question, figures::figures_of_each, set::fiscal_year};
use crate::{
    facts::{Snapshot, columns::Part, packed::Packed},
    ground::time::{DAY, Instant, Span},
    tally::indicators::Indicator,
};
use jiff::ToSpan;
use serde::Serialize;

/// A year that went before.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PastYear {
    pub from: Instant,
    /// Minor units spent up to the same day, and in the rest of it.
    pub to_date: i64,
    pub rest: i64,
    /// Of each of these parts the share in which the asset was in service, 0 to 1.
    pub to_date_in_service: f64,
    pub rest_in_service: f64,
}

/// What a year comes to at one row of a tally, in minor units.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Forecast {
    pub year: Span,
    pub spent: i64,
    /// By what the mean rest of past years is multiplied; none where there are none.
    pub scale: Option<f64>,
    /// Years in which it was in service.
    pub past: Vec<PastYear>,
    /// In its first year: minor units a day in service to date, which go on for the rest.
    pub per_day: Option<f64>,
    /// Spent and the scaled rest.
    pub forecast: Option<i64>,
    pub budget: Option<i64>,
}

/// Years looked back.
const YEARS: i32 = 3;

/// Least and greatest factor.
const SCALE: (f64, f64) = (0.5, 2.0);

/// Less of a part of a year in service says nothing of all of it.
const LEAST_IN_SERVICE: f64 = 1.0 / 12.0;

/// What of the year that is forecast lies before and after now, in days in service.
#[derive(Debug, Clone, Copy)]
struct InService {
    before: f64,
    after: f64,
}

impl Forecast {
    fn of(
        year: Span,
        spent: i64,
        mut past: Vec<PastYear>,
        budget: Option<i64>,
        days: InService,
        is_over: bool,
    ) -> Self {
        past.retain(|year| year.to_date_in_service.max(year.rest_in_service) >= LEAST_IN_SERVICE);
        // A part of a year in which it was there half of the time counts as twice as much.
        let mean = |value: fn(&PastYear) -> (i64, f64)| {
            let parts = past.iter().map(value).filter(|(_, share)| *share >= LEAST_IN_SERVICE);
            let whole: Vec<f64> = parts.map(|(spent, share)| spent as f64 / share).collect();
            (!whole.is_empty()).then(|| whole.iter().sum::<f64>() / whole.len() as f64)
        };
        let rest = mean(|year| (year.rest, year.rest_in_service));
        let scale = rest.map(|_| match mean(|year| (year.to_date, year.to_date_in_service)) {
            Some(to_date) if to_date > 0.0 => (spent as f64 / to_date).clamp(SCALE.0, SCALE.1),
            _ => 1.0,
        });
        let is_first = rest.is_none() && !is_over && days.before >= 1.0;
        let per_day = is_first.then(|| spent as f64 / days.before);
        let forecast = match (is_over, rest.zip(scale), per_day) {
            (true, ..) => Some(spent),
            (_, Some((rest, scale)), _) => Some(spent + (rest * scale).round() as i64),
            (_, None, Some(per_day)) => Some(spent + (per_day * days.after).round() as i64),
            _ => None,
        };
        Self { year, spent, scale, past, per_day, forecast, budget }
    }
}

/// The fiscal year in which a period ends, for each row.
#[must_use]
pub fn forecast(facts: &Snapshot, places: &Places, q: Question) -> Vec<Forecast> {
    let year = fiscal_year(facts, q);
    let to = year.end().min(q.now).max(year.start());
    let back = |at: Instant, years: i32| {
        at.in_zone(&facts.zone).checked_sub(years.years()).map_or(Instant::EARLIEST, |at| at.timestamp().into())
    };
    let first = facts.entries.parts().next().filter(|part| !part.is_empty()).map(|part| Instant::unpack(part.at.of(0)));
    // A year of which the first weeks at most are missing.
    let is_kept = |from: Instant| first.is_some_and(|first| first <= from.plus(31 * DAY));
    let past: Vec<[Instant; 3]> = (1..=YEARS)
        .map(|years| [year.start(), to, year.end()].map(|at| back(at, years)))
        .take_while(|[from, ..]| is_kept(*from))
        .collect();
    let question = |from, to| Question { period: Span::new(from, to).unwrap_or(q.period), ..q };
    let is_begun = to > year.start();
    let mut questions = vec![question(year.start(), if is_begun { to } else { year.end() })];
    for [from, then, end] in &past {
        questions.extend([question(*from, *then), question(*then, *end)]);
    }
    let budgets = figures_of_each(facts, places, &[Indicator::Budget], &[question(year.start(), year.end())]);
    let sums = figures_of_each(facts, places, &[Indicator::CostTotal], &questions);
    let value = |which: usize, row: usize| sums[which][row][0].value.unwrap_or(0.0) as i64;
    let rows = (0..places.list().len()).map(|row| {
        // What is not said to be in service since a day is so since there are records.
        let life = places.index(row).map_or(Span::ALWAYS, |index| facts.tree.node(index).life);
        let ms_in = |from: Instant, to: Instant| {
            Span::new(from, to).ok().and_then(|span| span.clip(life)).map_or(0, |span| span.ms()) as f64
        };
        let share = |from: Instant, to: Instant| if from < to { ms_in(from, to) / to.since(from) as f64 } else { 0.0 };
        let past = past.iter().enumerate().map(|(place, [from, then, end])| PastYear {
            from: *from,
            to_date: if from < then { value(1 + 2 * place, row) } else { 0 },
            rest: if then < end { value(2 + 2 * place, row) } else { 0 },
            to_date_in_service: share(*from, *then),
            rest_in_service: share(*then, *end),
        });
        let budget = budgets[0][row][0].value.map(|value| value as i64);
        let spent = if is_begun { value(0, row) } else { 0 };
        let from = first.map_or(to, |first| year.start().max(first));
        let days = InService { before: ms_in(from, to) / DAY as f64, after: ms_in(to, year.end()) / DAY as f64 };
        Forecast::of(year, spent, past.collect(), budget, days, to >= year.end())
    });
    rows.collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn year() -> Span {
        Span::new(Instant::from_ms(0), Instant::from_ms(365 * DAY)).unwrap()
    }

    fn past(to_date: i64, rest: i64) -> PastYear {
        PastYear { from: Instant::from_ms(0), to_date, rest, to_date_in_service: 1.0, rest_in_service: 1.0 }
    }

    const NEVER: InService = InService { before: 0.0, after: 0.0 };

    /// indicators.md, by hand: years before it was there count for nothing. Of an asset that came half-way through the rest of its
    /// first year, that rest of 150 counts as 300, and nothing says how it goes by now; in its first year it goes on as it began.
    #[test]
    fn only_years_count_in_which_it_was_in_service() {
        let before = PastYear { to_date_in_service: 0.0, rest_in_service: 0.0, ..past(0, 0) };
        let first = PastYear { to_date_in_service: 0.0, rest_in_service: 0.5, ..past(0, 150) };
        let told = Forecast::of(year(), 120, vec![first, before, before], None, NEVER, false);
        assert_eq!((told.forecast, told.past.len(), told.scale), (Some(420), 1, Some(1.0)));
        let days = InService { before: 50.0, after: 200.0 };
        let told = Forecast::of(year(), 120, vec![before], None, days, false);
        assert_eq!((told.forecast, told.per_day), (Some(120 + 480), Some(2.4)));
    }

    /// By hand: 120 spent, where 100 and 140 were (mean 120): as before, so the mean rest of 200 and 300 comes on top. Half as
    /// much again is scaled, ten times as much only doubled.
    #[test]
    fn the_rest_is_as_it_was_by_how_this_year_goes() {
        let years = || vec![past(100, 200), past(140, 300)];
        let told = |spent| Forecast::of(year(), spent, years(), None, NEVER, false).forecast;
        assert_eq!([told(120), told(180), told(1_200), told(0)], [Some(370), Some(555), Some(1_700), Some(125)]);
        assert_eq!(Forecast::of(year(), 50, vec![], None, NEVER, false).forecast, None, "nothing to go by");
        assert_eq!(Forecast::of(year(), 50, vec![], None, NEVER, true).forecast, Some(50), "it is over");
        assert_eq!(
            Forecast::of(year(), 50, vec![past(0, 70)], None, NEVER, false).forecast,
            Some(120),
            "no base to scale by"
        );
    }
}
