//! A ladder run over past readings, and judged by the failures that came: what would it have caught, and at what price?
//!
//! The machine and the responses are the live ones ([`super::machine`], [`super::respond`]); only the work that is raised
//! is imagined, and taken to last as long as such work usually does. [`super::finder`] tries many settings at once.

use super::{
    Change, Decision, Ladder, Machine, RungSide, Situation, Waits,
    respond::{LastRaised, OpenWork, respond, responding},
    responding_again,
};
use crate::{
    ids::WorkOrderId,
    meters::Meter,
    readings::Columns,
    severity::Severity,
    time::{DAY, HOUR, Instant, SECOND, Span},
};
use serde::Serialize;
use std::ops::Range;

/// What a replay takes as given.
#[derive(Debug, Clone, PartialEq)]
pub struct Assumptions {
    /// How long imagined work stays open; an hour at the least.
    pub work_lasts_ms: i64,
    /// When the first, second, … work was done, where that is known; work beyond the list lasts as above.
    pub completions: Vec<Instant>,
    /// The least severity that counts as a warning.
    pub least: Severity,
    /// How long before a failure a warning may come, and how long after a warning a failure may.
    pub horizon_ms: i64,
    /// So many entries of one rung within this time are chattering.
    pub chatter: (usize, i64),
}

impl Default for Assumptions {
    /// Work of 14 days, alert and above, 30 days, three entries within a minute (IEC 62682, common practice).
    fn default() -> Self {
        Self {
            work_lasts_ms: 14 * DAY,
            completions: Vec::new(),
            least: Severity::Alert,
            horizon_ms: 30 * DAY,
            chatter: (3, 60 * SECOND),
        }
    }
}

/// The past that a ladder is judged by.
#[derive(Debug, Clone, Default)]
pub struct Past {
    /// When what the meter can see failed, ascending.
    pub failures: Vec<Instant>,
    /// Real alarms whose work found something: a spell that meets one of them averted a failure.
    pub found: Vec<Span>,
}

/// What a ladder is run over.
#[derive(Debug, Clone)]
pub struct History<'a> {
    pub meter: &'a Meter,
    /// In order of time, one an instant.
    pub readings: &'a Columns,
    /// Places of those that are looked at.
    pub part: Range<usize>,
    /// The end of history.
    pub until: Instant,
    pub past: &'a Past,
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
    pub rung: usize,
    pub raised_at: Instant,
    pub done_at: Instant,
}

/// What a warning came to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum SpellVerdict {
    /// A failure came within the horizon.
    Caught,
    /// None came, and nothing was found.
    Nuisance,
    /// None came, because somebody found it in time.
    Averted,
    /// History ends before it could be told.
    Open,
}

/// A stretch at or above the least severity.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spell {
    pub from: Instant,
    pub to: Option<Instant>,
    pub verdict: SpellVerdict,
}

/// A failure, and the warning before it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JudgedFailure {
    pub at: Instant,
    /// From the start of the earliest spell within the horizon; none where it was missed.
    pub warning_ms: Option<i64>,
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
    /// Times a rung was entered often enough to be called chattering.
    pub chattering: usize,
    pub spells: Vec<Spell>,
    pub failures: Vec<JudgedFailure>,
}

impl Replay {
    /// How many failures were warned of.
    #[must_use]
    pub fn caught(&self) -> usize {
        self.failures.iter().filter(|failure| failure.warning_ms.is_some()).count()
    }

    /// How many failures were not.
    #[must_use]
    pub fn missed(&self) -> usize {
        self.failures.len() - self.caught()
    }

    /// How many spells came to that.
    #[must_use]
    pub fn spells_of(&self, verdict: SpellVerdict) -> usize {
        self.spells.iter().filter(|spell| spell.verdict == verdict).count()
    }

    /// The middle of the warning times of what was caught; the mean of the two middle ones where their number is even.
    #[must_use]
    pub fn median_warning_ms(&self) -> Option<i64> {
        let mut times: Vec<i64> = self.failures.iter().filter_map(|failure| failure.warning_ms).collect();
        times.sort_unstable();
        middle(&times)
    }
}

/// The middle of ascending times; the mean of the two middle ones where their number is even.
pub(super) fn middle(times: &[i64]) -> Option<i64> {
    let middle = times.len() / 2;
    match times.len() {
        0 => None,
        n if n % 2 == 1 => Some(times[middle]),
        _ => Some(i64::midpoint(times[middle - 1], times[middle])),
    }
}

/// Runs `ladder` over a history and judges it by its past. `O(readings × rungs)`.
#[must_use]
pub fn replay(ladder: &Ladder, history: &History, assumptions: &Assumptions) -> Replay {
    let machine = Machine::new(ladder, history.meter);
    let mut states = machine.at_rest();
    let mut run = Run::new(ladder, assumptions);
    machine.run(&mut states, history.readings, history.part.clone(), &mut |at, changed| run.changed(changed, at));
    run.finish(history)
}

/// A rung that is entered, and what its answer waits for.
#[derive(Debug, Clone, Copy)]
struct Open {
    /// Of its alarm in the list.
    place: usize,
    waits: Waits,
    answered_at: Instant,
}

/// What has happened so far.
#[derive(Debug)]
struct Run<'a> {
    ladder: &'a Ladder,
    assumptions: &'a Assumptions,
    /// By rung, while it is entered.
    open: Vec<Option<Open>>,
    /// Last entries of each rung, for chattering.
    entries: Vec<Vec<Instant>>,
    worst: Option<Severity>,
    since: Instant,
    warned_since: Option<Instant>,
    result: Replay,
}

impl<'a> Run<'a> {
    fn new(ladder: &'a Ladder, assumptions: &'a Assumptions) -> Self {
        let rungs = ladder.rungs.len();
        let result = Replay {
            readings: 0,
            alarms: Vec::new(),
            in_severity_ms: [0; 4],
            work: Vec::new(),
            joined: 0,
            held: 0,
            chattering: 0,
            spells: Vec::new(),
            failures: Vec::new(),
        };
        Self {
            ladder,
            assumptions,
            open: vec![None; rungs],
            entries: vec![Vec::new(); rungs],
            worst: None,
            since: Instant::EARLIEST,
            warned_since: None,
            result,
        }
    }

    fn changed(&mut self, changed: &[super::Transition], at: Instant) {
        self.respond_again(at);
        for transition in changed {
            let rung = transition.rung;
            match transition.change {
                Change::Entered => {
                    let place = self.result.alarms.len();
                    self.open[rung] = Some(Open { place, waits: Waits::Never, answered_at: at });
                    self.result.alarms.push(WouldBeAlarm { rung, entered_at: at, left_at: None });
                    self.count_chatter(rung, at);
                }
                Change::Left => {
                    if let Some(open) = self.open[rung].take() {
                        self.result.alarms[open.place].left_at = Some(at);
                    }
                }
            }
        }
        if let Some(rung) = responding(&self.ladder.rungs, changed) {
            self.respond(rung, at);
        }
        let open = self.ladder.rungs.iter().zip(&self.open).filter(|(_, open)| open.is_some());
        let worst = open.map(|(rung, _)| rung.severity).max();
        self.turn(worst, at);
    }

    /// When an entered rung is to respond again, if that can be told.
    fn due(&self, open: &Open) -> Option<Instant> {
        match open.waits {
            Waits::Never => None,
            Waits::Until(until) => Some(until),
            Waits::Work(work) => {
                let work = self.result.work.get(usize::try_from(work.0).ok()?)?;
                Some(work.done_at.max(open.answered_at))
            }
        }
    }

    /// Lets entered rungs answer that are due before `before`, in order of time.
    fn respond_again(&mut self, before: Instant) {
        loop {
            let due = self.open.iter().flatten().filter_map(|open| self.due(open)).min();
            let Some(at) = due.filter(|at| *at < before) else { return };
            let is_due = |open: &Option<Open>| open.as_ref().and_then(|open| self.due(open)) == Some(at);
            let places: Vec<usize> = (0..self.open.len()).filter(|&rung| is_due(&self.open[rung])).collect();
            for &rung in &places {
                if let Some(open) = &mut self.open[rung] {
                    open.waits = Waits::Never;
                }
            }
            for rung in responding_again(&self.ladder.rungs, places, self.ladder.separate_work) {
                self.respond(rung, at);
            }
        }
    }

    fn count_chatter(&mut self, rung: usize, at: Instant) {
        let (times, within) = self.assumptions.chatter;
        let entries = &mut self.entries[rung];
        entries.retain(|entry| at.since(*entry) < within);
        entries.push(at);
        if entries.len() >= times.max(2) {
            self.result.chattering += 1;
            entries.clear();
        }
    }

    /// The same decision as live, over imagined work.
    fn respond(&mut self, rung: usize, at: Instant) {
        let ladder = self.ladder;
        let responds = &ladder.rungs[rung];
        let of = |place: &WouldBeWork| &ladder.rungs[place.rung];
        let side = |place: &WouldBeWork| -> RungSide { of(place).side };
        let numbered = |place: usize| WorkOrderId(place as i64);
        let open = self
            .result
            .work
            .iter()
            .enumerate()
            .rev()
            .find(|(_, work)| work.done_at > at && side(work) == responds.side);
        let last = self.result.work.iter().enumerate().next_back();
        let situation = Situation {
            open_work: open.map(|(place, work)| OpenWork { number: numbered(place), severity: of(work).severity }),
            last_raised: last.map(|(place, work)| LastRaised {
                number: numbered(place),
                at: work.raised_at,
                severity: of(work).severity,
            }),
            raise_interval_ms: i64::from(ladder.raise_interval_seconds) * SECOND,
            separate_work: ladder.separate_work,
            ..Situation::default()
        };
        let decision = respond(responds, &situation, at);
        let waits = decision.waits(Some(numbered(self.result.work.len())));
        if let Some(open) = &mut self.open[rung] {
            (open.waits, open.answered_at) = (waits, at);
        }
        match decision {
            Decision::Raise | Decision::BringForward => {
                let lasts = at.plus(self.assumptions.work_lasts_ms.max(HOUR));
                let done_at = self.assumptions.completions.get(self.result.work.len()).copied().unwrap_or(lasts);
                self.result.work.push(WouldBeWork { rung, raised_at: at, done_at });
            }
            Decision::Join { work, escalates } => {
                self.result.joined += 1;
                // Escalated work counts as raised by the worse rung from then on, as it does live.
                if let Some(open) = usize::try_from(work.0).ok().and_then(|place| self.result.work.get_mut(place))
                    && escalates
                {
                    open.rung = rung;
                }
            }
            Decision::Held(_) => self.result.held += 1,
            Decision::Record | Decision::Notify => {}
        }
    }

    /// The worst severity is another from that instant on.
    fn turn(&mut self, worst: Option<Severity>, at: Instant) {
        if worst == self.worst {
            return;
        }
        self.add_time(at);
        let warns = worst.is_some_and(|severity| severity >= self.assumptions.least);
        match (self.warned_since, warns) {
            (None, true) => self.warned_since = Some(at),
            (Some(from), false) => {
                self.result.spells.push(Spell { from, to: Some(at), verdict: SpellVerdict::Open });
                self.warned_since = None;
            }
            _ => {}
        }
        self.worst = worst;
        self.since = at;
    }

    fn add_time(&mut self, at: Instant) {
        if let Some(severity) = self.worst {
            self.result.in_severity_ms[usize::from(severity.strokes()) - 1] += at.since(self.since);
        }
    }

    fn finish(mut self, history: &History) -> Replay {
        self.respond_again(history.until);
        self.add_time(history.until);
        if let Some(from) = self.warned_since {
            self.result.spells.push(Spell { from, to: None, verdict: SpellVerdict::Open });
        }
        self.result.readings = history.part.len();
        judge(&mut self.result, history.until, history.past, self.assumptions.horizon_ms);
        self.result
    }
}

/// Caught, missed, nuisance and averted, as rules of the job define them.
fn judge(result: &mut Replay, until: Instant, past: &Past, horizon_ms: i64) {
    for spell in &mut result.spells {
        let Some(to) = spell.to else { continue };
        let (from, last) = (spell.from, to.plus(horizon_ms));
        let next = past.failures.partition_point(|failure| *failure < from);
        let failed = past.failures.get(next).is_some_and(|failure| *failure <= last);
        let found = past.found.iter().any(|found| found.start() < to && found.end() > from);
        spell.verdict = match (failed, found) {
            (true, _) => SpellVerdict::Caught,
            (false, true) => SpellVerdict::Averted,
            // What may still come within the horizon can't be called nuisance yet.
            (false, false) if last >= until => SpellVerdict::Open,
            (false, false) => SpellVerdict::Nuisance,
        };
    }
    result.failures = past
        .failures
        .iter()
        .map(|&at| {
            let begins = at.plus(-horizon_ms);
            // Spells ascend, so the first that reaches into the horizon is the earliest warning.
            let first = result.spells.partition_point(|spell| spell.to.unwrap_or(until) <= begins);
            let warns = result.spells.get(first).filter(|spell| spell.from < at);
            JudgedFailure { at, warning_ms: warns.map(|spell| at.since(spell.from)) }
        })
        .collect();
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        limits::{Response, ResponseKind, Rung, ladder::tests::rung},
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
        let history =
            History { meter: &Meter::measurement("[g]"), readings: &readings, part: 0..readings.len(), until, past };
        replay(&ladder(), &history, &Assumptions { work_lasts_ms: 5 * DAY, ..Assumptions::default() })
    }

    #[test]
    fn a_wearing_bearing_is_caught_with_its_days_of_warning() {
        // Entered on day 2, danger on day 4, failed on day 6 and sound after it.
        let past = Past { failures: vec![at(6)], found: vec![] };
        let replay = run(&[1.0, 2.0, 4.0, 6.0, 9.5, 11.0, 1.0, 1.0], &past);
        assert_eq!((replay.caught(), replay.missed()), (1, 0));
        assert_eq!(replay.failures[0].warning_ms, Some(4 * DAY));
        assert_eq!(replay.spells, [Spell { from: at(2), to: Some(at(6)), verdict: SpellVerdict::Caught }]);
        // Two days of alert, two of danger; one order, escalated by the danger rung rather than raised twice.
        assert_eq!(replay.in_severity_ms, [0, 2 * DAY, 0, 2 * DAY]);
        assert_eq!((replay.work.len(), replay.joined, replay.held), (1, 1, 0));
        assert_eq!(replay.work[0].rung, 1, "escalated");
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
        let verdicts: Vec<SpellVerdict> = replay.spells.iter().map(|spell| spell.verdict).collect();
        // The third ended 19 days before history does, the fourth stands at its end.
        assert_eq!(verdicts, [SpellVerdict::Nuisance, SpellVerdict::Averted, SpellVerdict::Open, SpellVerdict::Open]);
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
        assert_eq!((within.caught(), within.spells[0].verdict), (1, SpellVerdict::Caught));
        assert_eq!(within.failures[0].warning_ms, Some(31 * DAY), "counted from the start of the spell");
        let beyond = failing(43);
        assert_eq!((beyond.caught(), beyond.missed(), beyond.spells[0].verdict), (0, 1, SpellVerdict::Nuisance));
        let before = failing(5);
        assert_eq!((before.missed(), before.spells[0].verdict), (1, SpellVerdict::Nuisance));
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

    #[test]
    fn a_rung_that_stays_entered_raises_again_when_its_work_is_done_and_its_interval_is_over() {
        // Entered on day 2 for good. Work of 5 days is done on day 7; the interval of 20 days ends on day 22: raised
        // again there, done on day 27, held until day 42, raised a third time.
        let mut values = vec![5.0; 50];
        values[0] = 1.0;
        values[1] = 1.0;
        let replay = run(&values, &Past::default());
        let raised: Vec<Instant> = replay.work.iter().map(|work| work.raised_at).collect();
        assert_eq!(raised, [at(2), at(22), at(42)]);
        assert_eq!((replay.held, replay.alarms.len()), (3, 1), "held when each work was done");
    }

    #[test]
    fn entries_within_the_given_time_are_chattering() {
        let readings: Columns = (0..8)
            .map(|n| Reading { at: Instant::from_ms(n * 10 * SECOND), value: if n % 2 == 0 { 1.0 } else { 5.0 } })
            .collect();
        let history = History {
            meter: &Meter::measurement("[g]"),
            readings: &readings,
            part: 0..8,
            until: at(1),
            past: &Past::default(),
        };
        let chattering = |times, within| {
            let assumptions = Assumptions { chatter: (times, within), ..Assumptions::default() };
            replay(&ladder(), &history, &assumptions).chattering
        };
        // Entered at 10, 30, 50 and 70 s: three within a minute once, then counted anew.
        assert_eq!(chattering(3, 60 * SECOND), 1);
        assert_eq!(chattering(3, 40 * SECOND), 0);
    }
}
