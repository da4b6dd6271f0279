//! What is told of in [`crate::plan`].

use super::{Player, new_work};
use crate::{
    jobs::{Bought, Fault, Hands, Job, Step, fault},
    plan,
    plant::lifts::{CHAIRLIFT, GONDOLA},
};
use jiff::{
    ToSpan,
    civil::{Date, Weekday},
};
use tally_core::{
    codes::failures::Effect,
    ground::{time::HOUR, value::IncomingValue},
    plant::downtime::{DowntimeKind, NewDowntime},
    watch::{
        batch::{Batch, Incoming},
        holds::NewShelf,
        readings::Source,
    },
    work::{StateMove, WorkKind, WorkState},
};
use tally_store::{
    Result, Tx,
    plant::{assets, downtime},
    watch::{alarms, readings},
    work,
};

const CORRECTIVE: WorkKind = WorkKind::CorrectiveImmediate;

impl Player {
    pub(super) fn stories(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        self.bearing_fails(tx, day)?;
        self.odd_readings(tx, day)?;
        self.weekly_look(tx, day)?;
        self.liners(tx, day)?;
        self.valve(tx, day)?;
        self.both_pumps(tx, day)?;
        self.motors(tx, day)?;
        self.slow_days(tx, day)?;
        self.storms(tx, day)
    }

    /// The high-speed shaft bearing seizes on a morning in the season.
    fn bearing_fails(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if !self.is(day, plan::BEARING_FAILS) {
            return Ok(());
        }
        tx.now = self.at(day, 10, 55);
        let title = "Main gearbox seized: high-speed shaft bearing";
        let mut new = new_work(title, "G1-DRV-GBX-HSB", CORRECTIVE, 1, 24.0);
        new.text = "Grinding noise, then the lift stopped by itself. Guests brought down with the rescue drive.".into();
        let number = self.raise(tx, "hale", new)?;
        self.photo(tx, "hale", number, 0.93)?;
        let quarters = 61;
        let job = Job {
            material: Some(("Bearing set, high-speed shaft", 318_000)),
            service: Some(("Mobile crane, one day", 194_000)),
            stop: Some(("G1-DRV-GBX-HSB".into(), DowntimeKind::Unplanned, 31.0)),
            failure: Some(fault("G1-DRV-GBX-HSB", ["NOISE", "BEAR", "RBEAR"], Effect::Critical)),
            ..Job::new(Hands::Named(vec![("tobin", quarters), ("ysolde", quarters), ("perrin", quarters)]))
        };
        self.as_person(tx, "ysolde");
        work::set_state(tx, number, &StateMove::to(WorkState::UnderWay))?;
        self.later(day.saturating_add(1.day()), Step::Finish(number, job));
        Ok(())
    }

    /// Raises work of one morning that is begun and finished the same day.
    fn at_once(&mut self, tx: &mut Tx, day: Date, title: &str, fault: Fault, job: Job) -> Result<()> {
        tx.now = self.at(day, 8, 20);
        let number = self.raise(tx, "hale", new_work(title, &fault.asset, CORRECTIVE, 2, 4.0))?;
        self.start(tx, day, number, Job { failure: Some(fault), ..job })
    }

    /// What keeps the engineer busy these days: a meter that tells nothing, a reading that came late, another that can't be.
    fn odd_readings(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        let odd = |meter: &str, at, value| {
            vec![Ok(Incoming { meter: meter.into(), at, value: IncomingValue::Number(value) })]
        };
        let batch = Batch { source: Source::Gateway, name: None, strict: true };
        if self.is(day, plan::SHELVED.0) && self.has("F4") {
            self.as_person(tx, "aveline");
            tx.now = self.at(day, 9, 15);
            let until = self.at(plan::before(self.today, plan::SHELVED.1), 17, 0);
            let reason = "Filter mats are on order; it runs hot until they come".into();
            alarms::shelve(tx, "F4-DRV-CNV-TMP", &NewShelf { until, reason })?;
        }
        if self.is(day, plan::SENT_LATE.0) && self.has("C2") {
            self.as_person(tx, "gateway");
            tx.now = self.at(day, 23, 10);
            let at = self.at(plan::before(self.today, plan::SENT_LATE.1), 11, 25);
            readings::ingest(tx, &odd("C2-TEN-PRS", at, 103.5), batch)?;
        }
        if self.is(day, plan::NONSENSE) {
            self.as_person(tx, "gateway");
            tx.now = self.at(day, 23, 20);
            readings::ingest(tx, &odd("G1-TEN-PRS", self.at(day, 13, 37), 512.0), batch)?;
        }
        Ok(())
    }

    /// Every Tuesday the engineer acknowledges what stands.
    fn weekly_look(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if day.weekday() != Weekday::Tuesday {
            return Ok(());
        }
        self.as_person(tx, "aveline");
        tx.now = self.at(day, 7, 40);
        let standing = alarms::standing(tx, None, 1_000)?;
        let unseen = standing.into_iter().filter(|alarm| alarm.acknowledged_at.is_none());
        let unseen: Vec<_> = unseen.map(|alarm| alarm.id).collect();
        alarms::acknowledge(tx, &unseen).map(|_seen| ())
    }

    /// A batch of liners is fitted in the window, and six of them tear before their time.
    fn liners(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if self.is(day, plan::LINERS_FITTED) {
            for tower in plan::LINERS_ON {
                tx.now = self.at(day, 6, 45);
                let title = format!("Fit new liners to tower {tower}, batch L-77");
                let asset = GONDOLA.support_code(tower);
                let kind = WorkKind::Predetermined;
                let number = self.raise(tx, "corwin", new_work(&title, &asset, kind, 3, 6.0))?;
                let material = Some(("Sheave liners, batch L-77", 124_800));
                self.start(tx, day, number, Job { material, ..Job::new(Hands::Shared("line", 6.0)) })?;
                for side in ["UP", "DN"] {
                    self.signals[0].renew(&format!("{asset}-{side}-LIN"));
                }
            }
        }
        for (after, tower, side) in plan::LINERS_FAIL {
            if !self.is(day, plan::LINERS_FITTED - after) {
                continue;
            }
            let asset = format!("{}-{side}", GONDOLA.support_code(tower));
            let stop = Some((asset.clone(), DowntimeKind::Unplanned, 1.5));
            let material = Some(("Pair of sheave liners", 31_200));
            let job = Job { stop, material, ..Job::new(Hands::Named(vec![("wenna", 8), ("jory", 8)])) };
            self.signals[0].renew(&format!("{asset}-LIN"));
            let failure = fault(asset, ["TORN", "BATCH", "RLINER"], Effect::Critical);
            self.at_once(tx, day, &format!("Liner of tower {tower} torn, {side}"), failure, job)?;
        }
        Ok(())
    }

    /// The tramway's tension unit: readjusted it fails again within weeks, with a new valve it lasts.
    fn valve(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        let readjusted = plan::VALVE_READJUSTED.iter().any(|&before| self.is(day, before));
        let replaced = self.is(day, plan::VALVE_REPLACED);
        if !self.has("T3") || !(readjusted || replaced) {
            return Ok(());
        }
        let remedy = if replaced { "RVREP" } else { "RVADJ" };
        let material: Option<Bought> = replaced.then_some(("Relief valve", 74_300));
        let stop = Some(("T3-TEN-VLV".into(), DowntimeKind::Unplanned, 2.0));
        let job = Job { stop, material, ..Job::new(Hands::Named(vec![("orla", 10)])) };
        let failure = fault("T3-TEN-VLV", ["PLOW", "VALVE", remedy], Effect::Critical);
        self.at_once(tx, day, "Tension pressure drops under load", failure, job)
    }

    /// Pump A stands from 09:00 to 15:00 and pump B from 12:10 to 13:40: the lift stands while both do.
    fn both_pumps(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if !self.is(day, plan::BOTH_PUMPS_DOWN) {
            return Ok(());
        }
        tx.now = self.at(day, 16, 0);
        self.as_person(tx, "orla");
        for (pump, from, to) in [("G1-TEN-PA", (9, 0), (15, 0)), ("G1-TEN-PB", (12, 10), (13, 40))] {
            let (start, end) = (self.at(day, from.0, from.1), self.at(day, to.0, to.1));
            let kind = DowntimeKind::Unplanned;
            let note = "Motor protection tripped".into();
            downtime::add_to_asset(
                tx,
                pump,
                &NewDowntime { kind, asset: None, start, end: Some(end), slowed: None, note },
            )?;
        }
        Ok(())
    }

    /// One of two drives is enough for half of the speed.
    fn slow_days(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if !plan::SLOWED.iter().any(|before| self.is(day, *before)) {
            return Ok(());
        }
        tx.now = self.at(day, 18, 0);
        self.as_person(tx, "linnet");
        let (start, end) = (self.at(day, 9, 0), Some(self.at(day, 16, 0)));
        let note = "Half speed: one converter bridge runs hot".into();
        let (kind, slowed) = (DowntimeKind::Unplanned, Some(plan::SLOWED_BY));
        downtime::add_to_asset(tx, GONDOLA.code, &NewDowntime { kind, asset: None, start, end, slowed, note })
            .map(|_| ())
    }

    /// The motors are repaired now and then, and one day those of gondola and chairlift change places.
    fn motors(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if !self.has("C2") {
            return Ok(());
        }
        for (before, motor, title, hours, price) in plan::MOTOR_REPAIRS {
            if self.is(day, before) {
                tx.now = self.at(day, 7, 0);
                let kind = WorkKind::CorrectiveDeferred;
                let number = self.raise(tx, "corwin", new_work(title, motor, kind, 3, hours as f64))?;
                self.step(tx, day, Step::Plan(number))?;
                let failure = Some(fault(motor, ["HOTM", "DIRTM", "RCLEANM"], Effect::Degraded));
                let hands = Hands::Named(vec![("linnet", hours * 4)]);
                let material = Some(("Parts for the motor", price));
                self.start(tx, day, number, Job { material, failure, ..Job::new(hands) })?;
            }
        }
        if self.is(day, plan::MOTORS_EXCHANGED) {
            tx.now = self.at(day, 15, 0);
            self.as_person(tx, "aveline");
            let at = self.at(day, 14, 0);
            for (motor, lift) in [(GONDOLA.motor, &CHAIRLIFT), (CHAIRLIFT.motor, &GONDOLA)] {
                let reason = "The chairlift needs the stronger motor".into();
                assets::relocate(tx, motor, &assets::Move { parent: Some(lift.at("DRV-MOT")), at, reason })?;
            }
            let (gondola, chairlift) = self.signals.split_at_mut(1);
            std::mem::swap(&mut gondola[0].motor, &mut chairlift[0].motor);
        }
        Ok(())
    }

    /// Wind stops the lifts on some winter days; in one winter all of them again and again.
    fn storms(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        let stormy_winter = plan::STORMS[0] + 60 >= plan::days(day, self.today)
            && plan::days(day, self.today) >= plan::STORMS[plan::STORMS.len() - 1] - 60;
        let storm = plan::STORMS.iter().any(|&before| self.is(day, before));
        for lift in self.lifts {
            let (hour, minute, length) = if storm {
                (9, 0, 6 * HOUR)
            } else if !stormy_winter && matches!(day.month(), 12 | 1..=2) && self.rng.u32(0..22) == 0 {
                (self.rng.i8(8..13), 15, HOUR + (self.rng.f64() * 4.0 * HOUR as f64) as i64)
            } else {
                continue;
            };
            let start = self.at(day, hour, minute);
            tx.now = self.at(day, 21, 0);
            self.as_person(tx, "tobin");
            let kind = DowntimeKind::External;
            let note = "Wind above the limit".into();
            let end = Some(start.plus(length));
            downtime::add_to_asset(tx, lift.code, &NewDowntime { kind, asset: None, start, end, slowed: None, note })?;
        }
        Ok(())
    }
}
