//! Required time and downtime of many assets in one period.

use super::{Question, held::Held, required::RequiredTime};
use crate::{
    facts::{DowntimeFact, Snapshot, columns::Part, packed::Packed},
    ground::{
        spans::{intersection, total_ms},
        time::Span,
    },
    plant::downtime::{DowntimeKind, Piece, Risen, Ways, counted, within},
};

/// Milliseconds of required time and of each kind of downtime in it.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(super) struct TimeSums {
    pub(super) required: i64,
    pub(super) unplanned: i64,
    pub(super) planned: i64,
    pub(super) external: i64,
}

impl TimeSums {
    /// Required time less all downtime.
    pub(super) fn up(&self) -> i64 {
        self.required - self.unplanned - self.planned - self.external
    }

    pub(super) fn of(&self, kind: DowntimeKind) -> i64 {
        match kind {
            DowntimeKind::Unplanned => self.unplanned,
            DowntimeKind::Planned => self.planned,
            DowntimeKind::External => self.external,
        }
    }
}

/// What of an asset's time is asked: all that has passed of the period, or what lies in some disjoint ascending spans.
#[derive(Clone)]
pub(super) struct Asked {
    pub(super) asset: u32,
    pub(super) stood: Option<Vec<Span>>,
}

impl Asked {
    /// No time at all is asked for.
    pub(super) fn is_nothing(&self) -> bool {
        self.stood.as_ref().is_some_and(Vec::is_empty)
    }
}

/// Downtime carried up the tree once, and required time, for the passed part of the period.
pub(super) struct Times<'a> {
    window: Option<Span>,
    risen: Option<Risen>,
    required: Option<RequiredTime<'a>>,
    /// The last kind of downtime that is asked for.
    last: DowntimeKind,
}

/// Recorded downtime of the assets that count that lasts into a window.
pub(super) fn lasted(
    facts: &Snapshot,
    window: Span,
    counts: impl Fn(u32) -> bool + Copy,
) -> impl Iterator<Item = DowntimeFact> {
    facts.downtimes.overlapping(window).flat_map(move |part| {
        let inside =
            move |place: &usize| part.start.of(*place) < window.end().ms() && part.end.of(*place) > window.start().ms();
        // In a small part of the plant most rows end with the first look.
        let counting = part.asset.iter().enumerate().filter(move |(_, asset)| counts(**asset));
        counting.map(|(place, _)| place).filter(inside).map(|place| part.row(place))
    })
}

/// A recorded interval as a piece, up to the end of a window.
fn piece(facts: &Snapshot, fact: &DowntimeFact, window: Span) -> Option<Piece> {
    let span = facts.lasted(fact, window.end())?;
    Some(Piece { span, kind: fact.kind, row_start: fact.start, row: fact.id.0 })
}

/// Stops of a window that count, where they reach, of kinds up to the last that is asked for: those that may reach one of some
/// assets, all without any.
pub(super) fn risen(
    facts: &Snapshot,
    (q, window): (Question, Span),
    (to, last): (Option<&[u32]>, DowntimeKind),
    counts: impl Fn(&DowntimeFact) -> bool,
) -> Risen {
    let ways = Ways::new(&facts.tree, window, q.basis, q.now).up_to(last);
    let lead = to.and_then(|to| ways.lead_to(to));
    let own = lasted(facts, window, |asset| lead.as_ref().is_none_or(|lead| lead.contains(asset as usize)));
    let own = own.filter(|fact| fact.is_stop() && counts(fact));
    ways.risen(own.filter_map(|fact| Some((fact.asset, piece(facts, &fact, window)?))))
}

/// No row asks for the asset.
const UNASKED: u32 = u32::MAX;

/// What is counted at one asset so far. Assets come in any order: each is as much as the machine looks at once.
#[repr(align(64))]
struct Counting {
    class: u32,
    /// Where it ends, in required time, for each kind with all higher ones, and how much of it is down.
    ends: [i64; 3],
    down: [i64; 3],
}

impl<'a> Times<'a> {
    /// Of those assets alone, and of kinds of downtime up to the last that is asked for: what comes after it is told as none.
    pub(super) fn new(facts: &'a Snapshot, q: Question, held: Option<&Held>, of: &[u32], last: DowntimeKind) -> Self {
        let Some(window) = q.passed() else { return Self { window: None, risen: None, required: None, last } };
        let counts = |fact: &DowntimeFact| held.is_none_or(|held| held.holds(fact.asset, fact.work.pack()));
        let risen = risen(facts, (q, window), (Some(of), last), counts);
        let required = RequiredTime::new(&facts.tree, &facts.assignments, &facts.calendars, window, q.basis, q.now);
        Self { window: Some(window), risen: Some(risen), required: Some(required), last }
    }

    /// The sums of each that is asked. In one pass: since pieces come in order of their starts, what is counted at an asset so far
    /// is told by where it ends. Measured in required time (how much of it lies before an instant) nothing is to be cut.
    pub(super) fn sums(&mut self, asked: &[&Asked]) -> Vec<TimeSums> {
        let (Some(window), Some(risen), Some(required)) = (self.window, &self.risen, &mut self.required) else {
            return vec![TimeSums::default(); asked.len()];
        };
        let is_whole = |one: &Asked| one.stood.as_ref().is_none_or(|stood| stood[..] == [window]);
        let mut counting: Vec<Counting> = Vec::new();
        let mut slots = vec![UNASKED; asked.iter().map(|one| one.asset as usize + 1).max().unwrap_or(0)];
        for one in asked.iter().filter(|one| is_whole(one)) {
            if slots[one.asset as usize] == UNASKED {
                slots[one.asset as usize] = counting.len() as u32;
                let class = required.class(one.asset) as u32;
                counting.push(Counting { class, ends: [i64::MIN; 3], down: [0; 3] });
            }
        }
        // Assets on one line mostly share their required time: its ends are looked up once a piece.
        let mut looked_up: Option<(u32, Span, i64, i64)> = None;
        let mut found = vec![0; required.classes()];
        risen.each(|asset, piece| {
            let Some(&slot) = slots.get(asset as usize).filter(|slot| **slot != UNASKED) else { return };
            let Counting { class, ends, down } = &mut counting[slot as usize];
            let (start, end) = match looked_up {
                Some((of, span, start, end)) if of == *class && span == piece.span => (start, end),
                _ => {
                    let (required, found) = (required.of(*class as usize), &mut found[*class as usize]);
                    let start = required.until_from(piece.span.start(), found);
                    let mut of_end = *found;
                    let end = required.until_from(piece.span.end(), &mut of_end);
                    looked_up = Some((*class, piece.span, start, end));
                    (start, end)
                }
            };
            for kind in piece.kind as usize..=self.last as usize {
                if end > ends[kind] {
                    down[kind] += end - start.max(ends[kind]);
                    ends[kind] = end;
                }
            }
        });
        let in_part = risen.of(asked.iter().filter(|one| !is_whole(one)).map(|one| one.asset));
        let mut sums = Vec::with_capacity(asked.len());
        for one in asked {
            sums.push(match &one.stood {
                Some(stood) if !is_whole(one) => {
                    let class = required.class(one.asset);
                    let spans = intersection(required.of(class).spans(), stood);
                    let pieces = in_part.get(&one.asset).map_or(&[][..], Vec::as_slice);
                    let down = within(&counted(pieces), &spans);
                    let of = |kind| down.iter().filter(|piece| piece.kind == kind).map(|piece| piece.span.ms()).sum();
                    TimeSums {
                        required: total_ms(&spans),
                        unplanned: of(DowntimeKind::Unplanned),
                        planned: of(DowntimeKind::Planned),
                        external: of(DowntimeKind::External),
                    }
                }
                _ => {
                    let Counting { class, down, .. } = &counting[slots[one.asset as usize] as usize];
                    let up_to = |kind: DowntimeKind| down[kind.min(self.last) as usize];
                    let (unplanned, and_planned) = (up_to(DowntimeKind::Unplanned), up_to(DowntimeKind::Planned));
                    TimeSums {
                        required: required.of(*class as usize).total_ms(),
                        unplanned,
                        planned: and_planned - unplanned,
                        external: up_to(DowntimeKind::External) - and_planned,
                    }
                }
            });
        }
        sums
    }

    /// Required time in milliseconds, and the pieces of downtime in it, shared out among their rows.
    pub(super) fn pieces(&mut self, asked: &Asked) -> (i64, Vec<Piece>) {
        let (Some(risen), Some(required)) = (&self.risen, &mut self.required) else { return (0, Vec::new()) };
        let class = required.class(asked.asset);
        let spans = match &asked.stood {
            Some(stood) => intersection(required.of(class).spans(), stood),
            None => required.of(class).spans().to_vec(),
        };
        let pieces = risen.of([asked.asset]).remove(&asked.asset).unwrap_or_default();
        (total_ms(&spans), within(&counted(&pieces), &spans))
    }
}
