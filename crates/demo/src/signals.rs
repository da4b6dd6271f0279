//! What the meters of one lift read from day to day: slow wear, weather, and the stories the demo tells.

use crate::{
    plan::{self, BEARING_WEARS, before, days},
    plant::{lifts::Lift, runs},
};
use fastrand::Rng;
use jiff::civil::Date;
use std::collections::HashMap;

/// A reading of the day: meter, local hour and minute, value.
pub type DayReading = (String, (i8, i8), f64);

/// Peak acceleration at the first sign of wear, and at the failure.
const BEARING_SOUND: f64 = 1.1;
const BEARING_GONE: f64 = 13.0;

/// Slowly changing values behind the readings.
pub struct Signals {
    lift: Lift,
    today: Date,
    rng: Rng,
    /// Wear, cleared when the work that a limit raised is done.
    worn: HashMap<String, f64>,
    hours: f64,
    place_hours: f64,
    /// The motor that drives the lift now, with its own hours.
    pub motor: (String, f64),
    pump_hours: [f64; 2],
    cycles: f64,
    leaking_since: Option<Date>,
    clogged_since: Option<Date>,
    readings: Vec<DayReading>,
}

impl Signals {
    pub fn new(seed: u64, lift: Lift, today: Date) -> Self {
        let mut rng = Rng::with_seed(seed);
        let mut worn = HashMap::new();
        for (_, _, code) in lift.sheaves() {
            worn.insert(format!("{code}-LIN"), 1.0 + 6.0 * rng.f64());
        }
        for n in 1..=lift.vehicles {
            worn.insert(format!("{}-SLP", lift.vehicle_code(n)), 20.0 + 1.5 * rng.f64());
        }
        worn.insert(lift.at("DRV-SBR-PAD"), 12.4);
        worn.insert(lift.at("DRV-EBR-PAD"), 14.1);
        worn.insert(lift.at("LIN-ROP-WIR"), 1.0);
        worn.insert(lift.at("LIN-ROP-GRS"), 0.0);
        worn.insert(lift.at("DRV-GBX-CLN"), 15.0);
        Self {
            lift,
            today,
            worn,
            hours: 18_240.0 + (rng.f64() * 9_000.0).round(),
            place_hours: 11_020.0,
            motor: (lift.motor.into(), 9_100.0 + (rng.f64() * 4_000.0).round()),
            pump_hours: [6_400.0, 5_900.0],
            cycles: 212_000.0,
            leaking_since: None,
            clogged_since: None,
            readings: Vec::new(),
            rng,
        }
    }

    /// Whether this is the lift on which a story takes place, and the day is that many days before today.
    fn is(&self, lift: &str, day: Date, days_before: i32) -> bool {
        self.lift.code == lift && day == before(self.today, days_before)
    }

    /// The work that a limit on this meter raised was done: what it reads is as new.
    pub fn renew(&mut self, meter: &str) {
        let suffix = meter.strip_prefix(self.lift.code).unwrap_or(meter).trim_start_matches('-');
        let as_new = match suffix {
            "DRV-SBR-PAD" | "DRV-EBR-PAD" => 15.0,
            "DRV-GBX-CLN" => 14.0,
            "LIN-ROP-GRS" => 0.0,
            "TEN-PRS" => {
                self.leaking_since = None;
                return;
            }
            "DRV-GBX-OIL" => {
                self.clogged_since = None;
                return;
            }
            _ if meter.ends_with("-LIN") => 0.4,
            _ if meter.ends_with("-SLP") => 21.5,
            _ => return,
        };
        self.worn.insert(meter.into(), as_new);
    }

    fn noise(&mut self, spread: f64) -> f64 {
        // The mean of four is near enough to a bell.
        ((0..4).map(|_| self.rng.f64()).sum::<f64>() - 2.0) * spread
    }

    fn put(&mut self, meter: String, at: (i8, i8), value: f64, step: f64) {
        self.readings.push((meter, at, (value / step).round() * step));
    }

    fn read(&mut self, suffix: &str, at: (i8, i8), value: f64, step: f64) {
        self.put(self.lift.at(suffix), at, value, step);
    }

    fn wear(&mut self, meter: &str, by: f64) -> f64 {
        if let Some(value) = self.worn.get_mut(meter) {
            *value += by;
            return *value;
        }
        0.0
    }

    /// Peak acceleration of the high-speed shaft bearing. That of the gondola grows by the same share each day until it
    /// fails, and is then replaced.
    fn bearing(&mut self, day: Date) -> f64 {
        let to_failure = days(day, before(self.today, plan::BEARING_FAILS));
        let growth = (BEARING_GONE / BEARING_SOUND).ln() / f64::from(BEARING_WEARS);
        let level = match to_failure {
            _ if self.lift.code != "G1" => 0.9,
            d if d < 0 => 0.9,
            d if d <= BEARING_WEARS => BEARING_SOUND * (growth * f64::from(BEARING_WEARS - d)).exp(),
            _ => BEARING_SOUND,
        };
        level * (1.0 + self.noise(0.06))
    }

    /// Everything read on that day, grouped by what reads it.
    pub fn day(&mut self, day: Date) -> Vec<DayReading> {
        if plan::LEAKS.iter().any(|&leak| self.is("G1", day, leak)) {
            self.leaking_since = Some(day);
        }
        if self.is("G1", day, plan::COOLER_CLOGS) {
            self.clogged_since = Some(day);
        }
        self.counters(day);
        if runs(day) {
            self.while_running(day);
        }
        let lost = self.leaking_since.map_or(0.0, |since| f64::from(days(since, day)) * 1.75);
        // Not at two, which there is none of on the night the clocks go forward.
        for hour in (0..24).filter(|hour| *hour != 2) {
            let pressure = 150.0 - lost + f64::from(hour - 12) * 0.25 + self.noise(2.4);
            self.read("TEN-PRS", (hour, 0), pressure, 0.1);
        }
        self.by_hand(day);
        std::mem::take(&mut self.readings)
    }

    fn counters(&mut self, day: Date) {
        let hours = if runs(day) { 8.2 + 0.7 * self.rng.f64() } else { 0.0 };
        self.hours += hours;
        self.place_hours += hours;
        self.motor.1 += hours;
        self.pump_hours[first_pump(day)] += hours;
        self.cycles += (hours * 11.5).round();
        self.read("HOURS", (18, 5), self.hours, 0.1);
        self.read("DRV-MOT-HOURS", (18, 5), self.place_hours, 0.1);
        self.put(format!("{}-HOURS", self.motor.0), (18, 5), self.motor.1, 0.1);
        self.read("TEN-PA-HOURS", (18, 6), self.pump_hours[0], 0.1);
        self.read("TEN-PB-HOURS", (18, 6), self.pump_hours[1], 0.1);
        self.read("LIN-ROP-CYC", (18, 7), self.cycles, 1.0);
    }

    fn while_running(&mut self, day: Date) {
        let season = (f64::from(day.day_of_year()) / 365.0 * std::f64::consts::TAU).cos();
        let air = 9.0 - 11.0 * season;
        let to_failure = days(day, before(self.today, plan::BEARING_FAILS));
        let wears_out = self.lift.code == "G1" && (0..=25).contains(&to_failure);
        let grinding = if wears_out { f64::from(26 - to_failure) * 0.11 } else { 0.0 };
        let chatters = self.lift.code == "C2" && plan::SENSOR_CHATTERS.contains(&days(day, self.today));
        let dead = self.lift.code == "T3" && days(day, self.today) < plan::SENSOR_DEAD;
        let clogged = self.clogged_since.map_or(0.0, |since| f64::from(days(since, day)) * 0.55);
        let pump = if first_pump(day) == 0 { "TEN-PA-TMP" } else { "TEN-PB-TMP" };
        let motor = self.motor.0.clone();
        for hour in 9..=16 {
            let warm = f64::from(hour - 9) * 0.9;
            for minute in [10, 40] {
                let acceleration = self.bearing(day);
                self.read("DRV-GBX-ACC", (hour, minute), acceleration, 0.01);
                let velocity = 2.6 + grinding + self.noise(0.35);
                self.read("DRV-GBX-VIB", (hour, minute), velocity, 0.01);
                let drive = 2.1 + self.noise(0.3);
                self.read("DRV-BWH-VIB", (hour, minute + 2), drive, 0.01);
                let loose = if chatters && self.rng.u32(0..4) == 0 { 5.4 + 1.5 * self.rng.f64() } else { 0.0 };
                let return_wheel = 1.8 + loose + self.noise(0.3);
                if !dead {
                    self.read("RET-BWH-VIB", (hour, minute + 4), return_wheel, 0.01);
                }
                let oil = 56.0 + warm + air * 0.45 + clogged + self.noise(1.6);
                self.read("DRV-GBX-OIL", (hour, minute + 5), oil, 0.1);
                let drive_end = 58.0 + warm + air * 0.4 + self.noise(2.0);
                self.put(format!("{motor}-TDE"), (hour, minute + 6), drive_end, 0.1);
                let other_end = 54.0 + warm + air * 0.4 + self.noise(2.0);
                self.put(format!("{motor}-TNE"), (hour, minute + 6), other_end, 0.1);
                let converter = 47.0 + warm + air * 0.5 + self.noise(2.0);
                self.read("DRV-CNV-TMP", (hour, minute + 7), converter, 0.1);
                let oil = 46.0 + warm + air * 0.5 + self.noise(2.0);
                self.read(pump, (hour, minute + 8), oil, 0.1);
            }
        }
    }

    /// What is measured by hand: pads weekly, liners, oil and rope monthly, grips and grades by the quarter.
    fn by_hand(&mut self, day: Date) {
        let use_ = if runs(day) { 1.0 } else { 0.0 };
        let monday = day.weekday() == jiff::civil::Weekday::Monday;
        for (suffix, by, minute) in [("DRV-SBR-PAD", 0.021, 20), ("DRV-EBR-PAD", 0.006, 25)] {
            let pad = self.wear(&self.lift.at(suffix), -by * use_);
            if monday {
                let noise = self.noise(0.04);
                self.read(suffix, (7, minute), pad + noise, 0.1);
            }
        }
        let lift = self.lift;
        for (n, side, asset) in lift.sheaves() {
            let meter = format!("{asset}-LIN");
            let since_fitted = days(before(self.today, plan::LINERS_FITTED), day);
            let fresh = lift.code == "G1" && plan::LINERS_ON.contains(&n) && (0..100).contains(&since_fitted);
            let tears = plan::LINERS_FAIL
                .iter()
                .any(|&(after, tower, of)| fresh && (tower, of) == (n, side) && since_fitted <= after);
            let by = 0.017 * use_ * (0.5 + self.rng.f64()) * if tears { plan::LINERS_WEAR_TIMES } else { 1.0 };
            let wear = self.wear(&meter, by);
            // New liners are measured every third day until they have bedded in.
            if day.day() == 4 || (fresh && since_fitted % 3 == 0) {
                let minute = (n * 2 + usize::from(side == "DN")) as i8;
                self.put(meter, (13, minute), wear, 0.1);
            }
        }
        for n in (1..=lift.vehicles).filter(|_| lift.has_grips) {
            let meter = format!("{}-SLP", lift.vehicle_code(n));
            let by = -0.006 * use_ * (0.4 + 1.2 * self.rng.f64());
            let slip = self.wear(&meter, by);
            if day.day() == 6 && day.month() % 3 == 0 {
                self.put(meter, (14 + (n / 60) as i8, (n % 60) as i8), slip, 0.1);
            }
        }
        let clean = self.wear(&lift.at("DRV-GBX-CLN"), 0.013 * use_ + 0.004);
        let wires = self.wear(&lift.at("LIN-ROP-WIR"), 0.004 * use_);
        let dry = self.wear(&lift.at("LIN-ROP-GRS"), 0.006);
        if day.day() == 11 {
            self.read("DRV-GBX-CLN", (11, 0), clean, 1.0);
            self.read("LIN-ROP-WIR", (11, 30), wires.floor(), 1.0);
        }
        if day.day() == 12 && day.month() % 3 == 1 {
            self.read("LIN-ROP-COR", (11, 45), if wires > 3.0 { 2.0 } else { 1.0 }, 1.0);
            self.read("LIN-ROP-GRS", (11, 50), dry.floor().min(3.0), 1.0);
        }
    }
}

/// The pump that runs: they change places every week.
fn first_pump(day: Date) -> usize {
    usize::from(days(jiff::civil::date(2020, 1, 1), day).rem_euclid(14) >= 7)
}
