//! Statements in SQL that stand where they should not.

use crate::rust::is_test;
use anyhow::{Context, Result};
use regex::Regex;
use std::path::Path;
use syn::visit::Visit;
use walkdir::WalkDir;

/// Crates whose code, tests aside, holds no SQL. Those that only test and measure count with it a second way.
const WITHOUT: [&str; 3] = ["core", "demo", "server"];

/// Texts that read like a statement, with their files.
pub fn outside_store(root: &Path) -> Result<Vec<String>> {
    let statement = Regex::new(r"(?s)\b(SELECT\b.+\bFROM|INSERT\b.*\bINTO|DELETE\s+FROM|UPDATE\s+\w+\s+SET|PRAGMA)\b")?;
    let mut found = Vec::new();
    for krate in WITHOUT {
        for entry in WalkDir::new(root.join("crates").join(krate).join("src")) {
            let entry = entry?;
            if entry.path().extension().is_none_or(|ending| ending != "rs") {
                continue;
            }
            let text = std::fs::read_to_string(entry.path())?;
            let parsed = syn::parse_file(&text).with_context(|| entry.path().display().to_string())?;
            let mut texts = Texts(Vec::new());
            texts.visit_file(&parsed);
            let sql = texts.0.into_iter().filter(|text| statement.is_match(text));
            found.extend(sql.map(|text| format!("{}: {text}", entry.path().display())));
        }
    }
    Ok(found)
}

/// Texts of a file, without its tests.
struct Texts(Vec<String>);

impl<'ast> Visit<'ast> for Texts {
    fn visit_item_mod(&mut self, module: &'ast syn::ItemMod) {
        if !is_test(&module.attrs) {
            syn::visit::visit_item_mod(self, module);
        }
    }

    fn visit_lit_str(&mut self, text: &'ast syn::LitStr) {
        self.0.push(text.value());
    }
}
