//! Several orders changed at once: each by its own rules, looked at before, and put back.

use crate::common::{Plant, day, move_to, person};
use serde_json::json;
use tally_core::{
    ground::{
        ids::WorkOrderId,
        time::{DAY, Instant},
    },
    work::{Several, WorkState},
};
use tally_store::{
    Looker, Result, StoreError,
    access::people,
    work,
    work::{SeveralDone, WorkDetail},
};

struct Made {
    plant: Plant,
    orders: Vec<WorkOrderId>,
}

/// Four orders of one crew: two ready, one still raised, one closed.
fn made() -> Made {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            for code in ["red", "blue"] {
                let crew = json!({"code": code, "name": code, "department": code, "weekly_hours": 40.0});
                people::add_crew(tx, &serde_json::from_value(crew).unwrap())?;
            }
            people::add(tx, &person("pavel", "planner", None))
        })
        .unwrap();
    let new = json!({"title": "Grease it", "kind": "predetermined", "asset": "EQ", "risk_rank": 3, "crew": "red"});
    let raise = |tx: &mut tally_store::Tx| work::raise(tx, &serde_json::from_value(new.clone()).unwrap());
    let orders: Vec<WorkOrderId> = (0..4).map(|_| plant.write(day(1), raise).unwrap()).collect();
    for (number, states) in [
        (orders[0], &[WorkState::Ready][..]),
        (orders[1], &[WorkState::Ready]),
        (orders[3], &[WorkState::Ready, WorkState::UnderWay, WorkState::Done, WorkState::Closed]),
    ] {
        for state in states {
            plant.write(day(2), |tx| work::set_state(tx, number, &move_to(*state))).unwrap();
        }
    }
    Made { plant, orders }
}

impl Made {
    fn several(&self, given: serde_json::Value, now: Instant) -> Result<SeveralDone> {
        let mut given = given;
        given["orders"] = json!(self.orders);
        let asked: Several = serde_json::from_value(given).unwrap();
        self.plant.store.write(self.plant.person("pavel"), now, |tx| work::several(tx, &asked))
    }

    fn detail(&self, place: usize) -> WorkDetail {
        let number = self.orders[place];
        self.plant.store.look(Looker::all(day(20)), |view| work::detail(view, number)).unwrap()
    }

    fn put_back(&self, batch: i64, now: Instant) -> Result<SeveralDone> {
        self.plant.store.write(self.plant.person("pavel"), now, |tx| work::put_back(tx, batch))
    }
}

#[test]
fn each_order_takes_it_by_its_own_rules_and_all_or_nothing_of_one() {
    let made = made();
    let done =
        made.several(json!({"change": {"crew": "blue", "risk_rank": 1}, "to": {"to": "scheduled"}}), day(3)).unwrap();
    // By hand: the two that are ready; not the one that is raised, nor the one that is closed.
    let refused: Vec<Option<&str>> = done.orders.iter().map(|one| one.refused.as_deref()).collect();
    assert_eq!((done.done, done.refused), (2, 2));
    assert_eq!(refused[..2], [None, None]);
    assert_eq!(refused[2], Some("work that is raised cannot become scheduled"));
    assert_eq!(refused[3], Some("this work is closed: it takes adjustments of its cost and corrected codes alone"));
    let (first, raised) = (made.detail(0), made.detail(2));
    assert_eq!(
        (first.row.crew.as_deref(), first.row.risk_rank, first.row.state),
        (Some("blue"), 1, WorkState::Scheduled)
    );
    assert_eq!(first.department.as_deref(), Some("blue"));
    // Nothing of the change stays where the move was refused.
    assert_eq!(
        (raised.row.crew.as_deref(), raised.row.risk_rank, raised.row.state),
        (Some("red"), 3, WorkState::Raised)
    );
    let fields: Vec<&str> = done.orders[0].changes.iter().map(|one| one.field.as_str()).collect();
    assert_eq!(fields, ["crew", "risk_rank", "state", "window_end"]);
}

#[test]
fn what_was_changed_at_once_is_put_back_but_for_what_was_changed_since() {
    let made = made();
    let before: Vec<_> = (0..2).map(|place| made.detail(place)).collect();
    let done = made.several(json!({"change": {"risk_rank": 1}, "to": {"to": "scheduled"}}), day(3)).unwrap();
    let batch = done.batch.unwrap();
    made.plant.write(day(4), |tx| work::set_state(tx, made.orders[1], &move_to(WorkState::UnderWay))).unwrap();
    // Another's is not theirs to put back.
    let other = made.plant.write(day(4), |tx| work::put_back(tx, batch)).unwrap_err();
    assert!(matches!(other, StoreError::NotFound { .. }), "{other:?}");
    let back = made.put_back(batch, day(4)).unwrap();
    assert_eq!((back.done, back.refused), (1, 1));
    assert_eq!(back.orders[1].refused.as_deref(), Some("it was changed since"));
    let after = made.detail(0);
    let told = |one: &WorkDetail| (one.row.state, one.row.risk_rank, one.row.window_end, one.row.crew.clone());
    assert_eq!(told(&after), told(&before[0]), "its window too, which a rank alone would leave tightened");
    assert_eq!(made.detail(1).row.state, WorkState::UnderWay);
    // Both ways stand in the history.
    let states: Vec<_> = after.history.iter().filter_map(|event| event.to_state.as_deref()).collect();
    assert_eq!(states, ["raised", "ready", "scheduled", "ready"]);
    let again = made.put_back(batch, day(4)).unwrap_err();
    assert!(matches!(again, StoreError::NotFound { .. }), "{again:?}");
}

#[test]
fn an_order_that_there_is_not_is_refused_by_itself() {
    let made = made();
    let orders = [made.orders[0].0, 77, i64::MIN];
    let asked: Several = serde_json::from_value(json!({"orders": orders, "change": {"risk_rank": 1}})).unwrap();
    let done = made.plant.write(day(3), |tx| work::several(tx, &asked)).unwrap();
    let refused: Vec<Option<&str>> = done.orders.iter().map(|one| one.refused.as_deref()).collect();
    assert_eq!((done.done, done.refused, refused[0]), (1, 2, None));
    assert_eq!((refused[1], done.orders[1].title.as_deref()), (Some("there is no work order \"77\""), None));
}

/// Only the date until which it waits is another: it comes back, too.
#[test]
fn a_date_that_is_waited_for_is_put_back() {
    let made = made();
    let wait = |until: Instant| json!({"to": {"to": "waiting", "waiting_for": "parts", "expected_until": until}});
    made.several(wait(day(9)), day(3)).unwrap();
    let later = made.several(wait(day(12)), day(4)).unwrap();
    assert_eq!((later.done, made.detail(0).row.expected_until), (2, Some(day(12))));
    let back = made.put_back(later.batch.unwrap(), day(5)).unwrap();
    assert_eq!((back.done, back.refused, made.detail(0).row.expected_until), (2, 0, Some(day(9))));
}

#[test]
fn what_is_taken_away_is_gone_and_comes_back() {
    let made = made();
    let start = day(9);
    let scheduled =
        json!({"change": {"scheduled_start": start, "scheduled_end": start.plus(DAY / 8), "assignee": "tess"}});
    made.several(scheduled, day(3)).unwrap();
    let cleared = made.several(json!({"change": {"clear": ["schedule", "assignee", "crew"]}}), day(4)).unwrap();
    let row = made.detail(0);
    assert_eq!(
        (row.scheduled_start, row.scheduled_end, row.row.assignee, row.row.crew, row.department),
        (None, None, None, None, None)
    );
    made.put_back(cleared.batch.unwrap(), day(5)).unwrap();
    let row = made.detail(0);
    assert_eq!(
        (row.scheduled_start, row.row.crew.as_deref(), row.department.as_deref()),
        (Some(start), Some("red"), Some("red"))
    );
    assert_eq!(row.row.assignee.as_deref(), Some("tess"), "{:?}", row.row.assignee);
    let same = made.several(json!({"change": {"crew": "red"}}), day(6)).unwrap();
    assert_eq!((same.done, same.refused, same.batch), (0, 1, None), "it was so already, and the closed one takes none");
    let nobody = made.several(json!({"change": {"crew": "green"}}), day(6)).unwrap();
    assert_eq!((nobody.done, nobody.refused), (0, 4));
}
