//! Readings as columns, and a counter's as they go on.

use crate::ground::time::{Instant, Span};

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
