//! Properties of lists, against looking at each row.

use super::*;
use crate::{
    ground::severity::Severity,
    tally::{HeadlineKind, RunsOn, VerdictOn, headlines},
};

proptest! {
    /// Filters, totals, values with counts, and all pages one after the other, row by row the slow way.
    #[test]
    fn a_list_is_what_looking_at_each_row_says(
        drawn in drawn(), states in prop::collection::vec(0u8..10, 0..4), ranks in prop::collection::vec(1u8..6, 0..3),
        from in 0i64..NOW, scope in 0i64..7, limit in 1usize..9, descending in any::<bool>(),
    ) {
        let facts = snapshot(&drawn);
        let words: Vec<String> = states.iter().map(|state| word(WorkState::ALL[usize::from(*state)])).collect();
        let mut filter = vec![serde_json::json!({"column": "raised_at", "from": day(from)})];
        if !words.is_empty() {
            filter.push(serde_json::json!({"column": "state", "is": words}));
        }
        if !ranks.is_empty() {
            let not: Vec<String> = ranks.iter().map(ToString::to_string).collect();
            filter.push(serde_json::json!({"column": "rank", "not": not}));
        }
        let asked = serde_json::json!({"filter": filter, "facets": ["state", "rank", "crew"], "columns": ["number"],
            "sort": [{"column": "crew", "descending": descending}, {"column": "cost"}],
            "summaries": [{"column": "cost", "of": "sum"}, {"column": "estimated", "of": "median"}], "limit": limit});
        let asked: Asked = serde_json::from_value(asked).unwrap();
        let in_scope = |work: &WorkFact| match scope {
            0 => true,
            scope => facts.tree.line_at(work.asset as usize, day(NOW)).any(|above| above as i64 + 1 == scope),
        };
        let dated = |work: &WorkFact| work.raised_at >= day(from) && in_scope(work);
        let of_state = |work: &WorkFact| words.is_empty() || words.contains(&word(work.state));
        let of_rank = |work: &WorkFact| !ranks.contains(&work.rank);
        let all = works(&drawn);
        let mut wanted: Vec<&WorkFact> = all.iter().filter(|work| dated(work) && of_state(work) && of_rank(work)).collect();
        // Rows without a crew come last, whatever the direction.
        let by_crew = |work: &WorkFact| {
            let crew = work.crew.map(|crew| if descending { -crew.0 } else { crew.0 });
            (crew.is_none(), crew, work.cost.0, work.number.0)
        };
        wanted.sort_by_key(|work| by_crew(work));
        let (mut found, mut cursor) = (Vec::new(), None);
        loop {
            let page = Asked { cursor: cursor.clone(), ..asked.clone() };
            let told = ask_as(&facts, SubjectId::Work, &page, Sees::all(), (scope > 0).then_some(scope)).unwrap();
            prop_assert_eq!(told.count, wanted.len() as u64);
            prop_assert_eq!(number(&told.summaries[0]), wanted.iter().map(|work| work.cost.0).sum::<i64>() as f64);
            let mut hours: Vec<i64> = wanted.iter().filter_map(|work| Some(work.estimated_ms? / HOUR)).collect();
            hours.sort_unstable();
            let median = (!hours.is_empty()).then(|| {
                (hours[(hours.len() - 1) / 2] as f64 + hours[hours.len() / 2] as f64) / 2.0
            });
            prop_assert_eq!(&told.summaries[1], &median.map_or(Cell::None, Cell::Number));
            for (facet, but) in told.facets.iter().zip(["state", "rank", "crew"]) {
                let mut counts: BTreeMap<String, u64> = BTreeMap::new();
                for work in all.iter().filter(|work| dated(work) && (but == "state" || of_state(work)) && (but == "rank" || of_rank(work))) {
                    let value = match but {
                        "state" => word(work.state),
                        "rank" => work.rank.to_string(),
                        _ => work.crew.map_or_else(String::new, |crew| format!("crew-{crew}")),
                    };
                    *counts.entry(value).or_default() += 1;
                }
                let told: BTreeMap<String, u64> = facet.values.iter().map(|one| (one.value.clone(), one.count)).collect();
                prop_assert_eq!(told, counts, "{}", but);
            }
            found.extend(told.rows.iter().map(|row| row.id));
            match told.next_cursor {
                Some(next) => cursor = Some(next),
                None => break,
            }
        }
        prop_assert_eq!(found, wanted.iter().map(|work| work.number.0).collect::<Vec<_>>(), "no row twice, none lost");
    }

    /// Asked again after orders changed, values are counted anew, and of an older clone as they were; also those that hang on how
    /// much time has passed.
    #[test]
    fn values_are_counted_as_the_rows_are(first in drawn(), then in drawn()) {
        let columns = ["state", "rank", "crew", "past_window", "late_waiting", "no_date_soon"];
        let asked = serde_json::json!({"facets": columns, "limit": 0});
        let told = |facts: &Snapshot| -> Vec<BTreeMap<String, u64>> {
            let told = ask(facts, SubjectId::Work, asked.clone()).unwrap();
            told.facets.iter().map(|facet| facet.values.iter().map(|one| (one.value.clone(), one.count)).collect()).collect()
        };
        let looked_at = |works: &[WorkFact]| -> Vec<BTreeMap<String, u64>> {
            let yes = |is: bool| if is { "yes" } else { "no" }.to_owned();
            let of_each = |column: &str, work: &WorkFact| match column {
                "state" => word(work.state),
                "rank" => work.rank.to_string(),
                "crew" => work.crew.map_or_else(String::new, |crew| format!("crew-{crew}")),
                "past_window" => yes(work.state.is_open() && work.window_end < day(NOW)),
                "late_waiting" if work.state == WorkState::Waiting => yes(work.expected_until.is_some_and(|until| until < day(NOW))),
                "no_date_soon" if work.state.is_open() => yes(work.state != WorkState::UnderWay),
                _ => String::new(),
            };
            let count = |column: &&str| {
                let mut counts: BTreeMap<String, u64> = BTreeMap::new();
                works.iter().for_each(|work| *counts.entry(of_each(column, work)).or_default() += 1);
                counts
            };
            columns.iter().map(count).collect()
        };
        let dated = |work: WorkFact| WorkFact { expected_until: Some(day(work.rank.into())).filter(|_| work.rank > 2), ..work };
        let mut facts = snapshot(&first);
        for work in works(&first) {
            facts.works.put(dated(work));
        }
        let before: Vec<WorkFact> = facts.works.rows().collect();
        prop_assert_eq!(told(&facts), looked_at(&before));
        let older = facts.clone();
        for work in works(&then) {
            facts.works.put(work);
        }
        let after: Vec<WorkFact> = facts.works.rows().collect();
        prop_assert_eq!(told(&facts), looked_at(&after));
        prop_assert_eq!(told(&older), looked_at(&before), "as it was");
        prop_assert_eq!(told(&older), told(&older));
    }

    /// Groups inside groups add up to those they are in, and the outermost to the whole; each is what its rows are.
    #[test]
    fn groups_add_up(drawn in drawn()) {
        let facts = snapshot(&drawn);
        let asked = serde_json::json!({"group": [{"column": "department"}, {"column": "state"}, {"column": "raised_at", "by": "month"}],
            "summaries": [{"column": "cost", "of": "sum"}, {"column": "cost", "of": "share"}], "limit": 0});
        let told = ask(&facts, SubjectId::Work, asked).unwrap();
        let mut open: Vec<(usize, u64, f64)> = Vec::new();
        let mut sums: BTreeMap<usize, (u64, f64)> = BTreeMap::new();
        for group in &told.groups {
            while open.last().is_some_and(|(depth, ..)| *depth >= group.depth) {
                let (depth, count, cost) = open.pop().unwrap();
                if let Some(inside) = sums.remove(&(depth + 1)) {
                    prop_assert_eq!(inside, (count, cost));
                }
            }
            let cost = number(&group.summaries[0]);
            open.push((group.depth, group.count, cost));
            let sum = sums.entry(group.depth).or_default();
            *sum = (sum.0 + group.count, sum.1 + cost);
        }
        let whole = number(&told.summaries[0]);
        prop_assert_eq!(sums[&0], (told.count, whole));
        let departments: f64 = told.groups.iter().filter(|group| group.depth == 0).map(|group| number(&group.summaries[1])).sum();
        prop_assert!((departments - 1.0).abs() < 1e-9);
        // A department the slow way.
        for group in told.groups.iter().filter(|group| group.depth == 0) {
            let of = |work: &&WorkFact| work.department.map_or("", |place| &facts.names.departments[place as usize]) == group.filter;
            prop_assert_eq!(works(&drawn).iter().filter(of).count() as u64, group.count);
        }
    }

    /// Who sees their crew's work only sees no entry, group or count of another's.
    #[test]
    fn nothing_of_anothers_work_is_told(drawn in drawn(), crew in 1i64..4) {
        let facts = snapshot(&drawn);
        let sees = Sees::of(WorkSeen::OwnCrew, PersonId(9), Some(CrewId(crew)), Bounds::None);
        let is_ours = |work: &&WorkFact| work.crew.is_none_or(|of| of.0 == crew);
        let ours = works(&drawn).iter().filter(is_ours).count() as u64;
        let asked: Asked = serde_json::from_value(serde_json::json!({"facets": ["order_crew"], "columns": ["order"]})).unwrap();
        let told = ask_as(&facts, SubjectId::Entries, &asked, sees.clone(), None).unwrap();
        prop_assert_eq!((told.count, told.rows.len() as u64), (ours, ours));
        let crews: Vec<&str> = told.facets[0].values.iter().map(|one| one.value.as_str()).collect();
        let own = format!("crew-{crew}");
        prop_assert!(crews.iter().all(|value| value.is_empty() || *value == own), "{:?}", crews);
        let asked = Asked::default();
        prop_assert_eq!(ask_as(&facts, SubjectId::Work, &asked, sees, None).unwrap().count, ours);
    }

    /// Who is given a part of the plant is told nothing of what stands elsewhere, whatever they ask for.
    #[test]
    fn nothing_of_elsewhere_is_told(drawn in drawn(), given in prop::collection::vec(1_i64..7, 1..3), scope in 0_i64..7) {
        let facts = snapshot(&drawn);
        let bounds = Bounds::of(given.iter().map(|id| AssetId(*id)));
        let below = |asset: AssetId, tops: &[AssetId]| {
            let index = facts.tree.index(asset).unwrap();
            facts.tree.line_at(index, day(NOW)).any(|above| tops.contains(&facts.tree.node(above).id))
        };
        let asset = |work: &WorkFact| facts.tree.node(work.asset as usize).id;
        let is_ours = |work: &&WorkFact| {
            below(asset(work), bounds.given()) && (scope == 0 || below(asset(work), &[AssetId(scope)]))
        };
        let ours = works(&drawn).iter().filter(is_ours).count() as u64;
        let sees = Sees { bounds: bounds.clone(), ..Sees::all() };
        let asked: Asked = serde_json::from_value(serde_json::json!({"group": [{"column": "asset"}]})).unwrap();
        for subject in [SubjectId::Work, SubjectId::Entries] {
            let told = ask_as(&facts, subject, &asked, sees.clone(), (scope > 0).then_some(scope)).unwrap();
            let outermost = told.groups.iter().filter(|group| group.depth == 0);
            let in_groups: u64 = outermost.map(|group| group.count).sum();
            prop_assert_eq!((told.count, in_groups), (ours, ours));
        }
    }
}

/// Work as headlines look at it: asset, state, rank, kind, raised hours ago, window from now in days, start from now in days.
type Risk = ((u8, u8, u8, u8), (i64, i64, Option<i64>));

fn risks() -> impl Strategy<Value = Vec<Risk>> {
    let one = ((0u8..6, 0u8..10, 1u8..6, 0u8..6), (0i64..20 * 24, -9i64..30, prop::option::of(-9i64..20)));
    prop::collection::vec(one, 0..40)
}

proptest! {
    /// Each sentence's count is that of the rows that the rule names, counted one by one, and of the list that it leads to: a day
    /// that is over is no date, what came counts though it is over by now, and what runs on is named.
    #[test]
    fn headlines_say_what_their_rows_say(risks in risks(), scope in 0i64..4, runs_on in 0usize..3) {
        let now = day(NOW).plus(9 * HOUR);
        let mut facts = plant();
        facts.headline_days = 10;
        let drawn: Vec<Drawn> = risks.iter().map(|((asset, state, rank, _), _)| (*asset, *state, *rank, None, 0, None)).collect();
        let works: Vec<WorkFact> = works(&drawn).into_iter().zip(&risks).map(|(work, ((.., kind), (ago, window, start)))| WorkFact {
            kind: WorkKind::ALL[usize::from(*kind)],
            raised_at: now.plus(-ago * HOUR),
            state_since: now.plus(-ago * HOUR),
            window_end: now.plus(window * DAY),
            scheduled_start: start.map(|start| now.plus(start * DAY)),
            until: if work.state.is_open() { Instant::LATEST } else { now },
            ..work
        }).collect();
        let moves = works.iter().map(|work| MoveFact {
            work: work.number, step: 0, at: work.raised_at, to: work.state, waiting_for: None, recorded_at: work.raised_at,
        }).collect();
        facts.change_works(works.iter().map(|work| (work.number.0, Some(*work))).collect(), OfWork { moves, ..OfWork::default() });
        let running: Vec<RunsOn> = works.iter().take(runs_on).map(|work| RunsOn {
            work: work.number, severity: Severity::Danger, until: now.plus(DAY),
        }).collect();
        let in_scope = |work: &WorkFact| scope == 0 || facts.tree.line_at(work.asset as usize, now).any(|above| above as i64 + 1 == scope);
        let of_rule = |test: &dyn Fn(&WorkFact) -> bool| {
            works.iter().filter(|work| in_scope(work) && work.kind.is_risk() && test(work)).count() as u64
        };
        let midnight = day(NOW);
        let said = headlines(&facts, (scope > 0).then_some(AssetId(scope)), now, &running);
        for headline in &said {
            use HeadlineKind as H;
            let by_rule = match headline.kind {
                H::WorstRank => {
                    let worst = (1..=5).find(|rank| of_rule(&|work| work.state.is_open() && work.rank == *rank) > 0);
                    prop_assert_eq!(headline.rank, worst);
                    worst.map_or(0, |rank| of_rule(&|work| work.state.is_open() && work.rank == rank))
                }
                H::NoDate => of_rule(&|work| {
                    let dated = work.scheduled_start.is_some_and(|start| start >= midnight && start <= now.plus(10 * DAY));
                    work.state.is_open() && work.state != WorkState::UnderWay && !dated
                }),
                H::PastWindow => of_rule(&|work| work.state.is_open() && work.window_end < now),
                H::SinceAWeek => of_rule(&|work| work.raised_at > now.plus(-7 * DAY)),
                H::RunsOn => running.len() as u64,
            };
            prop_assert_eq!(headline.count, by_rule, "{}", headline.text);
            let is_good = headline.verdict == VerdictOn::Good;
            prop_assert_eq!(is_good, headline.count == 0, "{}", headline.text);
            if headline.count > 0 {
                let asked = Asked { filter: of_headline(headline, &running, now), ..Asked::default() };
                let context = Context::new(&facts, now, Sees::all());
                let scope = (scope > 0 && headline.kind != H::RunsOn).then_some(AssetId(scope));
                let listed = answer(SubjectId::Work, &context, &asked, &Narrowed { scope, letters: None }, MOST_ROWS).unwrap();
                prop_assert_eq!(listed.count, headline.count, "{}", headline.text);
            }
        }
        prop_assert_eq!(said.iter().any(|one| one.kind == HeadlineKind::RunsOn), !running.is_empty());
        if said.len() == 1 {
            prop_assert_eq!(of_rule(&|work| work.state.is_open() || work.raised_at > now.plus(-7 * DAY)), 0);
        }
    }
}
