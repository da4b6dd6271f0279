//! What an indicator is made of: sums that measures make, times and what is set, and how they combine. The figure combines them,
//! the why shows their rows, so one definition makes both.

use super::traced_rows::RowUnit;
use crate::{plant::downtime::DowntimeKind, work::entries::EntryKind};

/// Over which time money is added up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(super) enum Over {
    Period,
    /// From the start of the fiscal year in which the period ends.
    Year,
    /// From the beginning.
    Life,
}

/// A measure: something that one pass over rows adds up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(super) enum Pass {
    Cost(Over),
    Failed,
    Downing,
    Restored,
    Open,
    Raised,
    Completed,
    Worked,
    Alarmed,
    Scheduled,
    Upkept,
    DownCost,
    Slowed,
    Capacity,
}

impl Pass {
    /// When it is gone over among others: first what goes over most rows, and does most with each.
    pub(super) fn turn(self) -> u8 {
        match self {
            Self::Capacity => 0,
            Self::Completed | Self::Worked | Self::Scheduled | Self::Open => 1,
            Self::Raised | Self::Cost(_) => 2,
            _ => 3,
        }
    }
}

/// Some of a measure's sums, as a why calls them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Cells {
    pub(super) pass: Pass,
    pub(super) cells: &'static [usize],
    pub(super) unit: RowUnit,
    pub(super) name: &'static str,
}

/// A measure has no more cells.
pub(super) const MOST_CELLS: usize = u32::BITS as usize;

/// Some cells of a measure, by a bit each.
pub(super) fn bits(cells: &[usize]) -> u32 {
    cells.iter().fold(0, |bits, cell| bits | 1 << cell)
}

/// What of a measure is asked for: sums of some of its cells.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub(super) struct Wanted(Vec<u32>);

impl Wanted {
    /// The sum of some cells.
    fn sum_of(cells: &[usize]) -> Self {
        Self(vec![bits(cells)])
    }

    /// Each of some cells.
    fn each_of(cells: &[usize]) -> Self {
        Self(cells.iter().map(|cell| bits(&[*cell])).collect())
    }

    pub(super) fn add(&mut self, other: &Self) {
        let more: Vec<u32> = other.0.iter().copied().filter(|sum| !self.0.contains(sum)).collect();
        self.0.extend(more);
    }

    /// The cells that are to be kept apart, as sets: those that are asked for only together are one.
    pub(super) fn apart(&self) -> Vec<u32> {
        let mut apart: Vec<u32> = Vec::new();
        for sum in &self.0 {
            let new = apart.iter().fold(*sum, |new, set| new & !set);
            apart = apart.iter().flat_map(|set| [set & sum, set & !sum]).chain([new]).filter(|set| *set != 0).collect();
        }
        apart
    }
}

/// What is told of a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Told {
    /// The value with what stands beside it: what of money is settled, what does not count.
    Figure,
    /// The value alone.
    Value,
}

/// Something that goes into a formula.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Term {
    Of(Cells),
    /// Required time, downtime in it, and the time it was operating.
    Required,
    Down(DowntimeKind),
    Operating,
    /// How much of the period has passed.
    Passed,
    /// What the asset would cost anew, and what may be spent on it in the fiscal year of the period's end.
    Replacement,
    Budget,
}

/// In what a quotient is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Scale {
    /// As its two sums are: hours where both are not of the same unit.
    Plain,
    /// Of a whole year, by how much of the period has passed.
    Yearly,
    /// For each day.
    Daily,
}

/// How terms combine.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Formula {
    Sum(Term),
    /// A sum, and beside it what is not in it.
    Apart {
        sum: Cells,
        apart: Cells,
    },
    /// Money in whole minor units, and what is left of it in millionths of an hour's: cents times milliseconds.
    Hourly {
        whole: Cells,
        rest: usize,
    },
    /// Of two sums with signs. `bounded`: where there is nothing to divide by, the numerator is a lower bound.
    Ratio {
        over: &'static [(i64, Term)],
        by: &'static [(i64, Term)],
        scale: Scale,
        bounded: bool,
    },
    /// The median of what rows add, with the ninth of ten, and how many lie in each of `bands` of days.
    Spread {
        of: Cells,
        bands: &'static [i64],
    },
}

impl Formula {
    /// All terms, in the order in which a why shows them: what is divided by comes first.
    pub(super) fn terms(&self) -> Vec<Term> {
        match self {
            Self::Sum(term) => vec![*term],
            Self::Apart { sum, .. } => vec![Term::Of(*sum)],
            Self::Hourly { whole, .. } => vec![Term::Of(*whole)],
            Self::Ratio { over, by, .. } => by.iter().chain(*over).map(|(_, term)| *term).collect(),
            Self::Spread { of, .. } => vec![Term::Of(*of)],
        }
    }

    /// All sums that are asked for so that it can be told.
    pub(super) fn wanted(&self, told: Told) -> Vec<(Pass, Wanted)> {
        let of = |cells: Cells| match told {
            Told::Figure => (cells.pass, Wanted::each_of(cells.cells)),
            Told::Value => (cells.pass, Wanted::sum_of(cells.cells)),
        };
        let beside = match self {
            Self::Apart { apart, .. } if told == Told::Figure => Some(of(*apart)),
            Self::Hourly { whole, rest } => Some((whole.pass, Wanted::each_of(&[*rest]))),
            _ => None,
        };
        let terms = self.terms().into_iter().filter_map(|term| match term {
            Term::Of(cells) => Some(of(cells)),
            _ => None,
        });
        terms.chain(beside).collect()
    }
}

/// The kinds of entries that count.
pub(super) const fn cost_cells(kind: Option<EntryKind>) -> &'static [usize] {
    match kind {
        None => &[0, 1, 2, 3, 4, 5, 6, 7],
        Some(EntryKind::Labour) => &[0, 1],
        Some(EntryKind::Material) => &[2, 3],
        Some(EntryKind::Service) => &[4, 5],
        Some(EntryKind::Tool) => &[6, 7],
    }
}

pub(super) const fn cost_of(kind: Option<EntryKind>, over: Over) -> Term {
    Term::Of(Cells { pass: Pass::Cost(over), cells: cost_cells(kind), unit: RowUnit::Money, name: "Cost" })
}

pub(super) const fn cost(kind: Option<EntryKind>, over: Over) -> Formula {
    Formula::Sum(cost_of(kind, over))
}

pub(super) const fn count(pass: Pass, cells: &'static [usize], name: &'static str) -> Cells {
    Cells { pass, cells, unit: RowUnit::Count, name }
}

pub(super) const fn time(pass: Pass, cells: &'static [usize], name: &'static str) -> Cells {
    Cells { pass, cells, unit: RowUnit::Ms, name }
}

pub(super) const fn down(kind: DowntimeKind) -> Formula {
    Formula::Sum(Term::Down(kind))
}

/// A quotient of two terms.
pub(super) const fn ratio(over: &'static [(i64, Term)], by: &'static [(i64, Term)]) -> Formula {
    Formula::Ratio { over, by, scale: Scale::Plain, bounded: false }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Each sum that is asked for is some of the sets, and no cell is in two.
        #[test]
        fn sums_are_made_of_what_is_kept_apart(sums in prop::collection::vec(prop::collection::vec(0usize..7, 1..5), 1..6)) {
            let mut wanted = Wanted::default();
            sums.iter().for_each(|cells| wanted.add(&Wanted::sum_of(cells)));
            let apart = wanted.apart();
            for (place, set) in apart.iter().enumerate() {
                prop_assert!(*set != 0 && apart[..place].iter().all(|other| other & set == 0));
            }
            for sum in sums.iter().map(|cells| bits(cells)) {
                let inside = apart.iter().filter(|set| *set & sum != 0);
                prop_assert_eq!(inside.fold(0, |all, set| all | set), sum);
            }
        }
    }
}
