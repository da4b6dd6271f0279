//! What a look at the data has at hand, and what many looks ask for: a scope and a period.

use crate::ground::error::ApiError;
use tally_core::{
    access::seen::Topic,
    facts::Snapshot,
    ground::{
        period,
        period::Period,
        time::{DAY, Instant, Span},
    },
};
use tally_store::{
    Actor, Connection, Seen, Stop,
    plant::assets,
    watch::{readings::Histories, replay::Asking},
};

/// One look.
#[derive(Debug)]
pub struct Look<'a> {
    pub conn: &'a Connection,
    pub snapshot: &'a Snapshot,
    pub now: Instant,
    pub actor: &'a Actor,
    pub histories: &'a Histories,
    /// Whether it is still wanted.
    pub stop: &'a Stop,
}

/// A period as asked, with the one before it to compare with.
#[derive(Debug, Clone, Copy)]
pub struct Asked {
    pub span: Span,
    pub before: Option<Span>,
}

/// How far ahead of now a period may reach.
const AHEAD_MS: i64 = 3_653 * DAY;

impl Look<'_> {
    /// For questions about the past.
    pub fn asking(&self) -> Asking<'_> {
        Asking { conn: self.conn, tree: &self.snapshot.tree, histories: self.histories, now: self.now, stop: self.stop }
    }

    /// The work that the person sees.
    pub fn seen(&self) -> Seen {
        Seen::from(self.actor)
    }

    /// Whether the person sees that.
    pub fn sees(&self, topic: Topic) -> bool {
        self.actor.role.sees(topic)
    }

    /// Ids of the scope and all below it now; `None` where that is everything.
    pub fn scope(&self, scope: Option<&str>) -> Result<Option<Vec<i64>>, ApiError> {
        Ok(assets::in_scope(self.conn, self.snapshot, scope.filter(|code| !code.is_empty()), self.now)?)
    }

    /// A period by its name, or two instants, or the last twelve months; cut to where a plant can have data.
    pub fn period(&self, name: Option<&str>, from: Option<&str>, to: Option<&str>) -> Result<Asked, ApiError> {
        let asked = self.period_as_asked(name, from, to)?;
        let known = Span::new(Instant::EARLIEST_EVENT, self.now.plus(AHEAD_MS)).ok();
        let span = known.and_then(|known| asked.span.clip(known));
        let outside = || ApiError::bad("from", "the period lies before 1950 or more than ten years ahead");
        let span = span.ok_or_else(outside)?;
        Ok(Asked { span, before: asked.before.and_then(|before| before.clip(known?)) })
    }

    fn period_as_asked(&self, name: Option<&str>, from: Option<&str>, to: Option<&str>) -> Result<Asked, ApiError> {
        let instant = |field: &str, text: &str| Instant::parse(text).map_err(|error| ApiError::bad(field, error));
        if let (Some(from), Some(to)) = (from, to) {
            let span =
                Span::new(instant("from", from)?, instant("to", to)?).map_err(|error| ApiError::bad("to", error))?;
            let elapsed = self.now.min(span.end()).since(span.start()).max(1);
            let earlier = span.start().plus(-span.ms());
            return Ok(Asked { span, before: Span::new(earlier, earlier.plus(elapsed)).ok() });
        }
        if from.is_some() || to.is_some() {
            return Err(ApiError::bad("to", "give both from and to, or a period"));
        }
        let period = match name {
            Some(name) => Period::parse(name).map_err(|error| ApiError::bad("period", error))?,
            None => Period::Last12Months,
        };
        let (zone, month) = (&self.snapshot.zone, self.snapshot.fiscal_month);
        Ok(Asked { span: period.span(self.now, zone, month), before: period::before(period, self.now, zone, month) })
    }
}
