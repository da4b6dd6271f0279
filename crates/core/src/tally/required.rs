//! Required time of an asset: its calendar, own or inherited, within its life.

use crate::{
    facts::Assignment,
    ground::{
        calendar::Calendar,
        ids::CalendarId,
        spans::{intersection, union},
        time::{Instant, Span},
    },
    plant::assets::{Basis, Tree},
};
use std::collections::HashMap;

/// Works out required time for many assets of one window, each calendar once.
pub(super) struct RequiredTime<'a> {
    tree: &'a Tree,
    assignments: &'a [Vec<Assignment>],
    window: Span,
    /// Where a tree or an assignment changes the answer may change: `[start, …, end]` of the window.
    cuts: Vec<Instant>,
    today: Option<Instant>,
    operating: HashMap<CalendarId, Vec<Span>>,
}

impl<'a> RequiredTime<'a> {
    pub(super) fn new(
        tree: &'a Tree,
        assignments: &'a [Vec<Assignment>],
        calendars: &HashMap<CalendarId, Calendar>,
        window: Span,
        basis: Basis,
        now: Instant,
    ) -> Self {
        let mut cuts = vec![window.start(), window.end()];
        if basis == Basis::AsWas {
            cuts.extend(tree.changes_in(window));
        }
        let edges = assignments.iter().flatten().flat_map(|a| [a.from, a.to]);
        cuts.extend(edges.filter(|&at| window.start() < at && at < window.end()));
        cuts.sort_unstable();
        cuts.dedup();
        // A calendar that no longer reads is checked on the way in; one without a zone counts as always.
        let operating = calendars
            .iter()
            .map(|(id, calendar)| (*id, calendar.operating(window).unwrap_or_else(|_unknown_zone| vec![window])))
            .collect();
        let today = (basis == Basis::AsIs).then_some(now);
        Self { tree, assignments, window, cuts, today, operating }
    }

    /// Disjoint ascending spans in which the asset was required to run. Without a calendar on it or above it: always.
    pub(super) fn of(&self, index: usize) -> Vec<Span> {
        let Some(life) = self.tree.node(index).life.clip(self.window) else { return Vec::new() };
        let mut spans: Vec<Span> = Vec::new();
        let mut run: Option<(Span, Option<CalendarId>)> = None;
        let parts = self.cuts.windows(2).filter_map(|pair| Span::new(pair[0], pair[1]).ok());
        for part in parts {
            let calendar = self.calendar_at(index, part.start());
            run = match run {
                Some((span, same)) if same == calendar => {
                    Some((Span::new(span.start(), part.end()).unwrap_or(span), same))
                }
                Some((span, other)) => {
                    spans.extend(self.cut(span, other));
                    Some((part, calendar))
                }
                None => Some((part, calendar)),
            };
        }
        spans.extend(run.into_iter().flat_map(|(span, calendar)| self.cut(span, calendar)));
        intersection(&union(spans), &[life])
    }

    fn cut(&self, span: Span, calendar: Option<CalendarId>) -> Vec<Span> {
        match calendar.and_then(|id| self.operating.get(&id)) {
            Some(operating) => intersection(operating, &[span]),
            None => vec![span],
        }
    }

    fn calendar_at(&self, index: usize, at: Instant) -> Option<CalendarId> {
        let mut line = self.tree.line_at(index, self.today.unwrap_or(at));
        line.find_map(|above| {
            self.assignments.get(above)?.iter().find(|a| a.from <= at && at < a.to).map(|a| a.calendar)
        })
    }
}
