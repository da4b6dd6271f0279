//! A move of work to another state, as somebody asks for it.

use super::{
    moves::{AskField, AskedAbout, MoveRefused, Mover, asks, check_move},
    states::{Verdict, WaitingFor, WorkState},
};
use crate::{
    access::refusal::{Refusal, said_at},
    ground::{time::Instant, value::IncomingValue},
};
use serde::{Deserialize, Serialize};

/// A move to another state.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StateMove {
    pub to: WorkState,
    /// Why; needed to drop work.
    pub note: Option<String>,
    /// When it was so, if that was earlier.
    pub at: Option<Instant>,
    /// For waiting: what for.
    pub waiting_for: Option<WaitingFor>,
    /// For waiting: until when, as far as is known.
    pub expected_until: Option<Instant>,
    /// For returned: the question, and whose it is.
    pub question: Option<String>,
    pub asked: Option<String>,
    /// For done: what the work says of the alarm that raised it.
    pub verdict: Option<Verdict>,
    /// For done: what the meters that wait for it read now.
    #[serde(default)]
    pub readings: Vec<ReadingAfter>,
    /// For dropped, where it has downtime: what becomes of that.
    #[serde(default)]
    pub downtime: Option<DroppedDowntime>,
}

/// What becomes of the downtime of an order that is dropped.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum DroppedDowntime {
    /// It was none: it is deleted.
    Delete,
    /// It was so, whatever the order: it stays on its asset, without the order.
    Keep,
    /// It stays with the order; what is open ends with it.
    End,
}

crate::kept_as_words!(DroppedDowntime);

/// A reading taken when the work was finished.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingAfter {
    /// Code of the meter.
    pub meter: String,
    pub value: IncomingValue,
    /// Now without it; it must lie after the finish.
    pub at: Option<Instant>,
}

/// Where the work stands that is moved.
#[derive(Debug, Clone, Copy)]
pub struct MovedFrom {
    pub state: WorkState,
    pub since: Instant,
    pub waiting_for: Option<WaitingFor>,
    pub expected_until: Option<Instant>,
    /// Downtime was reported on it.
    pub has_downtime: bool,
}

/// A move that may be made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CheckedMove<'a> {
    pub at: Instant,
    pub note: Option<&'a str>,
    pub question: Option<&'a str>,
}

/// A text that says something, without the blanks around it.
fn some(text: Option<&str>) -> Option<&str> {
    text.map(str::trim).filter(|text| !text.is_empty())
}

impl StateMove {
    /// A move now, with nothing said about it.
    #[must_use]
    pub fn to(to: WorkState) -> Self {
        let (note, at, waiting_for, expected_until, question) = (None, None, None, None, None);
        let (asked, verdict, readings, downtime) = (None, None, Vec::new(), None);
        Self { to, note, at, waiting_for, expected_until, question, asked, verdict, readings, downtime }
    }

    /// Whether the mover may make it at `now`.
    ///
    /// # Errors
    /// [`Refusal::Conflict`] where there is no such move, [`Refusal::NotTheirs`] where it is another role's,
    /// [`Refusal::Field`] for what the state needs and lacks.
    pub fn check(&self, from: MovedFrom, mover: Mover, now: Instant) -> Result<CheckedMove<'_>, Refusal> {
        check_move(from.state, self.to, mover).map_err(|refused| match refused {
            MoveRefused::NoSuchMove { .. } => Refusal::Conflict(refused.to_string()),
            MoveRefused::NotTheirs { .. } => Refusal::NotTheirs(refused.to_string()),
        })?;
        let at = said_at("at", self.at, now)?;
        if at < from.since {
            return Err(Refusal::field("at", format!("lies before the last change, at {}", from.since)));
        }
        let (note, question) = (some(self.note.as_deref()), some(self.question.as_deref()));
        let about = AskedAbout { has_downtime: from.has_downtime, ..AskedAbout::default() };
        for ask in asks(self.to, about).into_iter().filter(|ask| ask.required) {
            let (field, is_given, reason) = match ask.field {
                AskField::WaitingFor => {
                    ("waiting_for", self.waiting_for.is_some(), "say what it waits for: parts, outage, people or other")
                }
                AskField::Question => ("question", question.is_some(), "ask what is to be answered"),
                AskField::Asked => ("asked", self.asked.is_some(), "say whom you ask"),
                AskField::Downtime => {
                    let reason = "say what becomes of its downtime: delete, keep (without the order) or end";
                    ("downtime", self.downtime.is_some(), reason)
                }
                AskField::Note => ("note", note.is_some(), "say why the work is dropped"),
                // Never required.
                AskField::ExpectedUntil | AskField::At | AskField::Verdict | AskField::Readings => continue,
            };
            if !is_given {
                return Err(Refusal::field(field, reason));
            }
        }
        let waits_so = (self.waiting_for, self.expected_until) == (from.waiting_for, from.expected_until);
        if self.to == WorkState::Waiting && from.state == WorkState::Waiting && waits_so {
            return Err(Refusal::field("waiting_for", "it waits for that already"));
        }
        if !self.readings.is_empty() && self.to != WorkState::Done {
            return Err(Refusal::field("readings", "are taken when the work is done"));
        }
        for (place, reading) in self.readings.iter().enumerate() {
            if reading.at.is_some_and(|read| read <= at) {
                let reason = "must lie after the finish: only what is read since tells whether the repair holds";
                return Err(Refusal::field(format!("readings[{place}].at"), reason));
            }
        }
        Ok(CheckedMove { at, note, question })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::access::roles::Role;
    use rstest::rstest;

    fn at(hour: i64) -> Instant {
        Instant::parse("2026-03-01T00:00:00Z").unwrap().plus(hour * 3_600_000)
    }

    fn from(state: WorkState) -> MovedFrom {
        let has_downtime = state == WorkState::UnderWay;
        MovedFrom { state, since: at(8), waiting_for: Some(WaitingFor::Parts), expected_until: None, has_downtime }
    }

    fn mover() -> Mover {
        Mover { role: Role::Engineer, immediate: false, waiting_from: Some(WorkState::Planning), is_asked: false }
    }

    fn wait(waiting_for: Option<WaitingFor>) -> StateMove {
        StateMove { waiting_for, ..StateMove::to(WorkState::Waiting) }
    }

    #[rstest]
    #[case::future(StateMove { at: Some(at(13)), ..wait(Some(WaitingFor::Outage)) }, WorkState::Planning, "at: lies in the future")]
    #[case::past(StateMove { at: Some(at(7)), ..wait(Some(WaitingFor::Outage)) }, WorkState::Planning,
        "at: lies before the last change, at 2026-03-01T08:00:00Z")]
    #[case::for_what(
        wait(None),
        WorkState::Planning,
        "waiting_for: say what it waits for: parts, outage, people or other"
    )]
    #[case::so_already(wait(Some(WaitingFor::Parts)), WorkState::Waiting, "waiting_for: it waits for that already")]
    #[case::why(StateMove { note: Some("  ".into()), ..StateMove::to(WorkState::Dropped) }, WorkState::Planning,
        "note: say why the work is dropped")]
    #[case::with_downtime(StateMove { note: Some("twice".into()), ..StateMove::to(WorkState::Dropped) }, WorkState::UnderWay,
        "downtime: say what becomes of its downtime: delete, keep (without the order) or end")]
    #[case::no_way(StateMove::to(WorkState::Closed), WorkState::Planning, "work that is planning cannot become closed")]
    fn what_a_move_lacks_is_said(#[case] to: StateMove, #[case] state: WorkState, #[case] said: &str) {
        assert_eq!(to.check(from(state), mover(), at(12)).unwrap_err().to_string(), said);
    }

    #[test]
    fn a_move_is_made_now_unless_it_was_earlier_and_its_words_stand_without_blanks() {
        let dropped = StateMove { note: Some(" not needed ".into()), ..StateMove::to(WorkState::Dropped) };
        let checked = dropped.check(from(WorkState::Planning), mover(), at(12)).unwrap();
        assert_eq!(checked, CheckedMove { at: at(12), note: Some("not needed"), question: None });
        let other = wait(Some(WaitingFor::Outage));
        assert!(other.check(from(WorkState::Waiting), mover(), at(12)).is_ok(), "it waits for something else now");
    }

    #[test]
    fn a_reading_after_a_repair_lies_after_it() {
        let reading = |at| ReadingAfter { meter: "M".into(), value: IncomingValue::Number(1.0), at };
        let mut done = StateMove {
            at: Some(at(10)),
            readings: vec![reading(None), reading(Some(at(11)))],
            ..StateMove::to(WorkState::Done)
        };
        assert!(done.check(from(WorkState::UnderWay), mover(), at(12)).is_ok());
        done.readings[1].at = Some(at(10));
        let said = done.check(from(WorkState::UnderWay), mover(), at(12)).unwrap_err().to_string();
        assert!(said.starts_with("readings[1].at: must lie after the finish"), "{said}");
        let elsewhere = StateMove { readings: vec![reading(None)], ..wait(Some(WaitingFor::Outage)) };
        let said = elsewhere.check(from(WorkState::Planning), mover(), at(12)).unwrap_err().to_string();
        assert_eq!(said, "readings: are taken when the work is done");
    }
}
