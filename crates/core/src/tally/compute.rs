//! Indicators from facts. One pass over the facts of a period serves every asked asset; the same pass, asked for one
//! asset, gives the rows behind its figure.

use super::{EntryFact, FailureFact, Snapshot, WorkFact, required::RequiredTime};
use crate::{
    assets::Basis,
    downtime::{DowntimeKind, Piece, chain, counted, total_ms, union, within},
    entries::EntryKind,
    failures::Effect,
    ids::{AssetId, DowntimeId},
    indicators::{Figure, Indicator, Input, Part, RowKind, RowUnit, TraceRow, Unit, Why},
    period,
    time::{HOUR, Instant, Span},
};
use std::collections::HashMap;

/// What is asked of the tally.
#[derive(Debug, Clone, Copy)]
pub struct Question {
    pub period: Span,
    /// The asked instant: nothing later is known, and what is settled by then is settled.
    pub now: Instant,
    pub basis: Basis,
}

impl Question {
    /// The part of the period that has passed.
    fn passed(&self) -> Option<Span> {
        Span::new(self.period.start(), self.period.end().min(self.now)).ok()
    }

    /// The instant whose open work counts: the last of a past period, or now, with what is raised at this very moment.
    fn as_of(&self) -> Instant {
        if self.period.end() < self.now { self.period.end().plus(-1) } else { self.now }
    }

    /// The instant whose tree an event counts in.
    fn tree_at(&self, event: Instant) -> Instant {
        match self.basis {
            Basis::AsWas => event,
            Basis::AsIs => self.now,
        }
    }
}

/// Figures of `indicators` for each of `assets`, in both orders. An unknown asset has figures without base.
#[must_use]
pub fn figures(snapshot: &Snapshot, assets: &[AssetId], indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    let pass = Pass::new(snapshot, assets, q);
    let mut needs = Needs::default();
    indicators.iter().for_each(|indicator| needs.of(*indicator));
    let mut sums: Vec<Sums> = vec![Sums::default(); assets.len()];
    if needs.cost {
        pass.costs(pass.period_window(), |slot, entry| sums[slot].cost.add(entry, q.now));
    }
    if needs.ytd {
        pass.costs(pass.year_window(), |slot, entry| sums[slot].ytd.add(entry, q.now));
    }
    if needs.life {
        pass.costs(pass.life_window(), |slot, entry| sums[slot].life.add(entry, q.now));
    }
    if needs.failures {
        pass.failures(|slot, failure| match failure.effect {
            Effect::Critical => sums[slot].critical += 1,
            Effect::Degraded => sums[slot].degraded += 1,
            Effect::Incipient => sums[slot].incipient += 1,
        });
    }
    if needs.restore {
        pass.restored(|slot, _, ms| {
            sums[slot].restored += 1;
            sums[slot].restore_ms += ms;
        });
    }
    if needs.work {
        pass.open_work(|slot, _, open_ms| {
            sums[slot].open_work += 1;
            sums[slot].open_ms += open_ms;
        });
    }
    if needs.time {
        let times = pass.times();
        for (slot, asset) in assets.iter().enumerate() {
            if let Some(time) = times.of(*asset) {
                sums[slot].time = Some(time.sums());
                sums[slot].running_ms = q.passed().and_then(|window| snapshot.running_ms(*asset, window));
            }
        }
    }
    sums.iter().map(|sums| indicators.iter().map(|indicator| sums.figure(*indicator)).collect()).collect()
}

/// The figure of one indicator at one asset, with its inputs and the rows that add up to it. `None` for an unknown asset.
#[must_use]
pub fn why(snapshot: &Snapshot, asset: AssetId, indicator: Indicator, q: Question) -> Option<Why> {
    snapshot.tree.index(asset)?;
    let figure = figures(snapshot, &[asset], &[indicator], q)[0][0];
    let pass = Pass::new(snapshot, &[asset], q);
    let (inputs, parts) = pass.trace(asset, indicator);
    Some(Why { indicator, figure, inputs, parts })
}

/// Which passes the asked indicators need.
#[derive(Default)]
struct Needs {
    cost: bool,
    ytd: bool,
    life: bool,
    time: bool,
    failures: bool,
    restore: bool,
    work: bool,
}

impl Needs {
    fn of(&mut self, indicator: Indicator) {
        use Indicator as I;
        match indicator {
            I::CostTotal | I::CostLabour | I::CostMaterial | I::CostService | I::CostTool => self.cost = true,
            I::CostYtd => self.ytd = true,
            I::CostLife => self.life = true,
            I::UnplannedDowntime | I::PlannedDowntime | I::ExternalDowntime | I::Availability => self.time = true,
            I::Failures => self.failures = true,
            I::Mtbf => (self.time, self.failures) = (true, true),
            I::Mttr => self.restore = true,
            I::OpenWork | I::OpenHours => self.work = true,
        }
    }
}

/// Money by kind, settled and provisional apart.
#[derive(Clone, Default)]
struct Money {
    by_kind: [(i64, i64); 4],
}

impl Money {
    fn add(&mut self, entry: &EntryFact, now: Instant) {
        let (settled, provisional) = &mut self.by_kind[entry.kind as usize];
        *if entry.settled_at <= now { settled } else { provisional } += entry.cost.0;
    }

    fn figure(&self, kind: Option<EntryKind>) -> Figure {
        let asked = |index: usize| kind.is_none_or(|kind| kind as usize == index);
        let of_kinds = self.by_kind.iter().enumerate().filter(|(index, _)| asked(*index));
        let (settled, provisional) = of_kinds.fold((0, 0), |sum, (_, kind)| (sum.0 + kind.0, sum.1 + kind.1));
        Figure {
            value: Some((settled + provisional) as f64),
            settled: Some(settled),
            provisional: Some(provisional),
            ..Figure::default()
        }
    }
}

/// Milliseconds of required time and of each kind of downtime in it.
#[derive(Clone, Copy, Default)]
struct TimeSums {
    required: i64,
    unplanned: i64,
    planned: i64,
    external: i64,
}

/// What the passes add up for one asset.
#[derive(Clone, Default)]
struct Sums {
    cost: Money,
    ytd: Money,
    life: Money,
    time: Option<TimeSums>,
    running_ms: Option<i64>,
    critical: i64,
    degraded: i64,
    incipient: i64,
    restored: i64,
    restore_ms: i64,
    open_work: i64,
    open_ms: i64,
}

impl Sums {
    fn figure(&self, indicator: Indicator) -> Figure {
        use Indicator as I;
        let hours_down = |of: fn(&TimeSums) -> i64| self.time.map_or_else(Figure::default, |t| Figure::hours(of(&t)));
        match indicator {
            I::CostTotal => self.cost.figure(None),
            I::CostLabour => self.cost.figure(Some(EntryKind::Labour)),
            I::CostMaterial => self.cost.figure(Some(EntryKind::Material)),
            I::CostService => self.cost.figure(Some(EntryKind::Service)),
            I::CostTool => self.cost.figure(Some(EntryKind::Tool)),
            I::CostYtd => self.ytd.figure(None),
            I::CostLife => self.life.figure(None),
            I::UnplannedDowntime => hours_down(|t| t.unplanned),
            I::PlannedDowntime => hours_down(|t| t.planned),
            I::ExternalDowntime => hours_down(|t| t.external),
            I::Availability => self.time.map_or_else(Figure::default, |t| {
                let base = t.required - t.external;
                Figure::ratio((base - t.unplanned - t.planned) as f64, base as f64)
            }),
            I::Failures => {
                Figure { incipient: Some(self.incipient), ..Figure::of((self.critical + self.degraded) as f64) }
            }
            I::Mtbf => {
                let Some(operating) = self.operating_ms() else { return Figure::default() };
                let hours = operating as f64 / HOUR as f64;
                let none_yet = (self.critical == 0 && operating > 0).then_some(hours);
                Figure { at_least: none_yet, ..Figure::ratio(hours, self.critical as f64) }
            }
            I::Mttr => Figure::ratio(self.restore_ms as f64 / HOUR as f64, self.restored as f64),
            I::OpenWork => Figure::of(self.open_work as f64),
            I::OpenHours => Figure::hours(self.open_ms),
        }
    }

    fn operating_ms(&self) -> Option<i64> {
        let by_calendar = self.time.map(|t| t.required - t.unplanned - t.planned - t.external);
        self.running_ms.or(by_calendar)
    }
}

const NO_SLOT: u32 = u32::MAX;

/// One question over one snapshot for some assets.
struct Pass<'a> {
    snapshot: &'a Snapshot,
    q: Question,
    /// By dense index of the tree: the asset's place among the asked ones.
    slots: Vec<u32>,
}

impl<'a> Pass<'a> {
    fn new(snapshot: &'a Snapshot, assets: &[AssetId], q: Question) -> Self {
        let mut slots = vec![NO_SLOT; snapshot.tree.len()];
        for (slot, asset) in assets.iter().enumerate() {
            if let Some(index) = snapshot.tree.index(*asset) {
                slots[index] = u32::try_from(slot).unwrap_or(NO_SLOT);
            }
        }
        Self { snapshot, q, slots }
    }

    fn period_window(&self) -> Span {
        self.q.period
    }

    fn year_window(&self) -> Span {
        let last = self.q.period.end().plus(-1);
        let start = period::fiscal_year_start(last, &self.snapshot.zone, self.snapshot.fiscal_month);
        Span::new(start, self.q.period.end()).unwrap_or(self.q.period)
    }

    fn life_window(&self) -> Span {
        Span::new(Instant::EARLIEST, self.q.period.end()).unwrap_or(self.q.period)
    }

    /// Calls `found` with the slot of each asked asset that `asset` counts for at that instant: once for each.
    fn for_line(&self, asset: AssetId, at: Instant, mut found: impl FnMut(usize)) {
        let Some(index) = self.snapshot.tree.index(asset) else { return };
        for above in self.snapshot.tree.line_at(index, self.q.tree_at(at)) {
            if self.slots[above] != NO_SLOT {
                found(self.slots[above] as usize);
            }
        }
    }

    fn costs(&self, window: Span, mut found: impl FnMut(usize, &EntryFact)) {
        for entry in self.snapshot.entries.dated_in(window) {
            self.for_line(entry.asset, entry.at, |slot| found(slot, entry));
        }
    }

    fn failures(&self, mut found: impl FnMut(usize, &FailureFact)) {
        for failure in self.snapshot.failures.dated_in(self.q.period) {
            self.for_line(failure.asset, failure.at, |slot| found(slot, failure));
        }
    }

    /// Critical failures that had downtime, with their time to restore: the union of the work's unplanned downtime,
    /// open downtime up to now.
    fn restored(&self, mut found: impl FnMut(usize, &FailureFact, i64)) {
        let critical = |failure: &&FailureFact| failure.effect == Effect::Critical;
        for failure in self.snapshot.failures.dated_in(self.q.period).iter().filter(critical) {
            let down = self.snapshot.downtimes.of_work(failure.work);
            let unplanned = down.filter(|d| d.kind == DowntimeKind::Unplanned);
            let spans = union(unplanned.filter_map(|d| Span::new(d.start, d.end.min(self.q.now)).ok()).collect());
            if !spans.is_empty() {
                let ms = total_ms(&spans);
                self.for_line(failure.asset, failure.at, |slot| found(slot, failure, ms));
            }
        }
    }

    /// Open work as of the end of the period, with its estimated minus spent time, never below 0.
    fn open_work(&self, mut found: impl FnMut(usize, &WorkFact, i64)) {
        let as_of = self.q.as_of();
        for work in self.snapshot.works.standing_at(as_of) {
            if !work.state_at(as_of).is_some_and(|state| state.is_open()) {
                continue;
            }
            let spent: i64 = match work.estimated_ms {
                None => 0,
                Some(_) => {
                    let entries = self.snapshot.entries.of_work(work.number);
                    entries.filter(|entry| entry.at <= as_of).map(|entry| entry.hours_ms).sum()
                }
            };
            let open_ms = (work.estimated_ms.unwrap_or(0) - spent).max(0);
            self.for_line(work.asset, as_of, |slot| found(slot, work, open_ms));
        }
    }

    fn times(&self) -> Times<'a> {
        Times::new(self.snapshot, self.q)
    }

    /// Inputs without rows, and the parts whose rows add up.
    fn trace(&self, asset: AssetId, indicator: Indicator) -> (Vec<Input>, Vec<Part>) {
        use Indicator as I;
        match indicator {
            I::CostTotal => (vec![], self.cost_parts(self.period_window(), &EntryKind::ALL)),
            I::CostLabour => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Labour])),
            I::CostMaterial => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Material])),
            I::CostService => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Service])),
            I::CostTool => (vec![], self.cost_parts(self.period_window(), &[EntryKind::Tool])),
            I::CostYtd => (vec![], self.cost_parts(self.year_window(), &EntryKind::ALL)),
            I::CostLife => (vec![], self.cost_parts(self.life_window(), &EntryKind::ALL)),
            I::UnplannedDowntime => self.time_parts(asset, &[DowntimeKind::Unplanned]),
            I::PlannedDowntime => self.time_parts(asset, &[DowntimeKind::Planned]),
            I::ExternalDowntime => self.time_parts(asset, &[DowntimeKind::External]),
            I::Availability => self.time_parts(asset, &KINDS),
            I::Failures => (vec![], vec![self.failure_part("Failures", &[Effect::Critical, Effect::Degraded])]),
            I::Mtbf => {
                let (mut inputs, mut parts) = self.time_parts(asset, &KINDS);
                let running = self.q.passed().and_then(|window| self.snapshot.running_ms(asset, window));
                if let Some(ms) = running {
                    inputs.insert(
                        0,
                        Input {
                            name: "Operating time".into(),
                            value: ms as f64 / HOUR as f64,
                            unit: Unit::Hours,
                            note: "by the running-hours counter, along a straight line between its readings".into(),
                        },
                    );
                    inputs.truncate(1);
                    parts.clear();
                }
                parts.insert(0, self.failure_part("Critical failures", &[Effect::Critical]));
                (inputs, parts)
            }
            I::Mttr => (vec![], vec![self.restore_part()]),
            I::OpenWork => (vec![], vec![self.open_part("Open work orders", RowUnit::Count)]),
            I::OpenHours => (vec![], vec![self.open_part("Hours still to do", RowUnit::Ms)]),
        }
    }

    fn cost_parts(&self, window: Span, kinds: &[EntryKind]) -> Vec<Part> {
        let mut by_kind: HashMap<EntryKind, Vec<TraceRow>> = HashMap::new();
        self.costs(window, |_, entry| {
            by_kind.entry(entry.kind).or_default().push(TraceRow {
                kind: RowKind::Entry,
                id: entry.id.0,
                asset: entry.asset,
                work_order: Some(entry.work),
                at: entry.at,
                amount: entry.cost.0,
                whole: None,
                settled: Some(entry.settled_at <= self.q.now),
            });
        });
        let found = kinds.iter().filter_map(|kind| Some((kind, by_kind.remove(kind)?)));
        found.map(|(kind, rows)| Part::of(part_name(*kind), RowUnit::Money, rows)).collect()
    }

    fn time_parts(&self, asset: AssetId, kinds: &[DowntimeKind]) -> (Vec<Input>, Vec<Part>) {
        let Some(time) = self.times().of(asset) else { return (vec![], vec![]) };
        let required = Input {
            name: "Required time".into(),
            value: time.sums().required as f64 / HOUR as f64,
            unit: Unit::Hours,
            note: "operating calendar within the asset's life, up to now".into(),
        };
        let parts = kinds.iter().map(|kind| {
            // A row may be counted in several pieces: cut by calendars, or around what overlaps it.
            let mut ms_of: HashMap<i64, i64> = HashMap::new();
            for piece in time.down.iter().filter(|piece| piece.kind == *kind) {
                *ms_of.entry(piece.row).or_default() += piece.span.ms();
            }
            let rows = ms_of.into_iter().filter_map(|(row, ms)| {
                let fact = self.snapshot.downtimes.get(row)?;
                let whole = fact.end.min(self.q.now).since(fact.start);
                Some(TraceRow {
                    kind: RowKind::Downtime,
                    id: row,
                    asset: fact.asset,
                    work_order: fact.work,
                    at: fact.start,
                    amount: ms,
                    whole: (whole != ms).then_some(whole),
                    settled: None,
                })
            });
            let mut rows: Vec<TraceRow> = rows.collect();
            rows.sort_by_key(|row| (row.at, row.id));
            Part::of(&format!("{} downtime", capital(kind.word())), RowUnit::Ms, rows)
        });
        (vec![required], parts.collect())
    }

    fn failure_part(&self, name: &str, effects: &[Effect]) -> Part {
        let mut rows = Vec::new();
        self.failures(|_, failure| {
            if effects.contains(&failure.effect) {
                rows.push(failure_row(failure, 1));
            }
        });
        Part::of(name, RowUnit::Count, rows)
    }

    fn restore_part(&self) -> Part {
        let mut rows = Vec::new();
        self.restored(|_, failure, ms| rows.push(failure_row(failure, ms)));
        Part::of("Time to restore", RowUnit::Ms, rows)
    }

    fn open_part(&self, name: &str, unit: RowUnit) -> Part {
        let mut rows = Vec::new();
        self.open_work(|_, work, open_ms| {
            rows.push(TraceRow {
                kind: RowKind::WorkOrder,
                id: work.number.0,
                asset: work.asset,
                work_order: Some(work.number),
                at: work.raised_at,
                amount: if unit == RowUnit::Ms { open_ms } else { 1 },
                whole: if unit == RowUnit::Ms { work.estimated_ms.filter(|ms| *ms != open_ms) } else { None },
                settled: None,
            });
        });
        Part::of(name, unit, rows)
    }
}

const KINDS: [DowntimeKind; 3] = [DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External];

fn failure_row(failure: &FailureFact, amount: i64) -> TraceRow {
    TraceRow {
        kind: RowKind::Failure,
        id: failure.id.0,
        asset: failure.asset,
        work_order: Some(failure.work),
        at: failure.at,
        amount,
        whole: None,
        settled: None,
    }
}

fn part_name(kind: EntryKind) -> &'static str {
    match kind {
        EntryKind::Labour => "Labour",
        EntryKind::Material => "Material",
        EntryKind::Service => "Services",
        EntryKind::Tool => "Tools",
    }
}

fn capital(word: &str) -> String {
    let mut letters = word.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// Downtime carried up the tree once, and required time, for the passed part of the period.
struct Times<'a> {
    snapshot: &'a Snapshot,
    reached: HashMap<usize, Vec<Piece>>,
    required: Option<RequiredTime<'a>>,
}

/// Required time of one asset, and its downtime in it, shared out among rows.
struct AssetTime {
    required_ms: i64,
    down: Vec<Piece>,
}

impl<'a> Times<'a> {
    fn new(snapshot: &'a Snapshot, q: Question) -> Self {
        let Some(window) = q.passed() else { return Self { snapshot, reached: HashMap::new(), required: None } };
        let tree = &snapshot.tree;
        let own: Vec<(usize, Piece)> = snapshot
            .downtimes
            .overlapping(window)
            .filter_map(|fact| {
                let span = Span::new(fact.start, fact.end.min(window.end())).ok()?;
                let DowntimeId(row) = fact.id;
                Some((tree.index(fact.asset)?, Piece { span, kind: fact.kind, row_start: fact.start, row }))
            })
            .collect();
        let reached = chain::reach(tree, window, &own, q.basis, q.now);
        let required = RequiredTime::new(tree, &snapshot.assignments, &snapshot.calendars, window, q.basis, q.now);
        Self { snapshot, reached, required: Some(required) }
    }

    fn of(&self, asset: AssetId) -> Option<AssetTime> {
        let index = self.snapshot.tree.index(asset)?;
        let required = self.required.as_ref().map_or_else(Vec::new, |required| required.of(index));
        let down = self.reached.get(&index).map_or_else(Vec::new, |pieces| within(&counted(pieces), &required));
        Some(AssetTime { required_ms: total_ms(&required), down })
    }
}

impl AssetTime {
    fn sums(&self) -> TimeSums {
        let of = |kind| self.down.iter().filter(|piece| piece.kind == kind).map(|piece| piece.span.ms()).sum();
        TimeSums {
            required: self.required_ms,
            unplanned: of(DowntimeKind::Unplanned),
            planned: of(DowntimeKind::Planned),
            external: of(DowntimeKind::External),
        }
    }
}
