//! Checks that concern one reading and its neighbours in time.

use crate::{
    meters::{Meter, MeterKind},
    people::Role,
    time::{HOUR, Instant, SECOND, Span},
    units,
};
use serde::{Deserialize, Serialize};

/// How far ahead of the clock a reading may be: devices' clocks differ a little.
pub const FUTURE_TOLERANCE_MS: i64 = 300 * SECOND;

/// One value of one meter at one instant. A grade's value is its place in the list.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reading {
    pub at: Instant,
    pub value: f64,
}

/// Many readings of one meter in order of time, instants and values apart: what is run over a whole history looks at one
/// of them at a time.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Columns {
    // Invariant: as many instants as values, the instants ascending.
    at: Vec<i64>,
    values: Vec<f64>,
}

impl Columns {
    /// With room for that many readings.
    #[must_use]
    pub fn with_capacity(readings: usize) -> Self {
        Self { at: Vec::with_capacity(readings), values: Vec::with_capacity(readings) }
    }

    /// Takes a reading that is not older than the last.
    pub fn push(&mut self, reading: Reading) {
        debug_assert!(self.at.last().is_none_or(|last| *last <= reading.at.ms()), "in order of time");
        self.at.push(reading.at.ms());
        self.values.push(reading.value);
    }

    /// How many readings there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.at.len()
    }

    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.at.is_empty()
    }

    /// Milliseconds since 1970.
    #[must_use]
    pub fn at(&self) -> &[i64] {
        &self.at
    }

    #[must_use]
    pub fn values(&self) -> &[f64] {
        &self.values
    }

    /// Reading by reading.
    pub fn iter(&self) -> impl DoubleEndedIterator<Item = Reading> + '_ {
        self.at.iter().zip(&self.values).map(|(at, value)| Reading { at: Instant::from_ms(*at), value: *value })
    }

    /// Places of the readings of a span.
    #[must_use]
    pub fn places(&self, span: Span) -> std::ops::Range<usize> {
        let place = |at: Instant| self.at.partition_point(|one| *one < at.ms());
        place(span.start())..place(span.end())
    }

    /// The readings of a span.
    #[must_use]
    pub fn within(&self, span: Span) -> Self {
        let places = self.places(span);
        Self { at: self.at[places.clone()].to_vec(), values: self.values[places].to_vec() }
    }

    /// Those at whose instant the last value of `other` is not below `below`: what counts while something else runs.
    /// Before the first of `other`, all count.
    #[must_use]
    pub fn while_running(&self, other: &Self, below: f64) -> Self {
        let (mut kept, mut next, mut runs) = (Self::default(), 0, true);
        for reading in self.iter() {
            while other.at.get(next).is_some_and(|at| *at <= reading.at.ms()) {
                runs = other.values[next] >= below;
                next += 1;
            }
            if runs {
                kept.push(reading);
            }
        }
        kept
    }

    /// The first instant from `at` on at which the last value is not below `below`; before the first reading everything
    /// runs. None where it is below for as long as is known.
    #[must_use]
    pub fn runs_from(&self, at: Instant, below: f64) -> Option<Instant> {
        let next = self.at.partition_point(|one| *one <= at.ms());
        match next.checked_sub(1) {
            None => Some(at),
            Some(last) if self.values[last] >= below => Some(at),
            Some(_) => {
                let place = next + self.values[next..].iter().position(|value| *value >= below)?;
                Some(Instant::from_ms(self.at[place]))
            }
        }
    }
}

impl FromIterator<Reading> for Columns {
    /// From readings in order of time.
    fn from_iter<T: IntoIterator<Item = Reading>>(readings: T) -> Self {
        let mut columns = Self::default();
        for reading in readings {
            columns.push(reading);
        }
        columns
    }
}

/// Where readings come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Source {
    Entered,
    CheckSheet,
    Gateway,
    File,
}

impl Source {
    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Entered => "entered",
            Self::CheckSheet => "check_sheet",
            Self::Gateway => "gateway",
            Self::File => "file",
        }
    }

    /// Whether somebody of that role may say that readings come from there: a gateway speaks for itself alone.
    #[must_use]
    pub fn may_be_said_by(self, role: Role) -> bool {
        role != Role::Gateway || self == Self::Gateway
    }
}

/// What is known around the instant of a new reading: the nearest kept ones on either side, and the newest evaluated.
#[derive(Debug, Clone, Copy, Default)]
pub struct Neighbours {
    pub before: Option<Reading>,
    pub after: Option<Reading>,
    pub newest_evaluated: Option<Instant>,
}

/// How an accepted reading is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Accepted {
    /// The newest: it is evaluated.
    InOrder,
    /// Older than the newest evaluated one: kept and marked, it sets nothing off.
    Late,
    /// Outside the plausible range: kept apart until a person releases or voids it.
    Quarantined,
}

/// Why a reading is not kept. Each says what to look at.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Refused {
    #[error("{value} is not a finite number")]
    NotFinite { value: f64 },
    #[error("{at} is more than five minutes in the future: check the device's clock and time zone")]
    Future { at: Instant },
    #[error("{value} is none of the meter's {named} named values")]
    NotAGrade { value: f64, named: usize },
    #[error("a counter cannot be negative: {value}")]
    Negative { value: f64 },
    #[error("{value} is lower than {before} at {before_at}: the counter would go backwards")]
    Backwards { value: String, before: String, before_at: Instant },
    #[error("{value} is higher than {after} at {after_at}, which came later: the counter would go backwards")]
    AboveLater { value: String, after: String, after_at: Instant },
    #[error("a rise of {rise} in {hours} h is more than {most} at {rate} per hour, the greatest believed")]
    TooFast { rise: String, hours: String, most: String, rate: String },
    #[error("{value} is beyond {rollover_at}, at which the counter starts again")]
    BeyondRollover { value: String, rollover_at: String },
}

/// How many steps of the resolution lie in a difference of values of that size. Values such as 0.1 have no exact binary form,
/// so a difference that is a whole number of steps but for its last digits is that number. Without a resolution any
/// difference is too many or none.
fn steps(difference: f64, size: f64, resolution: f64) -> f64 {
    // Digits that a subtraction of two values of that size may get wrong, several times over; 1e-9 of the values at least.
    let doubt = size.abs().max(difference.abs()).max(1.0) * (16.0 * f64::EPSILON);
    if resolution <= 0.0 {
        return if difference.abs() <= doubt { 0.0 } else { difference.signum() * f64::INFINITY };
    }
    let steps = difference / resolution;
    let whole = steps.round();
    if (steps - whole).abs() <= (doubt / resolution).max(1e-6) { whole } else { steps }
}

/// How a counter got from one value to a later one: plain growth, or once round its rollover. One step of the resolution
/// back counts as no growth backwards. `None` when neither fits.
#[must_use]
pub fn rise(meter: &Meter, from: f64, to: f64) -> Option<f64> {
    if to >= from || steps(from - to, from, meter.resolution) <= 1.0 {
        return Some(to - from);
    }
    meter.rollover_at.map(|most| most - from + to + meter.resolution)
}

/// How much a counter rose from one reading to a later one, across the exchanges of its device in between; 0 where it went
/// backwards. For other meters the plain difference.
#[must_use]
pub fn risen(meter: &Meter, from: Reading, to: Reading, exchanges: &[Exchange]) -> f64 {
    if meter.kind != MeterKind::Counter {
        return to.value - from.value;
    }
    let (mut sum, mut last) = (0.0, from.value);
    let first = exchanges.partition_point(|exchange| exchange.at <= from.at);
    for exchange in exchanges[first..].iter().take_while(|exchange| exchange.at <= to.at) {
        sum += rise(meter, last, exchange.last).unwrap_or(0.0);
        last = exchange.first;
    }
    sum + rise(meter, last, to.value).unwrap_or(0.0)
}

/// By how much the very first reading of a counter, as the series goes on, is more than its value: the devices that were read
/// by nobody since `zero` count too.
#[must_use]
pub fn ahead(meter: &Meter, first: Reading, exchanges: &[Exchange], zero: Instant) -> f64 {
    let unread = exchanges.iter().find(|exchange| exchange.at > zero && exchange.at <= first.at);
    unread.map_or(0.0, |exchange| {
        let began = Reading { at: exchange.at, value: exchange.first };
        exchange.last + risen(meter, began, first, exchanges) - first.value
    })
}

/// A counter's values as one series that goes on across exchanges of its device and rollovers: at and after `zero`, up to the
/// next of those, it is what the device reads. `None` for other meters, and where nothing of the kind happened.
#[must_use]
pub fn through(meter: &Meter, columns: &Columns, exchanges: &[Exchange], zero: Instant) -> Option<Vec<f64>> {
    if meter.kind != MeterKind::Counter || (exchanges.is_empty() && meter.rollover_at.is_none()) {
        return None;
    }
    let mut through = Vec::with_capacity(columns.len());
    let mut last: Option<Reading> = None;
    let mut sum = 0.0;
    for reading in columns.iter() {
        sum = last.map_or(reading.value, |last| sum + risen(meter, last, reading, exchanges));
        through.push(sum);
        last = Some(reading);
    }
    let shift = match (columns.at.partition_point(|at| *at <= zero.ms()).checked_sub(1), columns.iter().next()) {
        (None, Some(first)) => ahead(meter, first, exchanges, zero),
        (None, None) => 0.0,
        (Some(place), _) => {
            let last = Reading { at: Instant::from_ms(columns.at[place]), value: columns.values[place] };
            // The device that is read at zero may be a newer one than that reading's.
            let newer = exchanges.iter().rfind(|exchange| exchange.at > last.at && exchange.at <= zero);
            let read = newer.map_or(last, |exchange| Reading { at: exchange.at, value: exchange.first });
            read.value - (through[place] + risen(meter, last, read, exchanges))
        }
    };
    through.iter_mut().for_each(|value| *value += shift);
    Some(through)
}

/// Readings with, for a counter, their values as they go on across exchanges and rollovers.
#[derive(Debug, Clone, Copy)]
pub struct Series<'a> {
    pub columns: &'a Columns,
    /// One a reading; none where it is the value itself.
    pub through: Option<&'a [f64]>,
}

impl<'a> Series<'a> {
    /// Readings that are what they are.
    #[must_use]
    pub fn of(columns: &'a Columns) -> Self {
        Self { columns, through: None }
    }

    /// The reading at a place.
    #[must_use]
    pub fn reading(&self, place: usize) -> Reading {
        Reading { at: Instant::from_ms(self.columns.at[place]), value: self.columns.values[place] }
    }

    /// Its value as the series goes on.
    #[must_use]
    pub fn through(&self, place: usize) -> f64 {
        self.through.map_or_else(|| self.columns.values[place], |through| through[place])
    }
}

/// The device was changed: the old one ended at `last`, the new one began at `first`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Exchange {
    pub at: Instant,
    pub last: f64,
    pub first: f64,
}

/// How much a counter grew in a span: by what it rose between the readings in it, across rollovers and exchanges of the
/// device, with the value at each end taken on the straight line between its neighbours. Readings and exchanges ascend;
/// an exchange before the first reading stands for a value known then, so leave those out between which and the readings
/// others were left out. 0 where fewer than two values are known.
#[must_use]
pub fn usage(meter: &Meter, readings: &Columns, exchanges: &[Exchange], span: Span) -> f64 {
    let mut used = 0.0;
    let mut exchanges = exchanges.iter().peekable();
    let mut last: Option<Reading> = None;
    let add = |from: Reading, to: Reading| {
        let ms = to.at.since(from.at);
        let inside = to.at.min(span.end()).since(from.at.max(span.start()));
        if ms <= 0 || inside <= 0 {
            return 0.0;
        }
        rise(meter, from.value, to.value).unwrap_or(0.0).max(0.0) * inside as f64 / ms as f64
    };
    for reading in readings.iter() {
        while let Some(exchange) = exchanges.next_if(|exchange| exchange.at <= reading.at) {
            if let Some(from) = last {
                used += add(from, Reading { at: exchange.at, value: exchange.last });
            }
            last = Some(Reading { at: exchange.at, value: exchange.first });
        }
        if let Some(from) = last {
            used += add(from, reading);
        }
        last = Some(reading);
    }
    used
}

/// Whether the reading is kept, and how.
///
/// # Errors
/// [`Refused`] with the figure that speaks against it.
pub fn check(meter: &Meter, reading: Reading, around: Neighbours, now: Instant) -> Result<Accepted, Refused> {
    let Reading { at, value } = reading;
    if !value.is_finite() {
        return Err(Refused::NotFinite { value });
    }
    if at > now.plus(FUTURE_TOLERANCE_MS) {
        return Err(Refused::Future { at });
    }
    match meter.kind {
        MeterKind::Grade => {
            let named = meter.grades.len();
            if value < 0.0 || value.fract() != 0.0 || value >= named as f64 {
                return Err(Refused::NotAGrade { value, named });
            }
        }
        MeterKind::Counter => check_counter(meter, reading, around)?,
        MeterKind::Measurement => {
            let too_low = meter.plausible_low.is_some_and(|low| value < low);
            let too_high = meter.plausible_high.is_some_and(|high| value > high);
            if too_low || too_high {
                return Ok(Accepted::Quarantined);
            }
        }
    }
    let late = around.newest_evaluated.is_some_and(|newest| at < newest);
    Ok(if late { Accepted::Late } else { Accepted::InOrder })
}

fn check_counter(meter: &Meter, reading: Reading, around: Neighbours) -> Result<(), Refused> {
    let Reading { at, value } = reading;
    let shown = |value: f64| units::quantity(value, &meter.unit);
    if value < 0.0 {
        return Err(Refused::Negative { value });
    }
    if let Some(most) = meter.rollover_at
        && value > most
    {
        return Err(Refused::BeyondRollover { value: shown(value), rollover_at: shown(most) });
    }
    if let Some(before) = around.before {
        let rise = rise(meter, before.value, value).ok_or_else(|| Refused::Backwards {
            value: shown(value),
            before: shown(before.value),
            before_at: before.at,
        })?;
        check_rate(meter, rise, value, at.since(before.at))?;
    }
    if let Some(after) = around.after {
        let rise = rise(meter, value, after.value).ok_or_else(|| Refused::AboveLater {
            value: shown(value),
            after: shown(after.value),
            after_at: after.at,
        })?;
        check_rate(meter, rise, after.value, after.at.since(at))?;
    }
    Ok(())
}

fn check_rate(meter: &Meter, rise: f64, value: f64, ms: i64) -> Result<(), Refused> {
    let Some(rate) = meter.believed_rate() else { return Ok(()) };
    let hours = ms as f64 / HOUR as f64;
    let most = rate * hours + meter.resolution;
    if rise > rate * hours && steps(rise - rate * hours, value, meter.resolution) > 1.0 {
        return Err(Refused::TooFast {
            rise: units::quantity(rise, &meter.unit),
            hours: units::number(hours),
            most: units::quantity(most, &meter.unit),
            rate: units::number(rate),
        });
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn at(hours: f64) -> Instant {
        Instant::from_ms((hours * HOUR as f64) as i64)
    }

    fn meter(kind: MeterKind) -> Meter {
        Meter { kind, resolution: 0.1, ..Meter::measurement("h") }
    }

    fn before(hours: f64, value: f64) -> Neighbours {
        let before = Reading { at: at(hours), value };
        Neighbours { before: Some(before), after: None, newest_evaluated: Some(before.at) }
    }

    // Own numbers after rules.md §2: a counter of hours may rise by 24 a day and one step of its resolution.
    #[rstest]
    #[case::a_full_day(1024.0, true)]
    #[case::one_step_more(1024.1, true)]
    #[case::two_steps_more(1024.2, false)]
    #[case::unchanged(1000.0, true)]
    #[case::one_step_back(999.9, true)]
    #[case::two_steps_back(999.8, false)]
    fn a_counter_of_hours_one_day_after_1000(#[case] value: f64, #[case] kept: bool) {
        let reading = Reading { at: at(48.0), value };
        let answer = check(&meter(MeterKind::Counter), reading, before(24.0, 1000.0), at(48.0));
        assert_eq!(answer.is_ok(), kept, "{answer:?}");
    }

    /// Every pair of values one step apart, as they are read from decimal text: one step back is tolerated, two are not.
    #[rstest]
    #[case::tenths(1)]
    #[case::hundredths(2)]
    #[case::whole(0)]
    fn one_step_back_is_one_step_whatever_the_binary_form(#[case] digits: usize) {
        let resolution: f64 = format!("{:.digits$}", 10f64.powi(-(digits as i32))).parse().unwrap();
        let counter = Meter { resolution, ..meter(MeterKind::Counter) };
        let value = |n: i64| -> f64 { format!("{:.digits$}", n as f64 * resolution).parse().unwrap() };
        for n in 2..200_001 {
            let back = rise(&counter, value(n), value(n - 1));
            assert!(back.is_some_and(|back| back < 0.0), "{} to {}", value(n), value(n - 1));
            assert_eq!(rise(&counter, value(n), value(n - 2)), None, "{} to {}", value(n), value(n - 2));
        }
    }

    #[test]
    fn a_counter_without_a_resolution_tolerates_nothing() {
        let counter = Meter { resolution: 0.0, ..meter(MeterKind::Counter) };
        assert_eq!(rise(&counter, 4.2, 4.2), Some(0.0));
        assert_eq!(rise(&counter, 4.2, 4.1), None);
    }

    /// Own numbers: 990 to 1000, the device changed there for one at 5, on to 8; as the new device reads it, the old one's
    /// last values were -5 and 5.
    #[test]
    fn a_counter_goes_on_across_an_exchange_and_a_rollover() {
        let counter = meter(MeterKind::Counter);
        let readings: Columns = [(0.0, 990.0), (10.0, 998.0), (30.0, 8.0)]
            .map(|(h, value)| Reading { at: at(h), value })
            .into_iter()
            .collect();
        let exchange = [Exchange { at: at(20.0), last: 1_000.0, first: 5.0 }];
        let of = |zero| through(&counter, &readings, &exchange, at(zero)).unwrap();
        assert_eq!(of(40.0), [-5.0, 3.0, 8.0]);
        assert_eq!(of(15.0), [990.0, 998.0, 1_003.0], "as the old device would read it");
        assert_eq!(through(&counter, &readings, &[], at(40.0)), None, "nothing happened to it");
        let rolling = Meter { rollover_at: Some(999.9), ..counter };
        let round: Columns =
            [(0.0, 995.0), (10.0, 3.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
        let rolled = through(&rolling, &round, &[], at(0.0)).unwrap();
        assert!((rolled[1] - 1_003.0).abs() < 1e-9, "999.9 and one step of 0.1 is 1000: {rolled:?}");
    }

    #[test]
    fn a_refusal_gives_the_figure() {
        let counter = meter(MeterKind::Counter);
        let reading = Reading { at: at(48.0), value: 1100.0 };
        let error = check(&counter, reading, before(24.0, 1000.0), at(48.0)).unwrap_err();
        assert_eq!(
            error.to_string(),
            "a rise of 100 h in 24 h is more than 24.1 h at 1 per hour, the greatest believed"
        );
        let error = check(&counter, Reading { at: at(48.0), value: 900.0 }, before(24.0, 1000.0), at(48.0));
        assert_eq!(
            error.unwrap_err().to_string(),
            "900 h is lower than 1000 h at 1970-01-02T00:00:00Z: the counter would go backwards"
        );
    }

    #[test]
    fn a_rollover_is_growth() {
        let counter = Meter { rollover_at: Some(9_999.9), ..meter(MeterKind::Counter) };
        let reading = Reading { at: at(48.0), value: 5.0 };
        assert_eq!(check(&counter, reading, before(24.0, 9_990.0), at(48.0)), Ok(Accepted::InOrder));
        let too_much = Reading { at: at(48.0), value: 500.0 };
        assert!(matches!(check(&counter, too_much, before(24.0, 9_990.0), at(48.0)), Err(Refused::TooFast { .. })));
    }

    /// Own numbers: 10 h from 990 to 1000, the device changed there and begun at 0, 6 h more; then a rollover at 99.9 of
    /// another meter: 99 → 5 is 6 with its step of 0.1.
    #[test]
    fn usage_goes_across_exchanges_and_rollovers_and_is_cut_at_the_ends() {
        let counter = meter(MeterKind::Counter);
        let readings: Columns =
            [(0.0, 990.0), (30.0, 6.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
        let exchange = [Exchange { at: at(20.0), last: 1_000.0, first: 0.0 }];
        let within = |from, to| usage(&counter, &readings, &exchange, Span::new(at(from), at(to)).unwrap());
        assert_eq!(within(0.0, 40.0), 16.0);
        assert_eq!(within(10.0, 25.0), 5.0 + 3.0, "half of the first stretch and half of the second");
        assert_eq!(within(30.0, 40.0), 0.0);
        let rolling = Meter { rollover_at: Some(99.9), ..counter.clone() };
        let round: Columns =
            [(0.0, 99.0), (10.0, 5.0)].map(|(h, value)| Reading { at: at(h), value }).into_iter().collect();
        let used = usage(&rolling, &round, &[], Span::new(at(0.0), at(10.0)).unwrap());
        assert!((used - 6.0).abs() < 1e-9, "{used}");
    }

    #[test]
    fn a_suspended_meter_counts_only_while_the_other_runs() {
        let readings: Columns = (0..6).map(|h| Reading { at: at(f64::from(h)), value: 1.0 }).collect();
        let other: Columns = [(1.0, 900.0), (2.5, 20.0), (4.0, 800.0)]
            .map(|(h, value)| Reading { at: at(h), value })
            .into_iter()
            .collect();
        let kept: Vec<i64> = readings.while_running(&other, 100.0).at().iter().map(|at| at / HOUR).collect();
        assert_eq!(kept, [0, 1, 2, 4, 5]);
    }

    #[test]
    fn a_late_counter_value_must_fit_what_came_after() {
        let around = Neighbours {
            before: Some(Reading { at: at(0.0), value: 0.0 }),
            after: Some(Reading { at: at(20.0), value: 10.0 }),
            newest_evaluated: Some(at(20.0)),
        };
        let counter = meter(MeterKind::Counter);
        let late = |value| check(&counter, Reading { at: at(10.0), value }, around, at(30.0));
        assert_eq!(late(5.0), Ok(Accepted::Late));
        assert!(matches!(late(10.2), Err(Refused::TooFast { .. } | Refused::AboveLater { .. })));
    }

    #[test]
    fn a_measurement_outside_its_plausible_range_is_kept_apart() {
        let bar = Meter { plausible_low: Some(0.0), plausible_high: Some(400.0), ..meter(MeterKind::Measurement) };
        let answer = |value| check(&bar, Reading { at: at(1.0), value }, Neighbours::default(), at(1.0));
        assert_eq!(answer(400.0), Ok(Accepted::InOrder));
        assert_eq!(answer(400.5), Ok(Accepted::Quarantined));
        assert!(matches!(answer(f64::NAN), Err(Refused::NotFinite { .. })));
    }

    #[test]
    fn a_grade_takes_a_named_value_only() {
        let grade = Meter { grades: vec!["good".into(), "worn".into()], ..meter(MeterKind::Grade) };
        let answer = |value| check(&grade, Reading { at: at(1.0), value }, Neighbours::default(), at(1.0));
        assert_eq!(answer(1.0), Ok(Accepted::InOrder));
        assert_eq!(answer(2.0), Err(Refused::NotAGrade { value: 2.0, named: 2 }));
        assert_eq!(answer(0.5), Err(Refused::NotAGrade { value: 0.5, named: 2 }));
    }

    #[test]
    fn five_minutes_ahead_is_the_most() {
        let bar = meter(MeterKind::Measurement);
        let answer = |ms| {
            let reading = Reading { at: at(1.0).plus(ms), value: 1.0 };
            check(&bar, reading, Neighbours::default(), at(1.0))
        };
        assert!(answer(FUTURE_TOLERANCE_MS).is_ok());
        assert!(matches!(answer(FUTURE_TOLERANCE_MS + 1), Err(Refused::Future { .. })));
    }
}
