//! A ladder run over past readings, and judged by the failures that came: what would it have caught, and at what price?
//!
//! The machine and the responses are the live ones ([`super::machine`], [`super::respond`]), the judging is that of
//! [`super::warnings`]; only the work that is raised is imagined, and taken to last as long as such work usually does.
//! [`super::finder`] tries many settings at once.

use super::{
    AfterFinish, Change, Decision, Ladder, Machine, OutOfUse, Part, RungSide, Situation, Waits,
    chatter::{Chatter, ChatterCount},
    parts,
    respond::{LastRaised, OpenWork, respond},
    waits_for_a_reading,
    warnings::{FailureVerdict, Judge, Judged, JudgedFailure, JudgedWarning, Past, Terms, middle},
};
use crate::{
    ground::{
        ids::WorkOrderId,
        severity::Severity,
        time::{DAY, HOUR, Instant, SECOND, Span},
    },
    watch::{
        meters::Meter,
        readings::{Columns, Series},
    },
    work::Verdict,
};
use serde::Serialize;
use std::ops::Range;

/// How a work order ended, where that is known.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Completion {
    pub at: Instant,
    pub how: Completed,
}

/// See [`Completion`].
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Completed {
    Done(Option<Verdict>),
    /// A decision: what it was raised for stays quiet.
    Dropped,
}

/// What a replay takes as given.
#[derive(Debug, Clone, PartialEq)]
pub struct Assumptions {
    /// How long imagined work stays open; an hour at the least.
    pub work_lasts_ms: i64,
    /// When and how the first, second, … work ended, where that is known; work beyond the list lasts as above.
    pub completions: Vec<Completion>,
    /// Spells in which the meter was shelved, with the reason.
    pub shelves: Vec<(Span, String)>,
    /// Spells in which the asset was out of use, with the reason.
    pub out_of_use: Vec<(Span, String)>,
    /// The least severity that counts as a warning.
    pub least: Severity,
    /// How long before a failure a warning may come, and how long after a warning a failure may.
    pub horizon_ms: i64,
    /// Spells nearer together than this are one warning.
    pub calm_ms: i64,
    /// A warning shorter than this is too late.
    pub lead_ms: i64,
    pub chatter: Chatter,
}

impl Default for Assumptions {
    /// Work of 14 days; alert and above; 30 days of horizon, 7 of calm, 1 of lead.
    fn default() -> Self {
        Self {
            work_lasts_ms: 14 * DAY,
            completions: Vec::new(),
            shelves: Vec::new(),
            out_of_use: Vec::new(),
            least: Severity::Alert,
            horizon_ms: 30 * DAY,
            calm_ms: 7 * DAY,
            lead_ms: DAY,
            chatter: Chatter::default(),
        }
    }
}

impl Assumptions {
    /// How warnings are judged.
    #[must_use]
    pub fn terms(&self, until: Instant) -> Terms {
        Terms { horizon_ms: self.horizon_ms, calm_ms: self.calm_ms, lead_ms: self.lead_ms, until }
    }
}

/// What a ladder is run over.
#[derive(Debug, Clone)]
pub struct History<'a> {
    pub meter: &'a Meter,
    /// In order of time, one an instant.
    pub readings: &'a Columns,
    /// For a counter, the same values as they go on across exchanges and rollovers.
    pub through: Option<&'a [f64]>,
    /// Places of those that are looked at.
    pub part: Range<usize>,
    /// What suspends the ladder: readings of another meter, below this value.
    pub suspended: Option<(&'a Columns, f64)>,
    /// Nothing is dated earlier: what an older reading enters, it enters then.
    pub since: Instant,
    /// The end of history.
    pub until: Instant,
    pub past: &'a Past,
}

impl<'a> History<'a> {
    /// All of some readings, up to an instant.
    #[must_use]
    pub fn of(meter: &'a Meter, readings: &'a Columns, until: Instant, past: &'a Past) -> Self {
        let (part, since) = (0..readings.len(), Instant::EARLIEST);
        Self { meter, readings, through: None, part, suspended: None, since, until, past }
    }

    pub(super) fn series(&self) -> Series<'a> {
        Series { columns: self.readings, through: self.through }
    }

    /// The first instant from `at` on at which the ladder is not suspended, as far as is known.
    fn runs_from(&self, at: Instant) -> Option<Instant> {
        let Some((other, below)) = self.suspended else { return Some(at) };
        other.runs_from(at, below)
    }

    /// When the newest of the readings looked at by then was taken.
    fn newest_reading(&self, at: Instant) -> Option<Instant> {
        let up_to = self.readings.at()[self.part.clone()].partition_point(|one| *one <= at.ms());
        up_to.checked_sub(1).map(|place| Instant::from_ms(self.readings.at()[self.part.start + place]))
    }
}

/// A rung that was entered, until it was left; open at the end of history.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WouldBeAlarm {
    pub rung: usize,
    pub entered_at: Instant,
    pub left_at: Option<Instant>,
}

/// Work that would have been raised.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WouldBeWork {
    /// The rung that raised it.
    pub rung: usize,
    /// The worst that raised or joined it.
    pub worst: usize,
    pub raised_at: Instant,
    pub done_at: Instant,
}

/// A stretch at or above the least severity, of one side.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spell {
    pub side: RungSide,
    pub from: Instant,
    pub to: Option<Instant>,
}

/// What a ladder would have done.
#[derive(Debug, Clone, PartialEq)]
pub struct Replay {
    pub readings: usize,
    pub alarms: Vec<WouldBeAlarm>,
    /// Time at each severity as the worst of the ladder, least first.
    pub in_severity_ms: [i64; 4],
    pub work: Vec<WouldBeWork>,
    pub joined: usize,
    pub held: usize,
    /// Entries that were chattering.
    pub chattering: usize,
    pub spells: Vec<Spell>,
    /// In order of time.
    pub warnings: Vec<JudgedWarning>,
    pub failures: Vec<JudgedFailure>,
    /// How often warnings were nuisance.
    pub nuisance: usize,
    /// Warnings that averted a failure.
    pub averted: usize,
}

impl Replay {
    /// How many failures came to that.
    #[must_use]
    pub fn failures_of(&self, verdict: FailureVerdict) -> usize {
        self.failures.iter().filter(|failure| failure.verdict == verdict).count()
    }

    /// How many failures were warned of in time.
    #[must_use]
    pub fn caught(&self) -> usize {
        self.failures_of(FailureVerdict::Caught)
    }

    /// How many were warned of too late to act.
    #[must_use]
    pub fn too_late(&self) -> usize {
        self.failures_of(FailureVerdict::TooLate)
    }

    /// How many failures were not.
    #[must_use]
    pub fn missed(&self) -> usize {
        self.failures_of(FailureVerdict::Missed)
    }

    /// The middle of the warning times of what was caught.
    #[must_use]
    pub fn median_warning_ms(&self) -> Option<i64> {
        median_warning_ms(&self.failures)
    }
}

/// The middle of the warning times of what was caught.
pub(super) fn median_warning_ms(failures: &[JudgedFailure]) -> Option<i64> {
    let caught = failures.iter().filter(|failure| failure.verdict == FailureVerdict::Caught);
    let mut times: Vec<i64> = caught.filter_map(|failure| failure.warning_ms).collect();
    times.sort_unstable();
    middle(&times)
}

/// Runs `ladder` over a history and judges it by its past. `O(readings × rungs)`.
#[must_use]
pub fn replay(ladder: &Ladder, history: &History, assumptions: &Assumptions) -> Replay {
    let machine = Machine::new(ladder, history.meter);
    let mut states = machine.at_rest();
    let mut run = Run::new(ladder, &machine, history, assumptions);
    machine.run(&mut states, history.series(), history.part.clone(), &mut |at, changed| run.changed(changed, at));
    run.finish()
}

/// What an answer waits for; as [`Waits`], over imagined work.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Waiting {
    Never,
    Until(Instant),
    /// For the place-th work to be done and the first reading after it.
    Work(usize),
    /// For the first reading after an instant, because the place-th work was finished then.
    Reading {
        after: Instant,
        work: usize,
    },
}

/// A rung that is entered, and what its answer waits for.
#[derive(Debug, Clone, Copy)]
struct Open {
    /// Of its alarm in the list.
    place: usize,
    waits: Waiting,
}

/// When a rung answers again, what lets it, and the finished work that it answers after. At one instant a reading comes
/// before the clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Due {
    Reading { work: usize },
    Clock,
}

/// Sides, each of which warns for itself.
const SIDES: [RungSide; 3] = [RungSide::High, RungSide::Low, RungSide::Grade];

/// What has happened so far.
struct Run<'a> {
    ladder: &'a Ladder,
    machine: &'a Machine,
    history: &'a History<'a>,
    assumptions: &'a Assumptions,
    /// By rung, while it is entered.
    open: Vec<Option<Open>>,
    chatter: Vec<ChatterCount>,
    worst: Option<Severity>,
    since: Instant,
    judges: [Judge<'a>; 3],
    /// By side: since when it stands at or above the least severity.
    warned_since: [Option<Instant>; 3],
    result: Replay,
}

impl<'a> Run<'a> {
    fn new(ladder: &'a Ladder, machine: &'a Machine, history: &'a History<'a>, assumptions: &'a Assumptions) -> Self {
        let rungs = ladder.rungs.len();
        let result = Replay {
            readings: history.part.len(),
            alarms: Vec::new(),
            in_severity_ms: [0; 4],
            work: Vec::new(),
            joined: 0,
            held: 0,
            chattering: 0,
            spells: Vec::new(),
            warnings: Vec::new(),
            failures: Vec::new(),
            nuisance: 0,
            averted: 0,
        };
        let terms = assumptions.terms(history.until);
        Self {
            ladder,
            machine,
            history,
            assumptions,
            open: vec![None; rungs],
            chatter: vec![ChatterCount::default(); rungs],
            worst: None,
            since: Instant::EARLIEST,
            judges: SIDES.map(|_| Judge::new(history.past, terms, true)),
            warned_since: [None; 3],
            result,
        }
    }

    fn changed(&mut self, changed: &[super::Transition], at: Instant) {
        let at = at.max(self.history.since);
        self.respond_again(at);
        let mut answering = Vec::new();
        for transition in changed {
            let rung = transition.rung;
            match transition.change {
                Change::Entered => {
                    let place = self.result.alarms.len();
                    self.open[rung] = Some(Open { place, waits: Waiting::Never });
                    self.result.alarms.push(WouldBeAlarm { rung, entered_at: at, left_at: None });
                    self.result.chattering += usize::from(self.chatter[rung].enters(at, self.assumptions.chatter));
                    answering.push((rung, None));
                }
                Change::Left => {
                    if let Some(open) = self.open[rung].take() {
                        self.result.alarms[open.place].left_at = Some(at);
                    }
                }
            }
        }
        self.turn(at);
        // What waited for this very reading answers with what it entered.
        for rung in 0..self.open.len() {
            if let Some((due, Due::Reading { work })) = self.due(rung, at.plus(1))
                && due == at
            {
                answering.push((rung, Some(work)));
            }
        }
        self.answer(&answering, at);
    }

    /// When an entered rung answers again before `before`, if that can be told.
    fn due(&self, rung: usize, before: Instant) -> Option<(Instant, Due)> {
        let (after, work) = match self.open[rung]?.waits {
            Waiting::Never => return None,
            Waiting::Until(until) => {
                let at = self.history.runs_from(until)?;
                return (at < before).then_some((at, Due::Clock));
            }
            Waiting::Work(work) => (self.finished(work)?, work),
            Waiting::Reading { after, work } => (after, work),
        };
        let (series, part) = (self.history.series(), self.history.part.clone());
        let at = self.machine.first_beyond(rung, series, part, after, before)?;
        Some((at, Due::Reading { work }))
    }

    /// When a work order was done; none for one that was dropped.
    fn finished(&self, work: usize) -> Option<Instant> {
        match self.assumptions.completions.get(work).map(|completion| completion.how) {
            Some(Completed::Dropped) => None,
            _ => self.result.work.get(work).map(|work| work.done_at),
        }
    }

    fn verdict(&self, work: usize) -> Option<Verdict> {
        match self.assumptions.completions.get(work)?.how {
            Completed::Done(verdict) => verdict,
            Completed::Dropped => None,
        }
    }

    /// Lets entered rungs answer that are due before `before`, in order of time.
    fn respond_again(&mut self, before: Instant) {
        loop {
            let rungs = 0..self.open.len();
            let due: Vec<_> = rungs.filter_map(|rung| Some((self.due(rung, before)?, rung))).collect();
            let Some((at, is_reading)) = due.iter().map(|((at, due), _)| (*at, *due != Due::Clock)).min_by_key(
                // A reading comes before the clock of the same instant.
                |(at, is_reading)| (*at, !is_reading),
            ) else {
                return;
            };
            let together = due.iter().filter(|((when, due), _)| *when == at && (*due != Due::Clock) == is_reading);
            let mut answering = Vec::new();
            for ((_, due), rung) in together {
                match due {
                    Due::Reading { work } => answering.push((*rung, Some(*work))),
                    Due::Clock => match self.waits_for_a_reading(*rung, at) {
                        Some(waits) => self.wait(*rung, waits),
                        None => answering.push((*rung, None)),
                    },
                }
            }
            self.answer(&answering, at);
        }
    }

    fn wait(&mut self, rung: usize, waits: Waiting) {
        if let Some(open) = &mut self.open[rung] {
            open.waits = waits;
        }
    }

    /// Where work of the same side was finished since the newest reading: that the rung waits for the next one.
    fn waits_for_a_reading(&self, rung: usize, at: Instant) -> Option<Waiting> {
        let side = self.ladder.rungs[rung].side;
        let of_side = |place: &usize| self.ladder.rungs[self.result.work[*place].rung].side == side;
        let finished = (0..self.result.work.len())
            .filter(of_side)
            .filter_map(|place| Some((self.finished(place)?, place)))
            .filter(|(finished, _)| *finished <= at);
        let (after, work) = finished.max()?;
        waits_for_a_reading(Some(after), self.history.newest_reading(at)).then_some(Waiting::Reading { after, work })
    }

    /// Rungs that are to answer at the same instant, each maybe after finished work.
    fn answer(&mut self, answering: &[(usize, Option<usize>)], at: Instant) {
        let rungs = answering.iter().map(|(rung, _)| *rung).collect();
        for (rung, part) in parts(&self.ladder.rungs, rungs) {
            match part {
                Part::Answers => {
                    let after = answering.iter().find(|(one, _)| *one == rung).and_then(|(_, after)| *after);
                    self.respond(rung, at, after);
                }
                Part::Shares { with } => {
                    let waits = self.open[with].map_or(Waiting::Never, |open| open.waits);
                    self.wait(rung, waits);
                }
            }
        }
    }

    /// The same decision as live, over imagined work.
    fn respond(&mut self, rung: usize, at: Instant, after: Option<usize>) {
        let ladder = self.ladder;
        let responds = &ladder.rungs[rung];
        let severity = |rung: usize| ladder.rungs[rung].severity;
        let numbered = |place: usize| WorkOrderId(place as i64);
        let mut work = self.result.work.iter().enumerate();
        let open =
            work.clone().rev().find(|(_, work)| work.done_at > at && ladder.rungs[work.rung].side == responds.side);
        let spell = |spells: &[(Span, String)]| {
            let holding = spells.iter().filter(|(span, _)| span.contains(at)).max_by_key(|(span, _)| span.end());
            holding.map(|(span, reason)| (span.end(), reason.clone()))
        };
        let situation = Situation {
            out_of_use: spell(&self.assumptions.out_of_use)
                .map(|(until, reason)| OutOfUse { until: Some(until), reason }),
            shelf: spell(&self.assumptions.shelves),
            open_work: open.map(|(place, work)| OpenWork { number: numbered(place), severity: severity(work.worst) }),
            last_raised: work.next_back().map(|(place, work)| LastRaised {
                number: numbered(place),
                at: work.raised_at,
                severity: severity(work.rung),
            }),
            raise_interval_ms: i64::from(ladder.raise_interval_seconds) * SECOND,
            separate_work: ladder.separate_work,
            after_finish: after.map(|work| AfterFinish { verdict: self.verdict(work) }),
        };
        let decision = respond(responds, &situation, at);
        let waits = match decision.waits(Some(numbered(self.result.work.len()))) {
            Waits::Never => Waiting::Never,
            Waits::Until(until) => Waiting::Until(until),
            Waits::Work(work) => Waiting::Work(usize::try_from(work.0).unwrap_or(usize::MAX)),
        };
        self.wait(rung, waits);
        match decision {
            Decision::Raise | Decision::BringForward => {
                let lasts = at.plus(self.assumptions.work_lasts_ms.max(HOUR));
                let known = self.assumptions.completions.get(self.result.work.len());
                let done_at = known.map_or(lasts, |completion| completion.at);
                self.result.work.push(WouldBeWork { rung, worst: rung, raised_at: at, done_at });
                if responds.severity >= self.assumptions.least {
                    self.judges[side_place(responds.side)].raised(done_at);
                }
            }
            Decision::Join { work, escalates } => {
                self.result.joined += 1;
                if let Some(open) = usize::try_from(work.0).ok().and_then(|place| self.result.work.get_mut(place))
                    && escalates
                {
                    open.worst = rung;
                }
            }
            Decision::Held(_) => self.result.held += 1,
            Decision::Record | Decision::Notify => {}
        }
    }

    /// The worst severity, of the ladder and of each side, may be another from that instant on.
    fn turn(&mut self, at: Instant) {
        let entered =
            || self.ladder.rungs.iter().zip(&self.open).filter(|(_, open)| open.is_some()).map(|(rung, _)| rung);
        let worst = entered().map(|rung| rung.severity).max();
        let least = self.assumptions.least;
        let warns = SIDES.map(|side| entered().any(|rung| rung.side == side && rung.severity >= least));
        for (place, warns) in warns.into_iter().enumerate() {
            match (self.warned_since[place], warns) {
                (None, true) => {
                    self.warned_since[place] = Some(at);
                    self.judges[place].begin(at);
                }
                (Some(from), false) => {
                    self.warned_since[place] = None;
                    self.judges[place].end(at);
                    self.result.spells.push(Spell { side: SIDES[place], from, to: Some(at) });
                }
                _ => {}
            }
        }
        if worst != self.worst {
            self.add_time(at);
            (self.worst, self.since) = (worst, at);
        }
    }

    fn add_time(&mut self, at: Instant) {
        if let Some(severity) = self.worst {
            self.result.in_severity_ms[usize::from(severity.strokes()) - 1] += at.since(self.since);
        }
    }

    fn finish(mut self) -> Replay {
        let until = self.history.until;
        self.respond_again(until);
        self.add_time(until);
        let standing = SIDES.into_iter().zip(self.warned_since);
        let standing = standing.filter_map(|(side, from)| Some(Spell { side, from: from?, to: None }));
        self.result.spells.extend(standing);
        self.result.spells.sort_by_key(|spell| (spell.from, spell.side));
        let [high, low, grade] = self.judges;
        let judged: Judged = high.finish().and(low.finish()).and(grade.finish());
        self.result.failures = judged.failures(self.history.past).collect();
        (self.result.nuisance, self.result.averted) = (judged.nuisance, judged.averted);
        self.result.warnings = judged.warnings;
        self.result
    }
}

fn side_place(side: RungSide) -> usize {
    SIDES.iter().position(|one| *one == side).unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::watch::{
        limits::{Response, ResponseKind, Rung, ladder::tests::rung, warnings::WarningVerdict},
        readings::Reading,
    };

    fn at(days: i64) -> Instant {
        Instant::from_ms(days * DAY)
    }

    /// Alert at 4 and danger at 9, leaving 1 below, both raising work; 20 days of raise interval.
    fn ladder() -> Ladder {
        let raises = |severity, setpoint| Rung {
            response: Response::of(ResponseKind::Raise),
            ..rung(RungSide::High, severity, setpoint, 1.0)
        };
        Ladder {
            rungs: vec![raises(Severity::Alert, 4.0), raises(Severity::Danger, 9.0)],
            raise_interval_seconds: 20 * 86_400,
            ..Ladder::default()
        }
    }

    /// One reading a day from day 0 on.
    fn run(values: &[f64], past: &Past) -> Replay {
        let readings: Columns = (0..).zip(values).map(|(day, &value)| Reading { at: at(day), value }).collect();
        let until = at(values.len() as i64);
        let meter = Meter::measurement("[g]");
        let history = History::of(&meter, &readings, until, past);
        replay(&ladder(), &history, &Assumptions { work_lasts_ms: 5 * DAY, ..Assumptions::default() })
    }

    fn verdicts(replay: &Replay) -> Vec<WarningVerdict> {
        replay.warnings.iter().map(|warning| warning.verdict).collect()
    }

    #[test]
    fn a_wearing_bearing_is_caught_with_its_days_of_warning() {
        // Entered on day 2, danger on day 4, failed on day 6 and sound after it.
        let past = Past { failures: vec![at(6)], found: vec![] };
        let replay = run(&[1.0, 2.0, 4.0, 6.0, 9.5, 11.0, 1.0, 1.0], &past);
        assert_eq!((replay.caught(), replay.missed()), (1, 0));
        assert_eq!(replay.failures[0].warning_ms, Some(4 * DAY));
        assert_eq!(replay.spells, [Spell { side: RungSide::High, from: at(2), to: Some(at(6)) }]);
        assert_eq!(verdicts(&replay), [WarningVerdict::Caught]);
        // Two days of alert, two of danger; one order, escalated by the danger rung rather than raised twice.
        assert_eq!(replay.in_severity_ms, [0, 2 * DAY, 0, 2 * DAY]);
        assert_eq!((replay.work.len(), replay.joined, replay.held), (1, 1, 0));
        assert_eq!((replay.work[0].rung, replay.work[0].worst), (0, 1), "escalated");
        assert_eq!(replay.alarms.len(), 2);
    }

    #[test]
    fn a_spell_without_a_failure_is_nuisance_unless_something_was_found_and_open_ones_are_neither() {
        let mut values = vec![1.0; 100];
        values[10] = 5.0;
        values[60] = 5.0;
        values[80] = 5.0;
        values[99] = 5.0;
        let found = vec![Span::new(at(60), at(61)).unwrap()];
        let replay = run(&values, &Past { failures: vec![], found });
        // The third ended 19 days before history does, the fourth stands at its end.
        use WarningVerdict::{Averted, Nuisance, Open};
        assert_eq!(verdicts(&replay), [Nuisance, Averted, Open, Open]);
        assert_eq!((replay.work.len(), replay.held), (3, 1), "the last within the interval of the one before");
    }

    #[test]
    fn the_horizon_is_kept_on_both_sides() {
        // A spell from day 10 to day 12: 30 days later is still within, 31 is not.
        let mut values = vec![1.0; 60];
        values[10] = 5.0;
        values[11] = 5.0;
        let failing = |day| run(&values, &Past { failures: vec![at(day)], found: vec![] });
        let within = failing(41);
        assert_eq!((within.caught(), verdicts(&within)), (1, vec![WarningVerdict::Caught]));
        assert_eq!(within.failures[0].warning_ms, Some(31 * DAY), "counted from the start of the spell");
        let beyond = failing(43);
        assert_eq!((beyond.caught(), beyond.missed(), verdicts(&beyond)), (0, 1, vec![WarningVerdict::Nuisance]));
        let before = failing(5);
        assert_eq!((before.missed(), verdicts(&before)), (1, vec![WarningVerdict::Nuisance]));
    }

    #[test]
    fn work_is_held_within_the_raise_interval_and_joined_while_open() {
        let mut values = vec![1.0; 60];
        for day in [5, 8, 15, 40] {
            values[day] = 5.0;
        }
        // Raised on day 5 and open to day 10; joined on 8; held on 15; raised again on 40.
        let replay = run(&values, &Past::default());
        let raised: Vec<Instant> = replay.work.iter().map(|work| work.raised_at).collect();
        assert_eq!((raised, replay.joined, replay.held), (vec![at(5), at(40)], 1, 1));
    }

    /// Entered on day 2 for good, read once a day, work of 5 days: done on day 7, and the first reading after that, on day 8,
    /// is still beyond. It raises again although the interval of 20 days is not over, and so on.
    #[test]
    fn a_repair_that_did_not_hold_raises_again_with_the_first_reading_after_it() {
        let mut values = vec![5.0; 20];
        values[0] = 1.0;
        values[1] = 1.0;
        let replay = run(&values, &Past::default());
        let raised: Vec<Instant> = replay.work.iter().map(|work| work.raised_at).collect();
        assert_eq!(raised, [at(2), at(8), at(14)]);
        assert_eq!((replay.held, replay.alarms.len()), (0, 1));
    }

    fn after(how: Completed, values: &[f64]) -> Replay {
        let readings: Columns = (0..).zip(values).map(|(day, &value)| Reading { at: at(day), value }).collect();
        let (meter, past) = (Meter::measurement("[g]"), Past::default());
        let history = History::of(&meter, &readings, at(60), &past);
        let completions = vec![Completion { at: at(5), how }];
        let lasts = Assumptions { work_lasts_ms: 1_000 * DAY, completions, ..Assumptions::default() };
        replay(&ladder(), &history, &lasts)
    }

    #[test]
    fn until_a_finished_repair_is_read_nothing_is_raised() {
        // Entered on day 2, done on day 5, never read again; then read on day 6.
        let found = Completed::Done(Some(Verdict::FoundIt));
        let unread = after(found, &[1.0, 1.0, 5.0, 5.0, 5.0, 5.0]);
        assert_eq!((unread.work.len(), unread.held), (1, 0), "the reading of day 5 was taken as it was done");
        assert_eq!(after(found, &[1.0, 1.0, 5.0, 5.0, 5.0, 5.0, 5.0]).work.len(), 2);
        assert_eq!(after(found, &[1.0, 1.0, 5.0, 5.0, 5.0, 5.0, 1.0, 1.0]).work.len(), 1, "it holds");
    }

    #[test]
    fn where_nothing_was_wrong_the_interval_holds_it_and_what_was_dropped_stays_quiet() {
        let stands: Vec<f64> = [vec![1.0, 1.0], vec![5.0; 40]].concat();
        // Raised on day 2; held from day 6 until the interval of 20 days ends on day 22.
        let nothing = after(Completed::Done(Some(Verdict::NothingWrong)), &stands);
        let raised: Vec<Instant> = nothing.work.iter().map(|work| work.raised_at).collect();
        assert_eq!((raised, nothing.held), (vec![at(2), at(22)], 1));
        let dropped = after(Completed::Dropped, &stands);
        assert_eq!((dropped.work.len(), dropped.held), (1, 0));
        // A worse rung is another matter.
        let mut worse = stands;
        worse[30] = 12.0;
        assert_eq!(after(Completed::Dropped, &worse).work.len(), 2);
    }

    /// A jump enters alert (raises) and danger (tells): the alert raises all the same, and answers again after a repair.
    #[test]
    fn a_worse_rung_that_only_tells_keeps_nobody_from_raising() {
        let mut rungs = ladder().rungs;
        rungs[1].response = Response::of(ResponseKind::Notify);
        let ladder = Ladder { rungs, ..Ladder::default() };
        let values = [1.0, 10.0, 10.0, 10.0, 10.0, 10.0, 10.0, 10.0];
        let readings: Columns = (0..).zip(values).map(|(day, value)| Reading { at: at(day), value }).collect();
        let (meter, past) = (Meter::measurement("[g]"), Past::default());
        let history = History::of(&meter, &readings, at(8), &past);
        let played = replay(&ladder, &history, &Assumptions { work_lasts_ms: 2 * DAY, ..Assumptions::default() });
        let raised: Vec<_> = played.work.iter().map(|work| (work.rung, work.raised_at)).collect();
        assert_eq!(raised, [(0, at(1)), (0, at(4)), (0, at(7))]);
    }

    /// Shelved from day 1 to day 5 and out of use from day 4 to day 9: held by the one, then by the other, raised on day 9.
    #[test]
    fn a_shelf_and_a_spell_out_of_use_hold_until_they_end() {
        let readings: Columns = (0..12).map(|day| Reading { at: at(day), value: 5.0 }).collect();
        let (meter, past) = (Meter::measurement("[g]"), Past::default());
        let history = History { part: 2..12, ..History::of(&meter, &readings, at(12), &past) };
        let span = |from, to| (Span::new(at(from), at(to)).unwrap(), "why".to_owned());
        let held = Assumptions { shelves: vec![span(1, 5)], out_of_use: vec![span(4, 9)], ..Assumptions::default() };
        let played = replay(&ladder(), &history, &held);
        assert_eq!((played.held, played.work.iter().map(|w| w.raised_at).collect::<Vec<_>>()), (2, vec![at(9)]));
        // While the ladder is suspended it waits on: the other meter runs again on day 10.
        let other: Columns =
            [(0, 1.0), (7, 0.0), (10, 1.0)].map(|(day, value)| Reading { at: at(day), value }).into_iter().collect();
        let kept = readings.while_running(&other, 0.5);
        let suspended = History { readings: &kept, part: 2..kept.len(), suspended: Some((&other, 0.5)), ..history };
        let played = replay(&ladder(), &suspended, &held);
        assert_eq!(played.work.iter().map(|w| w.raised_at).collect::<Vec<_>>(), [at(10)]);
    }

    #[test]
    fn entries_within_the_given_time_are_chattering() {
        let readings: Columns = (0..8)
            .map(|n| Reading { at: Instant::from_ms(n * 10 * SECOND), value: if n % 2 == 0 { 1.0 } else { 5.0 } })
            .collect();
        let (meter, past) = (Meter::measurement("[g]"), Past::default());
        let history = History::of(&meter, &readings, at(1), &past);
        let chattering = |entries, seconds| {
            let chatter = Chatter { entries, seconds };
            replay(&ladder(), &history, &Assumptions { chatter, ..Assumptions::default() }).chattering
        };
        // Entered at 10, 30, 50 and 70 s: the third and the fourth are the third within a minute.
        assert_eq!(chattering(3, 60), 2);
        assert_eq!(chattering(3, 40), 0);
    }
}
