//! What is done where there is no network arrives hours later, and stands as if it had been sent at once.

use crate::common::{Plant, day};
use proptest::prelude::*;
use serde_json::{Value, json};
use tally_core::{
    ground::{
        ids::{CheckId, WorkOrderId},
        time::{HOUR, Instant, MINUTE},
    },
    work::WorkState,
};
use tally_store::{
    Result, StoreError, Tx,
    codes::failures,
    outside::photos::Prepared,
    plant::{downtime, master::Kind},
    work,
    work::{attachments, checks, comments, job_sheets, running_time},
};

/// What somebody does on a job.
#[derive(Debug, Clone, Copy)]
enum Deed {
    Time(bool),
    Tick(usize, bool),
    Say,
    Attach(u8),
    Part(&'static str, u8),
    Hours(u8),
    Move(WorkState),
    Stands,
    Report,
    Answer(u8),
    Finish(u8),
}

fn deed() -> impl Strategy<Value = Deed> {
    use WorkState::{Done, Planning, Ready, UnderWay, Waiting};
    prop_oneof![
        any::<bool>().prop_map(Deed::Time),
        (0..2usize, any::<bool>()).prop_map(|(step, done)| Deed::Tick(step, done)),
        Just(Deed::Say),
        (0..2u8).prop_map(Deed::Attach),
        (prop::sample::select(vec!["reserve", "release", "take", "give_back"]), 1..4u8)
            .prop_map(|(action, pieces)| Deed::Part(action, pieces)),
        (1..4u8).prop_map(Deed::Hours),
        prop::sample::select(vec![Planning, Ready, UnderWay, Waiting, Done]).prop_map(Deed::Move),
        Just(Deed::Stands),
        Just(Deed::Report),
        (90..130u8).prop_map(Deed::Answer),
        (90..130u8).prop_map(Deed::Finish),
    ]
}

/// What the deeds are done on: an order, its check sheet, and photos that were sent.
#[derive(Debug, Clone)]
struct Job {
    number: WorkOrderId,
    check: CheckId,
    photos: [String; 2],
}

/// A job with steps, a part in the storeroom and a check sheet.
fn plant() -> (Plant, Job) {
    let plant = Plant::new();
    let part = [("code", "K-1"), ("name", "Seal"), ("stock", "5"), ("price", "2.50")];
    assert_eq!(plant.take(Kind::Storeroom, day(1), &part).refused, 0);
    let set_up = |tx: &mut Tx| {
        let job = json!({"title": "Oil", "status": "active", "steps": [{"text": "Drain"}, {"text": "Fill"}],
            "parts": [{"item": "Seal", "quantity": 2.0}]});
        job_sheets::put(tx, "OIL", &from(job))?;
        let sheet = json!({"title": "Look", "status": "active", "questions": [
            {"key": "bar", "text": "Pressure", "asks": {"kind": "reading", "meter": "M-BAR"}, "compulsory": true,
                "rules": [{"is": {"when": "below", "value": 110.0}, "work_kind": "condition_based", "risk_rank": 2}]}]});
        checks::put(tx, "LOOK", &from(sheet))?;
        let new = json!({"title": "Renew it", "kind": "corrective_deferred", "asset": "EQ", "risk_rank": 3, "state": "ready",
            "job_sheet": "OIL"});
        let number = work::raise(tx, &from(new))?;
        Ok((number, checks::add(tx, number, &from(json!({"sheet": "LOOK"})))?))
    };
    let (number, check) = plant.write(day(2), set_up).unwrap();
    let files = plant.store.files();
    let photo = |bytes: &[u8]| Prepared { media_type: "image/jpeg", bytes: bytes.into(), small: None, size: None };
    let photos = [b"one", b"two"].map(|bytes| {
        let kept = plant.store.write(plant.person("tess"), day(2), |tx| attachments::keep(tx, &files, &photo(bytes)));
        kept.unwrap().file
    });
    (plant, Job { number, check, photos })
}

fn from<T: serde::de::DeserializeOwned>(value: Value) -> T {
    serde_json::from_value(value).unwrap()
}

/// Does it, as of an instant.
fn carry_out(tx: &mut Tx, job: &Job, deed: Deed, at: Instant) -> Result<()> {
    let (work, check) = (job.number, job.check);
    let answering = |bar: u8| {
        let given = json!([{"question": "bar", "value": {"kind": "number", "value": bar}, "at": at}]);
        from(json!({"answers": given, "at": at}))
    };
    match deed {
        Deed::Time(running) => running_time::change(tx, work, &from(json!({"running": running, "at": at}))),
        Deed::Tick(step, done) => job_sheets::tick(tx, work, &from(json!({"step": step, "done": done, "at": at}))),
        Deed::Say => comments::add(tx, work, &from(json!({"text": "So it is", "at": at}))).map(drop),
        Deed::Attach(photo) => {
            let named =
                json!({"attachments": [{"file": job.photos[usize::from(photo)], "name": "crack.jpg"}], "at": at});
            attachments::attach(tx, work, &from(named))
        }
        Deed::Part(action, pieces) => {
            work::move_part(tx, work, &from(json!({"part": "K-1", "action": action, "quantity": pieces, "at": at})))
        }
        Deed::Hours(hours) => {
            running_time::add_hours(tx, work, &from(json!({"hours": hours.to_string(), "people": ["tess"], "at": at})))
        }
        Deed::Move(to) => {
            let waiting_for = (to == WorkState::Waiting).then_some("outage");
            work::set_state(tx, work, &from(json!({"to": to, "waiting_for": waiting_for, "at": at})))
        }
        Deed::Stands => {
            downtime::add_to_work(tx, work, &from(json!({"kind": "unplanned", "start": at.plus(-MINUTE), "end": at})))
                .map(drop)
        }
        Deed::Report => {
            let codes = json!({"problem": "NOISE", "cause": "BEAR", "remedy": "RBEAR", "failed_at": at.plus(-HOUR),
                "effect": "degraded", "at": at});
            failures::put(tx, work, &from(codes)).map(drop)
        }
        Deed::Answer(bar) => checks::answer(tx, work, check, &answering(bar)).map(drop),
        Deed::Finish(bar) => checks::finish(tx, work, check, &answering(bar)).map(drop),
    }
}

/// Without the instants at which things became known: those that say so, and those of the trail of changes.
fn plain(mut told: Value) -> Value {
    match &mut told {
        Value::Object(fields) => {
            fields.retain(|name, _| name != "recorded_at");
            if let Some(Value::Array(lines)) = fields.get_mut("history") {
                lines.retain(|line| !line["to_state"].is_null());
            }
            fields.values_mut().for_each(|field| *field = plain(field.take()));
        }
        Value::Array(rows) => rows.iter_mut().for_each(|row| *row = plain(row.take())),
        _ => {}
    }
    told
}

/// All that is known of the job, its check sheet, and the work that followed.
fn known(plant: &Plant, &Job { number, check, .. }: &Job) -> Value {
    let detail = |number| serde_json::to_value(plant.order(number, day(9))).unwrap();
    let sheet = plant.store.read(day(9), |view| checks::view(view, number, check)).unwrap();
    let mut follows: Vec<Value> = sheet.raised.iter().map(|one| plain(detail(one.number))).collect();
    // The window of what was found starts when the sheet arrives.
    follows.iter_mut().for_each(|order| _ = order.as_object_mut().unwrap().remove("window_end"));
    let stock: f64 = plant.database().query_row("SELECT stock FROM storeroom", [], |row| row.get(0)).unwrap();
    let mut coded = plant.database();
    let coded = coded.transaction().unwrap();
    let coded: Option<i64> =
        coded.query_row("SELECT max(coded_at) FROM failure_reports", [], |row| row.get(0)).unwrap();
    json!([plain(detail(number)), serde_json::to_value(sheet).unwrap(), follows, stock, coded])
}

/// The first place at which two answers differ, with both.
fn difference(one: &Value, other: &Value) -> Option<String> {
    let within =
        |name: &dyn std::fmt::Display, one, other| difference(one, other).map(|found| format!("{name}.{found}"));
    match (one, other) {
        (Value::Object(ours), Value::Object(theirs)) if ours.len() == theirs.len() => {
            ours.iter().find_map(|(name, one)| within(name, one, theirs.get(name).unwrap_or(&Value::Null)))
        }
        (Value::Array(ours), Value::Array(theirs)) if ours.len() == theirs.len() => {
            ours.iter().zip(theirs).enumerate().find_map(|(place, (one, other))| within(&place, one, other))
        }
        _ => (one != other).then(|| format!(" {one} and {other}")),
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    /// The same deeds, sent each when it is done, or all four hours after the last: what is refused is refused in both, and what is
    /// known of the job is the same.
    #[test]
    fn later_is_as_at_once(deeds in prop::collection::vec((deed(), 1..40i64), 1..14)) {
        let (at_once, job) = plant();
        let (later, _) = plant();
        let mut at = day(3);
        let mut times = Vec::new();
        for (_, minutes) in &deeds {
            at = at.plus(minutes * MINUTE);
            times.push(at);
        }
        let back = at.plus(4 * HOUR);
        let send = |plant: &Plant, deed: Deed, at: Instant, now: Instant| {
            let done = plant.store.write(plant.person("tess"), now, |tx| carry_out(tx, &job, deed, at));
            done.map_err(|error: StoreError| error.to_string())
        };
        for ((deed, _), at) in deeds.iter().zip(times) {
            prop_assert_eq!(send(&at_once, *deed, at, at), send(&later, *deed, at, back), "{:?} at {}", deed, at);
        }
        let differs = difference(&known(&at_once, &job), &known(&later, &job));
        prop_assert_eq!(differs, None);
    }
}
