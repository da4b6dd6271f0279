//! What imports what in this repository, read from the sources: for the rules of the house (`docs/architecture.md`).

use crate::{rust, web};
use anyhow::Result;
use std::{
    collections::{BTreeMap, BTreeSet},
    path::Path,
};

/// Files by their path from the root of the repository, and who takes what from whom. A re-export is a signpost, not an
/// arrow: who imports through it has an arrow to the file where the thing stands. Tests inside files are left out.
#[derive(Debug, Default)]
pub struct House {
    arrows: BTreeMap<(String, String), BTreeSet<String>>,
}

impl House {
    /// Reads the crates and the web below `root`.
    ///
    /// # Errors
    /// A source that can't be read or parsed.
    pub fn read(root: &Path) -> Result<Self> {
        let mut house = Self::default();
        rust::read(root, &mut house)?;
        web::read(root, &mut house)?;
        Ok(house)
    }

    /// Takes an import down; nothing where a file takes from itself.
    pub fn arrow(&mut self, from: &str, to: &str, name: &str) {
        if from != to {
            self.arrows.entry((from.into(), to.into())).or_default().insert(name.into());
        }
    }

    /// Who imports whom.
    pub fn arrows(&self) -> impl Iterator<Item = (&str, &str)> {
        self.arrows.keys().map(|(from, to)| (from.as_str(), to.as_str()))
    }

    /// Groups of files that reach each other by imports, each with its arrows in words; largest first.
    #[must_use]
    pub fn circles(&self) -> Vec<Vec<String>> {
        let mut of: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
        for (from, to) in self.arrows() {
            of.entry(from).or_default().push(to);
        }
        let reach: BTreeMap<&str, BTreeSet<&str>> = of.keys().map(|file| (*file, reached(&of, file))).collect();
        let mut seen = BTreeSet::new();
        let mut circles = Vec::new();
        for file in of.keys().filter(|file| reach[**file].contains(**file)) {
            if !seen.insert(*file) {
                continue;
            }
            let back = |other: &&&str| reach.get(**other).is_some_and(|reached| reached.contains(file));
            let circle: BTreeSet<&str> = reach[file].iter().filter(back).copied().collect();
            seen.extend(&circle);
            let inside = |(from, to): &(&str, &str)| circle.contains(from) && circle.contains(to);
            let words = self.arrows().filter(inside).map(|(from, to)| {
                let names: Vec<_> = self.arrows[&(from.into(), to.into())].iter().map(String::as_str).collect();
                format!("{from} -> {to}: {}", names.join(", "))
            });
            circles.push(words.collect::<Vec<_>>());
        }
        circles.sort_by_key(|circle| std::cmp::Reverse(circle.len()));
        circles
    }
}

/// All that a file reaches, itself only where it is in a circle.
fn reached<'a>(of: &BTreeMap<&'a str, Vec<&'a str>>, file: &str) -> BTreeSet<&'a str> {
    let mut reached = BTreeSet::new();
    let mut ahead: Vec<&str> = of.get(file).into_iter().flatten().copied().collect();
    while let Some(next) = ahead.pop() {
        if reached.insert(next) {
            ahead.extend(of.get(next).into_iter().flatten());
        }
    }
    reached
}
