//! The rules of the house, read from its sources: `docs/architecture.md` says them in words.

mod imports;
mod length;
mod rust;
mod sql;
mod web;
mod words;

use imports::House;
use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().expect("xtask lies in the repository").into()
}

fn house() -> House {
    House::read(&root()).expect("the sources can be read")
}

/// Arrows from one folder to another, where the check says what is wrong with them.
fn wrong(check: impl Fn(&str, &str) -> bool) -> Vec<String> {
    let house = house();
    assert!(house.arrows().count() > 1_000, "the imports are not read");
    house.arrows().filter(|(from, to)| check(from, to)).map(|(from, to)| format!("{from} -> {to}")).collect()
}

/// The folder below a crate's `src` in which a file lies; none for one of another crate or of the top.
fn folder_of<'a>(file: &'a str, krate: &str) -> Option<&'a str> {
    let (folder, _) = file.strip_prefix(&format!("crates/{krate}/src/"))?.split_once('/')?;
    Some(folder)
}

#[test]
fn no_files_import_each_other_in_a_circle() {
    let circles = house().circles();
    assert!(circles.is_empty(), "{circles:#?}");
}

/// Core's folders in the order in which they stand on each other.
const FLOORS: [&str; 11] =
    ["ground", "stats", "access", "work", "plant", "codes", "watch", "facts", "tally", "lists", "outside"];

#[test]
fn no_folder_of_core_looks_up() {
    let floor = |file: &str| {
        let folder = folder_of(file, "core")?;
        Some(FLOORS.iter().position(|name| *name == folder).unwrap_or_else(|| panic!("{folder} has no floor")))
    };
    let up = wrong(|from, to| floor(from).zip(floor(to)).is_some_and(|(from, to)| from < to));
    assert!(up.is_empty(), "{up:#?}");
}

#[test]
fn the_ground_stands_on_nothing() {
    for krate in ["store", "server"] {
        let up = wrong(|from, to| {
            folder_of(from, krate) == Some("ground") && folder_of(to, krate).is_some_and(|folder| folder != "ground")
        });
        assert!(up.is_empty(), "{up:#?}");
    }
}

#[test]
fn workspaces_of_the_web_do_not_know_each_other() {
    let workspace = |file: &str| -> Option<String> {
        let (workspace, _) = file.strip_prefix("web/src/")?.split_once('/')?;
        Some(workspace.into())
    };
    let across = wrong(|from, to| {
        let (Some(from), Some(to)) = (workspace(from), workspace(to)) else { return false };
        from != to && to != "common" && to != "generated"
    });
    assert!(across.is_empty(), "{across:#?}");
}

#[test]
fn sql_stands_in_store_alone() {
    let found = sql::outside_store(&root()).expect("the sources can be read");
    assert!(found.is_empty(), "{found:#?}");
}

#[test]
fn no_rule_of_the_job_is_listed_in_typescript() {
    let found = words::lists(&root()).expect("the sources can be read");
    assert!(found.is_empty(), "{found:#?}");
}

#[test]
fn no_file_is_long_without_a_reason() {
    let (found, looked_at) = length::too_long(&root()).expect("the sources can be read");
    assert!(looked_at > 500, "only {looked_at} files are read");
    assert!(found.is_empty(), "{found:#?}");
}
