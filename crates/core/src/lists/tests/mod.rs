//! Lists of a small plant, beside looking at each row by itself.

mod properties;
mod tags;

use super::*;
use crate::{
    access::{bounds::Bounds, seen::WorkSeen},
    facts::{AssetFact, Entries, EntryFact, MoveFact, Named, Names, OfWork, Snapshot, WorkFact, columns::Part},
    ground::{
        ids::{AssetId, CrewId, EntryId, PersonId, WorkOrderId},
        money::Cents,
        time::{DAY, HOUR, Instant, Span},
    },
    plant::assets::{Level, Node, Placement, Tree},
    work::{SourceWord, StateLimit, WorkKind, WorkState, entries::EntryKind},
};
use proptest::prelude::*;
use std::collections::BTreeMap;

fn day(n: i64) -> Instant {
    Instant::from_ms(n * DAY)
}

const NOW: i64 = 100;

/// A site 1 with units 2 and 3, and 4 to 6 below unit 2.
fn plant() -> Snapshot {
    let parents = [None, Some(1), Some(1), Some(2), Some(2), Some(2)];
    let node = |(id, parent): (i64, &Option<i64>)| Node {
        id: AssetId(id),
        placements: vec![Placement { parent: parent.map(AssetId), from: Instant::EARLIEST, to: Instant::LATEST }],
        effects: vec![],
        life: Span::ALWAYS,
    };
    let level = |id: i64| {
        [Level::Site, Level::Unit, Level::Unit, Level::Equipment, Level::Equipment, Level::Part][id as usize - 1]
    };
    let fact = |id: i64| AssetFact {
        id: AssetId(id),
        code: format!("A{id}"),
        name: format!("Asset {id}"),
        level: level(id),
        class: (id > 3).then_some(id % 2 + 1),
        criticality: None,
        crew: None,
        tags: vec![],
    };
    let named = |ids: std::ops::RangeInclusive<i64>, what: &str| -> Vec<Named> {
        ids.map(|id| Named { id, code: format!("{what}-{id}"), name: format!("{what} {id}") }).collect()
    };
    let names = Names {
        crews: named(1..=3, "crew"),
        people: named(1..=4, "person"),
        classes: named(1..=2, "class"),
        departments: vec!["Lifts".into(), "Ropes".into()],
        ..Names::default()
    };
    Snapshot {
        tree: Tree::new((1..).zip(&parents).map(node).collect()).into(),
        assets: (1..=6).map(fact).collect(),
        names: names.into(),
        state_limits: StateLimit::first_settings().into(),
        ..Snapshot::default()
    }
}

/// An order as it is drawn: asset, kind of state, rank, crew, raised on, estimated hours.
type Drawn = (u8, u8, u8, Option<u8>, i64, Option<i64>);

fn drawn() -> impl Strategy<Value = Vec<Drawn>> {
    let one = (0u8..6, 0u8..10, 1u8..6, prop::option::of(1u8..4), 0i64..NOW, prop::option::of(0i64..40));
    prop::collection::vec(one, 1..40)
}

fn works(drawn: &[Drawn]) -> Vec<WorkFact> {
    let one = |(n, &(asset, state, rank, crew, raised, estimated)): (i64, &Drawn)| {
        let state = WorkState::ALL[usize::from(state)];
        WorkFact {
            number: WorkOrderId(n),
            asset: asset.into(),
            kind: if rank % 2 == 0 { WorkKind::Inspection } else { WorkKind::CorrectiveDeferred },
            source: SourceWord::Person,
            source_severity: None,
            raised_at: day(raised),
            raised_by: PersonId(i64::from(rank) % 4 + 1),
            recorded_at: day(raised),
            rank,
            window_end: day(raised + 10 * i64::from(rank)),
            target_start: None,
            target_finish: None,
            scheduled_start: None,
            scheduled_end: None,
            crew: crew.map(|crew| CrewId(crew.into())),
            department: crew.map(|crew| u32::from(crew) % 2),
            assignee: None,
            asked: None,
            estimated_ms: estimated.map(|hours| hours * HOUR),
            state,
            state_since: day(raised + (NOW - raised) / 2),
            waiting_for: None,
            expected_until: None,
            verdict: None,
            spent_ms: n * HOUR,
            cost: Cents(n * 100),
            done_at: Instant::LATEST,
            until: Instant::LATEST,
            changed: false,
            coded: false,
        }
    };
    (1001..).zip(drawn).map(one).collect()
}

fn snapshot(drawn: &[Drawn]) -> Snapshot {
    let mut facts = plant();
    let moves = works(drawn).into_iter().map(|work| MoveFact {
        work: work.number,
        step: 0,
        at: work.raised_at,
        to: work.state,
        waiting_for: None,
        recorded_at: work.raised_at,
    });
    facts.change_works(
        works(drawn).into_iter().map(|work| (work.number.0, Some(work))).collect(),
        OfWork { moves: moves.collect(), ..OfWork::default() },
    );
    let entries = works(drawn).into_iter().zip(1i64..).map(|(work, id)| {
        let kind = EntryKind::ALL[usize::try_from(id % 4).unwrap()];
        let entry = EntryFact {
            id: EntryId(id),
            asset: work.asset,
            work: work.number,
            kind,
            at: work.raised_at,
            cost: work.cost,
            quantity: if kind == EntryKind::Labour { 2 * HOUR } else { 1_000 },
            item: None,
            supplier: None,
            settled_at: Instant::LATEST,
            recorded_at: day(NOW),
            person: (kind == EntryKind::Labour).then_some(PersonId(id % 4 + 1)),
        };
        (id, Some(entry))
    });
    facts.change_entries(entries.collect());
    facts
}

fn ask(facts: &Snapshot, subject: SubjectId, asked: serde_json::Value) -> Result<Answer, String> {
    let asked: Asked = serde_json::from_value(asked).map_err(|error| error.to_string())?;
    ask_as(facts, subject, &asked, Sees::all(), None)
}

fn ask_as(
    facts: &Snapshot,
    subject: SubjectId,
    asked: &Asked,
    sees: Sees,
    scope: Option<i64>,
) -> Result<Answer, String> {
    let context = Context::new(facts, day(NOW), sees);
    let narrowed = Narrowed { scope: scope.map(AssetId), letters: None };
    answer(subject, &context, asked, &narrowed, MOST_ROWS).map_err(|refusal| refusal.to_string())
}

fn number(cell: &Cell) -> f64 {
    match cell {
        Cell::Number(number) => *number,
        other => panic!("{other:?} is no number"),
    }
}

/// As [`WorkState`] stands in filters.
fn word(state: WorkState) -> String {
    serde_json::to_value(state).unwrap().as_str().unwrap().into()
}

/// What is booked in somebody's part may be of an order that stands elsewhere: the row is told, its order is not, nor is it found
/// by the order's words.
#[test]
fn a_row_says_nothing_of_an_order_that_stands_elsewhere() {
    let mut facts = snapshot(&[(1, 4, 2, Some(1), 40, Some(10)), (2, 4, 2, Some(2), 50, None)]);
    let rows = |part: &Entries| (0..part.len()).map(|place| part.row(place)).collect::<Vec<_>>();
    let entries: Vec<EntryFact> = facts.entries.parts().flat_map(rows).collect();
    let booked = EntryFact { id: EntryId(9), asset: entries[1].asset, ..entries[0] };
    facts.change_entries(vec![(9, Some(booked))]);
    let bounds = Bounds::of([facts.tree.node(entries[1].asset as usize).id]);
    let ask = |orders: Option<&[u32]>| {
        let context = Context::new(&facts, day(NOW), Sees { bounds: bounds.clone(), ..Sees::all() });
        let letters = orders.map(|orders| (orders.iter().copied().collect(), Vec::new()));
        let asked = serde_json::json!({"columns": ["order", "order_rank"], "sort": [{"column": "order"}],
            "facets": ["order_crew"]});
        let asked: Asked = serde_json::from_value(asked).unwrap();
        answer(SubjectId::Entries, &context, &asked, &Narrowed { scope: None, letters }, MOST_ROWS).unwrap()
    };
    let told = ask(None);
    let orders: Vec<bool> = told.rows.iter().map(|row| matches!(row.cells[0], Cell::None)).collect();
    assert_eq!((told.count, orders), (2, vec![false, true]), "{:?}", told.rows);
    assert!(told.facets[0].values.iter().all(|one| one.value != "crew-1"), "{:?}", told.facets);
    assert_eq!((ask(Some(&[1001])).count, ask(Some(&[1002])).count), (0, 1));
}

#[test]
fn a_view_has_a_name() {
    let view = |name: &str| NewView { name: name.into(), shared: false, ask: Asked::default() };
    assert_eq!(view("By crew").check(), Ok(()));
    assert_eq!(view("  ").check().unwrap_err().to_string(), "name: a view needs a name");
    assert!(view(&"x".repeat(81)).check().is_err());
}

/// What a subject says of itself can be asked of it.
#[test]
fn the_usual_questions_are_answered() {
    let facts = snapshot(&[(3, 1, 2, Some(1), 40, Some(10))]);
    for id in SubjectId::ALL {
        let def = id.definition();
        let asked = Asked {
            facets: def.facets.iter().map(|one| (*one).into()).collect(),
            columns: def.columns.iter().map(|column| column.id.into()).take(30).collect(),
            summaries: def.summaries.clone(),
            ..Asked::default()
        };
        let told = ask_as(&facts, id, &asked, Sees::all(), None).unwrap();
        assert_eq!(told.facets.len(), def.facets.len());
        // Every column can be sorted by, and grouped by, but texts; those with several values are not sorted by.
        for column in def.columns.iter().filter(|column| column.holds != Holds::Text) {
            let sort = if column.holds == Holds::Words { "asset" } else { column.id };
            let one = serde_json::json!({"sort": [{"column": sort}], "group": [{"column": column.id}], "columns": [column.id]});
            let told = ask(&facts, id, one).unwrap();
            assert_eq!(told.columns.len(), 1, "{}", column.id);
        }
    }
}

/// Two orders of known hours: by hand.
#[test]
fn calculated_columns_are_told_sorted_filtered_and_summed_like_any_other() {
    // Raised on day 40, rank 2: due on day 60. Planning since day 70.
    let facts = snapshot(&[(3, 1, 2, Some(1), 40, Some(10)), (4, 6, 5, None, 80, None)]);
    let columns = [
        "time_in_state",
        "age",
        "overdue",
        "weeks_overdue",
        "estimate_ratio",
        "cost_per_hour",
        "over_limit",
        "past_window",
    ];
    let told =
        ask(&facts, SubjectId::Work, serde_json::json!({"columns": columns, "sort": [{"column": "overdue"}]})).unwrap();
    let [first, second] = &told.rows[..] else { panic!("{told:?}") };
    let hours = 1001.0;
    let expected = [
        Cell::Number(30.0),
        Cell::Number(60.0),
        Cell::Number(40.0),
        Cell::Number(5.0),
        Cell::Number(hours / 10.0),
        Cell::Number(100.0),
        Cell::YesNo(true),
        Cell::YesNo(true),
    ];
    assert_eq!(first.cells, expected);
    assert_eq!(second.cells[2..5], [Cell::None, Cell::None, Cell::None], "done, and nobody estimated it");
    let late =
        serde_json::json!({"filter": [{"column": "overdue", "from": "39.5"}, {"column": "over_limit", "is": ["yes"]}]});
    assert_eq!(ask(&facts, SubjectId::Work, late).unwrap().count, 1);
    let by_unit = serde_json::json!({"group": [{"column": "unit"}], "limit": 0});
    let told = ask(&facts, SubjectId::Work, by_unit).unwrap();
    assert_eq!((told.groups.len(), told.groups[0].filter.as_str(), told.groups[0].count), (1, "A2", 2));
    let within = serde_json::json!({"filter": [{"column": "raised_at", "within": "last_30_days"}]});
    assert_eq!(ask(&facts, SubjectId::Work, within).unwrap().count, 1);
}

#[test]
fn an_entry_has_what_its_order_and_its_asset_have() {
    let facts = snapshot(&[(3, 5, 1, Some(2), 40, None), (5, 8, 3, Some(1), 50, None)]);
    let asked =
        serde_json::json!({"columns": ["order", "order_state", "order_crew", "unit", "class", "rate", "person"]});
    let told = ask(&facts, SubjectId::Entries, asked).unwrap();
    let reference = |code: &str, name: &str| Cell::Reference { code: code.into(), name: name.into() };
    let text = |text: &str| Cell::Text(text.into());
    // The first is material: it has neither rate nor person.
    assert_eq!(
        told.rows[0].cells,
        [
            Cell::Number(1001.0),
            text("under_way"),
            reference("crew-2", "crew 2"),
            reference("A2", "Asset 2"),
            reference("class-1", "class 1"),
            Cell::None,
            Cell::None
        ]
    );
    assert_eq!(told.rows[1].cells[1..3], [text("closed"), reference("crew-1", "crew 1")]);
}

#[rstest::rstest]
#[case::no_column(serde_json::json!({"columns": ["costs"]}), "columns[0]: there is no column \"costs\"")]
#[case::no_filter(serde_json::json!({"filter": [{"column": "x", "is": ["1"]}]}), "filter[0].column: there is no column \"x\"")]
#[case::two_at_once(
    serde_json::json!({"filter": [{"column": "cost", "is": ["1"], "blank": true}]}),
    "filter[0]: say one of is, not, from and to, within, blank"
)]
#[case::wrong_kind(serde_json::json!({"filter": [{"column": "cost", "from": "much"}]}), "filter[0].from: \"much\" is not a number")]
#[case::no_word(serde_json::json!({"filter": [{"column": "state", "is": ["lost"]}]}), "filter[0].is: State is never \"lost\"")]
#[case::no_order(serde_json::json!({"filter": [{"column": "crew", "from": "1"}]}), "filter[0].from: Crew has no order; say is or not")]
#[case::no_instant(
    serde_json::json!({"filter": [{"column": "cost", "within": "last_month"}]}),
    "filter[0].within: Cost is no instant"
)]
#[case::ten_thousand_years(
    serde_json::json!({"filter": [{"column": "raised_at", "within": "2026-01-01..12026-01-01"}]}),
    "filter[0].within: \"2026-01-01..12026-01-01\" is no period: use this_month, last_month, last_12_months, year_to_date, a year (2026), a month (2026-03) or two dates (2026-03-01..2026-06-01, the second not included)"
)]
#[case::seven(
    serde_json::json!({"group": [{"column": "state"}, {"column": "rank"}, {"column": "crew"}, {"column": "unit"}, {"column": "class"},
        {"column": "source"}, {"column": "level"}]}),
    "group: at most 6"
)]
#[case::by_what(serde_json::json!({"group": [{"column": "crew", "by": "week"}]}), "group[0].by: is said of instants only")]
#[case::text(serde_json::json!({"sort": [{"column": "title"}]}), "sort[0].column: Title is text, which is only shown")]
#[case::sum(
    serde_json::json!({"summaries": [{"column": "crew", "of": "sum"}]}),
    "summaries[0].of: Crew can't be summed up so"
)]
#[case::facet(serde_json::json!({"facets": ["cost"]}), "facets[0]: Cost has too many values to tell them")]
#[case::cursor(serde_json::json!({"cursor": "1_2_3"}), "cursor: is none of this list")]
fn what_cant_be_asked_is_said_by_field(#[case] asked: serde_json::Value, #[case] said: &str) {
    let facts = snapshot(&[(3, 1, 2, Some(1), 40, Some(10))]);
    assert_eq!(ask(&facts, SubjectId::Work, asked).unwrap_err(), said);
}
