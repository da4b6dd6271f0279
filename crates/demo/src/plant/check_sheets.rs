//! Check sheets: what is looked at, and what an answer raises.

use std::collections::BTreeMap;
use tally_core::work::check_sheets::CheckSheet;
use tally_store::{Result, StoreError, Tx, work::checks};

const SHEETS: &str = include_str!("check_sheets.json");

/// The check sheet that goes with a job.
#[must_use]
pub fn of_job(job: &str) -> Option<&'static str> {
    match job {
        "BRAKE-OVERHAUL" => Some("BRAKE-CHECK"),
        "ROPE-GREASE" => Some("ROPE-LOOK"),
        "RESCUE-ENGINE" => Some("RESCUE-TEST"),
        _ => None,
    }
}

/// The check sheet of routine work by its title, and what is checked below its asset.
#[must_use]
pub fn of_routine(title: &str) -> Option<(&'static str, &'static str)> {
    match title {
        "Weekly walk through the drive station" => Some(("DRIVE-LOOK", "-GBX")),
        "Examine the haul rope by eye" => Some(("ROPE-LOOK", "")),
        "Monthly look at the tension unit" => Some(("TENSION-LOOK", "")),
        "Monthly test of the service brake" | "Monthly test of the emergency brake" => Some(("BRAKE-CHECK", "")),
        "Test run of the rescue drive" => Some(("RESCUE-TEST", "")),
        _ => None,
    }
}

/// Writes them all.
pub fn add(tx: &mut Tx) -> Result<()> {
    let sheets: Result<BTreeMap<String, CheckSheet>, _> = serde_json::from_str(SHEETS);
    let sheets = sheets.map_err(|error| StoreError::invalid("check_sheets", error))?;
    sheets.iter().try_for_each(|(code, sheet)| checks::put(tx, code, sheet))
}
