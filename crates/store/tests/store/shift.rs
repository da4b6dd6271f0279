//! The line of time of one person and of a crew, on a real database.

use crate::common::{Plant, day};
use serde_json::{Value, json};
use tally_core::{
    ground::ids::WorkOrderId,
    work::{WorkState, shift::OnLine},
};
use tally_store::{
    StoreError,
    access::people,
    work::{
        self,
        shift::{self, Shift, Whose},
    },
};

fn plant() -> Plant {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            let crew = json!({"code": "fit", "name": "Fitters", "department": "Works", "weekly_hours": 40.0});
            people::add_crew(tx, &serde_json::from_value(crew).unwrap())?;
            for code in ["ann", "ben"] {
                let person = json!({"code": code, "name": format!("{code} of the fitters"), "role": "technician", "crew": "fit"});
                people::add(tx, &serde_json::from_value(person).unwrap())?;
            }
            Ok(())
        })
        .unwrap();
    plant
}

fn raise(plant: &Plant, title: &str, rank: u8, assignee: Option<&str>, scheduled: Option<&str>) -> WorkOrderId {
    let new = json!({"title": title, "kind": "inspection", "asset": "EQ", "risk_rank": rank, "state": "ready",
        "crew": "fit", "assignee": assignee});
    let number = plant.write(day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap();
    if let Some(start) = scheduled {
        let change: Value = json!({ "scheduled_start": start });
        plant.write(day(2), |tx| work::change(tx, number, &serde_json::from_value(change).unwrap())).unwrap();
    }
    number
}

fn line(plant: &Plant, whose: Whose, now: u32) -> Shift {
    plant.store.read(day(now), |view| shift::shift(view, whose)).unwrap()
}

fn told(line: &Shift) -> Vec<(OnLine, Vec<&str>)> {
    line.parts.iter().map(|part| (part.at, part.orders.iter().map(|one| one.title.as_str()).collect())).collect()
}

#[test]
fn a_person_s_line_goes_from_what_is_late_to_what_is_finished() {
    let plant = plant();
    // Rank 3 has 28 days, rank 1 has 2: raised on the 2nd, its window is over on the 5th.
    raise(&plant, "window over", 1, Some("ann"), None);
    raise(&plant, "yesterday", 3, Some("ann"), Some("2026-01-04T08:00:00Z"));
    raise(&plant, "today", 4, Some("ann"), Some("2026-01-05T18:00:00Z"));
    raise(&plant, "today, more urgent", 3, Some("ann"), Some("2026-01-05T19:00:00Z"));
    raise(&plant, "nobody's, today", 5, None, Some("2026-01-05T12:00:00Z"));
    raise(&plant, "nobody's, without a day", 3, None, None);
    raise(&plant, "ben's", 3, Some("ben"), Some("2026-01-05T12:00:00Z"));
    raise(&plant, "tomorrow", 3, Some("ann"), Some("2026-01-06T12:00:00Z"));
    raise(&plant, "some day", 3, Some("ann"), None);
    let begun = raise(&plant, "begun", 3, Some("ann"), None);
    plant.state(begun, WorkState::UnderWay, day(3)).unwrap();
    let done = raise(&plant, "done", 3, Some("ann"), None);
    for state in [WorkState::UnderWay, WorkState::Done] {
        plant.state(done, state, day(5)).unwrap();
    }
    let anns = line(&plant, Whose::Person("ann"), 5);
    assert_eq!(
        told(&anns),
        [
            (OnLine::Late, vec!["window over", "yesterday"]),
            (OnLine::Now, vec!["begun"]),
            (OnLine::Today, vec!["today, more urgent", "today", "nobody's, today"]),
            (OnLine::Ahead, vec!["tomorrow"]),
            (OnLine::NoDay, vec!["some day"]),
            (OnLine::Finished, vec!["done"]),
        ]
    );
    assert_eq!((anns.of.as_str(), anns.to_do), ("ann of the fitters", 8));
    let today = &anns.parts[2].orders[0];
    assert_eq!((today.above.last().unwrap().code.as_str(), today.day.as_deref()), ("SYS", Some("2026-01-05")));
    // The crew's holds what is anybody's of it; tomorrow nothing was finished.
    let crew = line(&plant, Whose::Crew("fit"), 6);
    assert_eq!(crew.to_do, 10);
    assert!(crew.parts.iter().all(|part| part.at != OnLine::Finished));
}

#[test]
fn whose_it_is_there_has_to_be() {
    let plant = plant();
    let at_fault = |whose| match plant.store.read(day(2), |view| shift::shift(view, whose)) {
        Err(StoreError::Invalid { field, .. }) => field,
        other => panic!("{other:?}"),
    };
    assert_eq!((at_fault(Whose::Person("none")).as_str(), at_fault(Whose::Crew("none")).as_str()), ("person", "crew"));
}
