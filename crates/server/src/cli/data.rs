//! Files in and out of a folder of data.

use super::access::at_hand;
use anyhow::{Context, Result};
use fair_tally::{
    Clock,
    outside::{
        files::{self, Doing, FileKind, Parsed},
        format::Format,
    },
};
use std::{
    io::IsTerminal,
    path::{Path, PathBuf},
};
use tally_core::ground::{calendar::zone, time::Instant};
use tally_store::{Actor, Store, access::people, plant::settings};

/// Whose data, and on whose behalf.
#[derive(Debug, clap::Args)]
pub struct On {
    /// Folder of the data.
    #[arg(long, env = "FAIR_TALLY_DATA")]
    data: PathBuf,
    /// Code of the person who acts; the command line itself without it.
    #[arg(long)]
    person: Option<String>,
}

/// The data of an installation and who acts on it, at the instant it is there.
fn acting(on: &On) -> Result<(Store, Actor, Instant)> {
    let (store, itself, now) = at_hand(&on.data)?;
    let named = on.person.as_ref().map(|code| store.read(now, |view| people::by_code(view, code)));
    Ok((store, named.transpose()?.unwrap_or(itself), now))
}

pub fn import(kind: FileKind, file: &Path, on: &On, keep: bool, time_zone: Option<&str>) -> Result<()> {
    let bytes = std::fs::read(file).with_context(|| format!("reading {}", file.display()))?;
    let (store, actor, now) = acting(on)?;
    let format = format_of(Some(file));
    let name = file.file_name().map(|name| name.to_string_lossy().into_owned());
    let zone = match time_zone {
        Some(name) => zone(name)?,
        None => store.read(now, |view| settings::time_zone(view))?,
    };
    let import = files::Import { kind, format, zone: Some(zone), name };
    let started = std::time::Instant::now();
    let is_watched = std::io::stderr().is_terminal();
    let parsed = Parsed::of(&import, &bytes)?;
    let doing = Doing { actor, clock: &Clock::standing_at(now) };
    let taken = files::import(&store, &doing, &import, parsed, !keep, &mut |done, all| {
        if is_watched {
            eprint!("\r{done} of {all} rows");
        }
        true
    })?;
    if is_watched {
        eprintln!();
    }
    let receipt = &taken.receipt;
    print!("{}", receipt.to_csv());
    let would = if keep { "" } else { "would be " };
    let seconds = started.elapsed().as_secs_f64();
    eprintln!(
        "{} rows: {would}{} added, {} changed, {} unchanged, {} refused, in {seconds:.1} s",
        receipt.rows, receipt.added, receipt.changed, receipt.unchanged, receipt.refused
    );
    if !receipt.also_added.is_empty() {
        eprintln!("also {would}added: {}", receipt.also_added.join(", "));
    }
    if !receipt.ignored_columns.is_empty() {
        eprintln!("columns that mean nothing here: {}", receipt.ignored_columns.join(", "));
    }
    if !keep {
        eprintln!("this was a trial run; add --keep to keep it");
    }
    let refused = if receipt.refused == 1 { "row was" } else { "rows were" };
    anyhow::ensure!(receipt.refused == 0, "{} {refused} refused; the lines above say why", receipt.refused);
    Ok(())
}

pub fn export(kind: FileKind, file: Option<&Path>, on: &On) -> Result<()> {
    let (store, _, now) = acting(on)?;
    let form = format_of(file);
    let exported = store.read(now, |view| files::export_aside(view, kind, &files::Export::default(), form))?;
    let mut written = exported.file;
    match file {
        None => std::io::copy(&mut written, &mut std::io::stdout()).context("writing"),
        Some(file) => std::fs::File::create(file)
            .and_then(|mut to| std::io::copy(&mut written, &mut to))
            .with_context(|| format!("writing {}", file.display())),
    }
    .map(|_bytes| ())?;
    anyhow::ensure!(
        exported.unreadable.is_empty(),
        "can't be read, and are missing: {}",
        exported.unreadable.join(", ")
    );
    Ok(())
}

/// What a file's ending says of its form; CSV where it says nothing.
fn format_of(file: Option<&Path>) -> Format {
    let ending = file.and_then(Path::extension).and_then(|ending| ending.to_str());
    ending.and_then(Format::of_ending).unwrap_or(Format::Csv)
}
