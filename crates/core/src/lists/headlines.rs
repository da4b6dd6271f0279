//! The list of work that a headline is about.

use super::asked::FilterAsked;
use crate::{
    ground::{
        time::{DAY, Instant},
        words::word,
    },
    tally::{Headline, HeadlineKind, RunsOn},
    work::{WorkKind, WorkState},
};

/// Work that has one of these values.
fn is(column: &str, values: impl IntoIterator<Item = String>) -> FilterAsked {
    FilterAsked { column: column.into(), is: Some(values.into_iter().collect()), ..FilterAsked::default() }
}

/// What is asked of the list of work for the orders that a headline said at `now` counts.
#[must_use]
pub fn of_headline(headline: &Headline, runs_on: &[RunsOn], now: Instant) -> Vec<FilterAsked> {
    let open = || is("state", WorkState::ALL.iter().filter(|state| state.is_open()).map(word));
    let risks = || is("work_kind", WorkKind::ALL.iter().filter(|kind| kind.is_risk()).map(word));
    let yes = |column: &str| is(column, ["yes".to_owned()]);
    match headline.kind {
        HeadlineKind::WorstRank => vec![open(), risks(), is("rank", [headline.rank.unwrap_or(5).to_string()])],
        HeadlineKind::NoDate => vec![open(), risks(), yes("no_date_soon")],
        HeadlineKind::PastWindow => vec![open(), risks(), yes("past_window")],
        HeadlineKind::SinceAWeek => {
            let from = Some(now.plus(-7 * DAY + 1).to_string());
            vec![risks(), FilterAsked { column: "raised_at".into(), from, ..FilterAsked::default() }]
        }
        HeadlineKind::RunsOn => vec![is("number", runs_on.iter().map(|one| one.work.to_string()))],
    }
}
