//! A ladder for a family: meters of one name on assets of one class. Each gets it, has it already, or keeps its own.

use super::{Ladder, changes::touches_danger};
use crate::{
    access::refusal::{Refusal, said},
    watch::meters::Meter,
};
use serde::{Deserialize, Serialize};

/// A ladder for a family.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FamilyLadder {
    pub reason: String,
    pub ladder: Ladder,
    /// Codes of deviating meters that are to have it too; the others keep their own.
    #[serde(default)]
    pub also: Vec<String>,
}

/// What a new family ladder means for one meter.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum FamilyFate {
    /// It gets the new ladder.
    Changed,
    /// It has just this ladder.
    Unchanged,
    /// It has one of its own, and keeps it.
    KeepsItsOwn,
    /// It waits for a second engineer.
    Proposed,
    /// It can't have it.
    Refused,
}

/// Whether a meter's own ladder is another than its family's; without either there is nothing to deviate.
#[must_use]
pub fn deviates(own: Option<&Ladder>, of_family: Option<&Ladder>) -> bool {
    matches!((own, of_family), (Some(own), Some(family)) if own != family)
}

impl FamilyLadder {
    /// Whether it may be set: it says why, and its rungs make sense for the family's meters.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self, of_family: &Meter) -> Result<(), Refusal> {
        said("reason", &self.reason, "say why the limits are changed")?;
        self.ladder.check(of_family).map_err(|error| Refusal::field(format!("ladder.{}", error.field()), error))
    }

    /// What it means for the meter of that code, whose own ladder and whose family's before are these; approval aside. A meter
    /// follows the family where it has no ladder, or the family's.
    #[must_use]
    pub fn fate(&self, code: &str, own: Option<&Ladder>, before: Option<&Ladder>) -> FamilyFate {
        let follows = own.is_none_or(|own| before == Some(own));
        if own == Some(&self.ladder) {
            FamilyFate::Unchanged
        } else if !follows && !self.also.iter().any(|also| also == code) {
            FamilyFate::KeepsItsOwn
        } else {
            FamilyFate::Changed
        }
    }

    /// Whether it touches a danger rung, of the family's ladder `before` or of a meter's that it takes the place of: then a second
    /// engineer may be needed. `members` are codes with their own ladders.
    #[must_use]
    pub fn touches_danger<'a>(
        &self,
        members: impl IntoIterator<Item = (&'a str, Option<&'a Ladder>)>,
        before: Option<&Ladder>,
    ) -> bool {
        let nothing = Ladder::default();
        let touches = |was: Option<&Ladder>| touches_danger(was.unwrap_or(&nothing), &self.ladder);
        let mut members = members.into_iter();
        members.any(|(code, own)| self.fate(code, own, before) == FamilyFate::Changed && touches(own))
            || touches(before)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use serde_json::json;

    fn ladder(severity: &str, setpoint: f64) -> Ladder {
        let rung = json!({"side": "high", "severity": severity, "setpoint": setpoint, "response": {"kind": "record"}});
        serde_json::from_value(json!({ "rungs": [rung] })).unwrap()
    }

    fn new(setpoint: f64) -> FamilyLadder {
        FamilyLadder { reason: "lower".into(), ladder: ladder("alert", setpoint), also: vec!["ALSO".into()] }
    }

    #[rstest]
    #[case::has_none("M", None, Some(4.0), FamilyFate::Changed)]
    #[case::has_none_as_its_family("M", None, None, FamilyFate::Changed)]
    #[case::has_the_familys("M", Some(4.0), Some(4.0), FamilyFate::Changed)]
    #[case::has_its_own("M", Some(3.0), Some(4.0), FamilyFate::KeepsItsOwn)]
    #[case::had_its_own_before_there_was_a_familys("M", Some(3.0), None, FamilyFate::KeepsItsOwn)]
    #[case::has_its_own_and_is_named("ALSO", Some(3.0), Some(4.0), FamilyFate::Changed)]
    #[case::has_just_this("M", Some(5.0), Some(4.0), FamilyFate::Unchanged)]
    fn a_meter_follows_unless_it_has_its_own(
        #[case] code: &str,
        #[case] own: Option<f64>,
        #[case] before: Option<f64>,
        #[case] fate: FamilyFate,
    ) {
        let (own, before) = (own.map(|at| ladder("alert", at)), before.map(|at| ladder("alert", at)));
        assert_eq!(new(5.0).fate(code, own.as_ref(), before.as_ref()), fate);
    }

    #[test]
    fn danger_is_touched_where_a_meter_changes_or_the_family_had_it() {
        let (danger, alert) = (ladder("danger", 9.0), ladder("alert", 4.0));
        let touches = |own: &Ladder, before: &Ladder| new(5.0).touches_danger([("M", Some(own))], Some(before));
        assert!(!touches(&alert, &alert));
        assert!(touches(&alert, &danger), "the family's goes");
        assert!(!touches(&danger, &alert), "it keeps its own");
        assert!(new(5.0).touches_danger([("ALSO", Some(&danger))], Some(&alert)), "it is named");
    }

    #[test]
    fn it_says_why_and_fits_the_meters() {
        let meter = Meter::measurement("mm/s");
        assert_eq!(new(5.0).check(&meter), Ok(()));
        let unsaid = FamilyLadder { reason: " ".into(), ..new(5.0) };
        assert_eq!(unsaid.check(&meter).unwrap_err().to_string(), "reason: say why the limits are changed");
        let mut low_first = new(5.0);
        low_first.ladder.rungs.extend(ladder("serious", 4.0).rungs);
        assert!(low_first.check(&meter).unwrap_err().to_string().starts_with("ladder.rungs"));
    }
}
