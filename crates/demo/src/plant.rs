//! What stands at Ombersett Ropeways: crews, people, calendar, one lift with its meters and limits.

use crate::{TIME_ZONE, codebooks};
use jiff::civil::{Date, date};
use serde_json::json;
use tally_core::{
    assets::{AssetKind, Criticality, Level, ParentEffect},
    calendar::{Calendar, Season, WeeklyHours},
    limits::Ladder,
    meters::MeterKind,
    people::Role,
    time::Instant,
};
use tally_store::{
    Act, Result, assets,
    calendars::{self, NewCalendar},
    codebooks as store_codebooks, limits,
    meters::{self, NewMeter},
    people, settings,
};

pub const TOWERS: usize = 14;
pub const CABINS: usize = 24;

/// Code, name, department, weekly hours.
const CREWS: &[(&str, &str, &str, f64)] = &[
    ("mech", "Mechanics", "Mechanical", 150.0),
    ("elec", "Electricians", "Electrical", 75.0),
    ("line", "Line crew", "Mechanical", 110.0),
];

/// Code, name, role, crew, rate in minor units.
type PersonRow = (&'static str, &'static str, Role, Option<&'static str>, Option<i64>);

const PEOPLE: &[PersonRow] = &[
    ("aveline", "Aveline Thorsby", Role::Engineer, None, Some(6_400)),
    ("corwin", "Corwin Haddle", Role::Planner, None, Some(5_800)),
    ("maren", "Maren Quill", Role::Manager, None, None),
    ("tobin", "Tobin Ashgrove", Role::Technician, Some("mech"), Some(4_800)),
    ("ysolde", "Ysolde Brack", Role::Technician, Some("mech"), Some(5_200)),
    ("perrin", "Perrin Oakhaven", Role::Technician, Some("mech"), Some(4_600)),
    ("linnet", "Linnet Varro", Role::Technician, Some("elec"), Some(5_100)),
    ("edric", "Edric Sallow", Role::Technician, Some("elec"), Some(4_900)),
    ("wenna", "Wenna Crowfold", Role::Technician, Some("line"), Some(4_700)),
    ("jory", "Jory Pellan", Role::Technician, Some("line"), Some(4_700)),
    ("hale", "Hale Minster", Role::Requester, None, None),
    ("odo", "Odo Fenwright", Role::Viewer, None, None),
    ("gateway", "Sensor gateway", Role::Gateway, None, None),
];

const CLASSES: &[(&str, &str)] = &[
    ("motor", "Electric motors"),
    ("gearbox", "Gearboxes"),
    ("bullwheel", "Bullwheels"),
    ("brakes", "Brakes"),
    ("hydraulics", "Hydraulic units"),
    ("pump", "Pumps"),
    ("rope", "Ropes"),
    ("sheaves", "Sheave assemblies"),
    ("grip", "Grips"),
    ("cabin", "Cabins"),
    ("bearing", "Bearings"),
];

use Criticality::{A, B, C};
use Level::{Equipment, Part, Site, System, Unit};

/// Code, name, level, parent, class, criticality, crew, whether its being down puts the parent down.
type Row = (&'static str, &'static str, Level, &'static str, Option<&'static str>, Criticality, &'static str, bool);

const ASSETS: &[Row] = &[
    ("OMB", "Ombersett Ropeways", Site, "", None, A, "mech", false),
    ("G1", "Larkspur Gondola", Unit, "OMB", None, A, "mech", false),
    ("G1-DRV", "Drive station", System, "G1", None, A, "mech", true),
    ("G1-DRV-MOT", "Main motor", Equipment, "G1-DRV", Some("motor"), A, "elec", true),
    ("G1-DRV-MOT-BDE", "Drive-end bearing", Part, "G1-DRV-MOT", Some("bearing"), B, "mech", true),
    ("G1-DRV-MOT-BNE", "Non-drive-end bearing", Part, "G1-DRV-MOT", Some("bearing"), B, "mech", true),
    ("G1-DRV-GBX", "Main gearbox", Equipment, "G1-DRV", Some("gearbox"), A, "mech", true),
    ("G1-DRV-GBX-HSS", "High-speed shaft", Part, "G1-DRV-GBX", Some("gearbox"), A, "mech", true),
    ("G1-DRV-GBX-HSB", "High-speed shaft bearing", Part, "G1-DRV-GBX-HSS", Some("gearbox"), A, "mech", true),
    ("G1-DRV-GBX-LUB", "Lubrication unit", Part, "G1-DRV-GBX", Some("gearbox"), B, "mech", true),
    ("G1-DRV-BWH", "Drive bullwheel", Equipment, "G1-DRV", Some("bullwheel"), A, "mech", true),
    ("G1-DRV-SBR", "Service brake", Equipment, "G1-DRV", Some("brakes"), A, "mech", true),
    ("G1-DRV-EBR", "Emergency brake", Equipment, "G1-DRV", Some("brakes"), A, "mech", true),
    ("G1-TEN", "Hydraulic tension", System, "G1", Some("hydraulics"), A, "mech", true),
    ("G1-TEN-CYL", "Tension cylinder", Equipment, "G1-TEN", Some("hydraulics"), A, "mech", true),
    ("G1-TEN-PA", "Tension pump A", Equipment, "G1-TEN", Some("hydraulics"), B, "mech", false),
    ("G1-TEN-PB", "Tension pump B", Equipment, "G1-TEN", Some("hydraulics"), B, "mech", false),
    ("G1-RET", "Return station", System, "G1", None, A, "mech", true),
    ("G1-RET-BWH", "Return bullwheel", Equipment, "G1-RET", Some("bullwheel"), A, "mech", true),
    ("G1-LIN", "Line", System, "G1", None, A, "line", true),
    ("G1-LIN-ROP", "Haul rope", Equipment, "G1-LIN", Some("rope"), A, "line", true),
    ("G1-VEH", "Vehicles", System, "G1", None, B, "line", false),
];

/// Everything but the history.
pub fn build(act: &mut Act, today: Date, since: Instant) -> Result<()> {
    settings::set(
        act,
        &settings::Settings {
            name: "Ombersett Ropeways".into(),
            time_zone: TIME_ZONE.into(),
            ..settings::Settings::default()
        },
    )?;
    for &(code, name, department, weekly_hours) in CREWS {
        let crew = people::Crew { code: code.into(), name: name.into(), department: department.into(), weekly_hours };
        people::add_crew(act, &crew)?;
    }
    for &(code, name, role, crew, rate) in PEOPLE {
        let person = people::Person { code: code.into(), name: name.into(), role, crew: crew.map(Into::into), rate };
        people::add(act, &person)?;
    }
    for &(code, name) in CLASSES {
        assets::add_class(act, code, name)?;
    }
    for (code, book) in codebooks::all() {
        store_codebooks::put(act, &code, &book)?;
    }
    add_assets(act, since)?;
    let new = NewCalendar { code: "lift".into(), name: "Lift seasons".into(), calendar: seasons(today) };
    calendars::add(act, &new)?;
    calendars::assign(act, "OMB", "lift", Instant::EARLIEST)?;
    add_meters(act)
}

fn add_assets(act: &mut Act, since: Instant) -> Result<()> {
    for &(code, name, level, parent, class, criticality, crew, puts_down) in ASSETS {
        let effect = match code {
            "G1-TEN-PA" | "G1-TEN-PB" => ParentEffect::Group { name: "tension pumps".into(), needs: 1 },
            _ if puts_down => ParentEffect::Yes,
            _ => ParentEffect::No,
        };
        add_asset(act, since, code, name, level, parent, class, criticality, crew, effect)?;
    }
    for tower in 1..=TOWERS {
        let (code, name) = (format!("G1-LIN-T{tower:02}"), format!("Tower {tower} sheaves"));
        let class = Some("sheaves");
        add_asset(act, since, &code, &name, Equipment, "G1-LIN", class, B, "line", ParentEffect::Yes)?;
    }
    for cabin in 1..=CABINS {
        let (code, name) = (format!("G1-VEH-C{cabin:02}"), format!("Cabin {cabin}"));
        add_asset(act, since, &code, &name, Equipment, "G1-VEH", Some("cabin"), C, "line", ParentEffect::No)?;
        let (grip, grip_name) = (format!("{code}-GRP"), format!("Grip of cabin {cabin}"));
        add_asset(act, since, &grip, &grip_name, Part, &code, Some("grip"), B, "line", ParentEffect::Yes)?;
    }
    Ok(())
}

#[allow(clippy::too_many_arguments, reason = "one row of the plant's list")]
fn add_asset(
    act: &mut Act,
    since: Instant,
    code: &str,
    name: &str,
    level: Level,
    parent: &str,
    class: Option<&str>,
    criticality: Criticality,
    crew: &str,
    parent_effect: ParentEffect,
) -> Result<()> {
    let lift = code == "G1";
    assets::add(
        act,
        &assets::NewAsset {
            code: code.into(),
            name: name.into(),
            kind: if level == Part { AssetKind::Item } else { AssetKind::Position },
            level,
            parent: (!parent.is_empty()).then(|| parent.into()),
            class: class.map(Into::into),
            maker: None,
            model: None,
            serial: None,
            tags: vec![],
            commissioned_at: Some(since),
            retired_at: None,
            replacement_value: lift.then_some(1_450_000_000),
            downtime_cost: lift.then_some(420_000),
            criticality: Some(criticality),
            crew: Some(crew.into()),
            parent_effect,
        },
    )?;
    Ok(())
}

/// Winter 1 December to 14 April daily 08:00 to 17:00, summer 15 June to 14 October daily 09:00 to 18:00, closed between.
fn seasons(today: Date) -> Calendar {
    let daily = |from: u16, to: u16| -> Vec<WeeklyHours> {
        (0..7).map(|weekday| WeeklyHours { weekday, from_minute: from * 60, to_minute: to * 60 }).collect()
    };
    let years = today.year() - 6..=today.year() + 1;
    let seasons = years.flat_map(|year| {
        [
            Season {
                name: format!("winter {year}"),
                from: date(year, 12, 1),
                to: date(year + 1, 4, 15),
                hours: daily(8, 17),
            },
            Season {
                name: format!("summer {year}"),
                from: date(year, 6, 15),
                to: date(year, 10, 15),
                hours: daily(9, 18),
            },
        ]
    });
    Calendar { time_zone: TIME_ZONE.into(), hours: vec![], seasons: seasons.collect(), closed: vec![] }
}

/// Whether the lift runs on that day.
pub fn runs(day: Date) -> bool {
    let (month, dom) = (day.month(), day.day());
    matches!((month, dom), (12 | 1..=3, _) | (4, 1..=14) | (6, 15..) | (7..=9, _) | (10, 1..=14))
}

fn meter(code: &str, asset: &str, name: &str, kind: MeterKind, unit: &str) -> NewMeter {
    NewMeter {
        code: code.into(),
        asset: asset.into(),
        name: Some(name.into()),
        kind,
        unit: unit.into(),
        resolution: 0.0,
        rollover_at: None,
        greatest_rate: None,
        plausible_low: None,
        plausible_high: None,
        grades: vec![],
        longest_silence_seconds: Some(14 * 86_400),
        running_hours: false,
    }
}

fn measured(code: &str, asset: &str, name: &str, unit: &str, low: f64, high: f64) -> NewMeter {
    NewMeter {
        plausible_low: Some(low),
        plausible_high: Some(high),
        ..meter(code, asset, name, MeterKind::Measurement, unit)
    }
}

fn add_meters(act: &mut Act) -> Result<()> {
    use MeterKind::{Counter, Grade};
    let hours = |code, asset, running| NewMeter {
        resolution: 0.1,
        running_hours: running,
        ..meter(code, asset, "Running hours", Counter, "h")
    };
    meters::add(act, &hours("G1-HOURS", "G1", true))?;
    meters::add(act, &hours("G1-DRV-MOT-HOURS", "G1-DRV-MOT", true))?;
    meters::add(act, &hours("G1-TEN-PA-HOURS", "G1-TEN-PA", false))?;
    meters::add(act, &hours("G1-TEN-PB-HOURS", "G1-TEN-PB", false))?;
    meters::add(
        act,
        &NewMeter {
            resolution: 1.0,
            greatest_rate: Some(60.0),
            ..meter("G1-LIN-ROP-CYC", "G1-LIN-ROP", "Rope cycles", Counter, "1")
        },
    )?;
    for (code, asset, name, unit, low, high) in [
        ("G1-DRV-GBX-VIB", "G1-DRV-GBX", "Vibration velocity", "mm/s", 0.0, 50.0),
        ("G1-DRV-GBX-ACC", "G1-DRV-GBX-HSB", "Peak acceleration", "[g]", 0.0, 100.0),
        ("G1-DRV-GBX-OIL", "G1-DRV-GBX-LUB", "Oil temperature", "Cel", -40.0, 160.0),
        ("G1-DRV-GBX-CLN", "G1-DRV-GBX-LUB", "Oil cleanliness code", "1", 8.0, 28.0),
        ("G1-DRV-MOT-TDE", "G1-DRV-MOT-BDE", "Bearing temperature", "Cel", -40.0, 180.0),
        ("G1-DRV-MOT-TNE", "G1-DRV-MOT-BNE", "Bearing temperature", "Cel", -40.0, 180.0),
        ("G1-DRV-BWH-VIB", "G1-DRV-BWH", "Vibration velocity", "mm/s", 0.0, 50.0),
        ("G1-RET-BWH-VIB", "G1-RET-BWH", "Vibration velocity", "mm/s", 0.0, 50.0),
        ("G1-DRV-SBR-PAD", "G1-DRV-SBR", "Pad thickness", "mm", 0.0, 30.0),
        ("G1-DRV-EBR-PAD", "G1-DRV-EBR", "Pad thickness", "mm", 0.0, 30.0),
        ("G1-TEN-PRS", "G1-TEN-CYL", "Tension pressure", "bar", 0.0, 400.0),
        ("G1-TEN-PA-TMP", "G1-TEN-PA", "Oil temperature", "Cel", -40.0, 140.0),
        ("G1-TEN-PB-TMP", "G1-TEN-PB", "Oil temperature", "Cel", -40.0, 140.0),
        ("G1-LIN-ROP-WIR", "G1-LIN-ROP", "Wire breaks per lay length", "1", 0.0, 60.0),
    ] {
        meters::add(act, &measured(code, asset, name, unit, low, high))?;
    }
    let corrosion = ["bright", "dull", "rust film", "pitted"].map(String::from).to_vec();
    meters::add(
        act,
        &NewMeter { grades: corrosion, ..meter("G1-LIN-ROP-COR", "G1-LIN-ROP", "Strand corrosion", Grade, "1") },
    )?;
    for tower in 1..=TOWERS {
        let (code, asset) = (format!("G1-LIN-T{tower:02}-LIN"), format!("G1-LIN-T{tower:02}"));
        meters::add(act, &measured(&code, &asset, "Liner wear", "mm", 0.0, 25.0))?;
    }
    for cabin in 1..=CABINS {
        let (code, asset) = (format!("G1-VEH-C{cabin:02}-SLP"), format!("G1-VEH-C{cabin:02}-GRP"));
        meters::add(act, &measured(&code, &asset, "Slip force", "kN", 0.0, 40.0))?;
    }
    Ok(())
}

/// Severity and setpoint of one side's rungs, mildest first.
type Rungs<'a> = &'a [(&'a str, f64)];

fn rungs(side: &str, list: Rungs, deadband: f64, job: &str, text: &str, cause: &str) -> Vec<serde_json::Value> {
    list.iter()
        .map(|(severity, setpoint)| {
            let notice = *severity == "notice";
            let days = match *severity {
                "danger" => 1,
                "serious" => 4,
                _ => 14,
            };
            json!({
                "side": side, "severity": severity, "setpoint": setpoint, "deadband": deadband,
                "cause": cause,
                "response": if notice { json!({ "kind": "record" }) } else { json!({
                    "kind": "raise", "title": job, "text": text, "work_kind": "condition_based",
                    "start_within_days": days, "estimated_hours": 4.0,
                }) },
            })
        })
        .collect()
}

/// The limits that were set when the plant began to use them. The gearbox bearing's acceleration has none: a limit on it
/// would have shown the wear months before the failure.
pub fn set_limits(act: &mut Act) -> Result<()> {
    let mut all: Vec<(String, u32, Vec<serde_json::Value>)> = Vec::new();
    let vibration = |job: &str| {
        let cause = "Imbalance, looseness, or a bearing on its way";
        rungs(
            "high",
            &[("notice", 4.5), ("alert", 7.1), ("danger", 11.0)],
            0.6,
            job,
            "Measure again at full load and compare with the last spectrum.",
            cause,
        )
    };
    all.push(("G1-DRV-GBX-VIB".into(), 14, vibration("Check vibration of the main gearbox")));
    all.push(("G1-DRV-BWH-VIB".into(), 14, vibration("Check vibration of the drive bullwheel")));
    all.push(("G1-RET-BWH-VIB".into(), 14, vibration("Check vibration of the return bullwheel")));
    let oil = rungs(
        "high",
        &[("alert", 78.0), ("serious", 88.0), ("danger", 95.0)],
        4.0,
        "Find out why the gearbox oil runs hot",
        "Check level, cooler and fan.",
        "Cooler blocked or too little oil",
    );
    all.push(("G1-DRV-GBX-OIL".into(), 7, oil));
    let clean = rungs(
        "high",
        &[("alert", 19.0), ("serious", 21.0)],
        1.0,
        "Filter the gearbox oil",
        "Run the side-stream filter for a day, then sample again.",
        "Water or wear metal in the oil",
    );
    all.push(("G1-DRV-GBX-CLN".into(), 30, clean));
    for code in ["G1-DRV-MOT-TDE", "G1-DRV-MOT-TNE"] {
        let hot = rungs(
            "high",
            &[("alert", 85.0), ("serious", 95.0), ("danger", 105.0)],
            5.0,
            "Check the motor bearing",
            "Listen, feel, grease; measure again after an hour.",
            "Dry or overgreased bearing",
        );
        all.push((code.into(), 14, hot));
    }
    for (code, brake) in [("G1-DRV-SBR-PAD", "service"), ("G1-DRV-EBR-PAD", "emergency")] {
        let job = format!("Replace the pads of the {brake} brake");
        let thin = rungs(
            "low",
            &[("notice", 9.0), ("alert", 7.0), ("danger", 5.0)],
            0.5,
            &job,
            "Replace all pads of the brake, then measure the stopping distance.",
            "Ordinary wear",
        );
        all.push((code.into(), 30, thin));
    }
    let mut pressure = rungs(
        "high",
        &[("alert", 185.0), ("danger", 205.0)],
        8.0,
        "Tension pressure too high: check the relief valve",
        "Compare with the hand gauge before touching the valve.",
        "Relief valve sticks, or the sensor drifts",
    );
    pressure.extend(rungs(
        "low",
        &[("alert", 110.0), ("danger", 95.0)],
        6.0,
        "Tension pressure too low: look for leaks",
        "Walk the circuit from pump to cylinder, then bleed.",
        "Leak, worn pump, or air in the circuit",
    ));
    all.push(("G1-TEN-PRS".into(), 7, pressure));
    for code in ["G1-TEN-PA-TMP", "G1-TEN-PB-TMP"] {
        let hot = rungs(
            "high",
            &[("alert", 70.0), ("serious", 80.0)],
            4.0,
            "Find out why the tension pump runs hot",
            "Check oil level and the relief valve.",
            "Pump worn or valve open",
        );
        all.push((code.into(), 14, hot));
    }
    let breaks = rungs(
        "high",
        &[("alert", 6.0), ("serious", 10.0), ("danger", 14.0)],
        0.5,
        "Examine the haul rope where wires broke",
        "Mark the lay, count again, photograph.",
        "Fatigue or a damaged sheave",
    );
    all.push(("G1-LIN-ROP-WIR".into(), 30, breaks));
    for tower in 1..=TOWERS {
        let job = format!("Replace the liners of tower {tower}");
        let worn = rungs(
            "high",
            &[("alert", 9.0), ("serious", 11.0)],
            1.0,
            &job,
            "Replace in pairs; note the batch.",
            "Ordinary wear",
        );
        all.push((format!("G1-LIN-T{tower:02}-LIN"), 30, worn));
    }
    for cabin in 1..=CABINS {
        let job = format!("Overhaul the grip of cabin {cabin}");
        let slips = rungs(
            "low",
            &[("alert", 17.0), ("danger", 15.0)],
            0.5,
            &job,
            "Take the cabin off the rope and overhaul the grip.",
            "Spring tired or jaws worn",
        );
        all.push((format!("G1-VEH-C{cabin:02}-SLP"), 30, slips));
    }
    for (code, days, rungs) in all {
        set(act, &code, days, json!(rungs))?;
    }
    let corrosion = json!([
        { "side": "grade", "severity": "notice", "grades": ["rust film"], "response": { "kind": "record" } },
        { "side": "grade", "severity": "serious", "grades": ["pitted"], "response": {
            "kind": "raise", "title": "Have the pitted strand of the haul rope tested", "start_within_days": 4 } },
    ]);
    set(act, "G1-LIN-ROP-COR", 30, corrosion)
}

fn set(act: &mut Act, code: &str, raise_interval_days: u32, rungs: serde_json::Value) -> Result<()> {
    let ladder = json!({ "raise_interval_seconds": raise_interval_days * 86_400, "rungs": rungs });
    let ladder: Ladder = serde_json::from_value(ladder).expect("the demo's own ladders are well formed");
    limits::set(act, code, &limits::NewLadder { reason: "First limits, from the makers' papers".into(), ladder })?;
    Ok(())
}
