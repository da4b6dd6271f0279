//! What was known then: everything is done that can be done to the facts, in any order, and what was answered on the way is
//! answered again afterwards by what was known at that instant. Beside it, facts kept row by row are facts read anew.

use crate::common::{Plant, add_asset, day};
use proptest::prelude::*;
use serde_json::{Value, json};
use tally_core::{
    facts::Snapshot,
    ground::{
        ids::{AssetId, DowntimeId, EntryId, FailureId, WorkOrderId},
        time::{DAY, HOUR, Instant, Span},
    },
    lists::{Asked, Context, Holds, Narrowed, Sees, SubjectId, answer},
    outside::files::Decimal,
    plant::assets::Basis,
    tally::{Question, figures, indicators::Indicator},
};
use tally_store::{
    Result, StoreError, Tx,
    codes::failures,
    facts,
    plant::{
        assets, calendars, downtime, master,
        master::{Given, GivenRow, Kind},
    },
    watch::alarms,
    work,
    work::entries,
};

/// What is done: which of the ways there are, to which of what there is, how, and how many hours before it is written down.
pub(crate) type Step = (u8, u8, u8, i64);

/// Ids of what was made so far.
#[derive(Default)]
pub(crate) struct Made {
    works: Vec<WorkOrderId>,
    entries: Vec<(WorkOrderId, EntryId)>,
    downtimes: Vec<DowntimeId>,
    failures: Vec<(WorkOrderId, FailureId)>,
    assets: u8,
}

const ASSETS: [&str; 7] = ["SITE", "UNIT", "SYS", "EQ", "SUB", "ASM", "PART"];

fn from<T: serde::de::DeserializeOwned>(value: Value) -> T {
    serde_json::from_value(value).unwrap()
}

/// From six on, on so many days of the week.
fn hours(days: u8, to: u16) -> Vec<Value> {
    (0..days).map(|weekday| json!({"weekday": weekday, "from_minute": 6 * 60, "to_minute": to * 60})).collect()
}

fn pick<T: Copy>(all: &[T], which: u8) -> Option<T> {
    all.get(usize::from(which) % all.len().max(1)).copied()
}

/// Does one step; whether there was something to do it to, and it may be done.
pub(crate) fn take_step(tx: &mut Tx, made: &mut Made, (what, which, how, ago): Step) -> Result<bool> {
    let at = tx.now.plus(-ago * HOUR);
    let asset = ASSETS[usize::from(how) % ASSETS.len()];
    let work = pick(&made.works, which);
    match (what, work) {
        (0, _) => {
            let new = json!({"title": "Look", "kind": "corrective_deferred", "asset": asset, "risk_rank": how % 5 + 1,
                "raised_at": at, "crew": (which % 2 == 0).then_some("red"), "estimated_hours": which % 7});
            made.works.push(work::raise(tx, &from(new))?);
        }
        (1, Some(work)) => {
            let to = match how % 5 {
                0 => json!({"crew": "red", "at": at}),
                1 => json!({"crew": "blue", "assignee": "tess"}),
                2 => json!({"estimated_hours": which, "at": at}),
                3 => json!({"risk_rank": which % 5 + 1, "kind": "inspection"}),
                _ => json!({"scheduled_start": at, "scheduled_end": at.plus(HOUR), "target_start": at, "at": at}),
            };
            work::change(tx, work, &from(to))?;
        }
        (2, Some(work)) => {
            let becomes = ["delete", "keep", "end"][usize::from(which) % 3];
            let to = [
                "planning",
                "waiting",
                "ready",
                "scheduled",
                "under_way",
                "done",
                "closed",
                "dropped",
                "under_way",
                "done",
            ];
            let to = json!({"to": to[usize::from(how) % to.len()], "waiting_for": "parts", "note": "so it is", "at": at,
                    "downtime": becomes});
            work::set_state(tx, work, &from(to))?;
        }
        (3, Some(work)) => {
            let supplier = ["Old", "New"][usize::from(which) % 2];
            let entry = match how % 2 {
                0 => json!({"kind": "labour", "person": "tess", "quantity": "1.5", "at": at, "asset": asset}),
                _ => json!({"kind": "material", "quantity": "2", "unit_price": "731", "description": "Seal", "at": at,
                    "item": "Seal", "supplier": supplier}),
            };
            made.entries.push((work, entries::add(tx, work, &from(entry))?));
        }
        (4, _) => {
            let Some((work, entry)) = pick(&made.entries, which) else { return Ok(false) };
            entries::reverse(tx, work, entry, "a slip")?;
        }
        (5, work) => {
            let kind = ["unplanned", "planned", "external"][usize::from(how) % 3];
            let end = (which % 3 > 0).then(|| at.plus(HOUR / 2));
            let slowed = (which % 5 == 4).then_some(0.25);
            let down = json!({"kind": kind, "asset": asset, "start": at.plus(-HOUR), "end": end, "slowed": slowed});
            let down = from(down);
            made.downtimes.push(match work {
                Some(work) if how % 2 == 0 => downtime::add_to_work(tx, work, &down)?,
                _ => downtime::add_to_asset(tx, asset, &down)?,
            });
        }
        (6, _) => {
            let Some(down) = pick(&made.downtimes, which) else { return Ok(false) };
            let to = json!({"kind": "external", "start": at.plus(-2 * HOUR), "end": (which % 2 == 0).then_some(at),
                "share": (which % 5 == 0).then_some(0.5), "reason": "a slip"});
            match how % 4 {
                0 => downtime::end(tx, down, at)?,
                1 => downtime::correct(tx, down, &from(to))?,
                2 => downtime::remove(tx, down, &from(json!({"reason": "it ran"})))?,
                _ => downtime::put_back(tx, down)?,
            }
        }
        (7, Some(work)) => {
            let effect = ["critical", "degraded", "incipient"][usize::from(how) % 3];
            let coded = (how % 2 == 0).then_some("BEAR");
            let report = json!({"asset": asset, "failed_at": at, "effect": effect, "problem": "NOISE", "cause": coded,
                "reason": "looked at again"});
            made.failures.push((work, failures::put(tx, work, &from(report))?));
        }
        (8, _) => {
            let Some((work, failure)) = pick(&made.failures, which) else { return Ok(false) };
            failures::remove(tx, work, failure)?;
        }
        (9, _) => {
            let parent = ASSETS[usize::from(which) % ASSETS.len()];
            assets::relocate(tx, asset, &from(json!({"parent": parent, "at": at, "reason": "it goes there"})))?;
        }
        (10, _) => {
            let effect =
                [json!({"kind": "no"}), json!({"kind": "yes"}), json!({"kind": "group", "name": "pair", "needs": 1})];
            assets::set_parent_effect(tx, asset, &from(effect[usize::from(which) % 3].clone()), at)?;
        }
        (11, _) => {
            let column = ["commissioned_at", "retired_at"][usize::from(which) % 2];
            let columns = ["code".to_owned(), column.to_owned()];
            let rows = [GivenRow { line: 1, cells: Ok(vec![asset.into(), at.to_string()]), was: vec![] }];
            let given = Given {
                columns: &columns,
                rows: rows.into_iter(),
                decimal: Decimal::Point,
                zone: None,
                source: "a test",
            };
            return Ok(master::take(tx, Kind::Assets, given, &mut |_, _| true)?.changed > 0);
        }
        (12, _) => calendars::assign(tx, asset, if which % 2 == 0 { "day" } else { "week" }, at)?,
        (13, _) => {
            let changed = json!({"code": "day", "name": "By day", "time_zone": "UTC",
                "hours": hours(7, 12 + u16::from(which) % 8)});
            calendars::change(tx, "day", &from(changed))?;
        }
        (14, _) => {
            made.assets += 1;
            let code = format!("NEW{}", made.assets);
            add_asset(tx, json!({"code": code, "name": code, "level": "part", "parent": asset}))?;
        }
        (15, _) => {
            let row = crate::common::reading("M-BAR", at, f64::from(how));
            tally_store::watch::readings::ingest(tx, &[row], crate::common::GATEWAY)?;
        }
        (16, _) => {
            alarms::acknowledge(tx, &[tally_core::ground::ids::AlarmId(i64::from(which) % 5 + 1)])?;
        }
        _ => return Ok(false),
    }
    Ok(true)
}

/// Everything that facts can answer, in words: figures of all assets on both bases, and all lists with all columns.
pub(crate) fn all_answers(facts: &Snapshot, ids: &[AssetId], now: Instant) -> Vec<String> {
    let indicators: Vec<Indicator> = tally_core::tally::indicators::CATALOGUE.iter().map(|d| d.id).collect();
    let period = Span::new(day(1), now.plus(DAY)).unwrap();
    let mut said = Vec::new();
    for basis in [Basis::AsWas, Basis::AsIs] {
        for (id, row) in ids.iter().zip(figures(facts, ids, &indicators, Question { period, now, basis })) {
            let pairs = indicators.iter().zip(row);
            said.extend(pairs.map(|(indicator, figure)| format!("{basis:?} {id:?} {indicator:?}: {figure:?}")));
        }
    }
    for subject in SubjectId::ALL {
        let columns = subject.definition().columns;
        let told = columns.iter().filter(|column| column.holds != Holds::Text).map(|column| column.id.to_owned());
        for columns in told.collect::<Vec<_>>().chunks(30) {
            let asked = Asked { columns: columns.to_vec(), limit: Some(500), ..Asked::default() };
            let context = Context::new(facts, now, Sees::all());
            let found = answer(subject, &context, &asked, &Narrowed::default(), 500).unwrap();
            said.extend(found.rows.iter().map(|row| {
                let cells = columns.iter().zip(&row.cells).map(|(column, cell)| format!("{column} {cell:?}"));
                format!("{subject:?} {}: {}", row.id, cells.collect::<Vec<_>>().join(", "))
            }));
        }
    }
    said
}

pub(crate) fn differing(was: &[String], is: &[String]) -> Vec<String> {
    let lost = was.iter().filter(|one| !is.contains(one)).map(|one| format!("- {one}"));
    lost.chain(is.iter().filter(|one| !was.contains(one)).map(|one| format!("+ {one}"))).take(8).collect()
}

pub(crate) fn plant() -> Plant {
    let plant = Plant::new();
    plant
        .write(day(1), |tx| {
            for code in ["red", "blue"] {
                let crew =
                    json!({"code": code, "name": code, "department": format!("{code} ones"), "weekly_hours": 80.0});
                tally_store::access::people::add_crew(tx, &from(crew))?;
            }
            for code in ["day", "week"] {
                let hours = if code == "day" { hours(7, 18) } else { hours(2, 20) };
                let calendar = json!({"code": code, "name": code, "time_zone": "UTC", "hours": hours});
                calendars::add(tx, &from(calendar))?;
            }
            Ok::<_, StoreError>(())
        })
        .unwrap();
    let rung = json!({"side": "high", "severity": "alert", "setpoint": 4.0, "deadband": 1.0,
        "response": {"kind": "raise", "title": "Look at it", "work_kind": "condition_based", "risk_rank": 2}});
    plant.set_limits("M-BAR", json!({"raise_interval_seconds": 3600, "rungs": [rung]}), day(1)).unwrap();
    plant
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn what_was_known_then_is_what_was_answered_then(
        steps in prop::collection::vec((0u8..17, 0u8..30, 0u8..30, 0i64..40), 8..48),
    ) {
        let plant = plant();
        let mut made = Made::default();
        let mut answered: Vec<(Instant, Vec<AssetId>, Vec<String>)> = Vec::new();
        for (place, step) in (0i64..).zip(steps) {
            let now = day(3).plus(place * 5 * HOUR);
            // What may not be done is refused, and leaves nothing.
            let done = plant.write(now, |tx| take_step(tx, &mut made, step));
            if !matches!(done, Ok(true)) {
                continue;
            }
            plant.store.read(now, |view| {
                let (kept, fresh) = (view.facts()?, facts::load(view)?);
                let ids: Vec<AssetId> = (0..fresh.tree.len()).map(|index| fresh.tree.node(index).id).collect();
                let said = all_answers(kept, &ids, now);
                let differ = differing(&all_answers(&fresh, &ids, now), &said);
                assert!(differ.is_empty(), "kept, not fresh, after {step:?}: {differ:#?}");
                answered.push((now, ids, said));
                Ok::<_, StoreError>(())
            }).unwrap();
        }
        plant.store.read(day(200), |view| {
            for (then, ids, said) in &answered {
                let past = view.then(None, Some(*then))?;
                assert_eq!(past.now, *then);
                let differ = differing(said, &all_answers(past.facts()?, ids, *then));
                assert!(differ.is_empty(), "known at {then}: {differ:#?}");
            }
            Ok::<_, StoreError>(())
        }).unwrap();
    }
}

/// Each kind of step can be done: none of them is refused whatever it is.
#[test]
fn every_kind_of_step_is_taken() {
    let plant = plant();
    let mut made = Made::default();
    let steps = [
        (0, 0, 3, 1),
        (1, 0, 1, 0),
        (2, 0, 0, 0),
        (2, 0, 1, 0),
        (3, 0, 0, 1),
        (3, 0, 1, 1),
        (4, 0, 0, 0),
        (5, 1, 0, 1),
        (5, 0, 3, 1),
        (6, 1, 0, 0),
        (7, 0, 0, 1),
        (8, 0, 0, 0),
        (9, 3, 6, 2),
        (10, 1, 6, 0),
        (12, 0, 2, 0),
        (13, 3, 0, 0),
        (14, 0, 2, 0),
        (15, 0, 10, 0),
        (16, 0, 0, 0),
        (11, 1, 6, 1),
    ];
    for (place, step) in (0i64..).zip(steps) {
        let done = plant.write(day(3).plus(place * HOUR), |tx| take_step(tx, &mut made, step));
        assert!(matches!(done, Ok(true)), "{step:?}: {done:?}");
    }
}
