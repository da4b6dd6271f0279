//! Work orders: their kinds and states, who may move them, and their windows.

use crate::{access::roles::Role, work::WorkState};
use serde::Serialize;
use std::collections::VecDeque;

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
    use super::states::WorkState as S;
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
    /// What becomes of its downtime.
    Downtime,
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

/// What there is on work that moves ask about.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct AskedAbout {
    /// An alarm raised it.
    pub by_alarm: bool,
    /// Meters wait for a reading after it.
    pub meters_wait: bool,
    /// Downtime was reported on it.
    pub has_downtime: bool,
}

/// What a move to a state asks for. Work that an alarm raised is asked about the alarm, finishing asks for readings where meters
/// wait for one, and dropping asks what becomes of its downtime.
#[must_use]
pub fn asks(to: WorkState, about: AskedAbout) -> Vec<Ask> {
    use AskField as F;
    let fields: &[(F, bool)] = match to {
        WorkState::Waiting => &[(F::WaitingFor, true), (F::ExpectedUntil, false), (F::Note, false)],
        WorkState::Returned => &[(F::Question, true), (F::Asked, true), (F::Note, false)],
        WorkState::Done => &[(F::At, false), (F::Verdict, false), (F::Readings, false), (F::Note, false)],
        WorkState::Closed => &[(F::Note, false)],
        WorkState::Dropped => &[(F::Downtime, true), (F::Note, true)],
        _ => &[],
    };
    let fits = |field| match field {
        F::Verdict => about.by_alarm,
        F::Readings => about.meters_wait,
        F::Downtime => about.has_downtime,
        _ => true,
    };
    fields.iter().filter(|(field, _)| fits(*field)).map(|&(field, required)| Ask { field, required }).collect()
}

/// The moves this person may make now, in the order of the work.
#[must_use]
pub fn offered(from: WorkState, mover: Mover, about: AskedAbout) -> Vec<OfferedMove> {
    let states = moves(from, mover);
    let ahead = ahead(from, &states);
    let offer = |to: WorkState| OfferedMove { to, asks: asks(to, about), ahead: Some(to) == ahead, ends: to.is_over() };
    states.into_iter().map(offer).collect()
}

/// The moves that one may make from a state that work is moved to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MovesFrom {
    pub state: WorkState,
    pub moves: Vec<OfferedMove>,
}

/// The moves from all states that this person may move it to, one after another: what somebody needs to know who is out of reach
/// of everybody else meanwhile.
#[must_use]
pub fn offered_ahead(from: WorkState, mover: Mover, about: AskedAbout) -> Vec<MovesFrom> {
    let mut found: Vec<MovesFrom> = Vec::new();
    // The shortest way counts: what waits goes back to where it came from.
    let mut open = VecDeque::from([(from, mover)]);
    while let Some((state, mover)) = open.pop_front() {
        if found.iter().any(|known| known.state == state) {
            continue;
        }
        let moves = offered(state, mover, about);
        for to in moves.iter().map(|offered| offered.to).filter(|to| *to != state) {
            let waiting_from = if to == WorkState::Waiting { Some(state) } else { mover.waiting_from };
            open.push_back((to, Mover { waiting_from, ..mover }));
        }
        found.push(MovesFrom { state, moves });
    }
    found.sort_by_key(|known| known.state);
    found
}

/// The next state that is a step on; from a state aside, the way back in.
fn ahead(from: WorkState, offered: &[WorkState]) -> Option<WorkState> {
    let steps = || offered.iter().copied().filter(|to| !matches!(to, S::Waiting | S::Returned | S::Dropped));
    use super::states::WorkState as S;
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
