//! What is reported while somebody works: time that runs, parts, what is said, and where the hours lie that are left.

use crate::common::{Plant, at, day};
use serde_json::{Value, json};
use tally_core::{
    facts::StepFact,
    ground::{
        ids::WorkOrderId,
        time::{HOUR, Instant},
    },
    work::{NewComment, NewHours, PartAction, PartMove, TimeChange, WorkState},
};
use tally_store::{
    Actor, Looker, Result, StoreError, Tx, Viewer,
    access::people,
    plant::master::Kind,
    work,
    work::{
        comments, entries,
        job_sheets::{self, TickChange},
        running_time,
    },
};

fn raise(plant: &Plant, more: Value) -> WorkOrderId {
    let mut new =
        json!({"title": "Renew it", "kind": "predetermined", "asset": "EQ", "risk_rank": 3, "state": "ready"});
    new.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    plant.write(day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

fn acting<T>(plant: &Plant, who: &Actor, now: Instant, what: impl FnOnce(&mut Tx) -> Result<T>) -> Result<T> {
    plant.store.write(who.clone(), now, what)
}

fn as_seen_by(who: &Actor, now: Instant) -> Looker {
    Looker { viewer: Viewer::from(who), ..Looker::all(now) }
}

fn time(plant: &Plant, who: &str, work: WorkOrderId, running: bool, now: Instant) -> Result<()> {
    let change = TimeChange { running, ..TimeChange::default() };
    acting(plant, &plant.person(who), now, |tx| running_time::change(tx, work, &change))
}

/// Person, hours and amount of an order's entries.
fn spent(plant: &Plant, work: WorkOrderId) -> Vec<(Option<String>, String, i64)> {
    let entries = plant.order(work, day(9)).entries.into_iter();
    entries.map(|entry| (entry.person, entry.quantity, entry.amount)).collect()
}

#[test]
fn time_that_runs_becomes_hours_and_begins_the_work() {
    let plant = Plant::new();
    let person = json!({"code": "rob", "name": "Rob", "role": "technician", "rate": 4000});
    plant.write(day(1), |tx| people::add(tx, &serde_json::from_value(person).unwrap())).unwrap();
    let (first, second) = (raise(&plant, json!({})), raise(&plant, json!({})));
    let start = at("2026-01-05T08:00:00Z");
    time(&plant, "tess", first, true, start).unwrap();
    let order = plant.order(first, start);
    assert_eq!((order.row.state, order.running[0].since), (WorkState::UnderWay, start));
    // Pressed twice it runs on; beginning elsewhere it ends here, after an hour and a half at 48.00.
    time(&plant, "tess", first, true, start.plus(HOUR)).unwrap();
    time(&plant, "tess", second, true, start.plus(HOUR * 3 / 2)).unwrap();
    let tess = plant.order(first, day(9)).entries[0].person.clone();
    assert_eq!(spent(&plant, first), [(tess.clone(), "1.5".into(), 7_200)]);
    let own = plant.store.look(as_seen_by(&plant.person("tess"), start.plus(2 * HOUR)), |view| {
        work::shift::shift(view, work::shift::Whose::Own)
    });
    assert_eq!(own.unwrap().running.unwrap().work_order, second);
    // A colleague's time ends with the work, like one's own: 2 hours, and 1 at 40.00.
    let with = TimeChange { running: true, people: vec!["rob".into()], at: Some(start.plus(HOUR * 5 / 2)) };
    let tess_acts = plant.person("tess");
    acting(&plant, &tess_acts, start.plus(HOUR * 5 / 2), |tx| running_time::change(tx, second, &with)).unwrap();
    plant.state(second, WorkState::Done, start.plus(HOUR * 7 / 2)).unwrap();
    assert_eq!(spent(&plant, second), [(tess.clone(), "2".into(), 9_600), (Some("Rob".into()), "1".into(), 4_000)]);
    assert!(plant.order(second, day(9)).running.is_empty());
    // What nobody stops for days is not guessed at, and keeps the work from ending.
    time(&plant, "tess", first, true, start.plus(4 * HOUR)).unwrap();
    let forgotten = time(&plant, "tess", first, false, day(7)).unwrap_err();
    assert!(matches!(&forgotten, StoreError::Invalid { field, .. } if field == "at"), "{forgotten}");
    let done = plant.state(first, WorkState::Done, day(7)).unwrap_err();
    assert!(matches!(&done, StoreError::Conflict(why) if why.contains("say first when it ended")), "{done}");
    let said = TimeChange { running: false, people: vec![], at: Some(start.plus(5 * HOUR)) };
    acting(&plant, &tess_acts, day(7), |tx| running_time::change(tx, first, &said)).unwrap();
    plant.state(first, WorkState::Done, day(7)).unwrap();
    assert_eq!(spent(&plant, first).len(), 2);
    // Nothing runs on what is done, and nobody without a rate has hours that cost something.
    assert!(matches!(time(&plant, "tess", first, false, day(7)), Err(StoreError::Conflict(_))));
    let nobody = TimeChange { running: true, people: vec!["gate".into()], at: None };
    let third = raise(&plant, json!({}));
    let refused = plant.write(day(8), |tx| running_time::change(tx, third, &nobody)).unwrap_err();
    assert!(matches!(&refused, StoreError::Invalid { field, .. } if field == "people[0]"), "{refused}");
    assert_eq!(plant.order(third, day(8)).row.state, WorkState::Ready, "nothing is half done");
}

#[test]
fn hours_of_several_people_are_an_entry_each() {
    let plant = Plant::new();
    let person = json!({"code": "rob", "name": "Rob", "role": "technician", "rate": 4000});
    plant.write(day(1), |tx| people::add(tx, &serde_json::from_value(person).unwrap())).unwrap();
    let number = raise(&plant, json!({}));
    let new = |hours: &str, people: &[&str]| -> NewHours {
        serde_json::from_value(json!({"hours": hours, "people": people})).unwrap()
    };
    let add = |new: NewHours| plant.write(day(3), |tx| running_time::add_hours(tx, number, &new));
    add(new("1.5", &["tess", "rob", "rob"])).unwrap();
    assert_eq!(spent(&plant, number).iter().map(|entry| entry.2).collect::<Vec<_>>(), [7_200, 6_000]);
    let refused = add(new("0", &["tess"])).unwrap_err();
    assert_eq!(refused.to_string(), "hours: must be greater than 0");
    let refused = add(new("1", &["tess", "nobody"])).unwrap_err();
    assert!(refused.to_string().starts_with("people[1]"), "{refused}");
    assert_eq!(spent(&plant, number).len(), 2, "nothing is half written");
}

fn part(plant: &Plant, fields: &[(&str, &str)]) {
    let receipt = plant.take(Kind::Storeroom, day(1), fields);
    assert_eq!(receipt.refused, 0, "{receipt:?}");
}

fn move_part(plant: &Plant, work: WorkOrderId, action: PartAction, quantity: f64) -> Result<()> {
    let wanted = PartMove { part: "K-1".into(), action, quantity, at: None };
    plant.write(day(3), |tx| work::move_part(tx, work, &wanted))
}

fn in_stock(plant: &Plant) -> f64 {
    plant.database().query_row("SELECT stock FROM storeroom WHERE code = 'K-1'", [], |row| row.get(0)).unwrap()
}

/// By hand: ten in stock at 2.50; five taken are 12.50, of which two are given back; then they cost 3.00.
#[test]
fn parts_are_reserved_taken_at_the_price_of_then_and_given_back() {
    let plant = Plant::new();
    part(&plant, &[("code", "K-1"), ("name", "Seal"), ("stock", "10"), ("price", "2.50"), ("lead_days", "5")]);
    let sheet = json!({"title": "Seals", "status": "active", "parts": [{"item": "Seal", "quantity": 6.0}]});
    plant.write(day(1), |tx| job_sheets::put(tx, "SEALS", &serde_json::from_value(sheet).unwrap())).unwrap();
    let (planned, other) = (raise(&plant, json!({"job_sheet": "SEALS"})), raise(&plant, json!({})));
    move_part(&plant, other, PartAction::Reserve, 5.0).unwrap();
    let seal = |work| plant.order(work, day(3)).parts.remove(0);
    let told = seal(planned);
    assert_eq!((told.free, told.is_missing, told.expected_on.as_deref()), (5.0, true, Some("2026-01-08")));
    let refused = move_part(&plant, planned, PartAction::Take, 6.0).unwrap_err();
    assert_eq!(refused.to_string(), "quantity: only 5 free: 5 of 10 in the storeroom are reserved for other work");
    move_part(&plant, planned, PartAction::Take, 5.0).unwrap();
    assert_eq!((in_stock(&plant), seal(planned).taken, plant.order(planned, day(3)).row.cost), (5.0, 5.0, 1_250));
    move_part(&plant, planned, PartAction::GiveBack, 2.0).unwrap();
    part(&plant, &[("code", "K-1"), ("price", "3.00")]);
    assert_eq!((in_stock(&plant), seal(planned).taken, plant.order(planned, day(3)).row.cost), (7.0, 3.0, 750));
    // The other was not planned to take any; it has them set aside, and takes one of these at the price of now.
    move_part(&plant, other, PartAction::Take, 1.0).unwrap();
    let told = seal(other);
    assert_eq!((told.quantity, told.reserved, told.taken), (0.0, 4.0, 1.0));
    assert_eq!(plant.order(other, day(3)).row.cost, 300);
    // An entry that is taken back puts its part back, too.
    let entry = plant.order(other, day(3)).entries[0].id;
    plant.write(day(4), |tx| entries::reverse(tx, other, entry, "wrong one")).unwrap();
    assert_eq!((in_stock(&plant), seal(other).taken, plant.order(other, day(4)).row.cost), (7.0, 0.0, 0));
    // What is over sets nothing aside.
    let drop = json!({"to": "dropped", "note": "not needed"});
    plant.write(day(5), |tx| work::set_state(tx, other, &serde_json::from_value(drop).unwrap())).unwrap();
    assert_eq!(seal(planned).free, 7.0);
    assert!(matches!(move_part(&plant, other, PartAction::Reserve, 1.0), Err(StoreError::Conflict(_))));
}

#[test]
fn some_of_what_is_said_is_for_colleagues() {
    let plant = Plant::new();
    let person = json!({"code": "req", "name": "Rae", "role": "requester"});
    plant.write(day(1), |tx| people::add(tx, &serde_json::from_value(person).unwrap())).unwrap();
    let (tess, rae) = (plant.person("tess"), plant.person("req"));
    let new = json!({"title": "It drips", "kind": "corrective_deferred", "asset": "EQ", "risk_rank": 3});
    let number = acting(&plant, &rae, day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap();
    let say = |who: &Actor, text: &str, for_colleagues| {
        let new = NewComment { text: text.into(), for_colleagues, at: None };
        acting(&plant, who, day(3), |tx| comments::add(tx, number, &new))
    };
    say(&rae, "Since the rain", false).unwrap();
    say(&tess, "The flange, as ever", true).unwrap();
    let last = say(&tess, "I come on Monday", false).unwrap();
    let read = |who: &Actor| {
        let found = plant.store.look(as_seen_by(who, day(4)), |view| work::detail(view, number)).unwrap();
        found.comments.into_iter().map(|one| one.text).collect::<Vec<_>>()
    };
    assert_eq!(read(&tess), ["Since the rain", "The flange, as ever", "I come on Monday"]);
    assert_eq!(read(&rae), ["Since the rain", "I come on Monday"]);
    assert!(matches!(say(&rae, "Psst", true), Err(StoreError::Invalid { field, .. }) if field == "for_colleagues"));
    let away = |who: &Actor, is_back| acting(&plant, who, day(5), |tx| comments::take_away(tx, number, last, is_back));
    assert!(matches!(away(&rae, false), Err(StoreError::NotTheirs(_))));
    away(&tess, false).unwrap();
    assert_eq!(read(&rae), ["Since the rain"]);
    away(&tess, true).unwrap();
    assert_eq!(read(&rae).len(), 2);
}

/// Two hours in a cellar: what was said, taken and ticked off there is known later, and stands at the time it was.
#[test]
fn what_was_done_earlier_stands_at_its_time() {
    let plant = Plant::new();
    part(&plant, &[("code", "K-1"), ("name", "Seal"), ("stock", "10"), ("price", "2.50")]);
    let sheet = json!({"title": "Oil", "status": "active", "steps": [{"text": "Drain"}]});
    plant.write(day(1), |tx| job_sheets::put(tx, "OIL", &serde_json::from_value(sheet).unwrap())).unwrap();
    let number = raise(&plant, json!({"job_sheet": "OIL"}));
    let (now, then) = (day(3), day(3).plus(-2 * HOUR));
    let comment = |text: &str, at: Option<Instant>| {
        let new = NewComment { text: text.into(), for_colleagues: false, at };
        plant.write(now, |tx| comments::add(tx, number, &new))
    };
    comment("Now", None).unwrap();
    comment("Earlier", Some(then)).unwrap();
    let take = |at| {
        let wanted = PartMove { part: "K-1".into(), action: PartAction::Take, quantity: 1.0, at: Some(at) };
        plant.write(now, |tx| work::move_part(tx, number, &wanted))
    };
    take(then).unwrap();
    let tick = |at| {
        let change =
            TickChange { step: Some(0), permit: None, asset_permit: None, done: true, skip: None, at: Some(at) };
        plant.write(now, |tx| job_sheets::tick(tx, number, &change))
    };
    tick(then).unwrap();
    let told = plant.order(number, day(4));
    let said: Vec<_> = told.comments.iter().map(|one| (one.text.as_str(), one.at)).collect();
    assert_eq!(said, [("Earlier", then), ("Now", now)]);
    assert_eq!(told.entries[0].at, then);
    assert_eq!(told.job.unwrap().steps[0].ticked_at, Some(then));
    let ahead = now.plus(HOUR);
    for refused in [comment("Ahead", Some(ahead)).err(), take(ahead).err(), tick(ahead).err()] {
        assert_eq!(refused.unwrap().to_string(), "at: lies in the future");
    }
    // Nothing is done on an order before there is one.
    let before = day(2).plus(-1);
    for refused in [comment("Before", Some(before)).err(), tick(before).err()] {
        assert_eq!(refused.unwrap().to_string(), "at: lies before the order was raised");
    }
}

#[test]
fn what_is_missing_is_told_before_anybody_closes() {
    let plant = Plant::new();
    let number = raise(&plant, json!({"kind": "corrective_deferred"}));
    let missing = || plant.order(number, day(3)).missing.into_iter().map(|one| one.field).collect::<Vec<_>>();
    assert_eq!(missing(), ["failure.problem"]);
    let down = json!({"kind": "unplanned", "start": "2026-01-02T12:00:00Z"});
    plant
        .write(day(3), |tx| {
            tally_store::plant::downtime::add_to_work(tx, number, &serde_json::from_value(down).unwrap())
        })
        .unwrap();
    assert_eq!(missing(), ["failure.problem", "downtime"]);
    let drop = json!({"to": "dropped", "note": "not needed", "downtime": "end"});
    plant.write(day(4), |tx| work::set_state(tx, number, &serde_json::from_value(drop).unwrap())).unwrap();
    assert_eq!(missing(), Vec::<String>::new());
}

/// The hours of a step on another asset are a fact, which follows ticks and a change of the job sheet; read anew it is the same.
#[test]
fn facts_follow_the_steps_of_a_job() {
    let plant = Plant::new();
    let sheet = json!({"title": "Oil", "status": "active", "steps": [
        {"text": "Drain", "hours": 1.5}, {"text": "Fill", "asset": "PART", "hours": 2.0}, {"text": "Look", "asset": "SUB"}]});
    plant.write(day(1), |tx| job_sheets::put(tx, "OIL", &serde_json::from_value(sheet).unwrap())).unwrap();
    let plain = json!({"title": "Plain", "status": "active", "steps": [{"text": "Drain", "hours": 1.5}]});
    plant.write(day(1), |tx| job_sheets::put(tx, "PLAIN", &serde_json::from_value(plain).unwrap())).unwrap();
    let steps = || {
        plant.store.read(day(9), |view| {
            let live: Vec<StepFact> = view.facts()?.steps.rows().collect();
            let anew: Vec<StepFact> = tally_store::facts::load(view)?.steps.rows().collect();
            assert_eq!(live, anew);
            let told = live.iter().map(|step| (step.place, step.asset.is_some(), step.hours_ms, step.settled_at));
            Ok::<_, StoreError>(told.collect::<Vec<_>>())
        })
    };
    assert_eq!(steps().unwrap(), []);
    let number = raise(&plant, json!({"job_sheet": "OIL"}));
    let open = Instant::LATEST;
    assert_eq!(steps().unwrap(), [(0, false, HOUR * 3 / 2, open), (1, true, 2 * HOUR, open)]);
    let tick = |place, done, now| {
        let change = TickChange { step: Some(place), permit: None, asset_permit: None, done, skip: None, at: None };
        plant.write(now, |tx| job_sheets::tick(tx, number, &change)).unwrap();
    };
    tick(1, true, day(4));
    assert_eq!(steps().unwrap()[1].3, day(4));
    // What was ticked off where there was no network counts from when it was, not from when it is known.
    let earlier = json!({"step": 0, "done": true, "at": day(3)});
    plant.write(day(5), |tx| job_sheets::tick(tx, number, &serde_json::from_value(earlier).unwrap())).unwrap();
    assert_eq!(steps().unwrap()[0].3, day(3));
    tick(1, false, day(5));
    assert_eq!(steps().unwrap()[1].3, open);
    let other = serde_json::from_value(json!({"job_sheet": "PLAIN"})).unwrap();
    plant.write(day(6), |tx| work::change(tx, number, &other)).unwrap();
    assert_eq!(steps().unwrap(), [], "all of it at the order's own asset");
}
