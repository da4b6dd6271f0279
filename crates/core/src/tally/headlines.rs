//! Up to four sentences on the current risk, for people who have ten seconds: over open corrective and condition-based work, each
//! with a figure and a verdict; and one more while something runs on by decision. Own rule (common practice).

use super::measures::{Near, OpenWork, open_at};
use crate::{
    facts::{Snapshot, packed::Packed},
    ground::{
        ids::{AssetId, WorkOrderId},
        period::midnight,
        severity::Severity,
        time::{DAY, Instant, Span},
        units,
    },
    work::{WaitingFor, WorkKind, WorkState},
};
use serde::Serialize;

/// What a sentence is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum HeadlineKind {
    /// What stands at the worst rank there is.
    WorstRank,
    /// What has no date within the horizon.
    NoDate,
    /// What is past its window.
    PastWindow,
    /// What came since a week ago, with what is over since.
    SinceAWeek,
    /// What runs on by decision though a limit is crossed.
    RunsOn,
}

/// What a sentence comes to; the worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum VerdictOn {
    Bad,
    Watch,
    Good,
}

/// A sentence.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Headline {
    pub kind: HeadlineKind,
    pub verdict: VerdictOn,
    /// The orders that it is about.
    pub count: u64,
    /// The worst rank there is, where it is about that.
    pub rank: Option<u8>,
    pub text: String,
}

/// Something that runs on by decision at the instant that is asked about.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RunsOn {
    pub work: WorkOrderId,
    pub severity: Severity,
    pub until: Instant,
}

/// Work that has no date near: it is not under way, and is agreed to begin on no day from today (its beginning) until then.
#[must_use]
pub fn has_no_date(start: Option<Instant>, state: WorkState, today: Instant, soon: Instant) -> bool {
    state != WorkState::UnderWay && start.is_none_or(|start| start < today || start > soon)
}

/// What the sentences are about.
#[derive(Debug, Default)]
struct Counted {
    open: u64,
    by_rank: [u64; 5],
    no_date: u64,
    waits: [u64; 4],
    past: u64,
    came: u64,
    /// Of these, what is open no more.
    came_over: u64,
    came_worst: Option<u8>,
    /// Of what came and is open.
    open_worst: Option<u8>,
}

const WAITS: [(WaitingFor, &str); 4] = [
    (WaitingFor::Parts, "for parts"),
    (WaitingFor::Outage, "for an outage"),
    (WaitingFor::People, "for people"),
    (WaitingFor::Other, "for something else"),
];

fn counted(facts: &Snapshot, scope: Option<AssetId>, now: Instant) -> Counted {
    let within = within(facts, scope, now);
    let soon = now.plus(i64::from(facts.headline_days) * DAY);
    let today = midnight(now.in_zone(&facts.zone).date(), &facts.zone);
    let mut counted = Counted::default();
    let is_in = |asset: u32| within.as_ref().is_none_or(|within| within[asset as usize]);
    open_at(facts, now, &Near::new(facts, &[now], is_in), |open: &OpenWork| {
        if !open.kind.is_risk() || !is_in(open.asset) {
            return;
        }
        counted.open += 1;
        counted.by_rank[usize::from(open.standing.rank.clamp(1, 5)) - 1] += 1;
        if has_no_date(open.scheduled_start, open.standing.state, today, soon) {
            counted.no_date += 1;
            if let Some(place) = WAITS.iter().position(|(waits, _)| open.standing.waiting_for == Some(*waits)) {
                counted.waits[place] += 1;
            }
        }
        counted.past += u64::from(open.window_end < now);
    });
    let worst = |known: Option<u8>, rank: u8| Some(known.map_or(rank, |worst| worst.min(rank)));
    let week = now.plus(-7 * DAY + 1)..now.plus(1);
    for part in Span::new(week.start, week.end).into_iter().flat_map(|week| facts.works.beginning(week)) {
        part.raised_at.within(week.start.ms()..week.end.ms(), |place, _| {
            if !WorkKind::unpack(part.kind[place]).is_risk() || !is_in(part.asset[place]) {
                return;
            }
            let (rank, is_open) = (part.rank[place], WorkState::unpack(part.state[place]).is_open());
            counted.came += 1;
            counted.came_over += u64::from(!is_open);
            counted.came_worst = worst(counted.came_worst, rank);
            if is_open {
                counted.open_worst = worst(counted.open_worst, rank);
            }
        });
    }
    counted
}

/// By dense index whether an asset stands below a scope at an instant; `None` where all do.
pub(super) fn within(facts: &Snapshot, scope: Option<AssetId>, at: Instant) -> Option<Vec<bool>> {
    let scope = facts.tree.index(scope?)?;
    let mut within = vec![false; facts.tree.len()];
    facts.tree.shape_at(at).below(scope as u32).into_iter().for_each(|below| within[below as usize] = true);
    Some(within)
}

/// How many of the same work were open a week ago.
fn a_week_ago(facts: &Snapshot, scope: Option<AssetId>, now: Instant) -> u64 {
    let then = now.plus(-7 * DAY);
    let within = within(facts, scope, then);
    let is_in = |asset: u32| within.as_ref().is_none_or(|within| within[asset as usize]);
    let mut count = 0;
    open_at(facts, then, &Near::new(facts, &[then], is_in), |open| {
        count += u64::from(open.kind.is_risk() && is_in(open.asset));
    });
    count
}

/// The sentences for a scope (everything without one), the worst first. `runs_on` is what runs on by decision there.
#[must_use]
pub fn headlines(facts: &Snapshot, scope: Option<AssetId>, now: Instant, runs_on: &[RunsOn]) -> Vec<Headline> {
    let (counted, before) = rayon::join(|| counted(facts, scope, now), || a_week_ago(facts, scope, now));
    let mut all = said(&counted, before, facts.headline_days);
    all.extend(running(runs_on, facts));
    all.sort_by_key(|headline| headline.verdict);
    all
}

/// What runs on by decision, where something does.
fn running(runs_on: &[RunsOn], facts: &Snapshot) -> Option<Headline> {
    let first = runs_on.iter().map(|one| one.until).min()?;
    let worst = runs_on.iter().map(|one| one.severity).max()?;
    let verdict = if worst >= Severity::Serious { VerdictOn::Bad } else { VerdictOn::Watch };
    let until = first.in_zone(&facts.zone).date();
    let count = runs_on.len() as u64;
    let text = match count {
        1 => format!("1 limit is crossed and runs on by decision, until {until}"),
        count => format!("{count} limits are crossed and run on by decision, the first until {until}"),
    };
    Some(Headline { kind: HeadlineKind::RunsOn, verdict, count, rank: None, text })
}

fn orders(count: u64) -> String {
    units::counted(usize::try_from(count).unwrap_or(usize::MAX), "order", "orders")
}

fn said(counted: &Counted, before: u64, days: u16) -> Vec<Headline> {
    let Counted { open, no_date, past, came, .. } = *counted;
    if open == 0 && before == 0 && came == 0 {
        let text = "No corrective or condition-based work is open".into();
        return vec![Headline { kind: HeadlineKind::WorstRank, verdict: VerdictOn::Good, count: 0, rank: None, text }];
    }
    let worst = (1u8..=5).zip(counted.by_rank).find(|(_, count)| *count > 0);
    let worst = match worst {
        Some((rank, count)) => {
            let verdict = if rank <= 2 { VerdictOn::Bad } else { VerdictOn::Watch };
            let text = format!("{} of rank {rank} {} open, the worst there is", orders(count), stand(count));
            Headline { kind: HeadlineKind::WorstRank, verdict, count, rank: Some(rank), text }
        }
        None => {
            let text = "No corrective or condition-based work is open".into();
            Headline { kind: HeadlineKind::WorstRank, verdict: VerdictOn::Good, count: 0, rank: None, text }
        }
    };
    let bad_if = |count: u64| if count > 0 { VerdictOn::Bad } else { VerdictOn::Good };
    let waits = WAITS.iter().zip(counted.waits).filter(|(_, count)| *count > 0);
    let waits: Vec<String> = waits.map(|((_, words), count)| format!("{count} {} {words}", wait(count))).collect();
    let waits = if waits.is_empty() { String::new() } else { format!(": {}", waits.join(", ")) };
    let text = match no_date {
        0 => format!("Everything open has a date in the next {days} days"),
        count => format!("{count} of {open} {} no date in the next {days} days{waits}", have(count)),
    };
    let no_date = Headline { kind: HeadlineKind::NoDate, verdict: bad_if(no_date), count: no_date, rank: None, text };
    let text = match past {
        0 => "Nothing is past its window".into(),
        count => format!("{count} of {open} {} past {} window", are(count), if count == 1 { "its" } else { "their" }),
    };
    let past = Headline { kind: HeadlineKind::PastWindow, verdict: bad_if(past), count: past, rank: None, text };
    let verdict = match (came, counted.open_worst) {
        (0, _) => VerdictOn::Good,
        (_, Some(rank)) if rank <= 2 => VerdictOn::Bad,
        _ => VerdictOn::Watch,
    };
    let since = match open.cmp(&before) {
        std::cmp::Ordering::Equal => format!("{open} open, as many as a week ago"),
        std::cmp::Ordering::Greater => format!("{open} open, {} more than a week ago", open - before),
        std::cmp::Ordering::Less => format!("{open} open, {} fewer than a week ago", before - open),
    };
    let text = match counted.came_worst {
        None => format!("{since}: none came in the last 7 days"),
        Some(rank) => {
            let over = match counted.came_over {
                0 => String::new(),
                over => format!("; {over} {} finished or dropped since", are(over)),
            };
            format!("{since}: {came} came in the last 7 days, the worst of rank {rank}{over}")
        }
    };
    let since = Headline { kind: HeadlineKind::SinceAWeek, verdict, count: came, rank: None, text };
    vec![worst, no_date, past, since]
}

fn stand(count: u64) -> &'static str {
    if count == 1 { "stands" } else { "stand" }
}

fn wait(count: u64) -> &'static str {
    if count == 1 { "waits" } else { "wait" }
}

fn have(count: u64) -> &'static str {
    if count == 1 { "has" } else { "have" }
}

fn are(count: u64) -> &'static str {
    if count == 1 { "is" } else { "are" }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sentence_says_how_many_and_how_bad() {
        let counted = Counted {
            open: 9,
            by_rank: [0, 1, 3, 5, 0],
            no_date: 4,
            waits: [3, 0, 1, 0],
            past: 0,
            came: 2,
            came_over: 1,
            came_worst: Some(3),
            open_worst: Some(4),
        };
        let said: Vec<(VerdictOn, String)> =
            said(&counted, 11, 10).into_iter().map(|headline| (headline.verdict, headline.text)).collect();
        let expected = [
            (VerdictOn::Bad, "1 order of rank 2 stands open, the worst there is"),
            (VerdictOn::Bad, "4 of 9 have no date in the next 10 days: 3 wait for parts, 1 waits for people"),
            (VerdictOn::Good, "Nothing is past its window"),
            (
                VerdictOn::Watch,
                "9 open, 2 fewer than a week ago: 2 came in the last 7 days, the worst of rank 3; 1 is finished or dropped since",
            ),
        ];
        assert_eq!(said, expected.map(|(verdict, text)| (verdict, text.to_owned())));
    }

    #[test]
    fn where_nothing_is_open_one_sentence_says_so() {
        let said = said(&Counted::default(), 0, 10);
        assert_eq!((said.len(), said[0].verdict, said[0].count), (1, VerdictOn::Good, 0));
    }
}
