//! The whole API asked nonsense, made from its own description: whatever is sent, the answer is one that the description
//! names, an error is problem details, and nothing fails or panics. `FUZZ_REQUESTS` and `FUZZ_SEED` ask for more, and others.

use crate::caller::Caller;
use serde_json::{Map, Value, json};

const REQUESTS: usize = 20_000;

/// Texts that have broken programs before.
const NASTY: [&str; 24] = [
    "",
    " ",
    "\0",
    "\n",
    "a\r\nb: c",
    "'",
    "\"; DROP TABLE assets; --",
    "../../etc/passwd",
    "%00",
    "\u{202e}",
    "ü",
    "🜚",
    "9223372036854775808",
    "-1",
    "1e999",
    "NaN",
    "0x10",
    "null",
    "2026-13-45T99:00:00Z",
    "0001-01-01T00:00:00Z",
    "9999-12-31T23:59:59Z",
    "=1+1",
    "a,b,c",
    "~!@#$%^&*()[]{}|\\;:<>?/",
];

/// Texts that name something, or say something that is understood.
const KNOWN: [&str; 28] = [
    "P1",
    "SITE",
    "BAR",
    "pump",
    "pumps",
    "planner",
    "technician",
    "1001",
    "1",
    "0",
    "2026",
    "2026-02",
    "this_month",
    "2026-02-01T00:00:00Z",
    "2026-02-03T00:00:00Z",
    "alert",
    "high",
    "record",
    "raise",
    "open",
    "raised",
    "corrective",
    "assets.csv",
    "readings.ndjson",
    "assets",
    "meters",
    "cost_total",
    "yes",
];

struct Maker {
    random: fastrand::Rng,
    description: Value,
}

impl Maker {
    fn text(&mut self) -> String {
        match self.random.u8(..10) {
            0..5 => self.random.choice(KNOWN).unwrap_or_default().into(),
            5..9 => self.random.choice(NASTY).unwrap_or_default().into(),
            _ => "x".repeat(self.random.usize(..3_000)),
        }
    }

    fn number(&mut self) -> Value {
        match self.random.u8(..8) {
            0 => json!(i64::MAX),
            1 => json!(i64::MIN),
            2 => json!(u64::MAX),
            3 => json!(1e308),
            4 => json!(-1),
            5 => json!(self.random.f64() * 100.0),
            _ => json!(self.random.i64(0..6)),
        }
    }

    fn anything(&mut self, depth: u32) -> Value {
        match self.random.u8(..8) {
            0 => Value::Null,
            1 => json!(self.random.bool()),
            2 => self.number(),
            3 if depth > 0 => (0..self.random.usize(..4)).map(|_| self.anything(depth - 1)).collect(),
            4 if depth > 0 => json!({ self.text(): self.anything(depth - 1) }),
            _ => json!(self.text()),
        }
    }

    /// Something like what the schema says; now and then anything else.
    fn like(&mut self, schema: &Value, depth: u32) -> Value {
        if depth == 0 || self.random.u8(..25) == 0 {
            return self.anything(2);
        }
        if let Some(name) = schema["$ref"].as_str().and_then(|path| path.rsplit('/').next()) {
            let named = self.description["components"]["schemas"][name].clone();
            return self.like(&named, depth - 1);
        }
        for part in ["oneOf", "anyOf"] {
            if let Some(choices) = schema[part].as_array() {
                let choice = self.random.choice(choices).cloned().unwrap_or_default();
                return self.like(&choice, depth - 1);
            }
        }
        if let Some(parts) = schema["allOf"].as_array().cloned() {
            let mut whole = Map::new();
            for part in &parts {
                if let Value::Object(fields) = self.like(part, depth - 1) {
                    whole.extend(fields);
                }
            }
            return Value::Object(whole);
        }
        if let Some(words) = schema["enum"].as_array() {
            return self.random.choice(words).cloned().unwrap_or_default();
        }
        let kind = schema["type"].as_array().map_or(&schema["type"], |kinds| &kinds[0]).as_str().unwrap_or("object");
        match kind {
            "string" if schema["format"] == "date-time" && self.random.u8(..4) > 0 => {
                json!(format!(
                    "2026-0{}-1{}T0{}:00:00Z",
                    self.random.u8(1..4),
                    self.random.u8(..9),
                    self.random.u8(..9)
                ))
            }
            "string" => json!(self.text()),
            "integer" | "number" => self.number(),
            "boolean" => json!(self.random.bool()),
            "array" => (0..self.random.usize(..4)).map(|_| self.like(&schema["items"], depth - 1)).collect(),
            "null" => Value::Null,
            _ => {
                let fields = schema["properties"].as_object().cloned().unwrap_or_default();
                let mut object = Map::new();
                for (name, field) in fields {
                    if self.random.u8(..8) > 0 {
                        object.insert(name, self.like(&field, depth - 1));
                    }
                }
                Value::Object(object)
            }
        }
    }

    /// A text as it stands in a path or a query.
    fn encoded(&mut self, text: &str) -> String {
        let kept = |byte: u8| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'.' | b'_' | b'~');
        text.bytes()
            .map(|byte| if kept(byte) { char::from(byte).to_string() } else { format!("%{byte:02X}") })
            .collect()
    }

    fn uri(&mut self, path: &str, operation: &Value) -> String {
        let mut uri = path.to_owned();
        let mut query = Vec::new();
        for parameter in operation["parameters"].as_array().cloned().unwrap_or_default() {
            let name = parameter["name"].as_str().unwrap_or_default().to_owned();
            let value = match self.like(&parameter["schema"], 3) {
                Value::String(text) => text,
                other => other.to_string(),
            };
            let value = self.encoded(&value);
            if parameter["in"] == "path" {
                uri = uri.replace(&format!("{{{name}}}"), if value.is_empty() { "%20" } else { &value });
            } else if self.random.bool() {
                query.push(format!("{name}={value}"));
            }
        }
        if query.is_empty() { uri } else { format!("{uri}?{}", query.join("&")) }
    }
}

fn asked(name: &str, otherwise: usize) -> usize {
    std::env::var(name).ok().and_then(|text| text.parse().ok()).unwrap_or(otherwise)
}

#[tokio::test(flavor = "multi_thread")]
async fn whatever_is_sent_the_answer_is_one_that_is_described() {
    let caller = Caller::new().await;
    let book = json!({"name": "Pumps", "class": "pump", "problems": [{"code": "LEAK", "name": "Leak"}]});
    caller.call("PUT", "/codebooks/pumps", None, Some(book)).await;
    let description = fair_tally::openapi::description();
    let mut operations = Vec::new();
    for (path, methods) in description["paths"].as_object().unwrap() {
        // A stream has no end; the clock would put everything else out of time.
        if path.ends_with("/live") || path.ends_with("/clock") {
            continue;
        }
        for (method, operation) in methods.as_object().unwrap() {
            operations.push((method.to_uppercase(), path.clone(), operation.clone()));
        }
    }
    let seed = asked("FUZZ_SEED", 11) as u64;
    let mut maker = Maker { random: fastrand::Rng::with_seed(seed), description };
    let (mut answers, mut faults, mut slowest) = ([0_usize; 6], Vec::new(), Vec::new());
    for _ in 0..asked("FUZZ_REQUESTS", REQUESTS) {
        let (method, path, operation) = maker.random.choice(&operations).cloned().unwrap();
        let uri = maker.uri(&path, &operation);
        let content = operation["requestBody"]["content"].as_object().and_then(|kinds| kinds.iter().next());
        let (kind, body) = match content.map(|(kind, content)| (kind.clone(), content["schema"].clone())) {
            Some((kind, schema)) if kind == "application/json" => (kind, maker.like(&schema, 8).to_string()),
            Some((kind, _)) => (kind, (0..maker.random.usize(..6)).map(|_| maker.text() + ",").collect()),
            None => (String::new(), String::new()),
        };
        let person = *maker
            .random
            .choice([None, None, None, Some("engineer"), Some("technician"), Some("viewer"), Some("nobody")].iter())
            .unwrap();
        let begun = std::time::Instant::now();
        let answer = caller.raw(&method, &uri, person, &kind, body.clone()).await;
        slowest.push((begun.elapsed().as_millis(), format!("{method} {path}")));
        answers[usize::from(answer.status / 100).min(5)] += 1;
        let is_described = operation["responses"].get(answer.status.to_string()).is_some();
        let is_problem = answer.status < 400 || answer.kind == "application/problem+json";
        if answer.status >= 500 || !is_described || !is_problem {
            let sent: String = body.chars().take(600).collect();
            faults.push(format!("{method} {uri} as {person:?}\n  {sent}\n  {} {}", answer.status, answer.body));
        }
    }
    println!("answers by hundreds of their status: {answers:?}");
    slowest.sort_unstable_by(|one, other| other.cmp(one));
    slowest.dedup_by(|one, other| one.1 == other.1);
    slowest.truncate(10);
    println!("the slowest, in ms: {slowest:#?}");
    assert!(faults.is_empty(), "{} of seed {seed}:\n{}", faults.len(), faults[..faults.len().min(20)].join("\n"));
    assert!(answers[2] > 100, "some of it is taken: {answers:?}");
    let health = caller.raw("GET", "/healthz", None, "", String::new()).await;
    assert_eq!(health.status, 200, "{}", health.body);
}
