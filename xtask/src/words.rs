//! Words of the API that the web goes through in their order: written from the description, so that no list of them is kept
//! twice.

use anyhow::{Context, Result};
use serde_json::Value;
use std::fmt::Write;

/// Enums of the description that the web needs as lists, by the name of the list.
const LISTS: [(&str, &str); 4] =
    [("severities", "Severity"), ("rowKinds", "TallyRowKind"), ("levels", "Level"), ("roles", "Role")];

/// The module with the lists.
pub fn module(description: &str) -> Result<String> {
    let description: Value = serde_json::from_str(description)?;
    let mut text = String::from(
        "// Generated from the description of the API.\nimport type { components } from './api'\n\ntype Schemas = components['schemas']\n",
    );
    for (list, schema) in LISTS {
        let words =
            words(&description["components"]["schemas"][schema]).with_context(|| format!("{schema} lists no words"))?;
        let words: Vec<String> = words.iter().map(|word| format!("'{word}'")).collect();
        write!(text, "\nexport const {list}: readonly Schemas['{schema}'][] = [{}]\n", words.join(", "))?;
    }
    Ok(text)
}

/// The words of an enum, whether they stand together or each with its description.
fn words(schema: &Value) -> Option<Vec<&str>> {
    match (&schema["enum"], &schema["oneOf"]) {
        (Value::Array(words), _) => words.iter().map(Value::as_str).collect(),
        (_, Value::Array(parts)) => parts.iter().map(|part| part["enum"][0].as_str()).collect(),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_committed_lists_are_those_of_the_description() {
        let description = include_str!("../../web/src/generated/openapi.json");
        assert_eq!(module(description).unwrap(), include_str!("../../web/src/generated/words.ts"));
    }
}
