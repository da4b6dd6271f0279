//! What the meters read from day to day: slow wear, weather, and the stories the demo tells.

use crate::plant::{CABINS, TOWERS, runs};
use fastrand::Rng;
use jiff::civil::Date;
use std::collections::HashMap;

/// A reading of the day: meter, local hour and minute, value.
pub type DayReading = (String, (i8, i8), f64);

/// Days from the first sign of the bearing's wear to its failure.
const BEARING_DAYS: i32 = 120;

/// Peak acceleration at the first sign, and at the failure.
const BEARING_SOUND: f64 = 1.1;
const BEARING_GONE: f64 = 13.0;

/// The days of the demo's stories, relative to its today.
#[derive(Debug, Clone, Copy)]
pub struct Stories {
    /// The high-speed shaft bearing fails.
    pub bearing_fails: Date,
    /// Tension pressure begins to fall, twice: once long ago, and once so that it stands below its limit today.
    pub first_leak: Date,
    pub second_leak: Date,
    /// The gearbox oil cooler begins to clog.
    pub cooler_clogs: Date,
}

/// Days from `from` to `to`, negative when `to` comes first.
pub fn days(from: Date, to: Date) -> i32 {
    from.until(to).map_or(0, |span| span.get_days())
}

/// Slowly changing values behind the readings.
pub struct Signals {
    rng: Rng,
    stories: Stories,
    /// Wear, cleared when the work that a limit raised is done.
    worn: HashMap<String, f64>,
    hours: f64,
    motor_hours: f64,
    pump_hours: [f64; 2],
    cycles: f64,
    leaking_since: Option<Date>,
    clogged_since: Option<Date>,
}

fn tower_liner(tower: usize) -> String {
    format!("G1-LIN-T{tower:02}-LIN")
}

fn cabin_slip(cabin: usize) -> String {
    format!("G1-VEH-C{cabin:02}-SLP")
}

impl Signals {
    pub fn new(seed: u64, stories: Stories) -> Self {
        let mut rng = Rng::with_seed(seed);
        let mut worn = HashMap::new();
        for tower in 1..=TOWERS {
            worn.insert(tower_liner(tower), 1.0 + 6.0 * rng.f64());
        }
        for cabin in 1..=CABINS {
            worn.insert(cabin_slip(cabin), 20.0 + 1.5 * rng.f64());
        }
        worn.insert("G1-DRV-SBR-PAD".into(), 12.4);
        worn.insert("G1-DRV-EBR-PAD".into(), 14.1);
        worn.insert("G1-LIN-ROP-WIR".into(), 1.0);
        worn.insert("G1-DRV-GBX-CLN".into(), 15.0);
        Self {
            rng,
            stories,
            worn,
            hours: 18_240.0,
            motor_hours: 11_020.0,
            pump_hours: [6_400.0, 5_900.0],
            cycles: 212_000.0,
            leaking_since: None,
            clogged_since: None,
        }
    }

    /// The work that a limit on this meter raised was done: what it reads is as new.
    pub fn renew(&mut self, meter: &str) {
        let as_new = match meter {
            "G1-DRV-SBR-PAD" | "G1-DRV-EBR-PAD" => 15.0,
            "G1-DRV-GBX-CLN" => 14.0,
            "G1-TEN-PRS" => {
                self.leaking_since = None;
                return;
            }
            "G1-DRV-GBX-OIL" => {
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

    fn wear(&mut self, meter: &str, by: f64) -> f64 {
        let value = self.worn.entry(meter.into()).or_default();
        *value += by;
        *value
    }

    /// Peak acceleration of the high-speed shaft bearing: sound, then growing by the same share each day, then replaced.
    fn bearing(&mut self, day: Date) -> f64 {
        let to_failure = days(day, self.stories.bearing_fails);
        let growth = (BEARING_GONE / BEARING_SOUND).ln() / f64::from(BEARING_DAYS);
        let level = match to_failure {
            d if d < 0 => 0.9,
            d if d <= BEARING_DAYS => BEARING_SOUND * (growth * f64::from(BEARING_DAYS - d)).exp(),
            _ => BEARING_SOUND,
        };
        level * (1.0 + self.noise(0.06))
    }

    /// Everything read on that day.
    pub fn day(&mut self, day: Date) -> Vec<DayReading> {
        if day == self.stories.first_leak || day == self.stories.second_leak {
            self.leaking_since = Some(day);
        }
        if day == self.stories.cooler_clogs {
            self.clogged_since = Some(day);
        }
        let mut readings = Vec::new();
        let run = runs(day);
        let mut put = |meter: &str, hour: i8, minute: i8, value: f64, step: f64| {
            readings.push((meter.to_owned(), (hour, minute), (value / step).round() * step));
        };
        let hours = if run { 8.2 + 0.7 * self.rng.f64() } else { 0.0 };
        self.hours += hours;
        self.motor_hours += hours;
        let first = usize::from(days(jiff::civil::date(2020, 1, 1), day) % 14 >= 7);
        self.pump_hours[first] += hours;
        self.cycles += (hours * 11.5).round();
        put("G1-HOURS", 18, 5, self.hours, 0.1);
        put("G1-DRV-MOT-HOURS", 18, 5, self.motor_hours, 0.1);
        put("G1-TEN-PA-HOURS", 18, 6, self.pump_hours[0], 0.1);
        put("G1-TEN-PB-HOURS", 18, 6, self.pump_hours[1], 0.1);
        put("G1-LIN-ROP-CYC", 18, 7, self.cycles, 1.0);
        let season = (f64::from(day.day_of_year()) / 365.0 * std::f64::consts::TAU).cos();
        let air = 9.0 - 11.0 * season;
        if run {
            let to_failure = days(day, self.stories.bearing_fails);
            for hour in [10, 15] {
                let acceleration = self.bearing(day);
                put("G1-DRV-GBX-ACC", hour, 10, acceleration, 0.01);
                let late = if (0..=25).contains(&to_failure) { f64::from(26 - to_failure) * 0.11 } else { 0.0 };
                let velocity = 2.6 + late + self.noise(0.35);
                put("G1-DRV-GBX-VIB", hour, 10, velocity, 0.01);
                let drive = 2.1 + self.noise(0.3);
                put("G1-DRV-BWH-VIB", hour, 12, drive, 0.01);
                let ret = 1.8 + self.noise(0.3);
                put("G1-RET-BWH-VIB", hour, 14, ret, 0.01);
            }
            let clogged = self.clogged_since.map_or(0.0, |since| f64::from(days(since, day)) * 0.55);
            for hour in [9, 11, 13, 16] {
                let warm = f64::from(hour - 9) * 1.1;
                let oil = 56.0 + warm + air * 0.45 + clogged + self.noise(1.6);
                put("G1-DRV-GBX-OIL", hour, 30, oil, 0.1);
                let drive_end = 58.0 + warm + air * 0.4 + self.noise(2.0);
                put("G1-DRV-MOT-TDE", hour, 31, drive_end, 0.1);
                let other_end = 54.0 + warm + air * 0.4 + self.noise(2.0);
                put("G1-DRV-MOT-TNE", hour, 31, other_end, 0.1);
                let pump = 46.0 + warm + air * 0.5 + self.noise(2.0);
                let meter = if first == 0 { "G1-TEN-PA-TMP" } else { "G1-TEN-PB-TMP" };
                put(meter, hour, 33, pump, 0.1);
            }
        }
        let lost = self.leaking_since.map_or(0.0, |since| f64::from(days(since, day)) * 1.75);
        for hour in [2, 8, 12, 16, 21] {
            let pressure = 150.0 - lost + f64::from(hour - 12) * 0.25 + self.noise(2.4);
            put("G1-TEN-PRS", hour, 0, pressure, 0.1);
        }
        self.slow_wear(day, run, &mut readings);
        readings
    }

    /// What is measured by hand: pads weekly, liners, oil and rope monthly, grips and corrosion by the quarter.
    fn slow_wear(&mut self, day: Date, run: bool, readings: &mut Vec<DayReading>) {
        let use_ = if run { 1.0 } else { 0.0 };
        let mut put = |meter: &str, hour: i8, minute: i8, value: f64, step: f64| {
            readings.push((meter.to_owned(), (hour, minute), (value / step).round() * step));
        };
        let monday = day.weekday() == jiff::civil::Weekday::Monday;
        let service = self.wear("G1-DRV-SBR-PAD", -0.021 * use_);
        let emergency = self.wear("G1-DRV-EBR-PAD", -0.006 * use_);
        if monday {
            let noise = self.noise(0.04);
            put("G1-DRV-SBR-PAD", 7, 20, service + noise, 0.1);
            put("G1-DRV-EBR-PAD", 7, 25, emergency + noise, 0.1);
        }
        let bad_batch = |tower: usize| if tower % 5 == 2 { 1.9 } else { 1.0 };
        for tower in 1..=TOWERS {
            let by = 0.017 * use_ * bad_batch(tower) * (0.5 + self.rng.f64());
            let wear = self.wear(&tower_liner(tower), by);
            if day.day() == 4 {
                put(&tower_liner(tower), 13, tower as i8, wear, 0.1);
            }
        }
        for cabin in 1..=CABINS {
            let by = -0.006 * use_ * (0.4 + 1.2 * self.rng.f64());
            let slip = self.wear(&cabin_slip(cabin), by);
            if day.day() == 6 && day.month() % 3 == 0 {
                put(&cabin_slip(cabin), 14, cabin as i8, slip, 0.1);
            }
        }
        let growth = 0.013 * use_ + 0.004;
        let clean = self.wear("G1-DRV-GBX-CLN", growth);
        let wires = self.wear("G1-LIN-ROP-WIR", 0.009 * use_);
        if day.day() == 11 {
            put("G1-DRV-GBX-CLN", 11, 0, clean, 1.0);
            put("G1-LIN-ROP-WIR", 11, 30, wires.floor(), 1.0);
        }
        if day.day() == 12 && day.month() % 3 == 1 {
            let grade = if wires > 3.0 { 2.0 } else { 1.0 };
            put("G1-LIN-ROP-COR", 11, 45, grade, 1.0);
        }
    }
}
