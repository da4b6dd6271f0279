//! Columns with several values a row.

use super::*;

/// By asset, from the first on.
const TAGS: [&[&str]; 6] = [&[], &[], &["hot"], &["hot"], &["wet", "hot"], &["wet", "old"]];

fn tagged(drawn: &[Drawn]) -> Snapshot {
    let mut facts = snapshot(drawn);
    let mut assets = facts.assets.to_vec();
    for (asset, tags) in assets.iter_mut().zip(TAGS) {
        asset.tags = tags.iter().map(|tag| (*tag).to_owned()).collect();
    }
    facts.assets = assets.into();
    facts
}

proptest! {
    /// A row is in the group of each of its tags, and counts once in all that these are in; filters and counts see each of them.
    #[test]
    fn a_row_counts_for_each_of_its_tags_and_once_in_all(
        drawn in drawn(), wanted in prop::sample::select(vec!["hot", "wet", "old"]),
    ) {
        let facts = tagged(&drawn);
        let works = works(&drawn);
        let tags = |work: &WorkFact| TAGS[work.asset as usize];
        let with = |tag: &str| works.iter().filter(|work| tags(work).contains(&tag)).count() as u64;
        let without_any = works.iter().filter(|work| tags(work).is_empty()).count() as u64;
        let asked = serde_json::json!({"group": [{"column": "state"}, {"column": "tags"}, {"column": "rank"}],
            "facets": ["tags"], "summaries": [{"column": "cost", "of": "sum"}], "limit": 0});
        let told = ask(&facts, SubjectId::Work, asked).unwrap();
        for value in &told.facets[0].values {
            prop_assert_eq!(value.count, if value.value.is_empty() { without_any } else { with(&value.value) });
        }
        // Each group beside the rows that are in it.
        let mut state = String::new();
        for group in &told.groups {
            if group.depth == 0 {
                state.clone_from(&group.filter);
            }
            let of_state = |work: &&WorkFact| word(work.state) == state;
            let tag = &group.filter;
            let in_group: Vec<&WorkFact> = match group.depth {
                0 => works.iter().filter(of_state).collect(),
                1 => works.iter().filter(of_state).filter(|work| match tag.is_empty() {
                    true => tags(work).is_empty(),
                    false => tags(work).contains(&tag.as_str()),
                }).collect(),
                _ => continue,
            };
            let cost: i64 = in_group.iter().map(|work| work.cost.0).sum();
            prop_assert_eq!((group.count, number(&group.summaries[0])), (in_group.len() as u64, cost as f64), "{:?}", group);
        }
        let twice: u64 = works.iter().map(|work| (tags(work).len() as u64).saturating_sub(1)).sum();
        prop_assert_eq!((told.count, told.overlap), (works.len() as u64, twice));
        let count = |filter: serde_json::Value| {
            ask(&facts, SubjectId::Work, serde_json::json!({"filter": [filter]})).unwrap().count
        };
        prop_assert_eq!(count(serde_json::json!({"column": "tags", "is": [wanted]})), with(wanted));
        prop_assert_eq!(count(serde_json::json!({"column": "tags", "not": [wanted]})), works.len() as u64 - with(wanted));
        prop_assert_eq!(count(serde_json::json!({"column": "tags", "is": ["", wanted]})), with(wanted) + without_any);
        prop_assert_eq!(count(serde_json::json!({"column": "tags", "blank": true})), without_any);
    }
}

#[test]
fn tags_are_told_together_and_nothing_is_sorted_by_them() {
    let facts = tagged(&[(4, 1, 2, None, 40, None), (0, 1, 2, None, 50, None)]);
    let told = ask(&facts, SubjectId::Work, serde_json::json!({"columns": ["tags"]})).unwrap();
    let cells: Vec<&Cell> = told.rows.iter().map(|row| &row.cells[0]).collect();
    assert_eq!(cells, [&Cell::Text("hot, wet".into()), &Cell::None]);
    let sorted = ask(&facts, SubjectId::Work, serde_json::json!({"sort": [{"column": "tags"}]}));
    assert_eq!(sorted.unwrap_err(), "sort[0].column: Tags has several values: nothing is sorted by it");
}
