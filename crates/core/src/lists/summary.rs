//! What many values come to.

use super::{
    asked::Summary,
    column::{Holds, RATIO},
};
use crate::{
    facts::packed::NONE,
    ground::time::{DAY, HOUR},
};

/// What is kept of many values.
#[derive(Debug, Clone)]
pub(super) struct Kept {
    count: u64,
    sum: i128,
    least: i64,
    greatest: i64,
    /// Of a median only.
    all: Vec<i64>,
}

impl Default for Kept {
    fn default() -> Self {
        Self { count: 0, sum: 0, least: i64::MAX, greatest: i64::MIN, all: Vec::new() }
    }
}

impl Kept {
    #[inline]
    pub(super) fn take(&mut self, value: i64, keeps_all: bool) {
        if value == NONE {
            return;
        }
        self.count += 1;
        self.sum += i128::from(value);
        self.least = self.least.min(value);
        self.greatest = self.greatest.max(value);
        if keeps_all {
            self.all.push(value);
        }
    }

    pub(super) fn join(&mut self, other: &Self) {
        self.count += other.count;
        self.sum += other.sum;
        self.least = self.least.min(other.least);
        self.greatest = self.greatest.max(other.greatest);
        self.all.extend(&other.all);
    }

    /// The summary in the column's unit; `whole` is what the values of all rows come to.
    pub(super) fn told(&self, of: Summary, holds: Holds, whole: &Self) -> Option<f64> {
        if self.count == 0 && of != Summary::Sum {
            return None;
        }
        Some(match of {
            Summary::Sum => unit(self.sum as f64, holds),
            Summary::Mean => unit(self.sum as f64 / self.count as f64, holds),
            Summary::Least => unit(self.least as f64, holds),
            Summary::Greatest => unit(self.greatest as f64, holds),
            Summary::Median => {
                let mut all = self.all.clone();
                all.sort_unstable();
                let middle = all.len() / 2;
                let median = match all.len() % 2 {
                    0 => (all[middle - 1] as f64 + all[middle] as f64) / 2.0,
                    _ => all[middle] as f64,
                };
                unit(median, holds)
            }
            Summary::Share if whole.sum == 0 => return None,
            Summary::Share => self.sum as f64 / whole.sum as f64,
        })
    }
}

/// A number as the column tells it.
pub(super) fn unit(value: f64, holds: Holds) -> f64 {
    match holds {
        Holds::Hours => value / HOUR as f64,
        Holds::Days => value / DAY as f64,
        Holds::Ratio => value / RATIO,
        _ => value,
    }
}
