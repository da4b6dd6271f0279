//! A ladder run over past readings, and judged by the failures that came: what would it have caught, and at what price?
//!
//! The machine and the responses are the live ones ([`crate::watch::limits::machine`], [`crate::watch::limits::respond`]), the judging is that of
//! [`crate::watch::limits::warnings`]; only the work that is raised is imagined, and taken to last as long as such work usually does.
//! [`crate::watch::limits::finder`] tries many settings at once.

use crate::{
    ground::{
        ids::WorkOrderId,
        severity::Severity,
        time::{HOUR, Instant, SECOND, Span},
    },
    watch::limits::{
        AfterFinish, Change, Decision, Ladder, Machine, OutOfUse, Part, RungSide, Situation, Transition, Waits,
        chatter::ChatterCount,
        parts,
        replay::{Assumptions, Completed, History, Replay, Spell, WouldBeAlarm, WouldBeWork},
        respond::{LastRaised, OpenWork, respond},
        waits_for_a_reading,
        warnings::{Judge, Judged},
    },
    work::Verdict,
};

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
pub(super) struct Open {
    /// Of its alarm in the list.
    pub(super) place: usize,
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
    pub(super) ladder: &'a Ladder,
    machine: &'a Machine,
    pub(super) history: &'a History<'a>,
    assumptions: &'a Assumptions,
    /// By rung, while it is entered.
    pub(super) open: Vec<Option<Open>>,
    pub(super) chatter: Vec<ChatterCount>,
    pub(super) worst: Option<Severity>,
    pub(super) since: Instant,
    judges: [Judge<'a>; 3],
    /// By side: since when it stands at or above the least severity.
    warned_since: [Option<Instant>; 3],
    result: Replay,
}

impl<'a> Run<'a> {
    pub(super) fn new(
        ladder: &'a Ladder,
        machine: &'a Machine,
        history: &'a History<'a>,
        assumptions: &'a Assumptions,
    ) -> Self {
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

    fn changed(&mut self, changed: &[Transition], at: Instant) {
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

    pub(super) fn verdict(&self, work: usize) -> Option<Verdict> {
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
    pub(super) fn waits_for_a_reading(&self, rung: usize, at: Instant) -> Option<Waiting> {
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
    pub(super) fn respond(&mut self, rung: usize, at: Instant, after: Option<usize>) {
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
            // What somebody would have decided nobody knows.
            run_on: None,
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
