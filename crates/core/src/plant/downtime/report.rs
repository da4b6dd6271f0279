//! Downtime as somebody reports it.

use super::DowntimeKind;
use crate::{
    access::refusal::{Refusal, said},
    ground::time::{DAY, Instant},
};
use serde::{Deserialize, Serialize};

/// An interval to enter.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewDowntime {
    pub kind: DowntimeKind,
    /// Code of the asset that was down; the order's where none is given.
    pub asset: Option<String>,
    pub start: Instant,
    /// None while it is still down.
    pub end: Option<Instant>,
    /// The share of what it does that it could not do, where it ran on, slowed: above 0, below 1. None for a stop.
    #[serde(default)]
    pub slowed: Option<f64>,
    #[serde(default)]
    pub note: String,
}

impl NewDowntime {
    /// Whether it may be kept at `now`.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self, now: Instant) -> Result<(), Refusal> {
        if self.slowed.is_some_and(|share| !(share > 0.0 && share < 1.0)) {
            return Err(Refusal::field("slowed", "is a share above 0 and below 1; leave it out where it stood"));
        }
        check_interval(self.start, self.end, now)
    }
}

/// Downtime as it is corrected: all of it anew, with the reason. Where it was stays.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct DowntimeCorrection {
    pub kind: DowntimeKind,
    pub start: Instant,
    /// None while it is still down.
    #[serde(default)]
    pub end: Option<Instant>,
    /// The share of what it does that it could not do, above 0 and at most 1; 1, or none, for a stop.
    #[serde(default)]
    pub share: Option<f64>,
    #[serde(default)]
    pub note: String,
    /// Why it is corrected.
    pub reason: String,
}

impl DowntimeCorrection {
    /// Whether it may be kept at `now`.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self, now: Instant) -> Result<(), Refusal> {
        if self.share.is_some_and(|share| !(share > 0.0 && share <= 1.0)) {
            return Err(Refusal::field("share", "must be above 0 and at most 1; leave it out for a stop"));
        }
        check_interval(self.start, self.end, now)?;
        said("reason", &self.reason, "say why it is corrected").map(drop)
    }
}

/// What is odd about downtime as it is typed: it may be right, but mostly is a slip.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum OddDowntime {
    /// It lasts longer than a week.
    Long,
    /// It begins more than a day before its order was raised.
    BeforeTheOrder,
    /// It lasts longer than any before on that asset.
    Longest,
}

/// What is odd about downtime from `start` to `end` (to `now` while it is open), on work raised then, on an asset whose longest
/// downtime so far lasted so many milliseconds. Own rule (common practice): a failure is mostly reported within a day.
#[must_use]
pub fn odd_downtime(
    (start, end, now): (Instant, Option<Instant>, Instant),
    raised_at: Option<Instant>,
    longest_ms: Option<i64>,
) -> Vec<OddDowntime> {
    let ms = end.unwrap_or(now).since(start);
    let odd = [
        (OddDowntime::Long, ms > 7 * DAY),
        (OddDowntime::BeforeTheOrder, raised_at.is_some_and(|raised| start < raised.plus(-DAY))),
        (OddDowntime::Longest, longest_ms.is_some_and(|longest| ms > longest)),
    ];
    odd.into_iter().filter(|(_, is)| *is).map(|(odd, _)| odd).collect()
}

/// Whether downtime may have been from `start` to `end`, by `now`.
///
/// # Errors
/// [`Refusal::Field`].
pub fn check_interval(start: Instant, end: Option<Instant>, now: Instant) -> Result<(), Refusal> {
    if start > now {
        return Err(Refusal::field("start", "lies in the future"));
    }
    if start < Instant::EARLIEST_EVENT {
        return Err(Refusal::field("start", "lies before 1950"));
    }
    match end {
        Some(end) if end <= start => Err(Refusal::field("end", "must lie after the start")),
        Some(end) if end > now => Err(Refusal::field("end", "lies in the future; leave it open until it is over")),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn at(text: &str) -> Instant {
        Instant::parse(text).unwrap()
    }

    #[rstest]
    #[case("2026-03-02T00:00:00Z", None, "start: lies in the future")]
    #[case("1949-12-31T00:00:00Z", None, "start: lies before 1950")]
    #[case("2026-02-01T00:00:00Z", Some("2026-02-01T00:00:00Z"), "end: must lie after the start")]
    #[case(
        "2026-02-01T00:00:00Z",
        Some("2026-03-02T00:00:00Z"),
        "end: lies in the future; leave it open until it is over"
    )]
    fn what_can_be_no_downtime_is_said(#[case] start: &str, #[case] end: Option<&str>, #[case] said: &str) {
        let refused = check_interval(at(start), end.map(at), at("2026-03-01T00:00:00Z")).unwrap_err();
        assert_eq!(refused.to_string(), said);
    }

    #[test]
    fn a_correction_says_why_and_takes_a_share_up_to_a_stop() {
        let correction = |share, reason: &str| {
            let start = at("2026-02-01T00:00:00Z");
            let (end, note) = (None, String::new());
            let to = DowntimeCorrection { kind: DowntimeKind::Planned, start, end, share, note, reason: reason.into() };
            to.check(at("2026-03-01T00:00:00Z")).map_err(|refused| refused.to_string())
        };
        assert_eq!((correction(None, "the year"), correction(Some(1.0), "the year")), (Ok(()), Ok(())));
        assert_eq!(correction(None, " "), Err("reason: say why it is corrected".into()));
        for share in [0.0, 1.1, f64::NAN] {
            assert!(correction(Some(share), "the year").is_err_and(|said| said.starts_with("share: ")));
        }
    }

    #[rstest]
    #[case::a_year_off("2025-02-01T00:00:00Z", None, &[OddDowntime::Long, OddDowntime::BeforeTheOrder, OddDowntime::Longest])]
    #[case::the_usual("2026-02-28T20:00:00Z", Some("2026-02-28T23:00:00Z"), &[])]
    #[case::longer_than_ever("2026-02-28T10:00:00Z", Some("2026-02-28T23:00:00Z"), &[OddDowntime::Longest])]
    #[case::two_days_before("2026-02-26T22:00:00Z", Some("2026-02-26T23:00:00Z"), &[OddDowntime::BeforeTheOrder])]
    fn odd_downtime_is_questioned(#[case] start: &str, #[case] end: Option<&str>, #[case] odd: &[OddDowntime]) {
        let (now, raised) = (at("2026-03-01T00:00:00Z"), at("2026-02-28T22:00:00Z"));
        let ten_hours = Some(10 * 3_600_000);
        assert_eq!(odd_downtime((at(start), end.map(at), now), Some(raised), ten_hours), odd);
    }

    #[test]
    fn what_ran_on_is_slowed_by_a_share() {
        let report = |slowed| {
            let (asset, note, start) = (None, String::new(), at("2026-02-01T00:00:00Z"));
            let new = NewDowntime { kind: DowntimeKind::Planned, asset, start, end: None, slowed, note };
            new.check(at("2026-03-01T00:00:00Z")).map_err(|refused| refused.to_string())
        };
        assert_eq!((report(None), report(Some(0.4))), (Ok(()), Ok(())));
        for share in [0.0, 1.0, -0.1, f64::NAN] {
            assert!(report(Some(share)).is_err_and(|said| said.starts_with("slowed: ")));
        }
    }

    #[test]
    fn it_may_be_open_and_may_end_now() {
        let now = at("2026-03-01T00:00:00Z");
        assert_eq!(check_interval(now.plus(-1), None, now), Ok(()));
        assert_eq!(check_interval(now.plus(-1), Some(now), now), Ok(()));
    }
}
