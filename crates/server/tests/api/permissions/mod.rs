//! Every route that the API describes, for every role: who may, all others are refused by name. A route without a line here
//! fails.

mod writes;

use crate::caller::Caller;
use serde_json::{Value, json};
use std::collections::BTreeSet;
use writes::{writes_on_meters_and_work, writes_on_the_plant};

pub const ROLES: [&str; 8] =
    ["engineer", "planner", "technician", "requester", "manager", "viewer", "gateway", "administrator"];

// The rules of the job, §8; the administrator may all.
const ALL: &[&str] = &["engineer", "planner", "technician", "requester", "manager", "viewer", "gateway"];
const PEOPLE: &[&str] = &["engineer", "planner", "technician", "requester", "manager", "viewer"];
const METERS: &[&str] = &["engineer", "planner", "technician", "manager", "viewer"];
const WORK: &[&str] = &["engineer", "planner", "technician", "requester", "manager"];
const FIGURES: &[&str] = &["engineer", "planner", "manager", "viewer"];
const OFFICE: &[&str] = &["engineer", "planner", "manager"];
const PLANNERS: &[&str] = &["engineer", "planner"];
const CREWS: &[&str] = &["engineer", "planner", "technician"];
const CREWS_AND_MANAGER: &[&str] = &["engineer", "planner", "technician", "manager"];
const ENGINEER: &[&str] = &["engineer"];
const NONE: &[&str] = &[];

/// A route: method, path as described, path as called, body, who may.
pub type Line = (&'static str, &'static str, &'static str, Value, &'static [&'static str]);

fn row(code: &str, field: &str, value: &str) -> Value {
    json!({"rows": [{"values": {"code": code, field: value}}]})
}

fn looks() -> Vec<Line> {
    let read = |path: &'static str, called: &'static str, who| ("get", path, called, Value::Null, who);
    let asked = |path: &'static str, called: &'static str, who| ("post", path, called, json!({}), who);
    vec![
        read("/clock", "/clock", ALL),
        read("/indicators", "/indicators", ALL),
        read("/settings", "/settings", PEOPLE),
        read("/start", "/start", PEOPLE),
        read("/people", "/people", PEOPLE),
        read("/session", "/session", ALL),
        read("/sessions", "/sessions", ALL),
        read("/passkeys", "/passkeys", ALL),
        read("/keys", "/keys", NONE),
        read("/devices", "/devices", NONE),
        read("/calendars", "/calendars", PEOPLE),
        read("/crews", "/crews", PEOPLE),
        read("/period", "/period?period=this_month", PEOPLE),
        read("/search", "/search?q=pump", PEOPLE),
        read("/assets", "/assets?depth=3", PEOPLE),
        read("/assets/{code}", "/assets/P1", PEOPLE),
        read("/assets/{code}/picture", "/assets/P1/picture", PEOPLE),
        read("/master/{kind}", "/master/assets", PEOPLE),
        read("/master/{kind}", "/master/equipment-classes", PEOPLE),
        read("/master/{kind}", "/master/crews?sort=weekly_hours&descending=true", PEOPLE),
        read("/master/{kind}", "/master/meters?scope=P1&filter=kind:measurement", METERS),
        read("/master/{kind}", "/master/people?all=true", OFFICE),
        read("/codebooks", "/codebooks", PEOPLE),
        read("/codebooks/{code}", "/codebooks/pumps", PEOPLE),
        read("/meters", "/meters", METERS),
        read("/meters/{code}", "/meters/BAR", METERS),
        read("/meters/{code}/lanes", "/meters/BAR/lanes", METERS),
        read("/meters/{code}/readings", "/meters/BAR/readings", METERS),
        read("/meters/{code}/reading-list", "/meters/BAR/reading-list", METERS),
        read("/meters/{code}/usage", "/meters/BAR/usage", METERS),
        read("/meters/{code}/ladder", "/meters/BAR/ladder", METERS),
        read("/meters/{code}/ladder/changes", "/meters/BAR/ladder/changes?from=0&to=0", METERS),
        read("/meters/{code}/alarms", "/meters/BAR/alarms", METERS),
        asked("/meters/{code}/replay", "/meters/BAR/replay", METERS),
        (
            "post",
            "/ladders/edit",
            "/ladders/edit",
            json!({"ladder": {"rungs": []}, "edit": {"edit": "add", "side": "high"}}),
            METERS,
        ),
        ("post", "/meters/{code}/finder", "/meters/BAR/finder", json!({"rung": 0}), METERS),
        asked("/meters/{code}/proposals", "/meters/BAR/proposals", METERS),
        asked("/meters/{code}/forecast", "/meters/BAR/forecast", METERS),
        read("/alarms", "/alarms?show=held&scope=P1", METERS),
        read("/alarms/performance", "/alarms/performance?period=this_month", METERS),
        read("/families", "/families", METERS),
        read("/families/{class}/{name}", "/families/pump/BAR", METERS),
        asked("/families/{class}/{name}/replay", "/families/pump/BAR/replay", METERS),
        ("post", "/families/{class}/{name}/finder", "/families/pump/BAR/finder", json!({"rung": 0}), METERS),
        asked("/families/{class}/{name}/proposals", "/families/pump/BAR/proposals", METERS),
        asked("/families/{class}/{name}/forecast", "/families/pump/BAR/forecast", METERS),
        read("/work-orders", "/work-orders", WORK),
        // Raised by the administrator, of no crew: a requester sees their own only.
        read("/work/week", "/work/week?scope=P1&day=2026-02-16", WORK),
        read("/shift", "/shift", WORK),
        read("/shift/taken-along", "/shift/taken-along", WORK),
        read("/upkeep/year", "/upkeep/year?scope=P1&crew=mech", WORK),
        read("/upkeep/levelling", "/upkeep/levelling?scope=P1", WORK),
        read("/upkeep/plans/{code}", "/upkeep/plans/P1-UP", CREWS_AND_MANAGER),
        read("/decisions", "/decisions", WORK),
        read("/work/feeds", "/work/feeds", WORK),
        read("/work-orders/{number}/attachments/{id}", "/work-orders/1001/attachments/99", CREWS_AND_MANAGER),
        read("/feeds/{secret}/work.ics", "/feeds/none/work.ics", ALL),
        read("/check-sheets", "/check-sheets", WORK),
        read("/check-sheets/{code}", "/check-sheets/none", WORK),
        read("/check-sheets/{code}/pictures/{file}", "/check-sheets/none/pictures/none", WORK),
        read("/check-questions", "/check-questions?text=oil", WORK),
        read("/work-orders/{number}/checks/{id}", "/work-orders/1001/checks/99", CREWS_AND_MANAGER),
        read(
            "/work-orders/{number}/checks/{id}/files/{file}",
            "/work-orders/1001/checks/99/files/none",
            CREWS_AND_MANAGER,
        ),
        (
            "post",
            "/check-sheets/try",
            "/check-sheets/try",
            json!({"sheet": {"title": "t", "questions": [{"key": "a", "text": "t", "asks": {"kind": "text"}}]}}),
            WORK,
        ),
        read("/job-sheets", "/job-sheets", WORK),
        read("/job-sheets/{code}", "/job-sheets/look", WORK),
        read("/rounds/map", "/rounds/map?visits=P1", WORK),
        read("/master/{kind}", "/master/upkeep-plans", OFFICE),
        read("/master/{kind}", "/master/storeroom", OFFICE),
        read("/work-orders/already-raised", "/work-orders/already-raised?asset=P1&title=look", WORK),
        read("/work-orders/{number}", "/work-orders/1001", CREWS_AND_MANAGER),
        read("/lists", "/lists", ALL),
        asked("/lists/{subject}", "/lists/work", WORK),
        asked("/lists/{subject}", "/lists/entries", WORK),
        asked("/lists/{subject}", "/lists/alarms", METERS),
        // What a figure is made of is for those who see both it and the work.
        ("post", "/lists/{subject}", "/lists/work", json!({"figure": {"indicator": "open_work"}}), OFFICE),
        ("post", "/lists/{subject}", "/lists/work", json!({"as_of": "2025-01-01T00:00:00Z"}), WORK),
        read("/lists/{subject}/views", "/lists/work/views", WORK),
        read("/lists/{file}/file", "/lists/work.csv/file", WORK),
        read("/tally", "/tally?scope=P1&why=true", FIGURES),
        read("/tally/ranking", "/tally/ranking?by=cost_total&scope=P1", FIGURES),
        read("/tally/changed", "/tally/changed?indicator=cost_total&scope=P1", FIGURES),
        read("/tally/backlog", "/tally/backlog?scope=P1", FIGURES),
        read("/downtime/odd", "/downtime/odd?asset=P1&start=2026-02-01T00:00:00Z", PEOPLE),
        read("/tally/downtime", "/tally/downtime?scope=P1", FIGURES),
        read("/tally/forecast", "/tally/forecast?scope=P1", FIGURES),
        read("/headlines", "/headlines?scope=P1", FIGURES),
        read("/items", "/items?text=seal", WORK),
        read("/storeroom", "/storeroom?text=seal&asset=P1", WORK),
        read("/suppliers", "/suppliers", WORK),
        read("/values", "/values?kind=budget", OFFICE),
        read("/changes", "/changes", OFFICE),
        read("/outbox", "/outbox", OFFICE),
        read("/backups", "/backups", OFFICE),
        read("/tags", "/tags", OFFICE),
        read("/export/{file}", "/export/assets.csv", OFFICE),
        read("/export/{file}", "/export/codebooks.json", OFFICE),
        read("/export/{file}", "/export/readings.ndjson", OFFICE),
        read("/export/{file}", "/export/limits.csv", OFFICE),
        read("/webhooks", "/webhooks", ENGINEER),
    ]
}

/// All there is to ask.
pub fn all() -> Vec<Line> {
    [looks(), writes_on_the_plant(), writes_on_meters_and_work()].concat()
}

async fn ask(caller: &Caller, lines: Vec<Line>) {
    for (method, _, path, body, allowed) in lines {
        for role in ROLES {
            let body = (!body.is_null()).then(|| body.clone());
            let answer = caller.call(&method.to_uppercase(), path, Some(role), body).await;
            let may = role == "administrator" || allowed.contains(&role);
            assert_eq!(answer.status != 403, may, "{method} {path} as {role}: {} {}", answer.status, answer.body);
            assert!(![405, 415].contains(&answer.status), "{method} {path}: {}", answer.status);
            if !may {
                let detail = answer.body["detail"].as_str().unwrap_or_default();
                let named = detail.starts_with(&format!("a {role} may not")) || detail.contains("not yours");
                assert!(named, "{method} {path} as {role}: {detail}");
            }
        }
    }
}

#[tokio::test]
async fn every_look_is_asked_of_the_role() {
    let caller = Caller::new().await;
    let book = json!({"name": "Pumps", "class": "pump", "problems": []});
    caller.call("PUT", "/codebooks/pumps", None, Some(book)).await;
    for (method, _, path, body, allowed) in looks() {
        // What may be looked at is there to be seen.
        let body = (!body.is_null()).then_some(body);
        let status = caller
            .call(&method.to_uppercase(), path, Some(allowed.first().copied().unwrap_or("administrator")), body)
            .await
            .status;
        let missing = [
            "/assets/P1/picture",
            "/meters/BAR/finder",
            "/families/pump/BAR/finder",
            "/meters/BAR/usage",
            "/feeds/none/work.ics",
            "/work-orders/1001/attachments/99",
            "/check-sheets/none",
            "/check-sheets/none/pictures/none",
            "/work-orders/1001/checks/99",
            "/work-orders/1001/checks/99/files/none",
        ];
        assert!(status == 200 || missing.contains(&path), "{method} {path}: {status}");
    }
    ask(&caller, looks()).await;
}

#[tokio::test]
async fn every_write_to_the_plant_is_asked_of_the_role() {
    ask(&Caller::new().await, writes_on_the_plant()).await;
}

#[tokio::test]
async fn every_write_to_meters_and_work_is_asked_of_the_role() {
    ask(&Caller::new().await, writes_on_meters_and_work()).await;
}

/// The API's own description is the list of what there is to ask.
#[tokio::test]
async fn no_route_is_without_an_answer() {
    let caller = Caller::new().await;
    let description = caller.call("GET", "/openapi.json", None, None).await.body;
    let described: BTreeSet<(String, String)> = description["paths"]
        .as_object()
        .unwrap()
        .iter()
        .flat_map(|(path, methods)| {
            let path = path.strip_prefix("/api/v1").unwrap().to_owned();
            let methods: Vec<String> = methods.as_object().unwrap().keys().cloned().collect();
            methods.into_iter().map(move |method| (method, path.clone()))
        })
        .collect();
    let asked: BTreeSet<(String, String)> = all()
        .into_iter()
        .map(|(method, path, ..)| (method.to_owned(), path.to_owned()))
        .chain([("get".into(), "/live".into()), ("post".into(), "/work-orders/{number}/state".into())])
        .collect();
    assert_eq!(described.difference(&asked).collect::<Vec<_>>(), Vec::<&(String, String)>::new(), "without a line");
    assert_eq!(asked.difference(&described).collect::<Vec<_>>(), Vec::<&(String, String)>::new(), "no such route");
    for role in ROLES {
        let status = caller.opened("/live", role).await;
        assert_eq!(status, if role == "gateway" { 403 } else { 200 }, "live as {role}");
    }
}

/// A move is asked of whoever is to make it from that state; each role moves an order of its own.
#[tokio::test]
async fn every_move_of_work_is_asked_of_the_role() {
    let caller = Caller::new().await;
    for role in ROLES {
        let new = json!({"title": "t", "kind": "inspection", "asset": "P1", "risk_rank": 3});
        let made = caller.call("POST", "/work-orders", None, Some(new)).await.body;
        let path = format!("/work-orders/{}/state", made["number"]);
        for (to, allowed) in [("ready", PLANNERS), ("under_way", CREWS), ("done", CREWS), ("closed", PLANNERS)] {
            let answer = caller.call("POST", &path, Some(role), Some(json!({"to": to}))).await;
            let may = role == "administrator" || allowed.contains(&role);
            assert_eq!(answer.status, if may { 200 } else { 403 }, "{to} as {role}: {}", answer.body);
            if !may {
                let by_admin = caller.call("POST", &path, None, Some(json!({"to": to}))).await;
                assert_eq!(by_admin.status, 200, "{to}: {}", by_admin.body);
            }
        }
    }
}

#[tokio::test]
async fn pay_and_addresses_are_the_offices() {
    let caller = Caller::new().await;
    for role in ROLES.into_iter().filter(|role| *role != "gateway") {
        let body = caller.call("GET", "/people", Some(role), None).await.body;
        let people = body["people"].as_array().unwrap();
        let paid = people.iter().filter(|person| person["rate"].is_number()).count();
        let office = ["engineer", "planner", "manager", "administrator"].contains(&role);
        assert_eq!(paid, if office { 8 } else { 0 }, "{role}");
        assert_eq!(people.iter().any(|person| person["mail"].is_string()), office, "{role}");
    }
}

#[tokio::test]
async fn who_sees_no_work_reads_no_work_in_a_figure() {
    let caller = Caller::new().await;
    let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "12345", "description": "d"});
    caller.call("POST", "/work-orders/1001/entries", None, Some(entry)).await;
    let path = "/tally?scope=SITE&period=2026&indicators=cost_total&why=true";
    for (role, rows) in [("manager", 1), ("viewer", 0)] {
        let why = &caller.call("GET", path, Some(role), None).await.body["why"][0];
        assert_eq!(why["parts"][0]["total"].as_f64(), Some(12_345.0), "{role}");
        assert_eq!(why["parts"][0]["rows"].as_array().unwrap().len(), rows, "{role}");
    }
}

#[tokio::test]
async fn who_acts_is_somebody_known() {
    let caller = Caller::new().await;
    let nobody = caller.call("GET", "/people", Some("nobody"), None).await;
    assert_eq!((nobody.status, nobody.body["detail"].as_str()), (401, Some("nobody is signed in")));
    assert_eq!(nobody.body["needs"], "sign_in");
    let pia = caller.call("GET", "/people", Some("planner"), None).await;
    assert_eq!(pia.body["acting"], "planner");
}
