//! Lists of words in TypeScript that the server knows: three and more words of one enum of the API in one list.

use crate::web::sources;
use anyhow::{Context, Result};
use regex::Regex;
use serde_json::Value;
use std::{
    collections::{BTreeMap, BTreeSet},
    path::Path,
};

/// Where such lists stand.
pub fn lists(root: &Path) -> Result<Vec<String>> {
    let description = std::fs::read_to_string(root.join("web/src/generated/openapi.json"))?;
    let description: Value = serde_json::from_str(&description)?;
    let schemas = description["components"]["schemas"].as_object().context("no schemas")?;
    let mut enums: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for (name, schema) in schemas {
        words(schema, enums.entry(name).or_default());
    }
    let list = Regex::new(r"\[\s*((?:'[a-z_]+'\s*,?\s*){3,})\]")?;
    let mut found = Vec::new();
    for (file, text) in sources(root)? {
        for listed in list.captures_iter(&text) {
            let listed: BTreeSet<&str> = listed[1].split('\'').skip(1).step_by(2).collect();
            let of = enums.iter().find(|(_, words)| listed.len() > 2 && listed.is_subset(words));
            found.extend(of.map(|(name, _)| format!("{file}: {listed:?} of {name}")));
        }
    }
    Ok(found)
}

/// The words of all enums in a schema.
fn words<'a>(schema: &'a Value, all: &mut BTreeSet<&'a str>) {
    match schema {
        Value::Object(fields) => {
            if let Some(Value::Array(listed)) = fields.get("enum") {
                all.extend(listed.iter().filter_map(Value::as_str));
            }
            fields.values().for_each(|field| words(field, all));
        }
        Value::Array(parts) => parts.iter().for_each(|part| words(part, all)),
        _ => {}
    }
}
