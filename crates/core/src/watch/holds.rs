//! What holds alarms back for a while: a shelf of a meter, a spell in which an asset is out of use.

use crate::{
    access::refusal::{Refusal, said},
    ground::time::{DAY, Instant},
};
use serde::{Deserialize, Serialize};

/// Nothing is shelved for longer: whoever wants that retires the limit. Own choice.
const LONGEST_MS: i64 = 366 * DAY;

/// A shelf to set.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewShelf {
    pub until: Instant,
    pub reason: String,
}

impl NewShelf {
    /// Whether it can be set at `now`; its reason.
    ///
    /// # Errors
    /// [`Refusal::Field`] without a reason, or with an end that is past or more than a year away.
    pub fn check(&self, now: Instant) -> Result<&str, Refusal> {
        let reason = said("reason", &self.reason, "say why its alarms are held back")?;
        if self.until <= now {
            return Err(Refusal::field("until", "must lie in the future"));
        }
        if self.until.since(now) > LONGEST_MS {
            return Err(Refusal::field("until", "must lie within a year: what is held longer is no limit any more"));
        }
        Ok(reason)
    }
}

/// A spell out of use to set.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewOutOfUse {
    /// Now without it.
    pub from: Option<Instant>,
    /// Open without it: it lasts until somebody ends it.
    pub until: Option<Instant>,
    pub reason: String,
}

impl NewOutOfUse {
    /// Whether it can be set at `now`; from when, and its reason.
    ///
    /// # Errors
    /// [`Refusal::Field`] without a reason, or with an end before its beginning or now.
    pub fn check(&self, now: Instant) -> Result<(Instant, &str), Refusal> {
        let from = self.from.unwrap_or(now);
        let reason = said("reason", &self.reason, "say why it is out of use")?;
        if self.until.is_some_and(|until| until <= from.max(now)) {
            return Err(Refusal::field("until", "must lie in the future, and after its beginning"));
        }
        Ok((from, reason))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn now() -> Instant {
        Instant::from_ms(1_000_000)
    }

    #[test]
    fn a_shelf_ends_within_a_year_and_says_why() {
        let shelf = |until: Instant, reason: &str| NewShelf { until, reason: reason.into() };
        let said =
            |until, reason| shelf(until, reason).check(now()).map(str::to_owned).map_err(|error| error.to_string());
        assert_eq!(said(now().plus(1), " loose cable "), Ok("loose cable".into()));
        assert!(said(now(), "x").unwrap_err().starts_with("until: must lie in the future"));
        assert!(said(now().plus(367 * DAY), "x").unwrap_err().starts_with("until: must lie within a year"));
        assert!(said(now().plus(1), " ").unwrap_err().starts_with("reason:"));
    }

    #[test]
    fn a_spell_out_of_use_may_be_open_and_may_have_begun() {
        let spell = |from, until| NewOutOfUse { from, until, reason: "rebuilt".into() };
        assert_eq!(spell(None, None).check(now()), Ok((now(), "rebuilt")));
        assert_eq!(spell(Some(now().plus(-9)), Some(now().plus(1))).check(now()), Ok((now().plus(-9), "rebuilt")));
        for (from, until) in [(now().plus(-9), now()), (now().plus(5), now().plus(5))] {
            assert!(spell(Some(from), Some(until)).check(now()).is_err());
        }
        assert!(NewOutOfUse { reason: String::new(), ..spell(None, None) }.check(now()).is_err());
    }
}
