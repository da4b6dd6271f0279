//! The meters.

use super::lifts::Lift;
use tally_core::watch::meters::MeterWord;
use tally_store::{
    Result, Tx,
    watch::{meters, meters::NewMeter},
};

fn meter(code: &str, asset: &str, name: &str, kind: MeterWord, unit: &str) -> NewMeter {
    NewMeter {
        code: code.into(),
        asset: asset.into(),
        name: Some(name.into()),
        measuring_point: None,
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
        retired_at: None,
    }
}

fn measured(code: &str, asset: &str, name: &str, unit: &str, low: f64, high: f64) -> NewMeter {
    NewMeter {
        plausible_low: Some(low),
        plausible_high: Some(high),
        ..meter(code, asset, name, MeterWord::Measurement, unit)
    }
}

fn hours(code: &str, asset: &str, running_hours: bool) -> NewMeter {
    NewMeter { resolution: 0.1, running_hours, ..meter(code, asset, "Running hours", MeterWord::Counter, "h") }
}

/// Suffix of the meter, suffix of the asset, name, unit, plausible range.
const MEASURED: &[(&str, &str, &str, &str, f64, f64)] = &[
    ("DRV-GBX-VIB", "DRV-GBX", "Vibration velocity", "mm/s", 0.0, 50.0),
    ("DRV-GBX-ACC", "DRV-GBX-HSB", "Peak acceleration", "[g]", 0.0, 100.0),
    ("DRV-GBX-OIL", "DRV-GBX-LUB", "Oil temperature", "Cel", -40.0, 160.0),
    ("DRV-GBX-CLN", "DRV-GBX-LUB", "Oil cleanliness code", "1", 8.0, 28.0),
    ("DRV-CNV-TMP", "DRV-CNV", "Converter temperature", "Cel", -40.0, 140.0),
    ("DRV-BWH-VIB", "DRV-BWH", "Vibration velocity", "mm/s", 0.0, 50.0),
    ("RET-BWH-VIB", "RET-BWH", "Vibration velocity", "mm/s", 0.0, 50.0),
    ("DRV-SBR-PAD", "DRV-SBR", "Pad thickness", "mm", 0.0, 30.0),
    ("DRV-EBR-PAD", "DRV-EBR", "Pad thickness", "mm", 0.0, 30.0),
    ("TEN-PRS", "TEN-CYL", "Tension pressure", "bar", 0.0, 400.0),
    ("TEN-PA-TMP", "TEN-PA", "Oil temperature", "Cel", -40.0, 140.0),
    ("TEN-PB-TMP", "TEN-PB", "Oil temperature", "Cel", -40.0, 140.0),
    ("LIN-ROP-WIR", "LIN-ROP", "Wire breaks per lay length", "1", 0.0, 60.0),
];

/// Where some of them are read.
const POINTS: &[(&str, &str)] = &[
    ("DRV-GBX-VIB", "output shaft, drive end, horizontal"),
    ("DRV-GBX-ACC", "bearing housing, load side, vertical"),
    ("DRV-BWH-VIB", "upper bearing, radial"),
    ("RET-BWH-VIB", "upper bearing, radial"),
    ("DRV-SBR-PAD", "inner pad, below the mark"),
    ("TEN-PRS", "gauge at the cylinder, left of the pump"),
];

/// Suffix, name, grades from best to worst.
const GRADED: &[(&str, &str, [&str; 4])] = &[
    ("LIN-ROP-COR", "Strand corrosion", ["bright", "dull", "rust film", "pitted"]),
    ("LIN-ROP-GRS", "Grease condition", ["fresh", "thin", "dry in places", "dry"]),
];

/// Adds all meters of the given lifts.
pub fn add(tx: &mut Tx, lifts: &[Lift]) -> Result<()> {
    for lift in lifts {
        let at = |suffix: &str| lift.at(suffix);
        let motor = lift.motor;
        meters::add(tx, &hours(&at("HOURS"), lift.code, true))?;
        meters::add(tx, &hours(&at("DRV-MOT-HOURS"), &at("DRV-MOT"), true))?;
        meters::add(tx, &hours(&format!("{motor}-HOURS"), motor, true))?;
        meters::add(tx, &hours(&at("TEN-PA-HOURS"), &at("TEN-PA"), false))?;
        meters::add(tx, &hours(&at("TEN-PB-HOURS"), &at("TEN-PB"), false))?;
        let cycles = meter(&at("LIN-ROP-CYC"), &at("LIN-ROP"), "Rope cycles", MeterWord::Counter, "1");
        meters::add(tx, &NewMeter { resolution: 1.0, greatest_rate: Some(60.0), ..cycles })?;
        for &(suffix, asset, name, unit, low, high) in MEASURED {
            let new = measured(&at(suffix), &at(asset), name, unit, low, high);
            // Oil and rope are looked at once a month.
            let monthly = matches!(suffix, "DRV-GBX-CLN" | "LIN-ROP-WIR");
            let longest_silence_seconds = Some(if monthly { 45 } else { 14 } * 86_400);
            let point = POINTS.iter().find(|(of, _)| *of == suffix);
            let measuring_point = point.map(|(_, point)| (*point).to_owned());
            meters::add(tx, &NewMeter { longest_silence_seconds, measuring_point, ..new })?;
        }
        for (suffix, bearing) in [("TDE", "BDE"), ("TNE", "BNE")] {
            let (code, asset) = (format!("{motor}-{suffix}"), format!("{motor}-{bearing}"));
            meters::add(tx, &measured(&code, &asset, "Bearing temperature", "Cel", -40.0, 180.0))?;
        }
        for &(suffix, name, grades) in GRADED {
            let grade = meter(&at(suffix), &at("LIN-ROP"), name, MeterWord::Grade, "1");
            let longest_silence_seconds = Some(110 * 86_400);
            let grades = grades.map(String::from).to_vec();
            meters::add(tx, &NewMeter { grades, longest_silence_seconds, ..grade })?;
        }
        for (_, _, asset) in lift.sheaves() {
            let wear = measured(&format!("{asset}-LIN"), &asset, "Liner wear", "mm", 0.0, 25.0);
            meters::add(tx, &NewMeter { longest_silence_seconds: Some(90 * 86_400), ..wear })?;
        }
        for n in (1..=lift.vehicles).filter(|_| lift.has_grips) {
            let asset = lift.grip_code(n);
            let slip = measured(&format!("{}-SLP", lift.vehicle_code(n)), &asset, "Slip force", "kN", 0.0, 40.0);
            meters::add(tx, &NewMeter { longest_silence_seconds: Some(200 * 86_400), ..slip })?;
        }
    }
    Ok(())
}
