//! Work that comes by the calendar.

use super::{Player, new_work};
use crate::{
    jobs::{Due, Hands, Job, Step},
    plan::days,
    plant::{self, check_sheets, lifts::Lift},
};
use jiff::{
    ToSpan,
    civil::{Date, Weekday},
};
use tally_core::work::WorkKind::{Inspection, Predetermined};
use tally_store::{
    Result, Tx,
    work::{checks, checks::NewCheck},
};

impl Player {
    pub(super) fn routine(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        let mut due: Vec<Due> = Vec::new();
        for lift in self.lifts {
            weekly(lift, day, &mut due);
            monthly(lift, day, &mut due);
            in_the_window(lift, day, &mut due);
        }
        if self.lifts.len() > 1 && day.day() == 14 {
            due.push(Due::new("Monthly look at the compressor", "WSH-CMP".into(), Inspection, "shop", 1.0));
            due.push(Due::new("Check of the grip test bench", "WSH-GRT".into(), Inspection, "shop", 1.5));
            due.push(Due::new("Test of crane and hoist", "WSH-CRN".into(), Inspection, "shop", 2.0));
        }
        for due in due {
            let number = self.raise(tx, "corwin", new_work(&due.title, &due.asset, due.kind, due.rank, due.hours))?;
            if let Some((sheet, part)) = check_sheets::of_routine(&due.title) {
                let asset = Some(format!("{}{part}", due.asset));
                checks::add(tx, number, &NewCheck { sheet: sheet.into(), asset })?;
            }
            let hours = due.hours * (0.8 + 0.5 * self.rng.f64());
            let hands = Hands::Shared(due.crew, hours);
            let job = Job { material: due.material, service: due.service, ..Job::new(hands) };
            let start = self.after(day, 1, due.within);
            self.later(day, Step::Plan(number));
            if due.within > 20 {
                // Overhauls have a date; one in five comes a week after it.
                let slips = if number.0 % 5 == 0 { 7 } else { 0 };
                self.later(day, Step::Schedule(number, start.saturating_sub(slips.days())));
            }
            self.later(start, Step::Start(number, job));
        }
        Ok(())
    }
}

fn weekly(lift: &Lift, day: Date, due: &mut Vec<Due>) {
    if !plant::runs(day) {
        return;
    }
    match day.weekday() {
        Weekday::Tuesday => {
            due.push(Due::new("Weekly inspection of the line", lift.at("LIN"), Inspection, "line", 3.0))
        }
        Weekday::Thursday => {
            due.push(Due::new("Weekly walk through the drive station", lift.at("DRV"), Inspection, "mech", 1.5));
        }
        Weekday::Friday => {
            due.push(Due::new("Weekly look at the return station", lift.at("RET"), Inspection, "mech", 1.0));
        }
        Weekday::Wednesday if lift.has_grips => {
            let week = (days(jiff::civil::date(2020, 1, 1), day) / 7).rem_euclid(lift.vehicles as i32 / 6 + 1);
            let first = (week as usize * 6).clamp(1, lift.vehicles);
            let title = format!("Grips of six {}s from number {first}", lift.vehicle.to_lowercase());
            due.push(Due::new(title, lift.vehicle_code(first), Inspection, "line", 2.5));
        }
        Weekday::Wednesday => {
            let title = format!("Weekly test of the {}s' brakes", lift.vehicle.to_lowercase());
            due.push(Due::new(title, lift.vehicle_code(1), Inspection, "mech", 2.0));
        }
        _ => {}
    }
}

fn monthly(lift: &Lift, day: Date, due: &mut Vec<Due>) {
    match day.day() {
        3 => {
            let service = Due::new("Monthly service of the drive station", lift.at("DRV"), Predetermined, "mech", 6.0);
            due.push(service.with("Grease and rags", 4_260));
            due.push(Due::new("Monthly test of the service brake", lift.at("DRV-SBR"), Inspection, "mech", 2.0));
        }
        5 => due.push(Due::new("Monthly test of the emergency brake", lift.at("DRV-EBR"), Inspection, "mech", 2.0)),
        8 => {
            due.push(Due::new("Monthly look at the tension unit", lift.at("TEN"), Inspection, "hydr", 1.5));
            due.push(Due::new("Test run of the rescue drive", lift.at("DRV-AUX"), Inspection, "mech", 1.0));
        }
        10 => {
            due.push(Due::new("Clean converter and controls", lift.at("DRV-CNV"), Predetermined, "elec", 2.0));
            due.push(Due::new("Test of the safety circuits", lift.at("DRV-CTL"), Inspection, "elec", 3.0));
        }
        17 => {
            due.push(Due::new("Examine the haul rope by eye", lift.at("LIN-ROP"), Inspection, "line", 4.0));
            let grease = Due::new("Grease the bullwheel bearings", lift.at("DRV-BWH"), Predetermined, "mech", 1.5);
            due.push(grease.with("Grease cartridges", 2_900));
        }
        // Each support once a quarter, a third of them each month.
        22 => {
            let third = usize::from(day.month().unsigned_abs() % 3);
            for n in (1..=lift.supports).filter(|n| n % 3 == third) {
                let title = format!("Quarterly inspection of {} {n}", lift.support.to_lowercase());
                due.push(Due::new(title, lift.support_code(n), Inspection, "line", 1.5).within(12));
            }
        }
        _ => {}
    }
}

/// Overhauls in the two maintenance windows.
fn in_the_window(lift: &Lift, day: Date, due: &mut Vec<Due>) {
    if !matches!((day.month(), day.day()), (4, 20) | (10, 20)) {
        return;
    }
    let overhaul =
        |title: &str, asset: &str, crew, hours| Due::new(title, lift.at(asset), Predetermined, crew, hours).within(24);
    due.push(overhaul("Change the gearbox oil", "DRV-GBX", "mech", 9.0).with("Gear oil, 180 l", 118_800));
    due.push(overhaul("Inspect the main motor", "DRV-MOT", "elec", 7.5));
    due.push(overhaul("Service the tension unit", "TEN-CYL", "hydr", 8.0).with("Filters and hydraulic oil", 46_200));
    due.push(overhaul("Examine the return bullwheel", "RET-BWH", "mech", 5.0));
    let rope = overhaul("Magnetic test of the haul rope", "LIN-ROP", "line", 6.0);
    due.push(Due { service: Some(("Testing laboratory", 264_000)), ..rope });
    for n in 1..=lift.vehicles {
        // Half of the chairs in each window, all other vehicles in both.
        if lift.vehicle == "Chair" && n % 2 == usize::from(day.month() == 4) {
            continue;
        }
        let title = format!("Overhaul {} {n}", lift.vehicle.to_lowercase());
        let (hours, what, price) = match lift.vehicle {
            "Cabin" => (2.0, "Door rollers and seals", 5_480),
            "Chair" => (1.0, "Hanger bushes", 1_960),
            _ => (14.0, "Running gear parts", 46_700),
        };
        let vehicle = Due::new(title, lift.vehicle_code(n), Predetermined, "line", hours);
        due.push(Due { rank: 4, ..vehicle.with(what, price).within(36) });
    }
}
