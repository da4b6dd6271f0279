//! How a counter goes on, across rollovers and exchanges of its device.

use crate::{
    ground::time::{Instant, Span},
    watch::{
        meters::{Counter, Meter},
        readings::{Columns, Reading},
    },
};

/// How many steps of the resolution lie in a difference of values of that size. Values such as 0.1 have no exact binary form,
/// so a difference that is a whole number of steps but for its last digits is that number. Without a resolution any
/// difference is too many or none.
pub(super) fn steps(difference: f64, size: f64, resolution: f64) -> f64 {
    // Digits that a subtraction of two values of that size may get wrong, several times over; 1e-9 of the values at least.
    let doubt = size.abs().max(difference.abs()).max(1.0) * (16.0 * f64::EPSILON);
    if resolution <= 0.0 {
        return if difference.abs() <= doubt { 0.0 } else { difference.signum() * f64::INFINITY };
    }
    let steps = difference / resolution;
    let whole = steps.round();
    if (steps - whole).abs() <= (doubt / resolution).max(1e-6) { whole } else { steps }
}

impl Counter {
    /// How it got from one value to a later one: plain growth, or once round its rollover. One step of the resolution back
    /// counts as no growth backwards. `None` when neither fits.
    #[must_use]
    pub fn rise(&self, from: f64, to: f64) -> Option<f64> {
        if to >= from || steps(from - to, from, self.resolution) <= 1.0 {
            return Some(to - from);
        }
        self.rollover_at.map(|most| most - from + to + self.resolution)
    }
}

/// How much a counter rose from one reading to a later one, across the exchanges of its device in between; 0 where it went
/// backwards. For other meters the plain difference.
#[must_use]
pub fn risen(meter: &Meter, from: Reading, to: Reading, exchanges: &[Exchange]) -> f64 {
    let Some(counter) = meter.counter() else { return to.value - from.value };
    let (mut sum, mut last) = (0.0, from.value);
    let first = exchanges.partition_point(|exchange| exchange.at <= from.at);
    for exchange in exchanges[first..].iter().take_while(|exchange| exchange.at <= to.at) {
        sum += counter.rise(last, exchange.last).unwrap_or(0.0);
        last = exchange.first;
    }
    sum + counter.rise(last, to.value).unwrap_or(0.0)
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
    if exchanges.is_empty() && meter.counter()?.rollover_at.is_none() {
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
    let shift = match (columns.at().partition_point(|at| *at <= zero.ms()).checked_sub(1), columns.iter().next()) {
        (None, Some(first)) => ahead(meter, first, exchanges, zero),
        (None, None) => 0.0,
        (Some(place), _) => {
            let last = Reading { at: Instant::from_ms(columns.at()[place]), value: columns.values()[place] };
            // The device that is read at zero may be a newer one than that reading's.
            let newer = exchanges.iter().rfind(|exchange| exchange.at > last.at && exchange.at <= zero);
            let read = newer.map_or(last, |exchange| Reading { at: exchange.at, value: exchange.first });
            read.value - (through[place] + risen(meter, last, read, exchanges))
        }
    };
    through.iter_mut().for_each(|value| *value += shift);
    Some(through)
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
pub fn usage(counter: &Counter, readings: &Columns, exchanges: &[Exchange], span: Span) -> f64 {
    let mut used = 0.0;
    let mut exchanges = exchanges.iter().peekable();
    let mut last: Option<Reading> = None;
    let add = |from: Reading, to: Reading| {
        let ms = to.at.since(from.at);
        let inside = to.at.min(span.end()).since(from.at.max(span.start()));
        if ms <= 0 || inside <= 0 {
            return 0.0;
        }
        counter.rise(from.value, to.value).unwrap_or(0.0).max(0.0) * inside as f64 / ms as f64
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
