//! Finding things by a few letters: the index against a look at every row, and against SQLite's own check of it.

use crate::common::{Plant, add_asset, day};
use serde_json::json;
use tally_core::outside::files::Table;
use tally_store::{
    lists::search,
    plant::{
        master,
        master::{Given, GivenRow, Kind, Query},
    },
    work,
};

const NAMES: [&str; 6] = ["Umlenkseilbahn", "Ölpumpe", "oil pump", "Pump 50% \"A\" _x_", "Seil", "Hauptseil*"];

/// A plant whose names were added, and of which one was named anew and one got another code.
fn plant() -> Plant {
    let plant = Plant::new();
    for (n, name) in NAMES.iter().enumerate() {
        let new = json!({"code": format!("SE-{n}X"), "name": name, "level": "part", "parent": "EQ"});
        plant.write(day(1), |tx| add_asset(tx, new.clone())).unwrap();
    }
    for csv in ["code,name\nSE-4X,Zugseil\n", "code,new_code\nSE-5X,ROPE-5\n"] {
        let table = Table::open(csv.as_bytes()).unwrap();
        let rows =
            table.lines().map(|(line, cells)| GivenRow { line, cells: cells.map(|line| line.cells), was: vec![] });
        let given = Given { columns: &table.columns, rows, decimal: table.decimal(), zone: None, source: "a test" };
        let receipt = plant.write(day(2), |tx| master::take(tx, Kind::Assets, given, &mut |_, _| true)).unwrap();
        assert_eq!(receipt.changed, 1, "{receipt:?}");
    }
    plant
}

#[test]
fn the_index_of_letters_is_in_step_with_its_tables() {
    let plant = plant();
    let conn = plant.database();
    for index in ["search_assets", "search_meters", "search_work", "words_of_assets", "words_of_work"] {
        // Source: SQLite's own description of FTS5, the command that compares an index with what it is of.
        conn.execute(&format!("INSERT INTO {index} ({index}, rank) VALUES ('integrity-check', 1)"), [])
            .unwrap_or_else(|error| panic!("{index}: {error}"));
    }
}

#[test]
fn the_index_of_letters_finds_what_a_look_at_every_row_finds() {
    let plant = plant();
    let conn = plant.database();
    let mut select = conn.prepare("SELECT code, name FROM assets WHERE retired_at IS NULL").unwrap();
    let all: Vec<(String, String)> =
        select.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap().map(|row| row.unwrap()).collect();
    for letters in ["seil", "SEIL", "eilb", "ölp", "pump", "0% \"a", "se-", "se", "s", "zug", "rope", "_x_", "eil*"] {
        let has = |text: &str| text.to_lowercase().contains(&letters.to_lowercase());
        let mut slow: Vec<&str> =
            all.iter().filter(|(code, name)| has(code) || has(name)).map(|(code, _)| code.as_str()).collect();
        slow.sort_unstable();
        let query = Query { text: Some(letters.into()), limit: 50, ..Query::default() };
        let page = plant.store.read(day(3), |view| master::list(view, Kind::Assets, &query)).unwrap();
        let mut listed: Vec<&str> = page.rows.iter().map(|row| row.values["code"].as_str()).collect();
        listed.sort_unstable();
        assert_eq!(listed, slow, "listed by {letters:?}");
        let hits = plant.store.read(day(3), |view| search::find(view, letters, 50)).unwrap();
        let mut found: Vec<&str> = hits.iter().filter(|hit| hit.kind == "asset").map(|hit| hit.code.as_str()).collect();
        found.sort_unstable();
        assert_eq!(found, slow, "found by {letters:?}");
    }
    let without_accents = plant.store.read(day(3), |view| search::find(view, "olpumpe", 5)).unwrap();
    assert_eq!(without_accents[0].name, "Ölpumpe", "accents make no difference");
}

#[test]
fn work_is_found_by_its_number_and_how_that_begins_and_by_its_title_the_newest_first() {
    let plant = plant();
    let order = |title: &str| {
        let new = json!({"title": title, "kind": "inspection", "asset": "EQ", "risk_rank": 3});
        plant.write(day(3), |tx| work::raise(tx, &serde_json::from_value(new.clone()).unwrap())).unwrap()
    };
    let numbers: Vec<String> = (0..12).map(|n| order(&format!("Grease the rope {n}")).0.to_string()).collect();
    let found = |text: &str, limit: usize| -> Vec<String> {
        let hits = plant.store.read(day(4), |view| search::find(view, text, limit)).unwrap();
        hits.into_iter().filter(|hit| hit.kind == "work_order").map(|hit| hit.code).collect()
    };
    let newest: Vec<String> = numbers.iter().rev().cloned().collect();
    assert_eq!(found("grease", 3), newest[..3]);
    assert_eq!(found("GREASE THE ROPE 11", 3), newest[..1]);
    assert_eq!(found(&numbers[4], 5), numbers[4..5]);
    assert_eq!(found(&numbers[4][..2], 50), newest, "by how it begins");
    assert_eq!(found("re", 2), newest[..2], "two letters among the newest");
}

/// A word that begins with the letters, whatever their capitals; three and more letters anywhere.
fn is_found(letters: &str, text: &str) -> bool {
    let (letters, text) = (letters.to_lowercase(), text.to_lowercase());
    match letters.chars().count() {
        0..=2 => text.split(|c: char| !c.is_alphanumeric()).any(|word| word.starts_with(&letters)),
        _ => text.contains(&letters),
    }
}

#[test]
fn a_list_finds_by_letters_what_a_look_at_every_row_finds_however_much_there_is() {
    let plant = plant();
    let new = json!({"title": "Zebra crossing", "kind": "inspection", "asset": "EQ", "risk_rank": 3});
    plant.write(day(3), |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap();
    let conn = plant.database();
    // More than anybody would look through one by one, all newer than the first; copied in one statement.
    let columns: Vec<String> = conn
        .prepare("SELECT name FROM pragma_table_info('work_orders') WHERE name NOT IN ('number', 'title')")
        .unwrap()
        .query_map([], |row| row.get(0))
        .unwrap()
        .map(|name| name.unwrap())
        .collect();
    let columns = columns.join(", ");
    conn.execute_batch(&format!(
        "WITH RECURSIVE n (n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM n WHERE n < 21000)
         INSERT INTO work_orders (number, title, {columns})
         SELECT (SELECT max(number) FROM work_orders) + n, 'Grease the rope ' || n, {columns}
         FROM n, (SELECT * FROM work_orders LIMIT 1)"
    ))
    .unwrap();
    let mut select = conn
        .prepare("SELECT w.number, w.title, a.code, a.name FROM work_orders w JOIN assets a ON a.id = w.asset_id")
        .unwrap();
    let rows: Vec<(i64, [String; 3])> = select
        .query_map([], |row| Ok((row.get(0)?, [row.get(1)?, row.get(2)?, row.get(3)?])))
        .unwrap()
        .map(|row| row.unwrap())
        .collect();
    for letters in ["z", "ZE", "zeb", "cr", "ro", "eb", "e", "eq", "20", "209", "%", "\"", "- ", "n*"] {
        let number: Option<i64> = letters.parse().ok();
        let begins = |order: i64| number.is_some_and(|typed| order.to_string().starts_with(&typed.to_string()));
        let slow = rows.iter().filter(|(order, texts)| {
            begins(*order) || texts.iter().any(|text| is_found(letters.trim_end_matches('*').trim(), text))
        });
        // A mark that is no letter begins no word.
        let slow = if letters.chars().any(char::is_alphanumeric) { slow.count() } else { 0 };
        let filter = work::Filter { text: Some(letters.into()), ..work::Filter::default() };
        let page = work::Page { limit: 5, ..work::Page::default() };
        let fast = plant.store.read(day(4), |view| work::list(view, &filter, &page)).unwrap().totals.count;
        assert_eq!(fast, slow as i64, "{letters:?}");
    }
}
