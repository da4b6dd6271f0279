//! Checks that concern one reading and its neighbours in time.

use super::counters::steps;
use crate::{
    ground::{
        time::{CLOCK_OFF_MS, HOUR, Instant},
        units,
    },
    watch::{
        meters::{Counter, Meter, MeterKind},
        readings::Reading,
    },
};

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

/// Whether the reading is kept, and how.
///
/// # Errors
/// [`Refused`] with the figure that speaks against it.
pub fn check(meter: &Meter, reading: Reading, around: Neighbours, now: Instant) -> Result<Accepted, Refused> {
    let Reading { at, value } = reading;
    if !value.is_finite() {
        return Err(Refused::NotFinite { value });
    }
    if at > now.plus(CLOCK_OFF_MS) {
        return Err(Refused::Future { at });
    }
    match &meter.kind {
        MeterKind::Grade(grades) => {
            let named = grades.len();
            if value < 0.0 || value.fract() != 0.0 || value >= named as f64 {
                return Err(Refused::NotAGrade { value, named });
            }
        }
        MeterKind::Counter(counter) => check_counter(meter, counter, reading, around)?,
        MeterKind::Measurement(plausible) => {
            let too_low = plausible.low.is_some_and(|low| value < low);
            let too_high = plausible.high.is_some_and(|high| value > high);
            if too_low || too_high {
                return Ok(Accepted::Quarantined);
            }
        }
    }
    let late = around.newest_evaluated.is_some_and(|newest| at < newest);
    Ok(if late { Accepted::Late } else { Accepted::InOrder })
}

fn check_counter(meter: &Meter, counter: &Counter, reading: Reading, around: Neighbours) -> Result<(), Refused> {
    let Reading { at, value } = reading;
    let shown = |value: f64| units::quantity(value, &meter.unit);
    if value < 0.0 {
        return Err(Refused::Negative { value });
    }
    if let Some(most) = counter.rollover_at
        && value > most
    {
        return Err(Refused::BeyondRollover { value: shown(value), rollover_at: shown(most) });
    }
    if let Some(before) = around.before {
        let rise = counter.rise(before.value, value).ok_or_else(|| Refused::Backwards {
            value: shown(value),
            before: shown(before.value),
            before_at: before.at,
        })?;
        check_rate(meter, counter, rise, value, at.since(before.at))?;
    }
    if let Some(after) = around.after {
        let rise = counter.rise(value, after.value).ok_or_else(|| Refused::AboveLater {
            value: shown(value),
            after: shown(after.value),
            after_at: after.at,
        })?;
        check_rate(meter, counter, rise, after.value, after.at.since(at))?;
    }
    Ok(())
}

fn check_rate(meter: &Meter, counter: &Counter, rise: f64, value: f64, ms: i64) -> Result<(), Refused> {
    let Some(rate) = counter.greatest_rate else { return Ok(()) };
    let hours = ms as f64 / HOUR as f64;
    let most = rate * hours + counter.resolution;
    if rise > rate * hours && steps(rise - rate * hours, value, counter.resolution) > 1.0 {
        return Err(Refused::TooFast {
            rise: units::quantity(rise, &meter.unit),
            hours: units::number(hours),
            most: units::quantity(most, &meter.unit),
            rate: units::number(rate),
        });
    }
    Ok(())
}
