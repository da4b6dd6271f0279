//! What every operation may refuse with: said in the description as it is done at the door and in the extractors, in one
//! place.

use super::bounds;
use serde_json::{Value, json};

/// Status and what it means here.
fn refusals(method: &str) -> Vec<(u16, &'static str)> {
    let mut all = vec![
        (400, "A parameter, a header or the path makes no sense; `errors` names it."),
        (401, "Nobody is signed in, or the password was given too long ago for this; `needs` says which."),
        (403, "The person's role, or the page it is sent from, may not do this."),
        (421, "The server is not asked by one of its names."),
        (500, "A defect; the server's log says what."),
        (503, "It took too long and was ended, or the server is too busy."),
    ];
    all.push((429, "It is asked too often; `retry-after` says when it may be again."));
    all.push((404, "Something that is named is not there."));
    if method != "get" {
        all.extend([
            (408, "The body did not arrive in time."),
            (409, "It contradicts what is there, such as a code that is taken."),
            (413, "The body is larger than is taken here."),
            (415, "The content type is not taken here."),
            (507, "The disk is full; nothing was kept."),
        ]);
    }
    all.push((422, "A field does not fit; `errors` names it and why. Nothing was kept."));
    all.sort_unstable();
    all
}

fn problem(meaning: &str) -> Value {
    let schema = json!({"$ref": "#/components/schemas/Problem"});
    json!({"description": meaning, "content": {"application/problem+json": {"schema": schema}}})
}

/// Adds to each operation what it may refuse with. Each refusal stands once, and operations name it.
fn add_refusals(description: &mut Value) {
    for (status, meaning) in refusals("put") {
        description["components"]["responses"][format!("Refused{status}")] = problem(meaning);
    }
    let Some(paths) = description["paths"].as_object_mut() else { return };
    for methods in paths.values_mut() {
        for (method, operation) in methods.as_object_mut().into_iter().flatten() {
            let Some(responses) = operation["responses"].as_object_mut() else { continue };
            for (status, _) in refusals(method) {
                let named = json!({"$ref": format!("#/components/responses/Refused{status}")});
                responses.entry(status.to_string()).or_insert(named);
            }
        }
    }
}

/// Names of the schemas that bodies hold, and all that those hold.
fn sent(description: &Value) -> std::collections::BTreeSet<String> {
    fn names(value: &Value, found: &mut Vec<String>) {
        match value {
            Value::Object(fields) => {
                if let Some(name) = fields.get("$ref").and_then(Value::as_str).and_then(|path| path.rsplit('/').next())
                {
                    found.push(name.into());
                }
                fields.values().for_each(|value| names(value, found));
            }
            Value::Array(values) => values.iter().for_each(|value| names(value, found)),
            _ => {}
        }
    }
    let mut open = Vec::new();
    for operation in description["paths"].as_object().into_iter().flat_map(|paths| paths.values()) {
        operation.as_object().into_iter().flatten().for_each(|(_, one)| names(&one["requestBody"], &mut open));
    }
    let mut all = std::collections::BTreeSet::new();
    while let Some(name) = open.pop() {
        if all.insert(name.clone()) {
            names(&description["components"]["schemas"][&name], &mut open);
        }
    }
    all
}

/// Completes a description that was generated from the handlers.
pub fn complete(description: &mut Value) {
    add_refusals(description);
    for name in sent(description) {
        bounds::say(&name, &mut description["components"]["schemas"][&name]);
    }
}
