//! What a screen is told rather than left to decide: a rung's first numbers, what a move asks for, how a figure moved.

use crate::caller::Caller;
use serde_json::{Value, json};

async fn edited(caller: &Caller, ladder: &Value, edit: Value, last: f64) -> Value {
    let body = json!({"ladder": ladder, "edit": edit, "last": last});
    let answer = caller.call("POST", "/ladders/edit", Some("engineer"), Some(body)).await;
    if answer.status == 200 { answer.body } else { json!(answer.body["errors"][0]["reason"]) }
}

#[tokio::test]
async fn a_rung_comes_with_its_numbers() {
    let caller = Caller::new().await;
    let empty = json!({"rungs": []});
    let high = edited(&caller, &empty, json!({"edit": "add", "side": "high"}), 10.0).await;
    assert_eq!((&high["severity"], &high["setpoint"], &high["deadband"]), (&json!("alert"), &json!(12.0), &json!(0.5)));
    let named = json!({"edit": "add", "side": "low", "severity": "danger", "setpoint": 3.25});
    let low = edited(&caller, &empty, named, 10.0).await;
    assert_eq!((&low["severity"], &low["setpoint"]), (&json!("danger"), &json!(3.25)));
    let turned = edited(&caller, &json!({"rungs": [high]}), json!({"edit": "turn", "rung": 0}), 10.0).await;
    assert_eq!((&turned["reset"], &turned["deadband"]), (&json!(11.5), &Value::Null));
    let change = json!({"edit": "look_at", "rung": 0, "on": "change"});
    let change = edited(&caller, &json!({"rungs": [turned]}), change, 9.5).await;
    assert_eq!((&change["on"], &change["baseline"]), (&json!("change"), &json!(9.5)));
    let nowhere = edited(&caller, &empty, json!({"edit": "turn", "rung": 3}), 1.0).await;
    assert_eq!(nowhere, "the ladder has no rung 3");
}

#[tokio::test]
async fn work_says_what_each_move_asks_for() {
    let caller = Caller::new().await;
    let of = async |who: &str| caller.call("GET", "/work-orders/1001", Some(who), None).await.body;
    let work = of("planner").await;
    let moves = work["moves"].as_array().unwrap();
    let ahead: Vec<&Value> = moves.iter().filter(|one| one["ahead"] == true).map(|one| &one["to"]).collect();
    assert_eq!((ahead, &work["is_over"]), (vec![&json!("planning")], &json!(false)));
    assert_eq!(of("manager").await["moves"], json!([]));
    // What is said to be required is: without any of it the move is refused by that field, whatever it is.
    let steps = [("dropped", json!({})), ("planning", json!({})), ("waiting", json!({"waiting_for": "parts"}))];
    for (to, given) in steps {
        let work = of("planner").await;
        let offered = work["moves"].as_array().unwrap().iter().find(|one| one["to"] == to).unwrap().clone();
        let required: Vec<&str> = offered["asks"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|ask| ask["required"] == true)
            .map(|ask| ask["field"].as_str().unwrap())
            .collect();
        let bare = caller.call("POST", "/work-orders/1001/state", Some("planner"), Some(json!({"to": to}))).await;
        match required.first() {
            Some(field) => assert_eq!(bare.body["errors"][0]["field"], *field, "{to}: {}", bare.body),
            None => assert_eq!(bare.status, 200, "{to}: {}", bare.body),
        }
        if required.iter().all(|field| given.get(*field).is_some()) && !required.is_empty() {
            let mut body = given;
            body["to"] = json!(to);
            let moved = caller.call("POST", "/work-orders/1001/state", Some("planner"), Some(body)).await;
            assert_eq!(moved.status, 200, "{}", moved.body);
        }
    }
    assert_eq!(of("planner").await["state"], "waiting");
    let open = caller.call("GET", "/work-orders", None, None).await.body["facets"]["open"].clone();
    assert_eq!(open, json!(["raised", "planning", "waiting", "ready", "scheduled", "under_way"]));
}

#[tokio::test]
async fn a_figure_says_how_it_moved_and_which_sibling_stands_out() {
    let caller = Caller::new().await;
    for (code, price, at) in
        [("A", 300, "2026-01-10"), ("A", 200, "2025-12-10"), ("B", 90, "2026-01-10"), ("C", 150, "2026-01-10")]
    {
        let asset = json!({"code": code, "name": code, "level": "equipment", "parent": "SITE"});
        caller.call("POST", "/assets", None, Some(asset)).await;
        let work = json!({"title": "Look", "kind": "inspection", "asset": code, "risk_rank": 3});
        let number = caller.call("POST", "/work-orders", None, Some(work)).await.body["number"].clone();
        let entry = json!({"kind": "tool", "quantity": "1", "unit_price": price.to_string(), "description": "d",
            "at": format!("{at}T00:00:00Z")});
        let path = format!("/work-orders/{number}/entries");
        assert_eq!(caller.call("POST", &path, None, Some(entry)).await.status, 201);
    }
    let path = "/tally?scope=SITE&period=2026-01&indicators=cost_total";
    let tally = caller.call("GET", path, None, None).await.body;
    let row = |code: &str| tally["rows"].as_array().unwrap().iter().find(|row| row["asset"] == code).unwrap().clone();
    assert_eq!(
        row("A")["moved"]["cost_total"],
        json!({"by": 50.0, "units": 100.0, "from_little": false, "in_points": false, "better": false})
    );
    assert_eq!(row("B")["moved"], json!({}), "there was nothing before");
    let heat = |code: &str| row(code)["heat"]["cost_total"].as_f64();
    assert_eq!((heat("A"), heat("B"), heat("C"), heat("SITE")), (Some(1.0), None, Some(0.5), None));
}

#[tokio::test]
async fn a_meter_says_where_it_is_read() {
    let caller = Caller::new().await;
    let body = json!({"code": "VIB", "asset": "P1", "kind": "measurement", "unit": "mm/s",
        "measuring_point": " drive end, horizontal "});
    assert_eq!(caller.call("POST", "/meters", None, Some(body)).await.status, 201);
    let meter = caller.call("GET", "/meters/VIB", None, None).await.body;
    assert_eq!(meter["measuring_point"], "drive end, horizontal");
    let rows = caller.call("GET", "/master/meters?text=VIB", None, None).await.body;
    assert_eq!(rows["rows"][0]["values"]["measuring_point"], "drive end, horizontal");
    let other = caller.call("GET", "/meters/BAR", None, None).await.body;
    assert_eq!(other["measuring_point"], Value::Null);
}
