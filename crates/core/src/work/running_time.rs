//! Time that runs while somebody works, and becomes hours of labour when it is stopped.

use crate::{
    access::refusal::{Refusal, said_at},
    ground::time::{HOUR, Instant},
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// Hours that time may run in one go. Longer than anybody works: it was forgotten, and somebody has to say when it ended.
/// Common practice, no published source.
pub const LONGEST_RUN_HOURS: i64 = 16;

/// Time of some people on an order begins or ends.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TimeChange {
    pub running: bool,
    /// Codes; who says it where none is given.
    #[serde(default)]
    pub people: Vec<String>,
    /// Now where none is given.
    #[serde(default)]
    pub at: Option<Instant>,
}

/// Hours of some people on an order, the same for each.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NewHours {
    /// Codes; who says it where none is given.
    #[serde(default)]
    pub people: Vec<String>,
    #[cfg_attr(feature = "schema", schema(value_type = String, example = "1.5"))]
    pub hours: Decimal,
    /// When they were worked; now where none is given.
    #[serde(default)]
    pub at: Option<Instant>,
    #[serde(default)]
    pub description: String,
}

/// The hours of time that ran from one instant to another, to a hundredth; none for less than half of that, which is a press by
/// mistake.
///
/// # Errors
/// [`Refusal::Field`] on `at`: ahead, before it began, or longer after that than anybody works.
pub fn check_stop(started: Instant, at: Option<Instant>, now: Instant) -> Result<(Instant, Option<Decimal>), Refusal> {
    let end = said_at("at", at, now)?;
    let ran = end.since(started);
    if ran < 0 {
        return Err(Refusal::field("at", "lies before it began"));
    }
    if ran > LONGEST_RUN_HOURS * HOUR {
        let reason = format!("it has run for more than {LONGEST_RUN_HOURS} hours: say when it ended");
        return Err(Refusal::field("at", reason));
    }
    let hours = (Decimal::from(ran) / Decimal::from(HOUR)).round_dp(2);
    Ok((end, (hours > Decimal::ZERO).then_some(hours)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const MINUTE: i64 = HOUR / 60;

    // By hand: 50 minutes are 0.8333 hours.
    #[rstest]
    #[case::fifty_minutes(50 * MINUTE, Ok(Some("0.83")))]
    #[case::a_shift(8 * HOUR, Ok(Some("8.00")))]
    #[case::pressed_by_mistake(10_000, Ok(None))]
    #[case::forgotten(17 * HOUR, Err("at: it has run for more than 16 hours: say when it ended"))]
    #[case::backwards(-1, Err("at: lies before it began"))]
    fn time_becomes_hours(#[case] ran: i64, #[case] wanted: Result<Option<&str>, &str>) {
        let started = Instant::from_ms(100 * HOUR);
        let found = check_stop(started, Some(started.plus(ran)), started.plus(20 * HOUR));
        let found = found.map(|(_, hours)| hours.map(|hours| format!("{hours:.2}")));
        assert_eq!(
            found.map_err(|refusal| refusal.to_string()),
            wanted.map(|hours| hours.map(str::to_owned)).map_err(str::to_owned)
        );
    }
}
