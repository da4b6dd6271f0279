//! Work orders: their kinds and states, who may move them, and their windows.

use crate::{
    people::Role,
    time::{DAY, Instant},
};
use serde::{Deserialize, Serialize};

/// Kind of work. Source: EN 13306 (maintenance types).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WorkKind {
    CorrectiveImmediate,
    CorrectiveDeferred,
    ConditionBased,
    Predetermined,
    Inspection,
    Improvement,
}

impl WorkKind {
    /// Whether it mends something that failed.
    #[must_use]
    pub fn is_corrective(self) -> bool {
        matches!(self, Self::CorrectiveImmediate | Self::CorrectiveDeferred)
    }
}

/// Where a work order stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WorkState {
    Raised,
    Planning,
    Waiting,
    Ready,
    Scheduled,
    UnderWay,
    Done,
    Returned,
    Closed,
    Dropped,
}

impl WorkState {
    /// All states, in the order of the work.
    pub const ALL: [Self; 10] = [
        Self::Raised,
        Self::Planning,
        Self::Waiting,
        Self::Ready,
        Self::Scheduled,
        Self::UnderWay,
        Self::Done,
        Self::Returned,
        Self::Closed,
        Self::Dropped,
    ];

    /// Before done: it can still be joined, and counts as open work.
    #[must_use]
    pub fn is_open(self) -> bool {
        !matches!(self, Self::Done | Self::Returned | Self::Closed | Self::Dropped)
    }

    /// Over for good: nothing is added to it any more.
    #[must_use]
    pub fn is_over(self) -> bool {
        matches!(self, Self::Closed | Self::Dropped)
    }

    /// As people say it.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Raised => "raised",
            Self::Planning => "planning",
            Self::Waiting => "waiting",
            Self::Ready => "ready",
            Self::Scheduled => "scheduled",
            Self::UnderWay => "under way",
            Self::Done => "done",
            Self::Returned => "returned",
            Self::Closed => "closed",
            Self::Dropped => "dropped",
        }
    }
}

/// What work waits for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WaitingFor {
    Parts,
    Outage,
    People,
    Other,
}

/// The verdict of who did the work on the alarm that raised it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    FoundIt,
    NothingWrong,
    Other,
}

/// What a move between states hangs on besides the two states.
#[derive(Debug, Clone, Copy)]
pub struct Mover {
    pub role: Role,
    /// The work is corrective immediate.
    pub immediate: bool,
    /// The state in which waiting began.
    pub waiting_from: Option<WorkState>,
    /// The mover is the person the question went to.
    pub is_asked: bool,
}

/// A move that isn't one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum MoveRefused {
    #[error("work that is {} cannot become {}", from.word(), to.word())]
    NoSuchMove { from: WorkState, to: WorkState },
    #[error("a {} may not move work from {} to {}", role.word(), from.word(), to.word())]
    NotTheirs { role: Role, from: WorkState, to: WorkState },
}

const PLAN: &[Role] = &[Role::Planner, Role::Engineer];
const WORK: &[Role] = &[Role::Technician, Role::Planner, Role::Engineer];

/// The roles whose move it is; `None` where there is no such move. The one list of moves there is.
fn movers(from: WorkState, to: WorkState, mover: Mover) -> Option<&'static [Role]> {
    use WorkState as S;
    match (from, to) {
        (S::Raised, S::Planning | S::Ready) => Some(PLAN),
        (S::Raised, S::UnderWay) => mover.immediate.then_some(WORK),
        // From waiting to waiting it is for another reason.
        (S::Planning | S::Ready | S::Scheduled | S::UnderWay | S::Waiting, S::Waiting) => Some(WORK),
        (S::Waiting, to) if mover.waiting_from == Some(to) => Some(WORK),
        (S::Planning | S::Scheduled, S::Ready) | (S::Ready, S::Planning | S::Scheduled) => Some(PLAN),
        (S::Ready | S::Scheduled, S::UnderWay) => Some(WORK),
        (S::UnderWay, S::Done | S::Ready) => Some(WORK),
        (S::Done, S::Returned | S::Closed | S::UnderWay) => Some(PLAN),
        (S::Returned, S::Done | S::UnderWay) => Some(PLAN),
        (from, S::Dropped) if from.is_open() => Some(PLAN),
        _ => None,
    }
}

/// Whether this person may make this move.
///
/// # Errors
/// [`MoveRefused::NoSuchMove`] whoever asks, [`MoveRefused::NotTheirs`] when it is another role's.
pub fn check_move(from: WorkState, to: WorkState, mover: Mover) -> Result<(), MoveRefused> {
    let roles = movers(from, to, mover).ok_or(MoveRefused::NoSuchMove { from, to })?;
    let asked = mover.is_asked && from == WorkState::Returned;
    if asked || mover.role == Role::Administrator || roles.contains(&mover.role) {
        Ok(())
    } else {
        Err(MoveRefused::NotTheirs { role: mover.role, from, to })
    }
}

/// The states this person may move the work to now, in the order of the work.
#[must_use]
pub fn moves(from: WorkState, mover: Mover) -> Vec<WorkState> {
    WorkState::ALL.into_iter().filter(|&to| check_move(from, to, mover).is_ok()).collect()
}

/// A field that a move may come with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum AskField {
    WaitingFor,
    ExpectedUntil,
    Question,
    /// Whose question it is.
    Asked,
    At,
    Verdict,
    /// What the meters that wait for it read now.
    Readings,
    Note,
}

/// What a move asks for first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ask {
    pub field: AskField,
    /// There is no such move without it.
    pub required: bool,
}

/// A move that is offered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OfferedMove {
    pub to: WorkState,
    /// What it asks for, in this order; made at once where there is nothing.
    pub asks: Vec<Ask>,
    /// The way ahead, rather than a way round or out.
    pub ahead: bool,
    /// Nobody takes it back.
    pub ends: bool,
}

/// What a move to a state asks for. Work that an alarm raised is asked about the alarm, and finishing asks for readings
/// where meters wait for one.
#[must_use]
pub fn asks(to: WorkState, by_alarm: bool, meters_wait: bool) -> Vec<Ask> {
    use AskField as F;
    let fields: &[(F, bool)] = match to {
        WorkState::Waiting => &[(F::WaitingFor, true), (F::ExpectedUntil, false), (F::Note, false)],
        WorkState::Returned => &[(F::Question, true), (F::Asked, true), (F::Note, false)],
        WorkState::Done => &[(F::At, false), (F::Verdict, false), (F::Readings, false), (F::Note, false)],
        WorkState::Closed => &[(F::Note, false)],
        WorkState::Dropped => &[(F::Note, true)],
        _ => &[],
    };
    let fits = |field| match field {
        F::Verdict => by_alarm,
        F::Readings => meters_wait,
        _ => true,
    };
    fields.iter().filter(|(field, _)| fits(*field)).map(|&(field, required)| Ask { field, required }).collect()
}

/// The moves this person may make now, in the order of the work.
#[must_use]
pub fn offered(from: WorkState, mover: Mover, by_alarm: bool, meters_wait: bool) -> Vec<OfferedMove> {
    let states = moves(from, mover);
    let ahead = ahead(from, &states);
    let offer = |to: WorkState| OfferedMove {
        to,
        asks: asks(to, by_alarm, meters_wait),
        ahead: Some(to) == ahead,
        ends: to.is_over(),
    };
    states.into_iter().map(offer).collect()
}

/// The next state that is a step on; from a state aside, the way back in.
fn ahead(from: WorkState, offered: &[WorkState]) -> Option<WorkState> {
    let steps = || offered.iter().copied().filter(|to| !matches!(to, S::Waiting | S::Returned | S::Dropped));
    use WorkState as S;
    steps().find(|to| *to > from).or_else(|| steps().next_back())
}

/// Whether a person of that role may raise work in that state.
#[must_use]
pub fn may_start_in(state: WorkState, role: Role) -> bool {
    match role {
        Role::Viewer | Role::Gateway => false,
        Role::Requester => state == WorkState::Raised,
        _ => matches!(state, WorkState::Raised | WorkState::Planning | WorkState::Ready),
    }
}

/// What stands in the way of closing.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotClosable {
    #[error("corrective work needs a failure report with at least the problem")]
    NoProblem,
    #[error(
        "work that found it needs a failure report with at least the problem: degraded or incipient, where nothing broke"
    )]
    NothingFound,
    #[error("downtime {0} has no end yet")]
    DowntimeOpen(i64),
}

impl NotClosable {
    /// The field at fault.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::NoProblem | Self::NothingFound => "failure.problem",
            Self::DowntimeOpen(_) => "downtime",
        }
    }
}

/// Whether closing asks for a failure report: corrective work does, and condition-based work that found it.
#[must_use]
pub fn asks_for_failure(kind: WorkKind, verdict: Option<Verdict>) -> bool {
    kind.is_corrective() || (kind == WorkKind::ConditionBased && verdict == Some(Verdict::FoundIt))
}

/// Whether a finished work order may be closed.
///
/// # Errors
/// [`NotClosable`], the first reason found.
pub fn check_close(
    kind: WorkKind,
    verdict: Option<Verdict>,
    has_problem: bool,
    open_downtime: Option<i64>,
) -> Result<(), NotClosable> {
    if asks_for_failure(kind, verdict) && !has_problem {
        return Err(if kind.is_corrective() { NotClosable::NoProblem } else { NotClosable::NothingFound });
    }
    open_downtime.map_or(Ok(()), |id| Err(NotClosable::DowntimeOpen(id)))
}

/// How long work may stay in a state, maybe only some of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StateLimit {
    pub state: WorkState,
    pub days: u16,
    /// Only work that waits for this.
    #[serde(default)]
    pub waiting_for: Option<WaitingFor>,
    /// Only work without an agreed start.
    #[serde(default)]
    pub undated: bool,
    /// Only work of this rank, 1 to 5.
    #[serde(default)]
    pub rank: Option<u8>,
    /// Only work of the crew of this code.
    #[serde(default)]
    pub crew: Option<String>,
}

/// Where a work order stands, as limits on states look at it.
#[derive(Debug, Clone, Copy)]
pub struct Standing<'a> {
    pub state: WorkState,
    pub since: Instant,
    pub waiting_for: Option<WaitingFor>,
    pub is_dated: bool,
    pub rank: u8,
    pub crew: Option<&'a str>,
}

impl StateLimit {
    /// A limit on all work of a state.
    #[must_use]
    pub fn of(state: WorkState, days: u16) -> Self {
        Self { state, days, waiting_for: None, undated: false, rank: None, crew: None }
    }

    /// The first settings: planning 10 days, waiting for parts 21, ready without a date 14, done or returned 5.
    #[must_use]
    pub fn first_settings() -> Vec<Self> {
        vec![
            Self::of(WorkState::Planning, 10),
            Self { waiting_for: Some(WaitingFor::Parts), ..Self::of(WorkState::Waiting, 21) },
            Self { undated: true, ..Self::of(WorkState::Ready, 14) },
            Self::of(WorkState::Done, 5),
            Self::of(WorkState::Returned, 5),
        ]
    }

    /// Whether work has stood longer in its state than this limit lets it.
    #[must_use]
    pub fn is_exceeded(&self, work: Standing, now: Instant) -> bool {
        self.state == work.state
            && self.waiting_for.is_none_or(|reason| work.waiting_for == Some(reason))
            && !(self.undated && work.is_dated)
            && self.rank.is_none_or(|rank| work.rank == rank)
            && self.crew.as_deref().is_none_or(|crew| work.crew == Some(crew))
            && now.since(work.since) > i64::from(self.days) * DAY
    }
}

/// Days in which work of each rank must be done; settable.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct RankWindows(pub [u16; 5]);

impl Default for RankWindows {
    fn default() -> Self {
        Self([2, 7, 28, 90, 180])
    }
}

impl RankWindows {
    /// When the window of work of that rank (1 to 5), raised then, ends.
    #[must_use]
    pub fn window_end(&self, rank: u8, from: Instant) -> Instant {
        let place = usize::from(rank.clamp(1, 5)) - 1;
        from.plus(i64::from(self.0[place]) * DAY)
    }

    /// The window after the rank was tightened at `at`: from that instant, never later than before.
    #[must_use]
    pub fn tightened(&self, old_end: Instant, rank: u8, at: Instant) -> Instant {
        self.window_end(rank, at).min(old_end)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use WorkState as S;

    fn mover(role: Role) -> Mover {
        Mover { role, immediate: false, waiting_from: None, is_asked: false }
    }

    #[test]
    fn every_move_there_is_and_whose() {
        // rules.md §4, written out: from, to, who besides the administrator.
        let plan = [Role::Engineer, Role::Planner];
        let work = [Role::Engineer, Role::Planner, Role::Technician];
        let table: Vec<(S, S, &[Role])> = vec![
            (S::Raised, S::Planning, &plan),
            (S::Raised, S::Ready, &plan),
            (S::Raised, S::Dropped, &plan),
            (S::Planning, S::Waiting, &work),
            (S::Ready, S::Waiting, &work),
            (S::Scheduled, S::Waiting, &work),
            (S::UnderWay, S::Waiting, &work),
            (S::Waiting, S::Waiting, &work),
            (S::Planning, S::Ready, &plan),
            (S::Ready, S::Planning, &plan),
            (S::Ready, S::Scheduled, &plan),
            (S::Scheduled, S::Ready, &plan),
            (S::Ready, S::UnderWay, &work),
            (S::Scheduled, S::UnderWay, &work),
            (S::UnderWay, S::Done, &work),
            (S::UnderWay, S::Ready, &work),
            (S::Done, S::Returned, &plan),
            (S::Done, S::Closed, &plan),
            (S::Done, S::UnderWay, &plan),
            (S::Returned, S::Done, &plan),
            (S::Returned, S::UnderWay, &plan),
            (S::Planning, S::Dropped, &plan),
            (S::Waiting, S::Dropped, &plan),
            (S::Ready, S::Dropped, &plan),
            (S::Scheduled, S::Dropped, &plan),
            (S::UnderWay, S::Dropped, &plan),
        ];
        for from in S::ALL {
            for to in S::ALL {
                let row = table.iter().find(|(f, t, _)| (*f, *t) == (from, to));
                for role in Role::ALL {
                    let expected = row.is_some_and(|(_, _, who)| role == Role::Administrator || who.contains(&role));
                    assert_eq!(check_move(from, to, mover(role)).is_ok(), expected, "{role:?}: {from:?} to {to:?}");
                }
            }
        }
    }

    #[test]
    fn waiting_goes_back_to_where_it_came_from() {
        let technician = Mover { waiting_from: Some(S::Scheduled), ..mover(Role::Technician) };
        assert_eq!(moves(S::Waiting, technician), [S::Waiting, S::Scheduled], "or for another reason");
        assert_eq!(
            check_move(S::Waiting, S::Ready, technician),
            Err(MoveRefused::NoSuchMove { from: S::Waiting, to: S::Ready })
        );
    }

    #[test]
    fn immediate_work_starts_at_once_and_the_asked_person_answers() {
        let technician = Mover { immediate: true, ..mover(Role::Technician) };
        assert_eq!(moves(S::Raised, technician), [S::UnderWay]);
        let asked = Mover { is_asked: true, ..mover(Role::Technician) };
        assert_eq!(moves(S::Returned, asked), [S::UnderWay, S::Done]);
        let refusal = check_move(S::Done, S::Closed, mover(Role::Technician)).unwrap_err();
        assert_eq!(refusal.to_string(), "a technician may not move work from done to closed");
    }

    #[test]
    fn a_move_says_what_it_asks_for_and_which_is_the_way_ahead() {
        use AskField as F;
        let planner = mover(Role::Planner);
        let offered = |from, by_alarm, meters| offered(from, planner, by_alarm, meters);
        let fields = |one: &OfferedMove| one.asks.iter().map(|ask| (ask.field, ask.required)).collect::<Vec<_>>();
        let at_work = offered(S::UnderWay, true, false);
        let ahead: Vec<S> = at_work.iter().filter(|one| one.ahead).map(|one| one.to).collect();
        assert_eq!((at_work.len(), ahead), (4, vec![S::Done]), "{at_work:?}");
        let way =
            |from, mover| super::offered(from, mover, false, false).iter().find(|one| one.ahead).map(|one| one.to);
        let waiting = Mover { waiting_from: Some(S::Planning), ..planner };
        for (from, mover, to) in [
            (S::Raised, planner, Some(S::Planning)),
            (S::Planning, planner, Some(S::Ready)),
            (S::Waiting, waiting, Some(S::Planning)),
            (S::Ready, planner, Some(S::Scheduled)),
            (S::Scheduled, planner, Some(S::UnderWay)),
            (S::Done, planner, Some(S::Closed)),
            (S::Returned, planner, Some(S::Done)),
            (S::Closed, planner, None),
        ] {
            assert_eq!(way(from, mover), to, "{from:?}");
        }
        let done = at_work.iter().find(|one| one.to == S::Done).unwrap();
        assert_eq!(fields(done), [(F::At, false), (F::Verdict, false), (F::Note, false)]);
        let plain = offered(S::UnderWay, false, true);
        let done = plain.iter().find(|one| one.to == S::Done).unwrap();
        assert_eq!(fields(done), [(F::At, false), (F::Readings, false), (F::Note, false)]);
        for one in offered(S::Done, false, false) {
            assert_eq!((one.ends, one.asks.is_empty()), (one.to == S::Closed, one.to == S::UnderWay), "{one:?}");
        }
        let dropped = asks(S::Dropped, false, false);
        assert_eq!(dropped, [Ask { field: F::Note, required: true }]);
    }

    #[test]
    fn corrective_work_closes_with_a_problem_and_its_downtime_ended() {
        assert_eq!(check_close(WorkKind::CorrectiveDeferred, None, false, None), Err(NotClosable::NoProblem));
        assert_eq!(check_close(WorkKind::ConditionBased, None, false, None), Ok(()));
        assert_eq!(check_close(WorkKind::Inspection, None, true, Some(3)), Err(NotClosable::DowntimeOpen(3)));
    }

    #[test]
    fn condition_based_work_that_found_it_says_what() {
        let close = |kind, verdict| check_close(kind, Some(verdict), false, None);
        assert_eq!(close(WorkKind::ConditionBased, Verdict::FoundIt), Err(NotClosable::NothingFound));
        assert_eq!(check_close(WorkKind::ConditionBased, Some(Verdict::FoundIt), true, None), Ok(()));
        for other in [Verdict::NothingWrong, Verdict::Other] {
            assert_eq!(close(WorkKind::ConditionBased, other), Ok(()));
        }
        assert_eq!(close(WorkKind::Inspection, Verdict::FoundIt), Ok(()), "it was not raised by a condition");
    }

    #[test]
    fn a_limit_looks_at_its_own_work_only_and_counts_whole_time() {
        let day = |n: i64| Instant::from_ms(n * DAY);
        let parts = WaitingFor::Parts;
        let work = Standing {
            state: S::Waiting,
            since: day(0),
            waiting_for: Some(parts),
            is_dated: false,
            rank: 3,
            crew: Some("mech"),
        };
        let exceeded = |work, now| StateLimit::first_settings().iter().filter(|l| l.is_exceeded(work, now)).count();
        assert_eq!(exceeded(work, day(21)), 0, "21 days are allowed");
        assert_eq!(exceeded(work, day(21).plus(1)), 1);
        assert_eq!(exceeded(Standing { waiting_for: Some(WaitingFor::Outage), ..work }, day(99)), 0);
        let ready = Standing { state: S::Ready, ..work };
        assert_eq!((exceeded(ready, day(15)), exceeded(Standing { is_dated: true, ..ready }, day(15))), (1, 0));
        let narrow = StateLimit { rank: Some(1), crew: Some("elec".into()), ..StateLimit::of(S::Ready, 1) };
        assert!(!narrow.is_exceeded(ready, day(9)));
        assert!(narrow.is_exceeded(Standing { rank: 1, crew: Some("elec"), ..ready }, day(9)));
    }

    #[test]
    fn a_tightened_window_never_ends_later() {
        let day = |n: i64| Instant::from_ms(n * DAY);
        let windows = RankWindows::default();
        assert_eq!(windows.window_end(3, day(0)), day(28));
        assert_eq!(windows.tightened(day(28), 2, day(10)), day(17));
        assert_eq!(windows.tightened(day(28), 2, day(25)), day(28));
    }
}
