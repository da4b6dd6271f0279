//! A plant that is played, and a replay of the same beside it.

use crate::common::{Plant, day, reading};
use proptest::prelude::*;
use serde_json::json;
use tally_core::{
    ground::{
        ids::WorkOrderId,
        time::{DAY, HOUR, Instant, Span},
    },
    watch::{
        holds::{NewOutOfUse, NewShelf},
        limits::{
            Ladder,
            replay::{Assumptions, Completed, Completion, History, Replay, replay},
            warnings::Past,
        },
        meters::Meter,
        readings::{Columns, Reading},
    },
    work::{StateMove, Verdict, WorkState},
};
use tally_store::{
    watch::{alarms, readings, readings::Voiding},
    work,
};

pub fn ladder(raise_interval_days: u32, delay_hours: u32) -> serde_json::Value {
    let rung = |side: &str, severity: &str, setpoint: f64| {
        json!({"side": side, "severity": severity, "setpoint": setpoint, "deadband": 2.0,
            "on_delay_seconds": delay_hours * 3_600, "response": {"kind": "raise"}})
    };
    json!({"raise_interval_seconds": raise_interval_days * 86_400, "rungs": [
        rung("high", "alert", 20.0), rung("high", "danger", 30.0), rung("low", "alert", 5.0),
        {"side": "low", "severity": "serious", "setpoint": 1.0, "deadband": 1.0, "response": {"kind": "record"}}]})
}

/// The alarms of a replay as the live list has them: rung, entered, left; and what responded.
pub fn told(replay: &Replay) -> Vec<(usize, Instant, Option<Instant>)> {
    let mut alarms: Vec<_> = replay.alarms.iter().map(|alarm| (alarm.rung, alarm.entered_at, alarm.left_at)).collect();
    alarms.sort();
    alarms
}

/// Something that happens between two batches of readings.
#[derive(Debug, Clone, Copy)]
pub enum Deed {
    Nothing,
    /// The clock comes by; it must not matter when.
    Clock,
    /// The oldest work that is open is finished, or dropped.
    End(Completed),
    /// The meter is shelved for so many hours, or taken off the shelf.
    Shelve(i64),
    Unshelve,
    /// The unit above the meter's asset is out of use, or back in use.
    OutOfUse,
    BackInUse,
    /// A reading of those sent is voided; or one comes late, a little after it.
    Void(usize),
    Late(usize, u8),
    /// The other meter, which suspends the ladder, is read late.
    LateOther(usize, bool),
    /// A new version, with other delays and setpoints.
    Version(u32, u8),
}

pub fn clean_deeds() -> impl Strategy<Value = Deed> {
    let ended = prop_oneof![
        3 => Just(Completed::Done(None)),
        2 => Just(Completed::Done(Some(Verdict::FoundIt))),
        2 => Just(Completed::Done(Some(Verdict::NothingWrong))),
        1 => Just(Completed::Dropped),
    ];
    prop_oneof![
        4 => Just(Deed::Nothing),
        3 => Just(Deed::Clock),
        4 => ended.prop_map(Deed::End),
        1 => (5i64..90).prop_map(Deed::Shelve),
        1 => Just(Deed::Unshelve),
        1 => Just(Deed::OutOfUse),
        2 => Just(Deed::BackInUse),
    ]
}

pub fn deeds() -> impl Strategy<Value = Deed> {
    prop_oneof![
        4 => clean_deeds(),
        2 => (0usize..60).prop_map(Deed::Void),
        2 => (0usize..60, 0u8..40).prop_map(|(place, value)| Deed::Late(place, value)),
        1 => (0usize..60, any::<bool>()).prop_map(|(place, runs)| Deed::LateOther(place, runs)),
        1 => (0u32..4, 0u8..6).prop_map(|(delay, more)| Deed::Version(delay, more)),
    ]
}

/// A meter that things happen to, and what a replay has to be told of them.
pub struct Beside {
    pub plant: Plant,
    pub ladder: Ladder,
    pub since: Instant,
    pub readings: Vec<Reading>,
    pub other: Vec<Reading>,
    pub done: Vec<Completion>,
    pub shelves: Vec<(Span, String)>,
    pub out_of_use: Vec<(Span, String)>,
}

impl Beside {
    pub fn new(given: serde_json::Value) -> Self {
        let plant = Plant::new();
        plant.set_limits("M-BAR", given.clone(), day(1)).unwrap();
        let ladder = serde_json::from_value(given).unwrap();
        let (since, none) = (day(1), Vec::new);
        let (shelves, out_of_use, done) = (vec![], vec![], vec![]);
        Self { plant, ladder, since, readings: none(), other: none(), done, shelves, out_of_use }
    }

    pub fn send(&mut self, readings: &[Reading], other: &[Reading], now: Instant) {
        let of = |meter: &'static str| move |one: &Reading| reading(meter, one.at, one.value);
        // Rows of the other meter after those that it suspends: the order in a batch must not matter.
        let rows: Vec<_> = readings.iter().map(of("M-BAR")).chain(other.iter().map(of("M-ACC"))).collect();
        let receipt = self.plant.ingest(&rows, now);
        assert_eq!(receipt.accepted, rows.len(), "{receipt:?}");
        self.readings.extend_from_slice(readings);
        self.other.extend_from_slice(other);
    }

    /// Ends the oldest work that is open, as of now.
    pub fn end_one(&mut self, how: Completed, now: Instant) {
        let number = WorkOrderId(1_001 + i64::try_from(self.done.len()).unwrap());
        if self.plant.store.read(Instant::LATEST, |view| work::standing(view, number)).is_err() {
            return;
        }
        match how {
            Completed::Dropped => {
                let to = StateMove { note: Some("no".into()), ..StateMove::to(WorkState::Dropped) };
                self.plant.write(now, |tx| work::set_state(tx, number, &to)).unwrap();
            }
            Completed::Done(verdict) => {
                for state in [WorkState::Ready, WorkState::UnderWay] {
                    self.plant.state(number, state, now).unwrap();
                }
                let to = StateMove { verdict, ..StateMove::to(WorkState::Done) };
                self.plant.write(now, |tx| work::set_state(tx, number, &to)).unwrap();
            }
        }
        self.done.push(Completion { at: now, how });
    }

    /// Ends what holds of some spells, and says whether something did.
    pub fn end_spell(spells: &mut Vec<(Span, String)>, now: Instant) -> bool {
        let Some((span, _)) = spells.last_mut().filter(|(span, _)| span.contains(now)) else { return false };
        match Span::new(span.start(), now) {
            Ok(ended) => *span = ended,
            Err(_) => drop(spells.pop()),
        }
        true
    }

    pub fn happens(&mut self, deed: Deed, now: Instant) {
        let holds = |spells: &[(Span, String)]| spells.iter().any(|(span, _)| span.contains(now));
        let reason = || "why".to_owned();
        match deed {
            Deed::Nothing => {}
            Deed::Clock => drop(self.plant.write(now, alarms::answer_due).unwrap()),
            Deed::End(how) => self.end_one(how, now),
            Deed::Shelve(hours) if !holds(&self.shelves) => {
                let until = now.plus(hours * HOUR);
                let shelf = NewShelf { until, reason: reason() };
                self.plant.write(now, |tx| alarms::shelve(tx, "M-BAR", &shelf)).unwrap();
                self.shelves.push((Span::new(now, until).unwrap(), reason()));
            }
            Deed::Unshelve => {
                if Self::end_spell(&mut self.shelves, now) {
                    self.plant.write(now, |tx| alarms::unshelve(tx, "M-BAR")).unwrap();
                }
            }
            Deed::OutOfUse if !holds(&self.out_of_use) => {
                let spell = NewOutOfUse { from: None, until: None, reason: reason() };
                self.plant.write(now, |tx| alarms::put_out_of_use(tx, "UNIT", &spell)).unwrap();
                self.out_of_use.push((Span::new(now, Instant::LATEST).unwrap(), reason()));
            }
            Deed::BackInUse => {
                if Self::end_spell(&mut self.out_of_use, now) {
                    self.plant.write(now, |tx| alarms::back_in_use(tx, "UNIT")).unwrap();
                }
            }
            Deed::Shelve(_) | Deed::OutOfUse => {}
            Deed::Void(place) if !self.readings.is_empty() => {
                let gone = self.readings.remove(place % self.readings.len());
                let voiding = Voiding { at: gone.at, reason: reason() };
                self.plant.write(now, |tx| readings::void(tx, "M-BAR", &voiding)).unwrap();
            }
            Deed::Late(place, value) if !self.readings.is_empty() => {
                let after = self.readings[place % self.readings.len()].at;
                let late = Reading { at: after.plus(HOUR), value: f64::from(value) };
                let taken = self.readings.iter().any(|one| one.at == late.at)
                    || self
                        .plant
                        .store
                        .read(Instant::LATEST, |view| readings::voided(view, "M-BAR", 99))
                        .unwrap()
                        .iter()
                        .any(|v| v.at == late.at);
                if !taken && late.at < now {
                    self.send(&[late], &[], now);
                }
            }
            Deed::LateOther(place, runs) if !self.other.is_empty() => {
                let after = self.other[place % self.other.len()].at;
                let late = Reading { at: after.plus(HOUR / 2), value: f64::from(u8::from(runs)) };
                if !self.other.iter().any(|one| one.at == late.at) && late.at < now {
                    self.send(&[], &[late], now);
                }
            }
            Deed::Void(_) | Deed::Late(..) | Deed::LateOther(..) => {}
            Deed::Version(delay, more) => {
                let mut given = serde_json::to_value(&self.ladder).unwrap();
                for (place, setpoint) in [20.0, 30.0, 5.0, 1.0].into_iter().enumerate() {
                    given["rungs"][place]["setpoint"] = json!(setpoint + f64::from(more));
                    given["rungs"][place]["on_delay_seconds"] = json!(delay * 3_600);
                    given["rungs"][place]["off_delay_seconds"] = json!(delay * 7_200);
                }
                self.plant.set_limits("M-BAR", given.clone(), now).unwrap();
                (self.ladder, self.since) = (serde_json::from_value(given).unwrap(), now);
            }
        }
        self.readings.sort_by_key(|one| one.at);
        self.other.sort_by_key(|one| one.at);
    }

    /// What a replay makes of the same: of all readings, those looked at under the newest version.
    pub fn replayed(&self, until: Instant) -> Replay {
        let all: Columns = self.readings.iter().copied().collect();
        let other: Columns = self.other.iter().copied().collect();
        let from = self.readings.iter().rposition(|one| one.at < self.since).unwrap_or(0);
        let from = self.readings.get(from).map_or(self.since, |one| one.at);
        let looked = all.within(Span::new(from, Instant::LATEST).unwrap());
        let kept = if self.ladder.suspended_while.is_some() { looked.while_running(&other, 0.5) } else { looked };
        let (meter, past) = (Meter::measurement("bar"), Past::default());
        let suspended = self.ladder.suspended_while.is_some().then_some((&other, 0.5));
        let history = History { suspended, since: self.since, ..History::of(&meter, &kept, until, &past) };
        // Work that nobody finished is never done.
        let assumptions = Assumptions {
            work_lasts_ms: 100_000 * DAY,
            completions: self.done.clone(),
            shelves: self.shelves.clone(),
            out_of_use: self.out_of_use.clone(),
            ..Assumptions::default()
        };
        replay(&self.ladder, &history, &assumptions)
    }

    pub fn alarms(&self) -> Vec<alarms::AlarmRow> {
        self.plant.store.read(Instant::LATEST, |view| alarms::of_meter(view, "M-BAR", Span::ALWAYS, 1_000)).unwrap()
    }

    /// The rung of an alarm under the newest version.
    pub fn rung(&self, alarm: &alarms::AlarmRow) -> usize {
        let same =
            |rung: &tally_core::watch::limits::Rung| Some(rung.side) == alarm.side && rung.severity == alarm.severity;
        self.ladder.rungs.iter().position(same).unwrap()
    }

    /// Sends the values seven hours apart in batches of any size, each after what happens; the other meter is read an hour
    /// before each, and runs or not.
    pub fn play(&mut self, values: &[(u8, bool)], batches: Vec<(usize, Deed)>) -> Instant {
        let all: Vec<(Reading, Reading)> = (1..)
            .zip(values)
            .map(|(n, &(value, runs))| {
                let at = day(1).plus(n * 7 * HOUR);
                let other = Reading { at: at.plus(-HOUR), value: f64::from(u8::from(runs)) };
                (Reading { at, value: f64::from(value) }, other)
            })
            .collect();
        let (mut rest, mut batches) = (all.as_slice(), batches.into_iter());
        while !rest.is_empty() {
            let (size, deed) = batches.next().unwrap_or((1, Deed::Nothing));
            let (batch, after) = rest.split_at(size.min(rest.len()));
            let (readings, other): (Vec<_>, Vec<_>) = batch.iter().copied().unzip();
            let last = readings[readings.len() - 1].at;
            self.send(&readings, &other, last);
            self.happens(deed, last.plus(2 * HOUR));
            rest = after;
        }
        let until = all[all.len() - 1].0.at.plus(3 * HOUR);
        self.plant.write(until.plus(-1), alarms::answer_due).unwrap();
        until
    }
}

pub fn suspended(mut ladder: serde_json::Value, suspends: bool) -> serde_json::Value {
    if suspends {
        ladder["suspended_while"] = json!({"meter": "M-ACC", "below": 0.5});
    }
    ladder
}

pub fn given_values() -> impl Strategy<Value = Vec<(u8, bool)>> {
    prop::collection::vec((0..40u8, prop::bool::weighted(0.8)), 1..60)
}
