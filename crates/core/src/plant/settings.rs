//! What holds for the whole installation.

use crate::{
    access::refusal::{Refusal, said},
    ground::calendar::zone,
    work::{RankWindows, StateLimit},
};
use serde::{Deserialize, Serialize};

/// Settings with their first values.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Settings {
    /// Name of the installation, shown at the top.
    pub name: String,
    /// ISO 4217 code.
    pub currency: String,
    /// Digits of a minor unit: 2 for most currencies.
    pub minor_digits: u8,
    /// Month, 1 to 12, in which the fiscal year starts.
    pub fiscal_month: u8,
    /// IANA name; periods are cut in it.
    pub time_zone: String,
    /// How numbers and dates are written: one of [`LOCALES`].
    #[serde(default = "first_locale")]
    pub locale: String,
    /// Days in which work of rank 1 to 5 must be done.
    pub rank_windows: [u16; 5],
    /// How long work may stay in a state.
    #[serde(default = "StateLimit::first_settings")]
    pub state_limits: Vec<StateLimit>,
    /// Days ahead within which open work is expected to have a date.
    #[serde(default = "first_headline_days")]
    pub headline_days: u16,
    /// Days between two stays of work in a state up to which they count as one.
    #[serde(default = "first_stay_gap_days")]
    pub stay_gap_days: u16,
    /// Rows of a backlog beyond which it comes as counts first.
    #[serde(default = "first_longest_list")]
    pub longest_list: u32,
    /// Spent of estimated hours beyond which an order is named.
    #[serde(default = "first_estimate_mark")]
    pub estimate_mark_percent: u16,
    /// Days within which a decision that a rung hands up is to be answered.
    #[serde(default = "first_decide_within_days")]
    pub decide_within_days: u16,
    /// Whether a changed danger rung needs a second engineer.
    #[serde(default)]
    pub second_approval: bool,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            name: "Fair Tally".into(),
            currency: "EUR".into(),
            minor_digits: 2,
            fiscal_month: 1,
            time_zone: "UTC".into(),
            locale: first_locale(),
            rank_windows: RankWindows::default().0,
            state_limits: StateLimit::first_settings(),
            headline_days: first_headline_days(),
            stay_gap_days: first_stay_gap_days(),
            longest_list: first_longest_list(),
            estimate_mark_percent: first_estimate_mark(),
            decide_within_days: first_decide_within_days(),
            second_approval: false,
        }
    }
}

fn first_headline_days() -> u16 {
    10
}

fn first_stay_gap_days() -> u16 {
    7
}

fn first_decide_within_days() -> u16 {
    2
}

fn first_longest_list() -> u32 {
    300
}

fn first_estimate_mark() -> u16 {
    125
}

/// Ways to write numbers and dates, as language tags (BCP 47).
pub const LOCALES: [&str; 12] =
    ["en-GB", "en-US", "de-DE", "de-AT", "de-CH", "fr-FR", "es-ES", "it-IT", "nl-NL", "pl-PL", "pt-PT", "sv-SE"];

fn first_locale() -> String {
    LOCALES[0].into()
}

/// Limits on states at the most: every list of work asks each of them.
const MOST_STATE_LIMITS: usize = 100;

impl Settings {
    /// Whether they make sense by themselves.
    ///
    /// # Errors
    /// [`Refusal::Field`] for a currency that is no ISO code, an unknown zone, a month beyond 12 or windows that fall.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.currency.len() != 3 || !self.currency.chars().all(|c| c.is_ascii_uppercase()) {
            return Err(Refusal::field("currency", "use an ISO 4217 code of three capitals"));
        }
        zone(&self.time_zone).map_err(|error| Refusal::field("time_zone", error))?;
        if !LOCALES.contains(&self.locale.as_str()) {
            return Err(Refusal::field("locale", format!("must be one of {}", LOCALES.join(", "))));
        }
        if !(1..=12).contains(&self.fiscal_month) {
            return Err(Refusal::field("fiscal_month", "must be 1 to 12"));
        }
        if self.minor_digits > 4 {
            return Err(Refusal::field("minor_digits", "must be 0 to 4"));
        }
        if !self.rank_windows.is_sorted() {
            return Err(Refusal::field("rank_windows", "a milder rank can't have a shorter window"));
        }
        said("name", &self.name, "the installation needs a name")?;
        if self.rank_windows[0] == 0 {
            return Err(Refusal::field("rank_windows", "a window has at least one day"));
        }
        for (field, value, most) in [
            ("headline_days", u32::from(self.headline_days), 365),
            ("stay_gap_days", u32::from(self.stay_gap_days), 365),
            ("decide_within_days", u32::from(self.decide_within_days), 90),
            ("longest_list", self.longest_list, 100_000),
            ("estimate_mark_percent", u32::from(self.estimate_mark_percent), 10_000),
        ] {
            if !(1..=most).contains(&value) {
                return Err(Refusal::field(field, format!("must be 1 to {most}")));
            }
        }
        if self.state_limits.len() > MOST_STATE_LIMITS {
            return Err(Refusal::field("state_limits", format!("at most {MOST_STATE_LIMITS} limits")));
        }
        for (place, limit) in self.state_limits.iter().enumerate() {
            limit
                .check()
                .map_err(|(field, reason)| Refusal::field(format!("state_limits[{place}].{field}"), reason))?;
        }
        Ok(())
    }

    /// Whether they may follow others. What is written in a currency stays in it.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check_after(&self, before: &Self, has_entries: bool) -> Result<(), Refusal> {
        let same_money = (&self.currency, self.minor_digits) == (&before.currency, before.minor_digits);
        if has_entries && !same_money {
            let reason = "stays as it is once there are entries, which are written in it";
            return Err(Refusal::field("currency", reason));
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::work::WorkState;
    use rstest::rstest;

    fn some() -> Settings {
        Settings::default()
    }

    #[rstest]
    #[case(Settings { currency: "eur".into(), ..some() }, "currency")]
    #[case(Settings { currency: "EURO".into(), ..some() }, "currency")]
    #[case(Settings { time_zone: "Mars/Olympus".into(), ..some() }, "time_zone")]
    #[case(Settings { locale: "xx".into(), ..some() }, "locale")]
    #[case(Settings { fiscal_month: 13, ..some() }, "fiscal_month")]
    #[case(Settings { minor_digits: 5, ..some() }, "minor_digits")]
    #[case(Settings { rank_windows: [2, 1, 3, 4, 5], ..some() }, "rank_windows")]
    #[case(Settings { rank_windows: [0, 1, 3, 4, 5], ..some() }, "rank_windows")]
    #[case(Settings { name: " ".into(), ..some() }, "name")]
    #[case(Settings { headline_days: 0, ..some() }, "headline_days")]
    #[case(Settings { decide_within_days: 0, ..some() }, "decide_within_days")]
    #[case(Settings { longest_list: 0, ..some() }, "longest_list")]
    #[case(Settings { estimate_mark_percent: 0, ..some() }, "estimate_mark_percent")]
    #[case(Settings { state_limits: vec![StateLimit::of(WorkState::Planning, 1); 101], ..some() }, "state_limits")]
    #[case(Settings { state_limits: vec![StateLimit::of(WorkState::Planning, 0)], ..some() }, "state_limits[0].days")]
    #[case(Settings { state_limits: vec![StateLimit::of(WorkState::Closed, 5)], ..some() }, "state_limits[0].state")]
    fn what_makes_no_sense_is_named(#[case] settings: Settings, #[case] at_fault: &str) {
        let Err(Refusal::Field { field, .. }) = settings.check() else { panic!("it is taken") };
        assert_eq!(field, at_fault);
        assert_eq!(some().check(), Ok(()));
    }

    #[test]
    fn money_that_is_written_keeps_its_currency() {
        let other = Settings { currency: "CHF".into(), ..some() };
        assert_eq!(other.check_after(&some(), false), Ok(()));
        assert!(other.check_after(&some(), true).is_err());
        assert_eq!(Settings { name: "Other".into(), ..some() }.check_after(&some(), true), Ok(()));
    }
}
