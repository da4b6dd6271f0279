//! Imports of the web: of TypeScript and of components. Types that are generated are nobody's arrow.

use crate::imports::House;
use anyhow::{Context, Result};
use regex::Regex;
use std::{collections::BTreeMap, path::Path};
use walkdir::WalkDir;

/// Sources below `web/src`, by their path from there, without tests and what is generated.
pub fn sources(root: &Path) -> Result<BTreeMap<String, String>> {
    let source = root.join("web/src");
    let mut sources = BTreeMap::new();
    for entry in WalkDir::new(&source) {
        let entry = entry?;
        let path = entry.path().strip_prefix(&source)?.to_string_lossy().into_owned();
        let is_source = (path.ends_with(".ts") && !path.ends_with(".test.ts")) || path.ends_with(".vue");
        if entry.file_type().is_file() && is_source && !path.starts_with("generated/") {
            let text = std::fs::read_to_string(entry.path()).with_context(|| path.clone())?;
            sources.insert(path, text);
        }
    }
    Ok(sources)
}

pub fn read(root: &Path, house: &mut House) -> Result<()> {
    let imports = Regex::new(r#"(?m)(?:\bfrom|\bimport\()\s*['"]([@.][^'"]*)['"]|^import\s+['"]([@.][^'"]*)['"]"#)?;
    let sources = sources(root)?;
    for (file, text) in &sources {
        for found in imports.captures_iter(text) {
            let path = found.get(1).or(found.get(2)).map_or("", |path| path.as_str());
            if let Some(to) = aim(file, path, &sources) {
                house.arrow(&format!("web/src/{file}"), &format!("web/src/{to}"), path);
            }
        }
    }
    Ok(())
}

/// The file that an import of `path` in `file` means.
fn aim(file: &str, path: &str, sources: &BTreeMap<String, String>) -> Option<String> {
    let mut names: Vec<&str> = Vec::new();
    match path.strip_prefix("@/") {
        Some(path) => names.extend(path.split('/')),
        None => {
            names.extend(file.split('/'));
            names.pop();
            for name in path.split('/') {
                match name {
                    "." => {}
                    ".." => _ = names.pop(),
                    name => names.push(name),
                }
            }
        }
    }
    let whole = names.join("/");
    [whole.clone(), format!("{whole}.ts"), format!("{whole}/index.ts")]
        .into_iter()
        .find(|path| sources.contains_key(path))
}
