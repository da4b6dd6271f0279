//! Who sees and touches which work: counted a second way, by core's rule on every row.

use crate::common::{Plant, day, move_to, person};
use serde_json::{Value, json};
use tally_core::{
    access::seen::Whose,
    ground::ids::{PersonId, WorkOrderId},
    work::WorkState,
};
use tally_store::{
    Actor, Looker, StoreError, Tx, Viewer,
    access::{people, sessions},
    lists::{search, start},
    work,
    work::{Filter, Page, entries, occurrences},
};

/// Two crews with a technician each, a requester, and work of every kind of owner.
fn crews(plant: &Plant) -> Vec<WorkOrderId> {
    plant
        .write(day(1), |tx| {
            for code in ["red", "blue"] {
                let crew = json!({"code": code, "name": code, "department": "Works", "weekly_hours": 40.0});
                people::add_crew(tx, &serde_json::from_value(crew).unwrap())?;
                people::add(
                    tx,
                    &people::Person {
                        crew: Some(code.into()),
                        ..person(&format!("t-{code}"), "technician", Some(4_000))
                    },
                )?;
            }
            people::add(tx, &person("rita", "requester", None))?;
            people::add(tx, &person("vera", "viewer", None))?;
            people::add(tx, &person("pavel", "planner", None))
        })
        .unwrap();
    let raise = |who: &str, crew: Option<&str>, assignee: Option<&str>| {
        let new = json!({"title": "Look", "kind": "inspection", "asset": "EQ", "risk_rank": 3, "crew": crew, "assignee": assignee});
        let who = if who == "admin" { plant.admin.clone() } else { plant.person(who) };
        plant.store.write(who, day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
    };
    let made = vec![
        raise("admin", Some("red"), None),
        raise("admin", Some("blue"), None),
        raise("admin", None, None),
        raise("admin", Some("blue"), Some("t-red")),
        raise("rita", Some("blue"), None),
        raise("t-red", Some("blue"), None),
    ];
    // JudgedBy of somebody of another crew.
    for state in [WorkState::Ready, WorkState::UnderWay, WorkState::Done] {
        plant.state(made[1], state, day(2)).unwrap();
    }
    let returned = json!({"to": "returned", "question": "Which seal?", "asked": "t-red"});
    plant.write(day(2), |tx| work::set_state(tx, made[1], &serde_json::from_value(returned).unwrap())).unwrap();
    // Who reports work again hears what becomes of it.
    for who in ["rita", "t-blue"] {
        let words = json!({"words": "still so"});
        let join = |tx: &mut Tx| occurrences::join(tx, made[0], &serde_json::from_value(words).unwrap());
        plant.store.write(plant.person(who), day(2), join).unwrap();
    }
    made
}

fn whose(plant: &Plant, number: WorkOrderId, who: PersonId) -> Whose {
    let select = "SELECT crew_id, assignee_id, raised_by, asked_id, (SELECT max(recorded_by = ?2) FROM work_occurrences
            WHERE work_order = number) FROM work_orders WHERE number = ?1";
    let whose = plant.database().query_row(select, (number, who.0), |row| {
        let reported = row.get::<_, Option<bool>>(4)?.unwrap_or(false);
        Ok(Whose { crew: row.get(0)?, assignee: row.get(1)?, raised_by: row.get(2)?, asked: row.get(3)?, reported })
    });
    whose.unwrap()
}

#[test]
fn every_door_to_work_shows_what_the_rule_says() {
    let plant = Plant::new();
    let made = crews(&plant);
    let mut counts = Vec::new();
    for code in ["admin", "pavel", "t-red", "t-blue", "rita", "vera"] {
        let who: Actor = if code == "admin" { plant.admin.clone() } else { plant.person(code) };
        let looker = || Looker { viewer: Viewer::from(&who), ..Looker::all(day(3)) };
        let expected: Vec<WorkOrderId> = made
            .iter()
            .copied()
            .filter(|number| who.role.sees_work().includes(whose(&plant, *number, who.id), who.id, who.crew))
            .collect();
        // Listed, counted, opened, found and to do.
        let filter = Filter::default();
        let listed = plant
            .store
            .look(looker(), |view| work::list(view, &filter, &Page { limit: 50, ..Page::default() }))
            .unwrap();
        let mut numbers: Vec<WorkOrderId> = listed.work_orders.iter().map(|row| row.number).collect();
        numbers.sort();
        assert_eq!(numbers, expected, "{code}");
        assert_eq!(listed.totals.count, expected.len() as i64, "{code}");
        for number in &made {
            let opened = plant.store.look(looker(), |view| work::detail(view, *number));
            assert_eq!(opened.is_ok(), expected.contains(number), "{code} opens {number}");
            let text = number.0.to_string();
            let hits = plant.store.look(looker(), |view| search::find(view, &text, 9)).unwrap();
            let found = hits.iter().any(|hit| hit.kind == "work_order" && hit.code == text);
            assert_eq!(found, expected.contains(number), "{code} finds {number}: {hits:?}");
        }
        plant.store.look(looker(), start::start).unwrap();
        counts.push(expected.len());
    }
    // By hand: all, all, red's two with those assigned to, asked of, raised by t-red or of no crew; blue's, of no crew and reported
    // again; Rita's and what she reported again.
    assert_eq!(counts, [6, 6, 5, 6, 2, 0]);
}

#[test]
fn nobody_reports_on_or_moves_work_that_is_not_theirs() {
    let plant = Plant::new();
    let made = crews(&plant);
    let entry = json!({"kind": "labour", "quantity": "1"});
    let other = plant.store.write(plant.person("t-red"), day(2), |tx| {
        let new = json!({"title": "Look", "kind": "inspection", "asset": "EQ", "risk_rank": 3, "crew": "red"});
        work::raise(tx, &serde_json::from_value(new).unwrap())
    });
    let other = other.unwrap();
    let report = |who: &str, number: WorkOrderId, entry: &Value| {
        plant.store.write(plant.person(who), day(3), |tx| {
            entries::add(tx, number, &serde_json::from_value(entry.clone()).unwrap())
        })
    };
    let refused = report("t-blue", other, &entry).unwrap_err();
    assert!(matches!(refused, StoreError::NotTheirs(_)), "{refused:?}");
    assert_eq!(refused.to_string(), format!("work order {other} is another crew's"));
    report("t-red", made[0], &entry).unwrap();
    report("t-blue", made[2], &entry).unwrap();
    for state in [WorkState::Ready, WorkState::UnderWay] {
        plant.state(other, state, day(3)).unwrap();
    }
    let done = |who: &str| {
        plant.store.write(plant.person(who), day(4), |tx| work::set_state(tx, other, &move_to(WorkState::Done)))
    };
    assert!(matches!(done("t-blue"), Err(StoreError::NotTheirs(_))));
    assert!(done("rita").is_err());
    done("t-red").unwrap();
}

/// A session takes the place of the one that its browser had; that may be gone already, as when somebody presses twice.
#[test]
fn a_session_takes_the_place_of_one_that_may_be_gone() {
    let plant = Plant::new();
    let from = sessions::From { address: "here".into(), device: "browser".into() };
    let begin = |hash: &[u8], before: Option<&[u8]>| {
        plant.write(day(1), |tx| sessions::begin(tx, hash, &from, sessions::By::Secret, before)).unwrap()
    };
    let lasts = |hash: &[u8]| plant.store.read(day(1), |view| sessions::of_hash(view, hash, day(1))).unwrap().is_some();
    begin(b"first", None);
    begin(b"second", Some(b"first"));
    begin(b"third", Some(b"first"));
    assert_eq!([lasts(b"first"), lasts(b"second"), lasts(b"third")], [false, true, true]);
}
