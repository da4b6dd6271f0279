//! Backups of a folder of data, and whether it is sound.

use anyhow::{Context, Result, bail};
use fair_tally::Clock;
use std::path::Path;
use tally_store::outside::{backup, check};

/// The database in a folder of data.
fn database(data: &Path) -> Result<std::path::PathBuf> {
    let database = data.join("fair-tally.db");
    if !database.exists() {
        bail!("there is no data in {}", data.display());
    }
    Ok(database)
}

pub fn make(file: &Path, data: &Path) -> Result<()> {
    let made = backup::make(&database(data)?, file, Clock::system().now())
        .with_context(|| format!("making {}", file.display()))?;
    println!(
        "{}: {} bytes of data as of change {}, sha256 {}, and {} files",
        file.display(),
        made.bytes,
        made.change,
        made.sha256,
        made.files
    );
    if made.lost > 0 {
        println!("{} files that it names were lost before: `fair-tally check` says which", made.lost);
    }
    Ok(())
}

pub fn restore(file: &Path, data: &Path) -> Result<()> {
    let made = backup::restore(file, data)?;
    println!("{}: {} bytes of data as of {}", data.display(), made.bytes, made.made_at);
    Ok(())
}

pub fn check(data: &Path) -> Result<()> {
    let mut faults = 0;
    for checked in check::check(&database(data)?)? {
        let word = if checked.faults.is_empty() { "ok" } else { "NOT SOUND" };
        println!("{}: {word}", checked.what);
        checked.faults.iter().for_each(|fault| println!("  {fault}"));
        faults += checked.faults.len();
    }
    match faults {
        0 => Ok(()),
        faults => bail!("{faults} faults were found"),
    }
}
