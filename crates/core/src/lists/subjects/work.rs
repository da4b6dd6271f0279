//! Work orders.

use super::super::{
    column::{ColumnDef, Holds},
    context::Context,
    fill::{copied, ended, few, numbers, per_hour, ratio, some, words, worked_out},
    subject::{Fill, Subject},
};
use crate::{
    facts::{
        Snapshot, Standing, Works,
        columns::Columns,
        packed::{NONE, Packed},
    },
    ground::{
        bands::{AGE_BANDS, band_of},
        period::midnight,
        time::DAY,
    },
    tally::has_no_date,
    work::WorkState,
};

/// Work orders.
pub(in crate::lists) struct Work;

impl Subject for Work {
    type Rows = Works;
    const TIME: Option<&'static str> = None;
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("number", "Number", Holds::Number).usual(),
        ColumnDef::new("title", "Title", Holds::Text).usual(),
        ColumnDef::new("work_kind", "Kind", Holds::Word).usual(),
        ColumnDef::new("state", "State", Holds::Word).usual(),
        ColumnDef::new("state_since", "In this state since", Holds::Instant),
        ColumnDef::new("waiting_for", "Waits for", Holds::Word),
        ColumnDef::new("expected_until", "Expected until", Holds::Instant),
        ColumnDef::new("rank", "Rank", Holds::Word).usual(),
        ColumnDef::new("source", "Source", Holds::Word),
        ColumnDef::new("severity", "Severity", Holds::Word),
        ColumnDef::new("raised_at", "Raised", Holds::Instant),
        ColumnDef::new("raised_by", "Raised by", Holds::Reference),
        ColumnDef::new("window_end", "Due", Holds::Instant).usual(),
        ColumnDef::new("target_start", "Target start", Holds::Instant),
        ColumnDef::new("target_finish", "Target finish", Holds::Instant),
        ColumnDef::new("scheduled_start", "Scheduled start", Holds::Instant),
        ColumnDef::new("scheduled_end", "Scheduled end", Holds::Instant),
        ColumnDef::new("crew", "Crew", Holds::Reference).usual(),
        ColumnDef::new("department", "Department", Holds::Word),
        ColumnDef::new("assignee", "Assignee", Holds::Reference),
        ColumnDef::new("estimated", "Estimated", Holds::Hours),
        ColumnDef::new("spent", "Spent", Holds::Hours).usual(),
        ColumnDef::new("cost", "Cost", Holds::Money).usual(),
        ColumnDef::new("verdict", "Verdict", Holds::Word),
        ColumnDef::new("problem", "Problem", Holds::Reference).calculated(),
        ColumnDef::new("done_at", "First done", Holds::Instant).calculated(),
        ColumnDef::new("past_window", "Past its window", Holds::YesNo).calculated(),
        ColumnDef::new("over_limit", "Over its state's limit", Holds::YesNo).calculated(),
        ColumnDef::new("late_waiting", "Waits past its date", Holds::YesNo).calculated(),
        ColumnDef::new("no_date_soon", "No date soon", Holds::YesNo).calculated(),
        ColumnDef::new("time_in_state", "Days in its state", Holds::Days).calculated(),
        ColumnDef::new("age", "Days since raised", Holds::Days).calculated(),
        ColumnDef::new("age_band", "Band of age", Holds::Word).calculated(),
        ColumnDef::new("overdue", "Days past its window", Holds::Days).calculated(),
        ColumnDef::new("weeks_overdue", "Whole weeks overdue", Holds::Number).calculated(),
        ColumnDef::new("estimate_ratio", "Spent of estimated", Holds::Ratio).calculated(),
        ColumnDef::new("cost_per_hour", "Cost per hour spent", Holds::Money).calculated(),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Works> {
        &facts.works
    }

    fn assets(part: &Works) -> &[u32] {
        &part.asset
    }

    fn orders(_: &Works) -> Option<&[u32]> {
        None
    }

    fn sees(context: &Context, part: &Works, place: usize) -> bool {
        context.sees(part, place)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Works>> {
        let (facts, now) = (context.facts, context.now.ms());
        let soon = context.now.plus(i64::from(facts.headline_days) * DAY);
        let today = midnight(context.now.in_zone(&facts.zone).date(), &facts.zone);
        let overdue =
            move |part: &Works, place: usize| Some(now - part.window_end.of(place)).filter(|overdue| *overdue > 0);
        Some(match column {
            "number" => numbers(|part: &Works| &part.number),
            "work_kind" => words(|part: &Works| &part.kind),
            "state" => words(|part: &Works| &part.state),
            "state_since" => copied(|part: &Works| &part.state_since),
            "waiting_for" => words(|part: &Works| &part.waiting_for),
            "expected_until" => copied(|part: &Works| &part.expected_until),
            "rank" => words(|part: &Works| &part.rank),
            "source" => words(|part: &Works| &part.source),
            "severity" => words(|part: &Works| &part.source_severity),
            "raised_at" => copied(|part: &Works| &part.raised_at),
            "raised_by" => numbers(|part: &Works| &part.raised_by),
            "window_end" => copied(|part: &Works| &part.window_end),
            "target_start" => copied(|part: &Works| &part.target_start),
            "target_finish" => copied(|part: &Works| &part.target_finish),
            "scheduled_start" => copied(|part: &Works| &part.scheduled_start),
            "scheduled_end" => copied(|part: &Works| &part.scheduled_end),
            "crew" => numbers(|part: &Works| &part.crew),
            "department" => numbers(|part: &Works| &part.department),
            "assignee" => numbers(|part: &Works| &part.assignee),
            "estimated" => copied(|part: &Works| &part.estimated_ms),
            "spent" => copied(|part: &Works| &part.spent_ms),
            "cost" => copied(|part: &Works| &part.cost),
            "verdict" => words(|part: &Works| &part.verdict),
            "done_at" => worked_out(|part: &Works, place| ended(part.done_at.of(place))),
            "problem" => {
                let problems = facts.problem_of_work();
                worked_out(move |part: &Works, place| some(problems.of(part.number[place])))
            }
            "past_window" => of_states(WorkState::is_open, Some(0), move |part, place| {
                Some(i64::from(overdue(part, place).is_some()))
            }),
            "over_limit" => {
                let limited = facts.limited_states();
                let is_limited = |state: WorkState| limited[usize::from(state.pack())];
                of_states(is_limited, Some(0), move |part, place| {
                    Some(i64::from(facts.is_over_limit(part, place, Standing::now(part, place), context.now)))
                })
            }
            "late_waiting" => of_states(
                |state| state == WorkState::Waiting,
                None,
                move |part, place| {
                    Some(i64::from(some(part.expected_until.of(place)).is_some_and(|until| until < now)))
                },
            ),
            "no_date_soon" => of_states(WorkState::is_open, None, move |part, place| {
                let start = Option::unpack(part.scheduled_start.of(place));
                Some(i64::from(has_no_date(start, WorkState::unpack(part.state[place]), today, soon)))
            }),
            "time_in_state" => worked_out(move |part: &Works, place| Some(now - part.state_since.of(place))),
            "age" => worked_out(move |part: &Works, place| Some(now - part.raised_at.of(place))),
            "age_band" => {
                worked_out(move |part: &Works, place| Some(band_of(now - part.raised_at.of(place), &AGE_BANDS) as i64))
            }
            "overdue" => of_states(WorkState::is_open, None, overdue),
            "weeks_overdue" => {
                of_states(WorkState::is_open, None, move |part, place| Some(overdue(part, place)? / (7 * DAY)))
            }
            "estimate_ratio" => {
                worked_out(|part: &Works, place| ratio(part.spent_ms.of(place), some(part.estimated_ms.of(place))?))
            }
            "cost_per_hour" => worked_out(|part: &Works, place| per_hour(part.cost.of(place), part.spent_ms.of(place))),
            _ => return None,
        })
    }
}

/// A value of work in some states; all other has one and the same, or none.
fn of_states<'a>(
    is_one: impl Fn(WorkState) -> bool,
    rest: Option<i64>,
    of: impl Fn(&Works, usize) -> Option<i64> + Send + Sync + 'a,
) -> Fill<'a, Works> {
    // As wide as a word can be: nothing is checked row by row.
    let mut states = [false; 256];
    WorkState::ALL
        .into_iter()
        .filter(|state| is_one(*state))
        .for_each(|state| states[usize::from(state.pack())] = true);
    few(rest, move |part: &Works, found| {
        let some = part.state.iter().enumerate().filter(|(_, state)| states[usize::from(**state)]);
        found.extend(some.map(|(place, _)| (place as u32, of(part, place).unwrap_or(NONE))));
    })
}
