//! Master data as tables: what becomes of rows, in any order, by file or by hand.

use crate::common::{Plant, day, year};
use proptest::{prelude::*, sample::Index};
use rstest::rstest;
use serde_json::json;
use tally_core::{
    ground::time::{Instant, Span},
    outside::files::{CsvOut, Table},
    plant::assets::Basis,
    tally::{Question, figures, indicators::Indicator},
};
use tally_store::{
    StoreError, View,
    plant::{
        assets, calendars, master,
        master::{AskedChanges, Given, GivenRow, Kind, MasterReceipt, Outcome, Query},
    },
    work,
    work::entries,
};

fn rows<'a>(table: &'a Table<'a>) -> impl Iterator<Item = GivenRow> {
    table.lines().map(|(line, cells)| GivenRow { line, cells: cells.map(|line| line.cells), was: vec![] })
}

/// Takes a CSV text in.
fn take(plant: &Plant, kind: Kind, csv: &str) -> MasterReceipt {
    try_take(plant, kind, csv, true).unwrap()
}

fn try_take(plant: &Plant, kind: Kind, csv: &str, go_on: bool) -> Result<MasterReceipt, StoreError> {
    let table = Table::open(csv.as_bytes()).unwrap();
    plant.store.write(plant.admin.clone(), day(20), |tx| {
        let decimal = table.decimal();
        let given = Given { columns: &table.columns, rows: rows(&table), decimal, zone: None, source: "a test" };
        master::take(tx, kind, given, &mut |_, _| go_on)
    })
}

fn export(plant: &Plant, kind: Kind) -> String {
    let mut csv = CsvOut::new(Vec::new());
    let query = Query { all: true, ..Query::default() };
    plant.store.read(Instant::LATEST, |view| master::export(view, kind, &query, &mut csv)).unwrap();
    String::from_utf8(csv.into_inner().unwrap()).unwrap()
}

/// Reason by field of the refused row on that line.
fn reason(receipt: &MasterReceipt, line: u64) -> (String, String) {
    let report = receipt.lines.iter().find(|report| report.line == line).unwrap();
    assert_eq!(report.outcome, Outcome::Refused, "{report:?}");
    (report.reasons[0].field.clone(), report.reasons[0].reason.clone())
}

#[test]
fn a_row_adds_changes_or_leaves_and_says_so() {
    let plant = Plant::new();
    let csv = "code,name,level,parent,replacement_value\nP-1,Pump,equipment,SYS,1200.50\nEQ,Drive,equipment,SYS,\nASM,ASM,part,SUB,\n";
    let receipt = take(&plant, Kind::Assets, csv);
    assert_eq!((receipt.added, receipt.changed, receipt.unchanged, receipt.refused), (1, 1, 1, 0), "{receipt:?}");
    let changed = receipt.lines.iter().find(|line| line.outcome == Outcome::Changed).unwrap();
    let change = &changed.changes[0];
    assert_eq!(
        (changed.code.as_str(), change.field.as_str(), change.from.as_str(), change.to.as_str()),
        ("EQ", "name", "EQ", "Drive")
    );
    let again = take(&plant, Kind::Assets, csv);
    assert_eq!((again.unchanged, again.lines.len()), (3, 0), "{again:?}");
    let history = plant
        .store
        .read(Instant::LATEST, |view| {
            master::history(view, AskedChanges { kind: Some(Kind::Assets), code: Some("EQ"), text: None }, 10)
        })
        .unwrap();
    assert_eq!((history[0].action.as_str(), &history[0].changes), ("changed", &changed.changes));
    assert_eq!(history[0].person, "Administrator");
}

#[rstest]
#[case::parent("code,name,level,parent\nX,X,part,NO\n", "parent", "there is no asset \"NO\"")]
#[case::no_name("code,name,level\nX,,part\n", "name", "is missing")]
#[case::name_column_left_out("code,level\nX,part\n", "name", "is missing")]
#[case::level("code,name,level\nX,X,floor\n", "level", "\"floor\" is none of site, unit, system, equipment, part")]
#[case::retired(
    "code,commissioned_at,retired_at\nEQ,2025-01-02T00:00:00Z,2025-01-01T00:00:00Z\n",
    "retired_at",
    "must lie after commissioned_at"
)]
#[case::own_child("code,parent\nSITE,PART\n", "parent", "the new parent sits below the asset itself")]
#[case::cells("code,name\nEQ,a,b\n", "", "the line has 3 cells, but the head names 2 columns")]
#[case::new_code("code,new_code\nEQ,SUB\n", "new_code", "there is an asset SUB already")]
fn what_is_wrong_with_an_asset_is_said_by_field(#[case] csv: &str, #[case] field: &str, #[case] words: &str) {
    let plant = Plant::new();
    let before = export(&plant, Kind::Assets);
    assert_eq!(reason(&take(&plant, Kind::Assets, csv), 2), (field.into(), words.into()));
    assert_eq!(export(&plant, Kind::Assets), before, "nothing of a refused row is kept");
}

#[test]
fn parents_may_come_after_children_and_a_ring_is_refused() {
    let plant = Plant::new();
    let csv =
        "code,name,level,parent\nC,C,part,B\nB,B,part,A\nA,A,part,PART\nR1,R1,part,R2\nR2,R2,part,R1\nD,D,part,R1\n";
    let receipt = take(&plant, Kind::Assets, csv);
    assert_eq!((receipt.added, receipt.refused), (3, 3), "{receipt:?}");
    assert_eq!(reason(&receipt, 5).1, "the parents of this row lead back to it");
    assert_eq!(reason(&receipt, 7).1, "there is no asset \"R1\"");
}

#[test]
fn a_new_code_keeps_the_old_one_and_files_with_it_still_fit() {
    let plant = Plant::new();
    assert_eq!(take(&plant, Kind::Assets, "code,new_code\nEQ,DRIVE\n").changed, 1);
    let receipt = take(&plant, Kind::Assets, "code,name\nEQ,Main drive\n");
    assert_eq!((receipt.changed, receipt.lines[0].changes[0].field.as_str()), (1, "name"), "{receipt:?}");
    let detail = plant.store.read(day(20), |view| assets::detail(view, "EQ")).unwrap();
    assert_eq!((detail.node.code.as_str(), detail.old_codes), ("DRIVE", vec!["EQ".to_owned()]));
    assert!(export(&plant, Kind::Assets).contains("DRIVE,Main drive"));
    // What was done under the old code is still its history.
    let history = plant
        .store
        .read(Instant::LATEST, |view| {
            master::history(view, AskedChanges { kind: Some(Kind::Assets), code: Some("DRIVE"), text: None }, 10)
        })
        .unwrap();
    let actions: Vec<&str> = history.iter().map(|change| change.action.as_str()).collect();
    assert_eq!(actions, ["changed", "changed", "code changed", "added"]);
    // Given back its first code, the other is the old one.
    take(&plant, Kind::Assets, "code,new_code\nDRIVE,EQ\n");
    let detail = plant.store.read(day(20), |view| assets::detail(view, "DRIVE")).unwrap();
    assert_eq!((detail.node.code.as_str(), detail.old_codes), ("EQ", vec!["DRIVE".to_owned()]));
}

#[test]
fn another_parent_is_a_move_now_with_the_file_as_its_reason() {
    let plant = Plant::new();
    assert_eq!(take(&plant, Kind::Assets, "code,parent\nPART,SYS\n").changed, 1);
    let detail = plant.store.read(day(20), |view| assets::detail(view, "PART")).unwrap();
    let places: Vec<_> = detail
        .placements
        .iter()
        .map(|p| (p.parent.as_ref().map(|p| p.code.as_str()), p.reason.as_str(), p.to))
        .collect();
    assert_eq!(places, [(Some("ASM"), "added", Some(day(20))), (Some("SYS"), "a test", None)]);
}

#[test]
fn effects_and_calendars_change_from_now_on_and_keep_their_past() {
    let plant = Plant::new();
    plant
        .write(day(2), |tx| {
            let new = json!({"code": "early", "name": "Early", "time_zone": "UTC", "hours": []});
            calendars::add(tx, &serde_json::from_value(new).unwrap()).map(|_| ())
        })
        .unwrap();
    let csv = "code,parent_effect,calendar\nEQ,needs 1 of drives,early\n";
    assert_eq!(take(&plant, Kind::Assets, csv).changed, 1);
    let detail = plant.store.read(day(20), |view| assets::detail(view, "EQ")).unwrap();
    assert_eq!(detail.effects.len(), 2);
    assert_eq!((detail.effects[0].to, detail.effects[1].from), (Some(day(20)), day(20)));
    assert_eq!(detail.calendars[0].from, day(20));
    assert_eq!(take(&plant, Kind::Assets, "code,calendar\nEQ,\n").changed, 1);
    assert!(export(&plant, Kind::Assets).lines().any(|line| line.starts_with("EQ,") && !line.contains("early")));
    assert_eq!(reason(&take(&plant, Kind::Assets, "code,calendar\nEQ,late\n"), 2).0, "calendar");
}

#[test]
fn a_commissioning_is_a_date_and_moves_no_place() {
    let plant = Plant::new();
    take(&plant, Kind::Assets, "code,name,level,parent,commissioned_at\nN,N,part,SYS,2026-01-05T00:00:00Z\n");
    let place = || plant.store.read(day(20), |view| assets::detail(view, "N")).unwrap();
    assert_eq!(place().placements[0].from, Instant::EARLIEST);
    let new = json!({"title": "Foundation", "kind": "improvement", "asset": "N", "risk_rank": 3});
    let number = plant.write(day(2), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap();
    let cost = json!({"kind": "service", "quantity": "1", "unit_price": "25000", "description": "Concrete"});
    plant.write(day(2), |tx| entries::add(tx, number, &serde_json::from_value(cost).unwrap())).unwrap();
    let spent = |code: &str| {
        let q = Question { period: year(), now: day(20), basis: Basis::AsWas };
        let figure = |view: &View| {
            let asset = assets::require(view, code)?;
            Ok::<_, StoreError>(figures(view.facts()?, &[asset], &[Indicator::CostTotal], q)[0][0].value)
        };
        plant.store.read(day(20), figure).unwrap()
    };
    // Spent before it ran, it is its site's, whatever date is filled in.
    for commissioned in ["2025-06-01T00:00:00Z", "2026-01-21T00:00:00Z", ""] {
        take(&plant, Kind::Assets, &format!("code,commissioned_at\nN,{commissioned}\n"));
        assert_eq!(place().placements[0].from, Instant::EARLIEST);
        assert_eq!((spent("N"), spent("SYS"), spent("SITE")), (Some(25_000.0), Some(25_000.0), Some(25_000.0)));
    }
    // Moved, the date is still no matter of its places.
    take(&plant, Kind::Assets, "code,parent\nN,EQ\n");
    assert_eq!(take(&plant, Kind::Assets, "code,commissioned_at\nN,2026-01-25T00:00:00Z\n").changed, 1);
    assert_eq!(place().placements.len(), 2);
}

#[rstest]
#[case::unit("code,unit\nM-BAR,kPa\n", "unit", "stays as it is once there are readings; add another meter instead")]
#[case::asset("code,asset\nM-BAR,EQ\n", "asset", "stays as it is once there are readings; add another meter instead")]
#[case::range(
    "code,plausible_low,plausible_high\nM-BAR,9,3\n",
    "plausible_high",
    "the plausible range must run from lower to higher"
)]
#[case::grades(
    "code,grades\nG,good | middling | bad\n",
    "grades",
    "readings use good | bad; new grades can only follow them"
)]
fn what_was_read_keeps_its_meaning(#[case] csv: &str, #[case] field: &str, #[case] words: &str) {
    let plant = Plant::new();
    take(&plant, Kind::Meters, "code,asset,kind,grades\nG,SYS,grade,good | bad\n");
    plant.send("M-BAR", &[5.0], day(3));
    plant.send("G", &[1.0], day(3));
    assert_eq!(reason(&take(&plant, Kind::Meters, csv), 2), (field.into(), words.into()));
}

#[test]
fn a_changed_meter_is_read_by_its_new_rules_at_once() {
    let plant = Plant::new();
    plant.send("M-BAR", &[5.0], day(3));
    take(&plant, Kind::Meters, "code,plausible_high,longest_silence,retired_at\nM-BAR,10,36 h,\n");
    assert_eq!(plant.send("M-BAR", &[50.0], day(4)).quarantined, 1);
    take(&plant, Kind::Meters, &format!("code,retired_at\nM-BAR,{}\n", day(5)));
    assert_eq!(plant.send("M-BAR", &[5.0], day(6)).refused[0].reason, "the meter M-BAR is retired");
    let grown = take(&plant, Kind::Meters, "code,asset,kind,grades\nG,SYS,grade,good | bad\n");
    assert_eq!(grown.added, 1);
    plant.send("G", &[1.0], day(3));
    assert_eq!(take(&plant, Kind::Meters, "code,grades\nG,good | bad | worse\n").changed, 1);
}

#[test]
fn classes_and_crews_that_rows_name_are_added_with_them() {
    let plant = Plant::new();
    let csv = "code,name,level,class,crew\nA,A,part,fan,night\nB,B,part,fan,night\nC,C,floor,oven,\n";
    let receipt = take(&plant, Kind::Assets, csv);
    assert_eq!(receipt.also_added, ["equipment class fan", "crew night"]);
    assert!(!export(&plant, Kind::EquipmentClasses).contains("oven"), "of a refused row nothing is kept");
    assert!(export(&plant, Kind::Crews).contains("night,night,night,0"));
}

#[test]
fn the_last_administrator_stays_one() {
    let plant = Plant::new();
    for csv in ["code,role\nadmin,viewer\n", "code,active\nadmin,no\n"] {
        assert_eq!(reason(&take(&plant, Kind::People, csv), 2).1, "the last administrator must stay one");
    }
    assert_eq!(take(&plant, Kind::People, "code,role\ntess,administrator\nadmin,viewer\n").changed, 2);
}

#[test]
fn a_row_that_somebody_changed_meanwhile_is_left_alone() {
    let plant = Plant::new();
    let columns = ["code", "name"].map(String::from);
    let row = |was: &str, name: &str| GivenRow {
        line: 0,
        cells: Ok(vec!["EQ".into(), name.into()]),
        was: vec![("name".into(), was.into())],
    };
    let give = |row: GivenRow| {
        plant.store.write(plant.admin.clone(), day(20), |tx| {
            let decimal = tally_core::outside::files::Decimal::Point;
            let given = Given { columns: &columns, rows: [row], decimal, zone: None, source: "" };
            master::take(tx, Kind::Assets, given, &mut |_, _| true)
        })
    };
    assert_eq!(give(row("EQ", "Drive")).unwrap().changed, 1);
    let late = give(row("EQ", "Motor")).unwrap();
    assert_eq!(reason(&late, 0), ("name".into(), "was changed to \"Drive\" meanwhile".into()));
    assert_eq!(give(row("Drive", "EQ")).unwrap().changed, 1, "and back again");
}

#[test]
fn a_cancelled_taking_keeps_nothing() {
    let plant = Plant::new();
    let before = export(&plant, Kind::Assets);
    let cancelled = try_take(&plant, Kind::Assets, "code,name,level\nX,X,part\n", false).unwrap_err();
    assert_eq!(cancelled.to_string(), "cancelled; nothing of it was kept");
    assert_eq!(export(&plant, Kind::Assets), before);
}

#[test]
fn a_million_bad_rows_are_given_up_in_bounded_memory() {
    let plant = Plant::new();
    let columns = ["code", "name", "level"].map(String::from);
    let mut read = 0u64;
    let bad = (0..1_000_000u64).map(|line| {
        read = line;
        GivenRow { line, cells: Ok(vec![format!("X{line}"), String::new(), "floor".into()]), was: vec![] }
    });
    let receipt = plant
        .store
        .write(plant.admin.clone(), day(20), |tx| {
            let decimal = tally_core::outside::files::Decimal::Point;
            let given = Given { columns: &columns, rows: bad, decimal, zone: None, source: "" };
            master::take(tx, Kind::Assets, given, &mut |_, _| true)
        })
        .unwrap();
    assert!(receipt.given_up && receipt.refused == 100_000 && receipt.lines.len() == 20_000, "{}", receipt.refused);
    assert!(read <= 100_001, "the rest was not read: {read}");
    assert_eq!(receipt.more_lines + receipt.lines.len(), receipt.refused);
}

#[test]
fn a_list_is_narrowed_sorted_and_taken_in_parts() {
    let plant = Plant::new();
    take(
        &plant,
        Kind::Assets,
        "code,name,level,parent,criticality,replacement_value\nZ,Zinc bath,part,SYS,C,10\nY,Yoke,part,SYS,,2000\n",
    );
    let list =
        |query: Query| plant.store.read(Instant::LATEST, |view| master::list(view, Kind::Assets, &query)).unwrap();
    let codes = |page: &master::MasterPage| page.rows.iter().map(|row| row.values["code"].clone()).collect::<Vec<_>>();
    let by_value = Query { sort: Some("replacement_value".into()), descending: true, limit: 2, ..Query::default() };
    assert_eq!(codes(&list(by_value)), ["Y", "Z"]);
    let page = list(Query { limit: 4, ..Query::default() });
    assert_eq!((page.total, page.next_cursor.as_deref(), codes(&page)[0].as_str()), (9, Some("4"), "ASM"));
    let none = list(Query { filters: vec![("criticality".into(), String::new())], limit: 9, ..Query::default() });
    assert_eq!(codes(&none), ["Y"]);
    let facet = none.facets.iter().find(|facet| facet.column == "criticality").unwrap();
    let counts: Vec<_> = facet.values.iter().map(|value| (value.value.as_str(), value.count)).collect();
    assert_eq!(counts, [("A", 7), ("", 1), ("C", 1)], "counted under the other filters");
    assert_eq!(codes(&list(Query { text: Some("ZINC".into()), limit: 9, ..Query::default() })), ["Z"]);
    let wrong = Query { sort: Some("id; DROP TABLE assets".into()), limit: 9, ..Query::default() };
    assert!(plant.store.read(Instant::LATEST, |view| master::list(view, Kind::Assets, &wrong)).is_err());
}

/// A forest below SITE: each row's parent is an earlier one, or SITE.
fn forest() -> impl Strategy<Value = Vec<String>> {
    let row = (any::<Index>(), 0..3usize, 0..4usize, any::<bool>());
    prop::collection::vec(row, 1..14).prop_map(|rows| {
        let mut made = Vec::new();
        for (n, (parent, effect, class, valued)) in rows.into_iter().enumerate() {
            let parent = match parent.index(n + 1) {
                0 => "SITE".into(),
                at => format!("N-{}", at - 1),
            };
            let effect = ["no", "yes", "needs 1 of pair"][effect];
            let class = ["", "fan", "pump", "gearbox"][class];
            let value = if valued { format!("{n}.5") } else { String::new() };
            made.push(format!("N-{n},Node {n},part,{parent},{effect},{class},{value}"));
        }
        made
    })
}

const HEAD: &str = "code,name,level,parent,parent_effect,class,replacement_value";

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn any_order_of_rows_gives_the_same_plant(rows in forest(), keys in prop::collection::vec(any::<u32>(), 14)) {
        let ordered = Plant::new();
        take(&ordered, Kind::Assets, &format!("{HEAD}\n{}\n", rows.join("\n")));
        let mut shuffled: Vec<_> = keys.into_iter().zip(&rows).collect();
        shuffled.sort();
        let shuffled: Vec<&str> = shuffled.into_iter().map(|(_, row)| row.as_str()).collect();
        let other = Plant::new();
        // In two files as well: the second finds what the first added.
        let (first, second) = shuffled.split_at(shuffled.len() / 2);
        let receipts = [first, second].map(|part| take(&other, Kind::Assets, &format!("{HEAD}\n{}\n", part.join("\n"))));
        let refused: Vec<_> = receipts.iter().flat_map(|r| &r.lines).filter(|l| l.outcome == Outcome::Refused).collect();
        if !refused.is_empty() {
            // A parent that comes in the second file only: the first file again completes it.
            take(&other, Kind::Assets, &format!("{HEAD}\n{}\n", shuffled.join("\n")));
        }
        prop_assert_eq!(export(&other, Kind::Assets), export(&ordered, Kind::Assets));
    }

    #[test]
    fn an_export_taken_in_again_changes_nothing_and_makes_the_same_plant_elsewhere(rows in forest()) {
        let plant = Plant::new();
        take(&plant, Kind::Assets, &format!("{HEAD}\n{}\n", rows.join("\n")));
        let empty = Plant::empty();
        for kind in Kind::ALL {
            let csv = export(&plant, kind);
            let again = take(&plant, kind, &csv);
            prop_assert_eq!((again.added, again.changed, again.refused), (0, 0, 0), "{:?} {:?}", kind, again);
            let there = take(&empty, kind, &csv);
            prop_assert_eq!(there.refused, 0, "{:?} {:?}", kind, there);
            prop_assert_eq!(export(&empty, kind), csv);
        }
    }
}

/// By hand: ten hours of the first counter, from day 2 to 3, and five of its successor, from day 6 to 7.
#[test]
fn running_hours_are_checked_however_they_are_set_and_follow_one_another() {
    let plant = Plant::new();
    let told = |csv: &str| reason(&take(&plant, Kind::Meters, csv), 2);
    let not_hours = ("running_hours".into(), "only a counter of hours (h) can be operating time".into());
    assert_eq!(told("code,running_hours\nM-BAR,yes\n"), not_hours);
    let second = "code,asset,kind,unit,running_hours\nM-H2,EQ,counter,h,yes\n";
    assert_eq!(told(second), ("running_hours".into(), "the asset has a running-hours counter already".into()));
    let hours = || {
        let window = Span::new(day(1), day(20)).unwrap();
        let of = |view: &View| {
            let (facts, asset) = (view.facts()?, assets::require(view, "EQ")?);
            Ok::<_, StoreError>(
                facts.running_ms(u32::try_from(facts.tree.index(asset).unwrap()).unwrap(), window).map(|(ms, _)| ms),
            )
        };
        plant.store.read(day(20), of).unwrap().map(|ms| ms / 3_600_000)
    };
    plant.send("M-H", &[100.0], day(2));
    plant.send("M-H", &[110.0], day(3));
    take(&plant, Kind::Meters, &format!("code,retired_at\nM-H,{}\n", day(5)));
    assert_eq!(take(&plant, Kind::Meters, second).added, 1, "after the first is retired");
    plant.send("M-H2", &[0.0], day(6));
    plant.send("M-H2", &[5.0], day(7));
    assert_eq!(hours(), Some(15));
    // The flag taken off, its hours count no more, at once; and again when it is back.
    take(&plant, Kind::Meters, "code,running_hours\nM-H2,no\n");
    assert_eq!(hours(), Some(10));
    take(&plant, Kind::Meters, "code,running_hours\nM-H2,yes\n");
    assert_eq!(hours(), Some(15));
}
