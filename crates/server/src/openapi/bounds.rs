//! What fields may hold, as the description says it. Each is checked where the field is taken; a test goes beyond every
//! one of them.

use serde_json::{Map, Value, json};
use tally_core::ground::texts;

/// Fields whose texts are codes: a body's schema and the field.
const CODES: [(&str, &str); 6] = [
    ("NewAsset", "code"),
    ("NewMeter", "code"),
    ("NewCalendar", "code"),
    ("NewClass", "code"),
    ("Crew", "code"),
    ("Person", "code"),
];

/// Texts that can't be left empty.
const FILLED: [(&str, &str); 17] = [
    ("NewClass", "name"),
    ("Crew", "name"),
    ("Crew", "department"),
    ("Person", "name"),
    ("NewAsset", "name"),
    ("NewCalendar", "name"),
    ("Codebook", "name"),
    ("Settings", "name"),
    ("NewMeter", "unit"),
    ("NewWork", "title"),
    ("NewEntry", "description"),
    ("NewLadder", "reason"),
    ("FamilyLadder", "reason"),
    ("Move", "reason"),
    ("Voiding", "reason"),
    ("NewShelf", "reason"),
    ("NewOutOfUse", "reason"),
];

/// Everything else: of a field of a schema, what JSON Schema says of it.
fn others() -> [(&'static str, &'static str, Value); 40] {
    let hours = || json!({"minimum": 0, "maximum": 100_000});
    let not_negative = || json!({"minimum": 0});
    let above_nothing = || json!({"exclusiveMinimum": 0});
    let rank = || json!({"minimum": 1, "maximum": 5});
    [
        ("NewAsset", "replacement_value", not_negative()),
        ("NewAsset", "downtime_cost", not_negative()),
        ("NewValue", "value", not_negative()),
        ("NewDowntime", "slowed", json!({"exclusiveMinimum": 0, "exclusiveMaximum": 1})),
        ("DowntimeCorrection", "share", json!({"exclusiveMinimum": 0, "maximum": 1})),
        ("Settings", "headline_days", json!({"minimum": 1, "maximum": 365})),
        ("Settings", "stay_gap_days", json!({"minimum": 1, "maximum": 365})),
        ("Settings", "decide_within_days", json!({"minimum": 1, "maximum": 90})),
        ("Settings", "longest_list", json!({"minimum": 1, "maximum": 100_000})),
        ("Settings", "estimate_mark_percent", json!({"minimum": 1, "maximum": 10_000})),
        ("Person", "rate", not_negative()),
        ("Crew", "weekly_hours", hours()),
        ("NewWork", "estimated_hours", hours()),
        ("NewWork", "risk_rank", rank()),
        ("WorkChange", "estimated_hours", hours()),
        ("WorkChange", "risk_rank", rank()),
        ("Response", "estimated_hours", hours()),
        ("Response", "risk_rank", rank()),
        ("Response", "start_within_days", json!({"maximum": 3_650})),
        ("Rung", "deadband", not_negative()),
        ("NewMeter", "resolution", not_negative()),
        ("NewMeter", "rollover_at", above_nothing()),
        ("NewMeter", "greatest_rate", above_nothing()),
        ("NewTag", "tag", json!({"minLength": 1, "maxLength": 200})),
        ("NewWebhook", "secret", json!({"minLength": 16})),
        ("Reversal", "reason", json!({"minLength": 1})),
        ("PartMove", "quantity", above_nothing()),
        ("NewComment", "text", json!({"minLength": 1, "maxLength": 4_000})),
        ("Judgement", "judgement", json!({"minLength": 1})),
        ("CodeNode", "code", json!({"minLength": 1, "maxLength": 32})),
        ("CodeNode", "name", json!({"minLength": 1})),
        ("Settings", "currency", json!({"pattern": "^[A-Z]{3}$"})),
        ("Settings", "fiscal_month", json!({"minimum": 1, "maximum": 12})),
        ("Settings", "minor_digits", json!({"minimum": 0, "maximum": 4})),
        ("Settings", "rank_windows", json!({"minItems": 5, "maxItems": 5, "items": {"minimum": 1}})),
        ("Settings", "state_limits", json!({"maxItems": 100})),
        ("StateLimit", "days", json!({"minimum": 1})),
        ("StateLimit", "rank", rank()),
        ("WeeklyHours", "weekday", json!({"minimum": 0, "maximum": 6})),
        ("WeeklyHours", "to_minute", json!({"minimum": 1, "maximum": 1_440})),
    ]
}

/// A code as [`tally_core::plant::assets::parse_code`] takes it.
const CODE: &str = "^\\s*[A-Za-z0-9][A-Za-z0-9_.-]{0,63}\\s*$";

/// One line: no control characters (Unicode's Cc).
const ONE_LINE: &str = "^[^\\x00-\\x1f\\x7f-\\x9f]*$";

/// Says of every field of a body's schemas what it may hold.
pub(super) fn say(name: &str, schema: &mut Value) {
    texts_of(schema);
    let codes = CODES.iter().map(|(of, field)| (*of, *field, json!({"pattern": CODE, "maxLength": Value::Null})));
    let filled = FILLED.iter().map(|(of, field)| (*of, *field, json!({"minLength": 1})));
    for (_, field, bounds) in codes.chain(filled).chain(others()).filter(|(of, ..)| *of == name) {
        let said = field_of(schema, field).is_some_and(|field| {
            merge(field, &bounds);
            true
        });
        assert!(said, "the description has no field {field} of {name} any more");
    }
}

fn field_of<'a>(schema: &'a mut Value, field: &str) -> Option<&'a mut Value> {
    if schema["properties"].get(field).is_some() {
        return schema["properties"].get_mut(field);
    }
    schema.get_mut("allOf")?.as_array_mut()?.iter_mut().find_map(|part| field_of(part, field))
}

fn merge(into: &mut Value, bounds: &Value) {
    for (key, bound) in bounds.as_object().into_iter().flatten() {
        match bound {
            Value::Null => drop(into.as_object_mut().and_then(|into| into.remove(key))),
            Value::Object(_) => merge(&mut into[key], bound),
            _ => into[key] = bound.clone(),
        }
    }
}

/// How long texts may be, and which are one line.
fn texts_of(schema: &mut Value) {
    for (name, field) in schema.get_mut("properties").and_then(Value::as_object_mut).into_iter().flatten() {
        if let Some(field) = field.as_object_mut().filter(|field| is_text(field)) {
            let several = texts::takes_several_lines(name);
            let longest = if several { texts::LONGEST_TEXT } else { texts::LONGEST_LINE };
            field.entry("maxLength").or_insert(json!(longest));
            if !several {
                field.entry("pattern").or_insert(json!(ONE_LINE));
            }
        }
    }
    for part in ["allOf", "oneOf", "anyOf"] {
        schema.get_mut(part).and_then(Value::as_array_mut).into_iter().flatten().for_each(texts_of);
    }
}

fn is_text(field: &Map<String, Value>) -> bool {
    let is_string =
        |kind: &Value| kind == "string" || kind.as_array().is_some_and(|kinds| kinds.contains(&json!("string")));
    field.get("type").is_some_and(is_string) && !field.contains_key("format") && !field.contains_key("enum")
}
