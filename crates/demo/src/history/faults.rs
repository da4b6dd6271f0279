//! Faults that come back, and the pile that waits.

use super::{Player, new_work};
use crate::{
    jobs::{Ahead, Fault, Hands, Job, PILE, RECURRING, Step, fault, is_there},
    plan::days,
    plant,
    plant::sheets,
};
use jiff::{ToSpan, civil::Date};
use tally_core::{
    codes::failures::Effect,
    plant::downtime::DowntimeKind,
    work::{NewWork, WorkKind},
};
use tally_store::{Result, Tx};

/// About so many days of running in ten years.
const RUNNING_DAYS: u32 = 2_600;

/// Vehicles' small faults in ten years of running, for each vehicle.
const VEHICLE_FAULTS: u32 = 3;

impl Player {
    /// Faults that come back now and then while the lifts run.
    pub(super) fn faults(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if !plant::runs(day) {
            return Ok(());
        }
        for lift in self.lifts {
            for &(title, suffix, codes, effect, crew, hours, material, stop, in_ten_years) in RECURRING {
                if self.rng.u32(0..RUNNING_DAYS) < in_ten_years {
                    let fault = fault(lift.at(suffix), codes, effect);
                    let job = Job { material, ..Job::new(Hands::Shared(crew, hours)) };
                    self.fault(tx, day, title, fault, job, hours, stop)?;
                }
            }
            for n in 1..=lift.vehicles {
                if self.rng.u32(0..RUNNING_DAYS) >= VEHICLE_FAULTS {
                    continue;
                }
                let (asset, small) = (lift.vehicle_code(n), lift.vehicle.to_lowercase());
                let (title, codes) = match self.rng.u32(0..3) {
                    0 => (format!("Lamp of {small} {n} dark"), ["LIGHT", "LAMP", "RLAMP"]),
                    1 => (format!("Seat of {small} {n} loose"), ["SEAT", "SCREW", "RTIGHT"]),
                    _ => (format!("{} {n} rattles on the line", lift.vehicle), ["RATTLE", "BUSH", "RBUSH"]),
                };
                let job = Job::new(Hands::Shared("line", 1.0));
                self.fault(tx, day, &title, fault(asset, codes, Effect::Incipient), job, 1.0, 0.0)?;
            }
        }
        Ok(())
    }

    #[allow(clippy::too_many_arguments, reason = "one fault of the list")]
    fn fault(
        &mut self,
        tx: &mut Tx,
        day: Date,
        title: &str,
        fault: Fault,
        job: Job,
        hours: f64,
        stop: f64,
    ) -> Result<()> {
        let immediate = stop > 0.0;
        let (kind, rank) = match (immediate, fault.effect) {
            (true, _) => (WorkKind::CorrectiveImmediate, 1),
            (false, Effect::Incipient) => (WorkKind::CorrectiveDeferred, 4),
            (false, _) => (WorkKind::CorrectiveDeferred, 3),
        };
        let number = self.raise(tx, "hale", new_work(title, &fault.asset, kind, rank, hours))?;
        let length = stop * (0.6 + 0.9 * self.rng.f64());
        let Hands::Shared(crew, hours) = job.hands else { return Ok(()) };
        let hands = Hands::Shared(crew, hours * (0.7 + 0.8 * self.rng.f64()));
        let stop = immediate.then(|| (fault.asset.clone(), DowntimeKind::Unplanned, length));
        let job = Job { hands, stop, failure: Some(fault), ..job };
        if immediate {
            self.later(day, Step::Start(number, job));
        } else if self.rng.u32(0..4) == 0 {
            let waits = self.after(day, 1, 4);
            let start = self.after(waits, 20, 75);
            self.later(day, Step::Plan(number));
            self.later(waits, Step::Wait(number));
            self.later(start, Step::Start(number, job));
        } else {
            let start = self.after(day, 3, 21);
            self.later(day, Step::Plan(number));
            self.later(start, Step::Start(number, job));
        }
        Ok(())
    }

    /// Improvements and overhauls that wait for parts or for somebody to plan them: the pile every planner has.
    pub(super) fn pile(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        let (ahead, lifts) = (days(day, self.today), self.lifts);
        let due = PILE.iter().filter(|(before, ..)| *before == ahead);
        for &(_, title, asset, kind, rank, hours, ahead) in due.filter(|piled| is_there(piled.2, lifts)) {
            let number = {
                let job_sheet = sheets::of_pile(title).map(str::to_owned);
                self.raise(tx, "tobin", NewWork { job_sheet, ..new_work(title, asset, kind, rank, hours) })?
            };
            let soon = day.saturating_add(1.day());
            if title.starts_with("Oil stain") {
                self.later(
                    soon,
                    Step::ReportAgain(number, "hale", "Oil on the floor by the pumps, more than on Friday"),
                );
            }
            match ahead {
                Ahead::Nobody => {}
                Ahead::Planned => {
                    self.planned.push(number);
                    self.later(soon, Step::Plan(number));
                }
                Ahead::Waits => {
                    self.waiting.push(number);
                    self.later(soon, Step::Plan(number));
                    self.later(soon.saturating_add(2.days()), Step::Wait(number));
                }
            }
        }
        Ok(())
    }
}
