//! Job sheets: what is done again and again, step by step.

use super::{check_sheets, rounds};
use tally_core::{
    ground::status::Status,
    work::{JobPart, JobSheet, JobStep},
};
use tally_store::{Result, Tx, work::job_sheets};

/// Code, title, trade, permits, steps with their hours, parts, tools.
type Sheet = (
    &'static str,
    &'static str,
    &'static str,
    &'static [&'static str],
    &'static [(&'static str, f64)],
    &'static [(&'static str, f64)],
    &'static [&'static str],
);

const ISOLATED: &[&str] = &["Drive locked out and tagged", "Rescue drive disconnected"];

const SHEETS: &[Sheet] = &[
    (
        "TENSION-SEALS",
        "Renew a tension cylinder's seals",
        "Hydraulics",
        &["Rope tension taken over by the tackle"],
        &[
            ("Take the rope's tension over with the tackle", 2.0),
            ("Take the cylinder out and apart", 3.0),
            ("Renew the seals; look over rod and bore", 3.0),
            ("Put it back, bleed it, set the tension", 2.0),
            ("Watch it for drift over an hour", 1.0),
        ],
        &[("Seal kit", 1.0), ("Hose, 2 m, crimped", 1.0)],
        &["Chain tackle", "Seal pullers"],
    ),
    (
        "BRAKE-OVERHAUL",
        "Overhaul a brake",
        "Fitter, brakes",
        ISOLATED,
        &[
            ("Take the weight off the rope and secure the bullwheel", 3.0),
            ("Take the brake apart, clean and look over every part", 6.0),
            ("Measure pads, discs and springs; write the values down", 2.0),
            ("Renew pads and seals", 5.0),
            ("Put it together and set the gap", 5.0),
            ("Bleed the cylinder", 1.0),
            ("Test empty: time to close, stopping distance", 2.0),
        ],
        &[("Set of brake pads", 1.0), ("Seal kit", 1.0)],
        &["Torque wrench to 400 Nm", "Feeler gauges", "Lifting beam"],
    ),
    (
        "PUMP-FILTER",
        "Change a pump's filter",
        "Hydraulics",
        &["Other pump running", "Line without pressure"],
        &[
            ("Close the valves and let the pressure off", 0.5),
            ("Change the filter element and the seal", 1.5),
            ("Open the valves, bleed, look for leaks under pressure", 1.0),
        ],
        &[("Filter elements", 1.0)],
        &["Drip tray"],
    ),
    (
        "OIL-FILTER",
        "Change a gearbox's oil filter",
        "Fitter",
        &["Drive locked out and tagged"],
        &[
            ("Let the oil cool below 40 °C", 1.0),
            ("Change the filter; cut the old one open and look for metal", 3.0),
            ("Fill up, run for half an hour, look at the level again", 2.0),
        ],
        &[("Filter elements", 1.0)],
        &["Filter cutter"],
    ),
    (
        "SAFETY-CIRCUITS",
        "Test the safety circuits",
        "Electrician",
        &["Lift closed to the public"],
        &[
            ("Trip every emergency stop by hand", 8.0),
            ("Trip every position switch on the line", 12.0),
            ("Measure the time from trip to brake", 4.0),
            ("Compare with last year's values", 2.0),
            ("Write the protocol", 2.0),
        ],
        &[],
        &["Recorder", "Test plug"],
    ),
    (
        "ROPE-GREASE",
        "Clean and grease a haul rope",
        "Rope hand",
        &["Lift closed to the public", "Radio checked"],
        &[
            ("Mount brush and spreader at the return station", 4.0),
            ("Run at 0.5 m/s along the whole length, brushing", 14.0),
            ("The same, greasing", 12.0),
            ("Take brush and spreader off, clean up", 2.0),
        ],
        &[("Rope grease, 20 kg", 3.0)],
        &["Brush", "Grease spreader"],
    ),
    (
        "AIR-FILTERS",
        "Change a converter's air filters",
        "Electrician",
        &["Converter without voltage"],
        &[("Change the filter mats", 1.0), ("Clean the fan and listen to its bearing", 0.5)],
        &[("Filter mats", 2.0)],
        &["Vacuum cleaner"],
    ),
    (
        "ANCHOR-BOLTS",
        "Tighten anchor bolts",
        "Fitter",
        &["Drive locked out and tagged"],
        &[
            ("Look for cracks in the foundation", 0.5),
            ("Tighten crosswise to the torque on the plate", 3.0),
            ("Mark what turned by more than a quarter", 0.5),
        ],
        &[],
        &["Torque wrench to 1000 Nm"],
    ),
    (
        "RESCUE-ENGINE",
        "Service a rescue engine",
        "Fitter, engines",
        &["Fuel shut off"],
        &[
            ("Change oil and filters", 4.0),
            ("Check belts, hoses and battery", 3.0),
            ("Run under load for an hour", 3.0),
            ("Fill up with fuel", 2.0),
        ],
        &[("Engine oil, 20 l", 1.0), ("Filter elements", 2.0)],
        &[],
    ),
];

/// The sheet that a plan goes by, by the suffix of its code.
pub fn of_plan(suffix: &str) -> &'static str {
    match suffix {
        "SBR" | "EBR" => "BRAKE-OVERHAUL",
        "FLT-A" | "FLT-B" => "PUMP-FILTER",
        "GBXFLT" => "OIL-FILTER",
        "SAFETY" => "SAFETY-CIRCUITS",
        "ROPE" => "ROPE-GREASE",
        "MATS" => "AIR-FILTERS",
        "BOLTS" => "ANCHOR-BOLTS",
        "AUX" => "RESCUE-ENGINE",
        "MACHINES" => rounds::MACHINES,
        "ELECTRIC" => rounds::ELECTRIC,
        _ => "",
    }
}

/// The sheet of work that piled up, by its title.
#[must_use]
pub fn of_pile(title: &str) -> Option<&'static str> {
    match title {
        "Renew the seals of the tension cylinder" => Some("TENSION-SEALS"),
        "Replace the worn guide of the service brake" => Some("BRAKE-OVERHAUL"),
        _ => None,
    }
}

/// Writes them all.
pub fn add(tx: &mut Tx) -> Result<()> {
    for &(code, title, trade, permits, steps, parts, tools) in SHEETS {
        let texts = |texts: &[&str]| texts.iter().map(|text| (*text).to_owned()).collect();
        let step =
            |(text, hours): &(&str, f64)| JobStep { text: (*text).into(), hours: Some(*hours), ..JobStep::default() };
        let part = |(item, quantity): &(&str, f64)| JobPart { item: (*item).into(), quantity: *quantity };
        let sheet = JobSheet {
            title: title.into(),
            status: Status::Active,
            text: String::new(),
            kind: None,
            risk_rank: None,
            trade: Some(trade.into()),
            crew: None,
            estimated_hours: None,
            steps: steps.iter().map(step).collect(),
            parts: parts.iter().map(part).collect(),
            tools: texts(tools),
            permits: texts(permits),
            // What locks the drive out stops the lift.
            needs_outage: permits.contains(&ISOLATED[0]),
            check_sheets: check_sheets::of_job(code).map(String::from).into_iter().collect(),
            round: None,
        };
        job_sheets::put(tx, code, &sheet)?;
    }
    Ok(())
}
