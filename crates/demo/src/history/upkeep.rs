//! Upkeep by plans: set up some weeks before today, raised by the clock since, and done.

use super::{CLOCK, Player};
use crate::{
    jobs::{Hands, Job},
    plan,
    plant::{
        people::{crew_of, hands},
        upkeep,
    },
};
use fastrand::Rng;
use jiff::{ToSpan, civil::Date};
use std::collections::HashMap;
use tally_store::{Result, Tx, watch::readings, work, work::upkeep as plans};

/// The counters that plans go by, on each lift.
const COUNTERS: [&str; 5] = ["HOURS", "DRV-MOT-HOURS", "TEN-PA-HOURS", "TEN-PB-HOURS", "LIN-ROP-CYC"];

impl Player {
    /// What the clock and the crews do of a day.
    pub(super) fn upkeep(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        if self.is(day, plan::PLANS_SINCE) {
            self.as_person(tx, "corwin");
            let mut newest: HashMap<String, f64> = HashMap::new();
            for meter in self.lifts.iter().flat_map(|lift| COUNTERS.map(|suffix| lift.at(suffix))) {
                let read = readings::newest(tx, &meter, tx.now, false, 1)?;
                newest.extend(read.first().map(|reading| (meter, reading.value)));
            }
            upkeep::set_up(tx, self.lifts, self.today, &|meter| newest.get(meter).copied().unwrap_or(0.0))?;
        }
        if day < plan::before(self.today, plan::PLANS_SINCE) {
            return Ok(());
        }
        self.as_person(tx, CLOCK);
        let counters = plans::stale_counters(tx, tx.now)?;
        let looks = plans::look_at_counters(tx, &counters, tx.now)?;
        plans::keep_counters(tx, &looks)?;
        let due = plans::due(tx, tx.now)?;
        for number in plans::settle(tx, &due)? {
            // Most is done on its day; of every seventh the crew is some days late.
            let standing = work::standing(tx, number)?;
            let slips = if number.0 % 7 == 3 { 6 } else { 0 };
            let planned = standing.target_start.map_or(day, |at| at.in_zone(&self.zone).date());
            self.doing.push((planned.max(day).saturating_add(slips.days()), number));
        }
        let (now, later): (Vec<_>, Vec<_>) = self.doing.drain(..).partition(|(on, _)| *on <= day && day < self.today);
        self.doing = later;
        for (_, number) in now {
            let standing = work::standing(tx, number)?;
            let hours = standing.estimated_hours.unwrap_or(1.0) * (0.9 + 0.05 * (number.0 % 5) as f64);
            let crew = crew_of(hands(&standing.crew.unwrap_or_default())[0].0);
            // What is drawn for it changes nothing of the rest of the history.
            let rng = std::mem::replace(&mut self.rng, Rng::with_seed(number.0.unsigned_abs()));
            let done = self.start(tx, day, number, Job::new(Hands::Shared(crew, hours)));
            self.rng = rng;
            done?;
        }
        Ok(())
    }
}
