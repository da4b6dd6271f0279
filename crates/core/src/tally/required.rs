//! Required time of an asset: its calendar, own or inherited, within its life.

use crate::{
    facts::Assignment,
    ground::{
        calendar::Calendar,
        ids::CalendarId,
        spans::{intersection, union},
        time::{Instant, Span},
    },
    plant::assets::{Basis, NOBODY, Shape, Tree},
};
use fixedbitset::FixedBitSet;
use std::{collections::HashMap, sync::Arc};

/// Disjoint ascending spans in which something was required to run, and how much of it lies before each.
#[derive(Debug, Default)]
pub(super) struct Required {
    spans: Vec<Span>,
    before: Vec<i64>,
    total_ms: i64,
}

impl Required {
    fn of(spans: Vec<Span>) -> Self {
        let mut total_ms = 0;
        let mut before = Vec::with_capacity(spans.len());
        for span in &spans {
            before.push(total_ms);
            total_ms += span.ms();
        }
        Self { spans, before, total_ms }
    }

    pub(super) fn spans(&self) -> &[Span] {
        &self.spans
    }

    pub(super) fn total_ms(&self) -> i64 {
        self.total_ms
    }

    /// Milliseconds of it before an instant: what lies between two instants is the difference.
    pub(super) fn until(&self, at: Instant) -> i64 {
        self.until_at(at, self.spans.partition_point(|span| span.end() <= at))
    }

    /// The same of instants that mostly ascend: each is looked for from where the one before was found on.
    pub(super) fn until_from(&self, at: Instant, found: &mut usize) -> i64 {
        let is_over = |place: usize| self.spans.get(place).is_some_and(|span| span.end() <= at);
        if *found > 0 && !is_over(*found - 1) {
            *found = 0;
        }
        let mut step = 1;
        while is_over(*found + step - 1) {
            *found += step;
            step *= 2;
        }
        let rest = &self.spans[*found..(*found + step).min(self.spans.len())];
        *found += rest.partition_point(|span| span.end() <= at);
        self.until_at(at, *found)
    }

    fn until_at(&self, at: Instant, place: usize) -> i64 {
        match self.spans.get(place) {
            Some(span) => self.before[place] + at.since(span.start()).max(0),
            None => self.total_ms,
        }
    }
}

/// Works out required time for many assets of one window; those that share calendar and life share it.
#[derive(Debug)]
pub(super) struct RequiredTime<'a> {
    tree: &'a Tree,
    shape: Arc<Shape>,
    assignments: &'a [Vec<Assignment>],
    window: Span,
    /// Where an assignment changes the answer may change: `[start, …, end]` of the window.
    cuts: Vec<Instant>,
    today: Option<Instant>,
    operating: HashMap<CalendarId, Vec<Span>>,
    /// What was moved in the window, with all below it, and when anything was.
    moved: FixedBitSet,
    moves: Vec<Instant>,
    /// The first of which is never.
    classes: Vec<Required>,
    /// By the nearest asset above with a calendar, and the life within the window.
    class_of: HashMap<(u32, Span), usize>,
    /// By asset, where it is known already.
    known: Vec<u32>,
}

/// The class of an asset is not known yet.
const UNKNOWN: u32 = u32::MAX;

impl<'a> RequiredTime<'a> {
    pub(super) fn new(
        tree: &'a Tree,
        assignments: &'a [Vec<Assignment>],
        calendars: &HashMap<CalendarId, Calendar>,
        window: Span,
        basis: Basis,
        now: Instant,
    ) -> Self {
        let edges = assignments.iter().flatten().flat_map(|a| [a.from, a.to]);
        let mut cuts: Vec<Instant> = edges.filter(|&at| window.start() < at && at < window.end()).collect();
        cuts.extend([window.start(), window.end()]);
        cuts.sort_unstable();
        cuts.dedup();
        // A calendar that no longer reads is checked on the way in; one without a zone counts as always.
        let operating = calendars
            .iter()
            .map(|(id, calendar)| (*id, calendar.operating(window).unwrap_or_else(|_unknown_zone| vec![window])))
            .collect();
        let today = (basis == Basis::AsIs).then_some(now);
        let shape = tree.shape_at(today.unwrap_or(window.end().plus(-1)));
        let (mut moved, mut moves) = (FixedBitSet::with_capacity(tree.len()), Vec::new());
        let known = vec![UNKNOWN; tree.len()];
        if basis == Basis::AsWas {
            shape.mark_below(tree.moved_in(window), &mut moved);
            moves = tree.moves_in(window);
        }
        Self {
            tree,
            shape,
            assignments,
            window,
            cuts,
            today,
            operating,
            moved,
            moves,
            classes: vec![Required::default()],
            class_of: HashMap::new(),
            known,
        }
    }

    /// The class of an asset: assets of one class were required to run at the same times.
    pub(super) fn class(&mut self, asset: u32) -> usize {
        // What lives throughout and has no calendar of its own is required as its parent is; those above are mostly known.
        let mut above = asset;
        let class = loop {
            match self.known[above as usize] {
                UNKNOWN => {}
                known => break known,
            }
            let parent = self.shape.parent(above);
            if !self.is_as_its_parent(above) || parent == NOBODY || !self.lives_throughout(parent) {
                break self.own_class(above) as u32;
            }
            above = parent;
        };
        let mut below = asset;
        while below != above {
            self.known[below as usize] = class;
            below = self.shape.parent(below);
        }
        self.known[above as usize] = class;
        class as usize
    }

    fn lives_throughout(&self, asset: u32) -> bool {
        self.tree.lives_always(asset as usize)
            || self.tree.node(asset as usize).life.clip(self.window) == Some(self.window)
    }

    fn has_calendar(&self, asset: u32) -> bool {
        self.assignments.get(asset as usize).is_some_and(|own| !own.is_empty())
    }

    fn is_as_its_parent(&self, asset: u32) -> bool {
        self.lives_throughout(asset) && !self.has_calendar(asset) && !self.moved.contains(asset as usize)
    }

    fn own_class(&mut self, asset: u32) -> usize {
        let Some(life) = self.tree.node(asset as usize).life.clip(self.window) else { return 0 };
        if self.moved.contains(asset as usize) {
            let mut cuts = [&self.cuts[..], &self.moves].concat();
            cuts.sort_unstable();
            cuts.dedup();
            return self.add(asset, &cuts, life);
        }
        let source = self.shape.line(asset).find(|above| self.has_calendar(*above)).unwrap_or(NOBODY);
        if let Some(known) = self.class_of.get(&(source, life)) {
            return *known;
        }
        let class = self.add(asset, &self.cuts.clone(), life);
        self.class_of.insert((source, life), class);
        class
    }

    /// How many classes are known so far.
    pub(super) fn classes(&self) -> usize {
        self.classes.len()
    }

    /// When the assets of a class were required to run. Without a calendar on it or above it: always.
    pub(super) fn of(&self, class: usize) -> &Required {
        &self.classes[class]
    }

    fn add(&mut self, asset: u32, cuts: &[Instant], life: Span) -> usize {
        self.classes.push(Required::of(intersection(&self.spans(asset, cuts), &[life])));
        self.classes.len() - 1
    }

    /// Disjoint ascending, whatever its life.
    fn spans(&self, asset: u32, cuts: &[Instant]) -> Vec<Span> {
        let mut spans: Vec<Span> = Vec::new();
        let mut run: Option<(Span, Option<CalendarId>)> = None;
        let parts = cuts.windows(2).filter_map(|pair| Span::new(pair[0], pair[1]).ok());
        for part in parts {
            let calendar = self.calendar_at(asset, part.start());
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
        union(spans)
    }

    fn cut(&self, span: Span, calendar: Option<CalendarId>) -> Vec<Span> {
        match calendar.and_then(|id| self.operating.get(&id)) {
            Some(operating) => intersection(operating, &[span]),
            None => vec![span],
        }
    }

    fn calendar_at(&self, asset: u32, at: Instant) -> Option<CalendarId> {
        let mut line = self.tree.line_at(asset as usize, self.today.unwrap_or(at));
        line.find_map(|above| {
            self.assignments.get(above)?.iter().find(|a| a.from <= at && at < a.to).map(|a| a.calendar)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn what_lies_between_two_instants_is_a_difference() {
        let at = Instant::from_ms;
        let span = |from, to| Span::new(at(from), at(to)).unwrap();
        let required = Required::of(vec![span(10, 20), span(30, 35)]);
        let until: Vec<i64> = [0, 10, 15, 20, 25, 30, 34, 35, 99].map(|ms| required.until(at(ms))).into();
        assert_eq!(until, [0, 0, 5, 10, 10, 10, 14, 15, 15]);
        let mut found = 0;
        let from = [0, 10, 15, 20, 25, 30, 34, 35, 99, 12].map(|ms| required.until_from(at(ms), &mut found));
        assert_eq!(from, [0, 0, 5, 10, 10, 10, 14, 15, 15, 2]);
        assert_eq!(required.total_ms(), 15);
    }

    proptest! {
        /// Wherever the one before was found, and whether the next comes later or not.
        #[test]
        fn what_is_looked_for_from_the_one_before_is_found_as_from_the_first(
            lengths in prop::collection::vec((0i64..4, 1i64..4), 0..60),
            instants in prop::collection::vec(0i64..300, 1..40),
            is_ascending in any::<bool>(),
        ) {
            let at = Instant::from_ms;
            let mut end = 0;
            let spans = lengths.into_iter().map(|(gap, length)| {
                let start = end + gap + i64::from(end > 0);
                end = start + length;
                Span::new(at(start), at(end)).unwrap()
            });
            let required = Required::of(spans.collect());
            let (mut instants, mut found) = (instants, 0);
            if is_ascending {
                instants.sort_unstable();
            }
            for ms in instants {
                prop_assert_eq!(required.until_from(at(ms), &mut found), required.until(at(ms)));
            }
        }
    }
}
