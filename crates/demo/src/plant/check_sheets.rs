//! Check sheets: what is looked at, and what an answer raises.

use crate::drawings;
use std::collections::BTreeMap;
use tally_core::work::check_sheets::CheckSheet;
use tally_store::{Result, StoreError, Tx, ground::files::Files, work::checks};

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

/// Pictures that help, by sheet and question: how it should look.
fn pictures(tx: &mut Tx, files: &Files) -> Result<[(&'static str, &'static str, String); 2]> {
    let glass = drawings::send(tx, files, &drawings::sight_glass(0.5))?;
    let dial = drawings::send(tx, files, &drawings::dial(0.5))?;
    Ok([("DRIVE-LOOK", "oil-level", glass.file), ("TENSION-LOOK", "pressure", dial.file)])
}

/// Writes them all.
pub fn add(tx: &mut Tx, files: &Files) -> Result<()> {
    let sheets: Result<BTreeMap<String, CheckSheet>, _> = serde_json::from_str(SHEETS);
    let mut sheets = sheets.map_err(|error| StoreError::invalid("check_sheets", error))?;
    for (code, key, file) in pictures(tx, files)? {
        let questions = sheets.get_mut(code).into_iter().flat_map(|sheet| &mut sheet.questions);
        questions.filter(|question| question.key == key).for_each(|question| question.picture = Some(file.clone()));
    }
    sheets.iter().try_for_each(|(code, sheet)| checks::put(tx, code, sheet))
}
