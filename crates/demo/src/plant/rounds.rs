//! Rounds: what is visited regularly, in which order, and what is looked at there.

use super::lifts::Lift;
use tally_core::{
    ground::status::Status,
    work::{JobSheet, JobStep, WorkKind, rounds::Walk},
};
use tally_store::{Result, Tx, work::job_sheets};

/// The round of the machines of the first lift.
pub const MACHINES: &str = "ROUND-MACHINES";
/// The round of what is electric on all lifts.
pub const ELECTRIC: &str = "ROUND-ELECTRIC";

/// Suffix of the asset, what to look at where that is not said by a sheet, hours.
const OF_MACHINES: &[(&str, &str, f64)] = &[
    ("DRV-GBX", "", 0.4),
    ("DRV-SBR", "", 0.5),
    ("DRV-AUX", "", 0.4),
    ("TEN", "", 0.4),
    ("LIN-ROP", "", 0.6),
    ("RET-GAT", "Gate opens, closes and locks; nothing rubs", 0.2),
];

/// Writes both.
pub fn add(tx: &mut Tx, lifts: &[Lift]) -> Result<()> {
    let visit = |asset: String, text: &str, hours| JobStep {
        asset: Some(asset),
        text: text.into(),
        hours: Some(hours),
        ..JobStep::default()
    };
    let machines = OF_MACHINES.iter().map(|(suffix, text, hours)| visit(lifts[0].at(suffix), text, *hours));
    let electric = lifts.iter().flat_map(|lift| {
        let filters = JobStep { job_sheet: Some("AIR-FILTERS".into()), ..visit(lift.at("DRV-CNV"), "", 1.0) };
        [filters, visit(lift.at("DRV-CTL-UPS"), "Write down the charge; no fault shown", 0.2)]
    });
    let title = format!("Weekly round of the {}", lifts[0].name);
    put(tx, MACHINES, &title, Walk::InOrder, "mech", machines.collect())?;
    put(tx, ELECTRIC, "Round of converters and battery supplies", Walk::AnyOrder, "elec", electric.collect())
}

fn put(tx: &mut Tx, code: &str, title: &str, walk: Walk, crew: &str, steps: Vec<JobStep>) -> Result<()> {
    let round = JobSheet {
        title: title.into(),
        status: Status::Active,
        text: String::new(),
        kind: Some(WorkKind::Inspection),
        risk_rank: Some(4),
        trade: None,
        crew: Some(crew.into()),
        estimated_hours: None,
        steps,
        parts: Vec::new(),
        tools: Vec::new(),
        permits: Vec::new(),
        needs_outage: false,
        check_sheets: Vec::new(),
        round: Some(walk),
    };
    job_sheets::put(tx, code, &round)
}
