//! What an indicator is made of: terms that measures add up, and how they combine. The figure combines their sums, the why shows
//! their rows, so one definition makes both.

use crate::{codes::failures::Effect, plant::downtime::DowntimeKind, work::entries::EntryKind};

/// Over which time money is added up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(super) enum Over {
    Period,
    /// From the start of the fiscal year in which the period ends.
    Year,
    /// From the beginning.
    Life,
}

/// Something that is added up.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Term {
    /// Entries of a kind, or of all.
    Cost(Option<EntryKind>, Over),
    /// Failure reports of these effects.
    Failed(&'static [Effect]),
    /// Critical failures that had downtime, and their time to restore.
    Restored,
    Restoring,
    /// Open work: how much, its hours to do, and what nobody estimated.
    Open,
    OpenMs,
    OpenUnestimated,
    /// Required time, downtime in it, and the time it was operating.
    Required,
    Down(DowntimeKind),
    Operating,
}

impl Term {
    /// The kinds of entries that count.
    pub(super) fn kinds(kind: Option<EntryKind>) -> &'static [EntryKind] {
        match kind {
            None => &EntryKind::ALL,
            Some(EntryKind::Labour) => &[EntryKind::Labour],
            Some(EntryKind::Material) => &[EntryKind::Material],
            Some(EntryKind::Service) => &[EntryKind::Service],
            Some(EntryKind::Tool) => &[EntryKind::Tool],
        }
    }

    /// Counted in milliseconds.
    pub(super) fn is_time(self) -> bool {
        matches!(self, Self::Restoring | Self::OpenMs | Self::Required | Self::Down(_) | Self::Operating)
    }
}

/// How terms combine.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Formula {
    Sum(Term),
    /// A sum, and beside it what is not in it.
    Apart {
        sum: Term,
        apart: Term,
    },
    /// Of two sums with signs. `bounded`: where there is nothing to divide by, the numerator is a lower bound.
    Ratio {
        over: &'static [(i64, Term)],
        by: &'static [(i64, Term)],
        bounded: bool,
    },
}

impl Formula {
    /// All terms, in the order in which a why shows them.
    pub(super) fn terms(&self) -> Vec<Term> {
        match self {
            Self::Sum(term) => vec![*term],
            Self::Apart { sum, apart } => vec![*sum, *apart],
            Self::Ratio { over, by, .. } => over.iter().chain(*by).map(|(_, term)| *term).collect(),
        }
    }
}

const COUNTED: &[Effect] = &[Effect::Critical, Effect::Degraded];

/// Sums of money, failures, time and work.
pub(super) const fn cost(kind: Option<EntryKind>, over: Over) -> Formula {
    Formula::Sum(Term::Cost(kind, over))
}

pub(super) const fn down(kind: DowntimeKind) -> Formula {
    Formula::Sum(Term::Down(kind))
}

pub(super) const FAILURES: Formula =
    Formula::Apart { sum: Term::Failed(COUNTED), apart: Term::Failed(&[Effect::Incipient]) };

pub(super) const AVAILABILITY: Formula = Formula::Ratio {
    over: &[
        (1, Term::Required),
        (-1, Term::Down(DowntimeKind::Unplanned)),
        (-1, Term::Down(DowntimeKind::Planned)),
        (-1, Term::Down(DowntimeKind::External)),
    ],
    by: &[(1, Term::Required), (-1, Term::Down(DowntimeKind::External))],
    bounded: false,
};

pub(super) const MTBF: Formula =
    Formula::Ratio { over: &[(1, Term::Operating)], by: &[(1, Term::Failed(&[Effect::Critical]))], bounded: true };

pub(super) const MTTR: Formula =
    Formula::Ratio { over: &[(1, Term::Restoring)], by: &[(1, Term::Restored)], bounded: false };
