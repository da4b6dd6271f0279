//! The limits that hold when the history begins.

use super::lifts::Lift;
use serde_json::json;
use tally_core::watch::limits::{Ladder, family::FamilyLadder};
use tally_store::{
    Result, Tx,
    watch::{families, limits},
};

/// Who is told, and who decides.
const PLANNER: &str = "corwin";
const MANAGER: &str = "maren";

/// Severity and setpoint of one side's rungs, mildest first.
type Rungs<'a> = &'a [(&'a str, f64)];

fn rungs(side: &str, list: Rungs, deadband: f64, job: &str, text: &str, cause: &str) -> Vec<serde_json::Value> {
    list.iter()
        .map(|(severity, setpoint)| {
            let notice = *severity == "notice";
            // A danger rung is the manager's to decide; the planner is told of anything serious.
            let tell: &[&str] = if matches!(*severity, "serious" | "danger") { &[PLANNER] } else { &[] };
            let decides = (*severity == "danger").then_some(MANAGER);
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
                    "start_within_days": days, "estimated_hours": 4.0, "tell": tell, "decides": decides,
                }) },
            })
        })
        .collect()
}

/// Meter, raise interval in days, rungs.
type Limits = (String, u32, Vec<serde_json::Value>);

/// The limits that were set when the plant began to use them. The gearbox bearings' acceleration has none: a limit on it
/// would have shown the wear months before the failure.
pub fn set_limits(tx: &mut Tx, lifts: &[Lift]) -> Result<()> {
    for lift in lifts {
        let mut all = drive(lift);
        all.extend(tension(lift));
        all.extend(line(lift));
        for (code, days, rungs) in all {
            set(tx, &code, days, json!(rungs))?;
        }
        for (suffix, record, raise, title) in [
            ("LIN-ROP-COR", "rust film", "pitted", "Have the pitted strand of the haul rope tested"),
            ("LIN-ROP-GRS", "dry in places", "dry", "Grease the haul rope"),
        ] {
            let rungs = json!([
                { "side": "grade", "severity": "notice", "grades": [record], "response": { "kind": "record" } },
                { "side": "grade", "severity": "serious", "grades": [raise], "response": {
                    "kind": "raise", "title": title, "start_within_days": 4, "tell": [PLANNER], "decides": MANAGER } },
            ]);
            set(tx, &lift.at(suffix), 30, rungs)?;
        }
    }
    families(tx)
}

/// Limits written once for many meters alike: their class, the meters' name, the raise interval in days, the rungs.
fn families(tx: &mut Tx) -> Result<()> {
    let worn = rungs(
        "high",
        &[("alert", 9.0), ("serious", 11.0)],
        1.0,
        "Replace the liners of {asset}",
        "Replace in pairs; note the batch.",
        "Ordinary wear",
    );
    let slips = rungs(
        "low",
        &[("alert", 17.0), ("danger", 15.0)],
        0.5,
        "Overhaul {asset}",
        "Take the vehicle off the rope and overhaul the grip.",
        "Spring tired or jaws worn",
    );
    let wear = [("sheaves", "Liner wear", worn.clone()), ("track", "Liner wear", worn), ("grip", "Slip force", slips)];
    let vibration = rungs(
        "high",
        &[("notice", 4.5), ("alert", 7.1), ("danger", 11.0)],
        0.6,
        "Check vibration of {asset}",
        "Measure again at full load and compare with the last spectrum.",
        "Imbalance, looseness, or a bearing on its way",
    );
    let shakes = ["gearbox", "bullwheel"].map(|class| (class, "Vibration velocity", vibration.clone()));
    for ((class, name, rungs), days) in wear.into_iter().zip([30; 3]).chain(shakes.into_iter().zip([14; 2])) {
        let new = FamilyLadder { reason: FIRST.into(), ladder: ladder(days, json!(rungs)), also: vec![] };
        match families::set(tx, class, name, &new) {
            // The small demo has one lift, and not every class.
            Err(tally_store::StoreError::NotFound { .. }) => {}
            set => drop(set?),
        }
    }
    Ok(())
}

fn drive(lift: &Lift) -> Vec<Limits> {
    let at = |suffix: &str| lift.at(suffix);
    let mut all: Vec<Limits> = Vec::new();
    let oil = rungs(
        "high",
        &[("alert", 78.0), ("serious", 88.0), ("danger", 95.0)],
        4.0,
        "Find out why the gearbox oil runs hot",
        "Check level, cooler and fan.",
        "Cooler blocked or too little oil",
    );
    all.push((at("DRV-GBX-OIL"), 7, oil));
    let clean = rungs(
        "high",
        &[("alert", 19.0), ("serious", 21.0)],
        1.0,
        "Filter the gearbox oil",
        "Run the side-stream filter for a day, then sample again.",
        "Water or wear metal in the oil",
    );
    all.push((at("DRV-GBX-CLN"), 30, clean));
    for code in [format!("{}-TDE", lift.motor), format!("{}-TNE", lift.motor)] {
        let hot = rungs(
            "high",
            &[("alert", 85.0), ("serious", 95.0), ("danger", 105.0)],
            5.0,
            "Check the motor bearing",
            "Listen, feel, grease; measure again after an hour.",
            "Dry or overgreased bearing",
        );
        all.push((code, 14, hot));
    }
    for (code, brake) in [(at("DRV-SBR-PAD"), "service"), (at("DRV-EBR-PAD"), "emergency")] {
        let job = format!("Replace the pads of the {brake} brake");
        let thin = rungs(
            "low",
            &[("notice", 9.0), ("alert", 7.0), ("danger", 5.0)],
            0.5,
            &job,
            "Replace all pads of the brake, then measure the stopping distance.",
            "Ordinary wear",
        );
        all.push((code, 30, thin));
    }
    let hot = rungs(
        "high",
        &[("alert", 75.0), ("serious", 85.0)],
        4.0,
        "Find out why the drive converter runs hot",
        "Blow the filter mats out and check the fan.",
        "Filter mats full or fan weak",
    );
    all.push((at("DRV-CNV-TMP"), 14, hot));
    all
}

fn tension(lift: &Lift) -> Vec<Limits> {
    let at = |suffix: &str| lift.at(suffix);
    let mut all: Vec<Limits> = Vec::new();
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
    // Whether a lift runs on with too little tension is no technician's risk, and not the planner's.
    for rung in pressure.iter_mut().filter(|rung| rung["side"] == "low") {
        rung["response"]["decides"] = json!(MANAGER);
    }
    all.push((at("TEN-PRS"), 7, pressure));
    for code in [at("TEN-PA-TMP"), at("TEN-PB-TMP")] {
        let hot = rungs(
            "high",
            &[("alert", 70.0), ("serious", 80.0)],
            4.0,
            "Find out why the tension pump runs hot",
            "Check oil level and the relief valve.",
            "Pump worn or valve open",
        );
        all.push((code, 14, hot));
    }
    all
}

fn line(lift: &Lift) -> Vec<Limits> {
    let breaks = rungs(
        "high",
        &[("alert", 6.0), ("serious", 10.0), ("danger", 14.0)],
        0.5,
        "Examine the haul rope where wires broke",
        "Mark the lay, count again, photograph.",
        "Fatigue or a damaged sheave",
    );
    vec![(lift.at("LIN-ROP-WIR"), 30, breaks)]
}

const FIRST: &str = "First limits, from the makers' papers";

fn ladder(raise_interval_days: u32, rungs: serde_json::Value) -> Ladder {
    let ladder = json!({ "raise_interval_seconds": raise_interval_days * 86_400, "rungs": rungs });
    serde_json::from_value(ladder).expect("the demo's own ladders are well formed")
}

fn set(tx: &mut Tx, code: &str, raise_interval_days: u32, rungs: serde_json::Value) -> Result<()> {
    let ladder = ladder(raise_interval_days, rungs);
    limits::set(tx, code, &limits::NewLadder { reason: FIRST.into(), ladder })?;
    Ok(())
}
