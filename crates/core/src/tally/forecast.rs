//! What a fiscal year will have cost. Common practice, no published source: what was spent to date, and for the rest the mean of
//! the same rest of the last three years (as many as there are), scaled by what was spent to date against the same part of those
//! years, kept between half and double.

use super::{Places, Question, figures::figures_of_each, set::fiscal_year};
use crate::{
    facts::{Snapshot, columns::Part, packed::Packed},
    ground::time::{DAY, Instant, Span},
    tally::indicators::Indicator,
};
use jiff::ToSpan;
use serde::Serialize;

/// A year that went before.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PastYear {
    pub from: Instant,
    /// Minor units spent up to the same day, and in the rest of it.
    pub to_date: i64,
    pub rest: i64,
}

/// What a year comes to at one row of a tally, in minor units.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Forecast {
    pub year: Span,
    pub spent: i64,
    /// By what the mean rest of past years is multiplied; none where there are none.
    pub scale: Option<f64>,
    pub past: Vec<PastYear>,
    /// Spent and the scaled rest.
    pub forecast: Option<i64>,
    pub budget: Option<i64>,
}

/// Years looked back.
const YEARS: i32 = 3;

/// Least and greatest factor.
const SCALE: (f64, f64) = (0.5, 2.0);

impl Forecast {
    fn of(year: Span, spent: i64, past: Vec<PastYear>, budget: Option<i64>, is_over: bool) -> Self {
        let mean = |value: fn(&PastYear) -> i64| {
            (!past.is_empty()).then(|| past.iter().map(value).sum::<i64>() as f64 / past.len() as f64)
        };
        let scale = mean(|year| year.to_date).map(|to_date| match to_date > 0.0 {
            true => (spent as f64 / to_date).clamp(SCALE.0, SCALE.1),
            false => 1.0,
        });
        let rest = mean(|year| year.rest);
        let forecast = match is_over {
            true => Some(spent),
            false => rest.zip(scale).map(|(rest, scale)| spent + (rest * scale).round() as i64),
        };
        Self { year, spent, scale, past, forecast, budget }
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
        let past = past.iter().enumerate().map(|(place, [from, then, end])| PastYear {
            from: *from,
            to_date: if from < then { value(1 + 2 * place, row) } else { 0 },
            rest: if then < end { value(2 + 2 * place, row) } else { 0 },
        });
        let budget = budgets[0][row][0].value.map(|value| value as i64);
        let spent = if is_begun { value(0, row) } else { 0 };
        Forecast::of(year, spent, past.collect(), budget, to >= year.end())
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
        PastYear { from: Instant::from_ms(0), to_date, rest }
    }

    /// By hand: 120 spent, where 100 and 140 were (mean 120): as before, so the mean rest of 200 and 300 comes on top. Half as
    /// much again is scaled, ten times as much only doubled.
    #[test]
    fn the_rest_is_as_it_was_by_how_this_year_goes() {
        let years = || vec![past(100, 200), past(140, 300)];
        let told = |spent| Forecast::of(year(), spent, years(), None, false).forecast;
        assert_eq!([told(120), told(180), told(1_200), told(0)], [Some(370), Some(555), Some(1_700), Some(125)]);
        assert_eq!(Forecast::of(year(), 50, vec![], None, false).forecast, None, "nothing to go by");
        assert_eq!(Forecast::of(year(), 50, vec![], None, true).forecast, Some(50), "it is over");
        assert_eq!(Forecast::of(year(), 50, vec![past(0, 70)], None, false).forecast, Some(120), "no base to scale by");
    }
}
