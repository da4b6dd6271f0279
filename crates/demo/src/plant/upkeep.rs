//! Upkeep plans: by days, by counters, by both, on one asset or on all of a class. Most of what comes once a year was put into the
//! weeks after the summer season, and nobody has levelled that.

use super::{lifts::Lift, sheets, table};
use jiff::{ToSpan, civil::Date};
use tally_store::{Result, Tx, plant::master::Kind};

/// When it is due.
#[derive(Debug, Clone, Copy)]
enum Every {
    /// Days between, and days from today to the first time.
    Days(u32, i64),
    /// Days between, and the week after the summer season in which it is due.
    Autumn(u32, i64),
    /// Units of a counter, by its suffix; of the asset's running hours without one.
    Units(f64, Option<&'static str>),
    /// Days or running hours of the lift, from when it was last done.
    Either(u32, f64, i64),
}

use Every::{Autumn, Days, Either, Units};

/// Suffix of its code and of its asset, title, how often, crew, hours.
type Row = (&'static str, &'static str, &'static str, Every, &'static str, f64);

const OF_LIFTS: &[Row] = &[
    ("BOLTS", "DRV", "Tighten the anchor bolts of the drive", Days(42, -52), "mech", 4.0),
    ("MATS", "DRV-CNV", "Change the converter's air filters", Days(28, -60), "elec", 1.5),
    ("SUPPLY", "DRV-CTL-UPS", "Load test of the battery supply", Days(30, -44), "elec", 2.0),
    ("RETURN", "RET-BWH", "Grease the return bullwheel", Days(28, -63), "mech", 2.0),
    ("DRIFT", "TEN-CYL", "Measure the tension cylinder for drift", Days(21, -58), "hydr", 1.5),
    ("GUIDES", "LIN", "Lubricate the rope guides", Days(35, -49), "line", 4.0),
    ("WIND", "LIN-WND", "Compare the wind gauge with a hand-held one", Days(56, -20), "elec", 1.0),
    ("GATE", "RET-GAT", "Adjust the platform gate", Days(60, 12), "mech", 1.5),
    ("ACCU", "TEN-ACC", "Check the accumulator's gas charge", Days(90, 25), "hydr", 2.0),
    ("SIGNAL", "LIN-SIG", "Measure the signal cable's insulation", Days(182, 30), "elec", 5.0),
    ("ENCODER", "DRV-CTL-ENC", "Check the speed encoder's coupling", Days(91, 18), "elec", 1.0),
    ("OILLOOK", "DRV-GBX", "Take an oil sample from the gearbox", Days(91, 9), "mech", 1.0),
    ("FLT-A", "TEN-PA", "Change the filter of tension pump A", Units(400.0, Some("TEN-PA-HOURS")), "hydr", 3.0),
    ("FLT-B", "TEN-PB", "Change the filter of tension pump B", Units(400.0, Some("TEN-PB-HOURS")), "hydr", 3.0),
    ("FAN", "DRV-MOT", "Clean the motor's fan and terminal box", Units(900.0, None), "elec", 5.0),
    (
        "LAY",
        "LIN-ROP",
        "Move the rope in its grips and measure its lay",
        Units(30_000.0, Some("LIN-ROP-CYC")),
        "line",
        9.0,
    ),
    ("CPL", "DRV-CPL", "Service the coupling", Either(365, 2_200.0, 62), "mech", 10.0),
    ("GBXFLT", "DRV-GBX-LUB", "Change the gearbox's oil filter", Either(180, 1_100.0, 40), "mech", 6.0),
    ("SBR", "DRV-SBR", "Overhaul the service brake", Autumn(365, 1), "mech", 26.0),
    ("EBR", "DRV-EBR", "Overhaul the emergency brake", Autumn(365, 1), "mech", 24.0),
    ("LOAD", "DRV-EBR", "Test the brakes with loaded vehicles", Autumn(365, 2), "mech", 20.0),
    ("LINER", "DRV-BWH-LNR", "Turn the drive bullwheel's liner", Autumn(365, 1), "mech", 30.0),
    ("RLINER", "RET-BWH-LNR", "Turn the return bullwheel's liner", Autumn(365, 2), "mech", 22.0),
    ("OIL", "TEN-TNK", "Change the tension unit's oil", Autumn(365, 1), "hydr", 14.0),
    ("VALVE", "TEN-VLV", "Set the relief valve on the bench", Autumn(365, 1), "hydr", 9.0),
    ("GAUGE", "TEN-GAU", "Calibrate the pressure gauge", Autumn(365, 2), "hydr", 3.0),
    ("SAFETY", "DRV-CTL", "Thorough test of the safety circuits", Autumn(365, 1), "elec", 28.0),
    ("EARTH", "LIN", "Measure the line's earthing", Autumn(365, 1), "elec", 24.0),
    ("CONV", "DRV-CNV", "Overhaul the converter", Autumn(365, 2), "elec", 18.0),
    ("AUX", "DRV-AUX", "Service the rescue engine", Autumn(365, 2), "mech", 12.0),
    ("BATTERY", "DRV-AUX-BAT", "Renew the starter battery", Autumn(730, 3), "mech", 2.0),
    ("ROPE", "LIN-ROP", "Clean and grease the haul rope along its length", Autumn(365, 2), "line", 32.0),
    ("BEARING", "RET-BWH-BRG", "Measure the play of the return bullwheel's bearing", Autumn(365, 2), "mech", 6.0),
];

const OF_THE_WORKSHOP: &[Row] = &[
    ("CRANE", "WSH-CRN", "Yearly examination of the overhead crane", Autumn(365, 3), "shop", 8.0),
    ("HOIST", "WSH-HST", "Yearly examination of the chain hoist", Autumn(365, 3), "shop", 4.0),
    ("BENCH", "WSH-GRT", "Calibrate the grip test bench", Days(182, 33), "shop", 6.0),
    ("DRYER", "WSH-CMP-DRY", "Change the air dryer's cartridge", Days(120, 21), "shop", 1.0),
    ("LATHE", "WSH-LAT", "Oil and level the lathe", Days(90, -30), "shop", 2.0),
    ("MILL", "WSH-MIL", "Oil and level the milling machine", Days(90, -24), "shop", 2.0),
];

/// Towers, sections and vehicles seen to at once.
const GROUP: usize = 6;
const VEHICLES: usize = 12;

/// The weeks after the summer season, in which lifts stand.
const AFTER_SUMMER: &str = "10-15..11-30";

const COLUMNS: [&str; 16] = [
    "code",
    "name",
    "status",
    "asset",
    "class",
    "every_days",
    "every_units",
    "counts_from",
    "first_due",
    "meter",
    "first_count",
    "season",
    "lead_days",
    "crew",
    "estimated_hours",
    "job_sheet",
];

/// A plan as a row of master data.
struct Planned<'a> {
    code: String,
    title: String,
    asset: String,
    class: &'a str,
    every: Every,
    crew: &'a str,
    hours: f64,
}

impl Planned<'_> {
    /// `reads` says what a counter reads by now.
    fn cells(&self, lift: Option<&Lift>, today: Date, reads: &dyn Fn(&str) -> f64) -> Vec<String> {
        let on = |days: i64| today.saturating_add(days.days()).to_string();
        let autumn = |week: i64| {
            let season_ends = Date::new(today.year(), 10, 15).unwrap_or(today);
            let first = season_ends.saturating_add((week * 7).days());
            // The next one that lies ahead.
            if first < today { first.saturating_add(1.year()).to_string() } else { first.to_string() }
        };
        let at = |suffix: &str| lift.map_or_else(|| suffix.to_owned(), |lift| lift.at(suffix));
        let next = |meter: &str, units: f64| ((reads(meter) / units).floor() + 1.0) * units;
        let (mut days, mut units, mut from, mut first, mut meter, mut count) =
            (String::new(), String::new(), "planned", String::new(), String::new(), String::new());
        match self.every {
            Days(every, after) => (days, first) = (every.to_string(), on(after)),
            Autumn(every, week) => (days, first) = (every.to_string(), autumn(week)),
            Units(every, suffix) => {
                let of = suffix.map_or_else(|| format!("{}-HOURS", self.asset), at);
                (units, count) = (every.to_string(), next(&of, every).to_string());
                meter = if suffix.is_some() { of } else { String::new() };
            }
            Either(every, hours, after) => {
                let of = at("HOURS");
                (days, units, from, first) = (every.to_string(), hours.to_string(), "last_done", on(after));
                (count, meter) = (next(&of, hours).to_string(), of);
            }
        }
        let lead = if self.hours > 8.0 { "21" } else { "5" };
        let text = |text: &str| text.to_owned();
        vec![
            self.code.clone(),
            self.title.clone(),
            text("active"),
            self.asset.clone(),
            text(self.class),
            days,
            units,
            text(from),
            first,
            meter,
            count,
            text(if matches!(self.every, Autumn(..)) { AFTER_SUMMER } else { "" }),
            text(lead),
            text(self.crew),
            self.hours.to_string(),
            text(sheets::of_plan(self.code.split_once("UP-").map_or("", |(_, suffix)| suffix))),
        ]
    }
}

fn of_groups(lift: &Lift) -> Vec<Planned<'static>> {
    let mut found = Vec::new();
    for (place, first) in (1..=lift.supports).step_by(GROUP).enumerate() {
        let last = (first + GROUP - 1).min(lift.supports);
        let support = lift.support.to_lowercase();
        found.push(Planned {
            code: lift.at(&format!("UP-SHEAVES-{}", place + 1)),
            title: format!("Sheaves and bolts of {support}s {first} to {last}"),
            asset: lift.support_code(first),
            class: "",
            every: Autumn(365, 1 + (place % 2) as i64),
            crew: "line",
            hours: 7.0 * (last + 1 - first) as f64,
        });
    }
    for (place, first) in (1..=lift.vehicles).step_by(VEHICLES).enumerate() {
        let last = (first + VEHICLES - 1).min(lift.vehicles);
        let vehicle = lift.vehicle.to_lowercase();
        found.push(Planned {
            code: lift.at(&format!("UP-HANGERS-{}", place + 1)),
            title: format!("Crack test of the hangers of {vehicle}s {first} to {last}"),
            asset: lift.vehicle_code(first),
            class: "",
            every: Autumn(365, 2 + (place % 2) as i64),
            crew: "line",
            hours: 2.5 * (last + 1 - first) as f64,
        });
    }
    found
}

/// Sets up all plans; `reads` says what a counter reads by now.
pub fn set_up(tx: &mut Tx, lifts: &[Lift], today: Date, reads: &dyn Fn(&str) -> f64) -> Result<()> {
    let mut rows: Vec<Vec<String>> = Vec::new();
    let of = |row: &Row, code: String, asset: String| {
        let (_, _, title, every, crew, hours) = *row;
        Planned { code, title: title.into(), asset, class: "", every, crew, hours }
    };
    for lift in lifts {
        for row in OF_LIFTS {
            let plan = of(row, lift.at(&format!("UP-{}", row.0)), lift.at(row.1));
            rows.push(plan.cells(Some(lift), today, reads));
        }
        rows.extend(of_groups(lift).iter().map(|plan| plan.cells(Some(lift), today, reads)));
    }
    if lifts.len() > 1 {
        let plans = OF_THE_WORKSHOP.iter().map(|row| of(row, format!("WSH-UP-{}", row.0), row.1.into()));
        rows.extend(plans.map(|plan| plan.cells(None, today, reads)));
    }
    // What is visited on a round is one order.
    let round = |code: String, title: &str, asset: String, every, crew, hours| Planned {
        code,
        title: title.into(),
        asset,
        class: "",
        every,
        crew,
        hours,
    };
    let machines =
        round(lifts[0].at("UP-MACHINES"), "Weekly round of the machines", lifts[0].at(""), Days(7, 6), "mech", 2.5);
    rows.push(machines.cells(Some(&lifts[0]), today, reads));
    let electric = round(
        "UP-ELECTRIC".into(),
        "Round of converters and battery supplies",
        "OMB".into(),
        Days(56, 11),
        "elec",
        4.8,
    );
    rows.push(electric.cells(None, today, reads));
    // On every gearbox and its parts there is one plan for all of them: once a year each is looked over for leaks.
    let leaks = Planned {
        code: "UP-CONVERTERS".into(),
        title: "Thermal picture of the converter".into(),
        asset: String::new(),
        class: "converter",
        every: Days(182, 45),
        crew: "elec",
        hours: 1.0,
    };
    rows.push(leaks.cells(None, today, reads));
    table::take(tx, Kind::UpkeepPlans, &COLUMNS, rows)
}
