//! The subjects: their columns, and what fills them.

use super::{
    column::{ColumnDef, Holds, RATIO},
    context::Context,
    subject::{Fill, Subject},
};
use crate::{
    facts::{
        Downtimes, Entries, Failures, Snapshot, Works,
        columns::{Columns, Part},
        packed::{NONE, Packed},
    },
    ground::{
        ids::WorkOrderId,
        time::{DAY, HOUR, Instant},
    },
    work::{InState, StateLimit, WorkState},
};

/// A column that stands in the part as it is.
fn copied<'a, P>(of: impl Fn(&P) -> &[i64] + Send + Sync + 'a) -> Fill<'a, P> {
    Box::new(move |part, out| out.extend_from_slice(of(part)))
}

/// Ids, with the greatest for none.
fn numbers<'a, P>(of: impl Fn(&P) -> &[u32] + Send + Sync + 'a) -> Fill<'a, P> {
    Box::new(move |part, out| {
        out.extend(of(part).iter().map(|id| if *id == u32::MAX { NONE } else { i64::from(*id) }));
    })
}

/// Places of words, with the greatest for none.
fn words<'a, P>(of: impl Fn(&P) -> &[u8] + Send + Sync + 'a) -> Fill<'a, P> {
    Box::new(move |part, out| {
        out.extend(of(part).iter().map(|word| if *word == u8::MAX { NONE } else { i64::from(*word) }));
    })
}

/// A value that is worked out row by row.
fn worked_out<'a, P: Part>(of: impl Fn(&P, usize) -> Option<i64> + Send + Sync + 'a) -> Fill<'a, P> {
    Box::new(move |part, out| out.extend((0..part.len()).map(|place| of(part, place).unwrap_or(NONE))))
}

fn ratio(over: i64, by: i64) -> Option<i64> {
    (by != 0).then(|| (over as f64 / by as f64 * RATIO).round() as i64)
}

fn some(value: i64) -> Option<i64> {
    (value != NONE).then_some(value)
}

/// Work orders.
pub(super) struct Work;

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
        ColumnDef::new("done_at", "First done", Holds::Instant).calculated(),
        ColumnDef::new("past_window", "Past its window", Holds::YesNo).calculated(),
        ColumnDef::new("over_limit", "Over its state's limit", Holds::YesNo).calculated(),
        ColumnDef::new("time_in_state", "Days in its state", Holds::Days).calculated(),
        ColumnDef::new("age", "Days since raised", Holds::Days).calculated(),
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
        let now = context.now.ms();
        let overdue = move |part: &Works, place: usize| {
            let is_open = WorkState::unpack(part.state[place]).is_open();
            (is_open && part.window_end[place] < now).then(|| now - part.window_end[place])
        };
        Some(match column {
            "number" => numbers(|part: &Works| &part.number),
            "work_kind" => words(|part: &Works| &part.kind),
            "state" => words(|part: &Works| &part.state),
            "state_since" => copied(|part: &Works| &part.state_since),
            "waiting_for" => words(|part: &Works| &part.waiting_for),
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
            "done_at" => {
                let done = done_at(context);
                worked_out(move |part: &Works, place| some(done.of(part.number[place])))
            }
            "past_window" => worked_out(move |part, place| Some(i64::from(overdue(part, place).is_some()))),
            "over_limit" => worked_out(move |part, place| Some(i64::from(is_over_limit(context, part, place)))),
            "time_in_state" => worked_out(move |part: &Works, place| Some(now - part.state_since[place])),
            "age" => worked_out(move |part: &Works, place| Some(now - part.raised_at[place])),
            "overdue" => worked_out(overdue),
            "weeks_overdue" => worked_out(move |part, place| Some(overdue(part, place)? / (7 * DAY))),
            "estimate_ratio" => {
                worked_out(|part: &Works, place| ratio(part.spent_ms[place], some(part.estimated_ms[place])?))
            }
            "cost_per_hour" => worked_out(|part: &Works, place| per_hour(part.cost[place], part.spent_ms[place])),
            _ => return None,
        })
    }
}

/// When each order was done first.
fn done_at(context: &Context) -> super::context::ByWork<i64> {
    let mut done = context.by_work(NONE, |_, _| NONE);
    let word = WorkState::Done.pack();
    for part in context.facts.moves.parts() {
        for place in (0..part.len()).rev().filter(|place| part.to[*place] == word) {
            done.put(part.work[place], part.at[place]);
        }
    }
    done
}

fn per_hour(cents: i64, ms: i64) -> Option<i64> {
    (ms > 0).then(|| (i128::from(cents) * i128::from(HOUR) / i128::from(ms)) as i64)
}

fn is_over_limit(context: &Context, part: &Works, place: usize) -> bool {
    let limits: &[StateLimit] = &context.facts.state_limits;
    let state = WorkState::unpack(part.state[place]);
    if limits.iter().all(|limit| limit.state != state) {
        return false;
    }
    let crew = Option::<crate::ground::ids::CrewId>::unpack(part.crew[place]);
    let crews = &context.facts.names.crews;
    let work = InState {
        state,
        since: Instant::unpack(part.state_since[place]),
        waiting_for: Packed::unpack(part.waiting_for[place]),
        is_dated: part.scheduled_start[place] != NONE,
        rank: part.rank[place],
        crew: crew.and_then(|crew| crate::facts::Names::find(crews, crew.0)).map(|crew| crew.code.as_str()),
    };
    limits.iter().any(|limit| limit.is_exceeded(work, context.now))
}

/// Entries of cost.
pub(super) struct EntriesOf;

impl Subject for EntriesOf {
    type Rows = Entries;
    const TIME: Option<&'static str> = Some("at");
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("at", "Date", Holds::Instant).usual(),
        ColumnDef::new("entry_kind", "Kind of cost", Holds::Word).usual(),
        ColumnDef::new("person", "Person", Holds::Reference).usual(),
        ColumnDef::new("description", "What", Holds::Text).usual(),
        ColumnDef::new("hours", "Hours", Holds::Hours).usual(),
        ColumnDef::new("rate", "Rate", Holds::Money).calculated().usual(),
        ColumnDef::new("cost", "Cost", Holds::Money).usual(),
        ColumnDef::new("settled", "Settled", Holds::YesNo).calculated(),
        ColumnDef::new("settled_at", "Settled at", Holds::Instant),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Entries> {
        &facts.entries
    }

    fn assets(part: &Entries) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Entries) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Entries>> {
        let now = context.now.ms();
        Some(match column {
            "at" => copied(|part: &Entries| &part.at),
            "entry_kind" => words(|part: &Entries| &part.kind),
            "person" => numbers(|part: &Entries| &part.person),
            "hours" => worked_out(|part: &Entries, place| Some(part.hours_ms[place]).filter(|ms| *ms != 0)),
            "rate" => worked_out(|part: &Entries, place| per_hour(part.cost[place].abs(), part.hours_ms[place].abs())),
            "cost" => copied(|part: &Entries| &part.cost),
            "settled" => worked_out(move |part: &Entries, place| Some(i64::from(part.settled_at[place] <= now))),
            "settled_at" => worked_out(move |part: &Entries, place| {
                Some(part.settled_at[place]).filter(|at| *at != Instant::LATEST.ms())
            }),
            "recorded_at" => copied(|part: &Entries| &part.recorded_at),
            _ => return None,
        })
    }
}

/// Recorded downtime.
pub(super) struct Downtime;

impl Subject for Downtime {
    type Rows = Downtimes;
    const TIME: Option<&'static str> = Some("start");
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("start", "From", Holds::Instant).usual(),
        ColumnDef::new("end", "To", Holds::Instant).usual(),
        ColumnDef::new("downtime_kind", "Kind", Holds::Word).usual(),
        ColumnDef::new("hours", "Hours down", Holds::Hours).calculated().usual(),
        ColumnDef::new("note", "Note", Holds::Text).usual(),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Downtimes> {
        &facts.downtimes
    }

    fn assets(part: &Downtimes) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Downtimes) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Downtimes>> {
        let now = context.now.ms();
        Some(match column {
            "start" => copied(|part: &Downtimes| &part.start),
            "end" => {
                worked_out(|part: &Downtimes, place| Some(part.end[place]).filter(|at| *at != Instant::LATEST.ms()))
            }
            "downtime_kind" => words(|part: &Downtimes| &part.kind),
            "hours" => worked_out(move |part: &Downtimes, place| Some(part.end[place].min(now) - part.start[place])),
            "recorded_at" => copied(|part: &Downtimes| &part.recorded_at),
            _ => return None,
        })
    }
}

/// Failure reports.
pub(super) struct FailuresOf;

impl Subject for FailuresOf {
    type Rows = Failures;
    const TIME: Option<&'static str> = Some("at");
    const COLUMNS: &'static [ColumnDef] = &[
        ColumnDef::new("at", "Failed at", Holds::Instant).usual(),
        ColumnDef::new("effect", "Effect", Holds::Word).usual(),
        ColumnDef::new("problem", "Problem", Holds::Reference).usual(),
        ColumnDef::new("cause", "Cause", Holds::Reference).usual(),
        ColumnDef::new("remedy", "Remedy", Holds::Reference).usual(),
        ColumnDef::new("coded_at", "Coded", Holds::Instant),
        ColumnDef::new("days_to_coded", "Days from done to coded", Holds::Days).calculated(),
        ColumnDef::new("time_to_restore", "Time to restore", Holds::Hours).calculated().usual(),
        ColumnDef::new("recorded_at", "Recorded", Holds::Instant),
    ];

    fn rows(facts: &Snapshot) -> &Columns<Failures> {
        &facts.failures
    }

    fn assets(part: &Failures) -> &[u32] {
        &part.asset
    }

    fn orders(part: &Failures) -> Option<&[u32]> {
        Some(&part.work)
    }

    fn fill<'a>(context: &'a Context<'a>, column: &str) -> Option<Fill<'a, Failures>> {
        Some(match column {
            "at" => copied(|part: &Failures| &part.at),
            "effect" => words(|part: &Failures| &part.effect),
            "problem" => numbers(|part: &Failures| &part.problem),
            "cause" => numbers(|part: &Failures| &part.cause),
            "remedy" => numbers(|part: &Failures| &part.remedy),
            "coded_at" => copied(|part: &Failures| &part.coded_at),
            "days_to_coded" => {
                let done = done_at(context);
                worked_out(move |part: &Failures, place| {
                    let (coded, done) = (some(part.coded_at[place])?, some(done.of(part.work[place]))?);
                    Some((coded - done).max(0))
                })
            }
            "time_to_restore" => worked_out(move |part: &Failures, place| {
                context.facts.restored_ms(WorkOrderId::unpack(part.work[place]), context.now)
            }),
            "recorded_at" => copied(|part: &Failures| &part.recorded_at),
            _ => return None,
        })
    }
}
