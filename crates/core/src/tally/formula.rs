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

/// Cells of a measure that are asked for, by a bit each.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Wanted(u32);

impl Wanted {
    /// A measure has no more cells.
    pub(super) const MOST: usize = u32::BITS as usize;

    pub(super) fn of(cells: &[usize]) -> Self {
        Self(cells.iter().fold(0, |wanted, cell| wanted | 1 << cell))
    }

    pub(super) fn and(self, other: Self) -> Self {
        Self(self.0 | other.0)
    }

    pub(super) fn holds(self, cell: usize) -> bool {
        self.0 >> cell & 1 == 1
    }
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

    /// All sums that it is made of, and those that stand beside it.
    pub(super) fn wanted(&self) -> Vec<(Pass, Wanted)> {
        let of = |cells: Cells| (cells.pass, Wanted::of(cells.cells));
        let beside = match self {
            Self::Apart { apart, .. } => Some(of(*apart)),
            Self::Hourly { whole, rest } => Some((whole.pass, Wanted::of(&[*rest]))),
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
