//! Downtime as somebody reports it.

use super::DowntimeKind;
use crate::{access::refusal::Refusal, ground::time::Instant};
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
