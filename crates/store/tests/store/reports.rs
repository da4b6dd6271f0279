//! Failure reports of work and their codes, what lists make of them, and what is news.

use crate::common::{Plant, at, day, move_to};
use crate::work::{costs, enter, raise};
use serde_json::{Value, json};
use tally_core::{
    ground::time::Instant,
    tally::indicators::Indicator,
    work::{StateMove, WorkKind, WorkState},
};
use tally_store::{
    codes::{codebooks, failures},
    plant::downtime,
    watch::alarms,
    work,
    work::{Filter, entries},
};

#[test]
fn a_list_comes_in_parts_with_facets_and_totals_of_all_of_it() {
    let plant = Plant::new();
    for n in 2..9 {
        let number = raise(&plant, if n % 2 == 0 { "PART" } else { "SYS" }, "inspection", day(n));
        enter(&plant, number, json!({"kind": "labour", "person": "tess", "quantity": "1"}), day(n)).unwrap();
    }
    raise(&plant, "EQ", "improvement", day(9));
    let list = |filter: &work::Filter, cursor| {
        let page = work::Page { sort: work::SortBy::Cost, descending: true, cursor, limit: 3 };
        plant.store.read(day(60), |view| work::list(view, filter, &page)).unwrap()
    };
    let filter = work::Filter { kinds: vec![WorkKind::Inspection], ..work::Filter::default() };
    let (mut seen, mut cursor) = (Vec::new(), None);
    loop {
        let page = list(&filter, cursor);
        assert_eq!((page.totals.count, page.totals.cost, page.totals.past_window), (7, 7 * 4_800, 7));
        let kinds: Vec<_> = page.facets.kind.iter().map(|f| (f.value.as_str(), f.count)).collect();
        assert_eq!(kinds, [("inspection", 7), ("improvement", 1)], "a filter does not narrow its own values");
        seen.extend(page.work_orders.iter().map(|row| row.number));
        cursor = page.next_cursor;
        if cursor.is_none() {
            break;
        }
    }
    let mut once = seen.clone();
    once.sort_unstable();
    once.dedup();
    assert_eq!((seen.len(), once.len()), (7, 7), "each once: {seen:?}");
    let text = work::Filter { text: Some("eq".into()), ..work::Filter::default() };
    assert_eq!(list(&text, None).work_orders.len(), 1);
    let bad = work::Page { cursor: Some("x".into()), ..work::Page::default() };
    let refused = plant.store.read(day(9), |view| work::list(view, &filter, &bad));
    assert_eq!(refused.unwrap_err().to_string(), "cursor: is none of this list");
}

#[test]
fn a_used_code_that_is_left_out_is_retired_and_an_unused_one_goes() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "corrective_deferred", day(2));
    let report = json!({"problem": "NOISE", "cause": "BEAR", "failed_at": day(2), "effect": "degraded"});
    plant.write(day(3), |tx| failures::put(tx, number, &serde_json::from_value(report).unwrap())).unwrap();
    let only_heat = json!({"name": "Gearboxes", "class": "gearbox", "problems": [{"code": "HOT", "name": "Runs hot"}]});
    plant.write(day(4), |tx| codebooks::put(tx, "gearbox", &serde_json::from_value(only_heat).unwrap())).unwrap();
    let view = plant.store.read(Instant::LATEST, |view| codebooks::view(view, "gearbox")).unwrap();
    let state: Vec<_> = view.book.problems.iter().map(|p| (p.code.as_str(), p.status)).collect();
    use tally_core::ground::status::Status::{Active, Retired};
    assert_eq!(state, [("NOISE", Retired), ("HOT", Active)]);
    assert_eq!(view.used.get("NOISE/BEAR"), Some(&1));
    assert_eq!(plant.order(number, at("2026-02-01T00:00:00Z")).failures[0].problem.clone().unwrap().name, "Noise");
}

/// What is counted in one pass is what each row says of itself.
#[test]
fn facets_totals_and_rows_agree_under_every_filter() {
    let plant = Plant::new();
    for n in 0..12 {
        let state = ["raised", "planning", "ready"][n % 3];
        let new = json!({"title": format!("Job {n}"), "kind": (["inspection", "improvement"][n % 2]), "asset": "EQ",
            "risk_rank": 1 + n % 5, "estimated_hours": 1.5, "state": state});
        plant.write(day(1 + n as u32), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap();
    }
    let now = day(22);
    let list = |filter: Filter| {
        let page = work::Page { limit: 100, ..work::Page::default() };
        plant.store.read(now, |view| work::list(view, &filter, &page)).unwrap()
    };
    let filters = [
        Filter::default(),
        Filter { states: vec![WorkState::Planning], ..Filter::default() },
        Filter { ranks: vec![1, 2], kinds: vec![WorkKind::Inspection], ..Filter::default() },
        Filter { over_limit: true, ..Filter::default() },
        Filter { past_window: true, text: Some("job 1".into()), ..Filter::default() },
    ];
    for filter in filters {
        let page = list(filter.clone());
        let rows = &page.work_orders;
        assert_eq!(page.totals.count, rows.len() as i64, "{filter:?}");
        assert_eq!(page.totals.past_window, rows.iter().filter(|row| row.past_window).count() as i64, "{filter:?}");
        // The rule in core says it of each row, SQL of all of them.
        assert_eq!(page.totals.over_limit, rows.iter().filter(|row| row.over_limit).count() as i64, "{filter:?}");
        let without = list(Filter { states: vec![], ..filter.clone() });
        let states: i64 = page.facets.state.iter().map(|value| value.count).sum();
        assert_eq!(states, without.totals.count, "a facet is counted under the others: {filter:?}");
    }
    // Planning since more than 10 days (the first setting): the orders of days 2, 5, 8 and 11.
    let over: Vec<_> = list(Filter { over_limit: true, ..Filter::default() }).work_orders;
    assert_eq!(over.iter().filter(|row| row.state == WorkState::Planning).count(), 4);
}

#[test]
fn each_asset_of_an_order_has_its_own_failure_report() {
    let plant = Plant::new();
    let number = raise(&plant, "EQ", "corrective_immediate", day(2));
    let put =
        |report: Value| plant.write(day(4), |tx| failures::put(tx, number, &serde_json::from_value(report).unwrap()));
    let of =
        |asset: &str, effect: &str| json!({"asset": asset, "failed_at": day(2), "effect": effect, "problem": "NOISE"});
    put(of("EQ", "critical")).unwrap();
    let part = put(of("PART", "critical")).unwrap();
    put(of("EQ", "degraded")).unwrap();
    let told = |plant: &Plant| -> Vec<(String, String)> {
        let failures = plant.order(number, day(5)).failures;
        failures.iter().map(|f| (f.asset.code.clone(), serde_json::to_string(&f.effect).unwrap())).collect()
    };
    let (critical, degraded) = (String::from("\"critical\""), String::from("\"degraded\""));
    assert_eq!(told(&plant), [("EQ".to_owned(), degraded.clone()), ("PART".to_owned(), critical.clone())]);
    // The wrong asset is put right, but not onto one that has a report.
    let onto = |id: tally_core::ground::ids::FailureId, asset: &str| {
        put(json!({"id": id, "asset": asset, "failed_at": day(2), "effect": "critical"}))
    };
    let taken = onto(part, "EQ").unwrap_err().to_string();
    assert_eq!(taken, "asset: has a failure report on this work already");
    assert_eq!(onto(part, "ASM").unwrap(), part);
    assert_eq!(told(&plant), [("EQ".to_owned(), degraded.clone()), ("ASM".to_owned(), critical)]);
    plant.write(day(5), |tx| failures::remove(tx, number, part)).unwrap();
    assert_eq!(told(&plant), [("EQ".to_owned(), degraded)]);
    // Of the two failures of January the tally counts both while both stand.
    put(of("PART", "critical")).unwrap();
    let failed = costs(&plant, &["PART", "EQ", "SITE"], Indicator::Failures, day(6));
    assert_eq!(failed.iter().map(|f| f.value).collect::<Vec<_>>(), [Some(1.0), Some(2.0), Some(2.0)]);
}

#[test]
fn work_of_a_limit_that_found_it_asks_what_failed() {
    let plant = Plant::new();
    let ladder =
        json!({"rungs": [{"side": "high", "severity": "alert", "setpoint": 4.0, "response": {"kind": "raise"}}]});
    plant.set_limits("M-ACC", ladder, day(1)).unwrap();
    let number = plant.send("M-ACC", &[5.0], day(2)).work_orders[0];
    for state in [WorkState::Ready, WorkState::UnderWay] {
        plant.state(number, state, day(3)).unwrap();
    }
    let done = StateMove { verdict: Some(tally_core::work::Verdict::FoundIt), ..move_to(WorkState::Done) };
    plant.write(day(3), |tx| work::set_state(tx, number, &done)).unwrap();
    let order = plant.order(number, day(3));
    assert_eq!((order.row.kind.is_corrective(), order.asks_for_failure), (false, true));
    let refused = plant.state(number, WorkState::Closed, day(4)).unwrap_err().to_string();
    assert!(refused.contains("failure"), "{refused}");
    let report =
        json!({"failed_at": day(2), "effect": "incipient", "problem": "NOISE", "cause": "BEAR", "remedy": "RBEAR"});
    plant.write(day(4), |tx| failures::put(tx, number, &serde_json::from_value(report).unwrap())).unwrap();
    plant.state(number, WorkState::Closed, day(4)).unwrap();
    // Found before it failed: it was warned of, and stopped nothing.
    let replacement = costs(&plant, &["PART"], Indicator::UnplannedDowntime, day(5));
    assert_eq!(replacement[0].value, Some(0.0));
}

#[test]
fn a_retired_problem_keeps_its_cause_and_remedy_in_reports_that_have_it() {
    let plant = Plant::new();
    let number = raise(&plant, "PART", "corrective_deferred", day(2));
    let put = |remedy: Option<&str>| {
        let report =
            json!({"failed_at": day(2), "effect": "degraded", "problem": "NOISE", "cause": "BEAR", "remedy": remedy});
        plant.write(day(4), |tx| failures::put(tx, number, &serde_json::from_value(report).unwrap()))
    };
    put(None).unwrap();
    plant
        .write(day(5), |tx| {
            let book = json!({"name": "Gearboxes", "class": "gearbox", "problems": [
                {"code": "NOISE", "name": "Noise", "status": "retired", "below": [
                    {"code": "BEAR", "name": "Bearing worn", "below": [{"code": "RBEAR", "name": "Replaced", "renews": true}]}]},
                {"code": "LEAK", "name": "Leak", "below": [{"code": "SEAL", "name": "Seal worn"}]}]});
            codebooks::put(tx, "gearbox", &serde_json::from_value(book).unwrap())
        })
        .unwrap();
    put(Some("RBEAR")).unwrap();
    let other = raise(&plant, "PART", "corrective_deferred", day(6));
    let report = json!({"failed_at": day(6), "effect": "degraded", "problem": "NOISE"});
    let refused = plant.write(day(6), |tx| failures::put(tx, other, &serde_json::from_value(report).unwrap()));
    assert!(refused.unwrap_err().to_string().starts_with("problem: "));
}

/// Whoever looks at work or alarms is told of whatever others do to them, not of readings and set-up alone.
#[test]
fn whatever_people_do_to_alarms_and_work_is_news() {
    let plant = Plant::new();
    let rung = json!({"side": "high", "severity": "alert", "setpoint": 4.0, "response": {"kind": "notify"}});
    plant.set_limits("M-ACC", json!({ "rungs": [rung] }), day(1)).unwrap();
    plant.send("M-ACC", &[5.0], day(2));
    let number = raise(&plant, "EQ", "improvement", day(2));
    let heard = plant.store.hear();
    let told = || heard.try_iter().map(|news| (news.alarms, news.work, news.setup)).collect::<Vec<_>>();
    let now = day(3);
    let span = tally_core::ground::time::Span::ALWAYS;
    let alarm = plant.store.read(Instant::LATEST, |view| alarms::of_meter(view, "M-ACC", span, 1)).unwrap()[0].id;
    plant.write(now, |tx| alarms::acknowledge(tx, &[alarm])).unwrap();
    plant.write(now, |tx| alarms::take_back(tx, &[alarm])).unwrap();
    assert_eq!(told(), [(true, false, false); 2]);
    let entry = json!({"kind": "tool", "quantity": "1", "unit_price": "10", "description": "Puller"});
    let entry = enter(&plant, number, entry, now).unwrap();
    plant.write(now, |tx| entries::reverse(tx, number, entry, "wrong")).unwrap();
    let down = json!({"kind": "unplanned", "start": day(2)});
    let down =
        plant.write(now, |tx| downtime::add_to_work(tx, number, &serde_json::from_value(down).unwrap())).unwrap();
    plant.write(now, |tx| downtime::end(tx, down, now)).unwrap();
    let failure = json!({"effect": "critical", "failed_at": day(2)});
    let failure = plant.write(now, |tx| failures::put(tx, number, &serde_json::from_value(failure).unwrap())).unwrap();
    plant.write(now, |tx| failures::remove(tx, number, failure)).unwrap();
    plant.state(number, WorkState::Planning, now).unwrap();
    assert_eq!(told(), [(false, true, false); 7]);
}
