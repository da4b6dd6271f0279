//! What many looks ask for: a scope and a period.

use crate::ground::error::ApiError;
use tally_core::ground::{
    ids::AssetId,
    period,
    period::Period,
    time::{DAY, Instant, Span},
};
use tally_store::{View, plant::assets};

/// A period as asked, with the one before it to compare with.
#[derive(Debug, Clone, Copy)]
pub struct AskedPeriod {
    pub span: Span,
    pub before: Option<Span>,
    /// Some of it is to come: others are compared by the part that has passed.
    pub is_running: bool,
}

/// How far ahead of now a period may reach.
const AHEAD_MS: i64 = 3_653 * DAY;

/// Ids of the scope and all below it now; `None` where that is everything.
pub fn scope(view: &View, scope: Option<&str>) -> Result<Option<Vec<AssetId>>, ApiError> {
    Ok(assets::in_scope(view, scope.filter(|code| !code.is_empty()))?)
}

/// The look as of a past instant, by what was known then.
pub fn then<'a>(view: &View<'a>, as_of: Option<&str>, known_at: Option<&str>) -> Result<View<'a>, ApiError> {
    let instant = |field: &str, text: Option<&str>| {
        let text = text.filter(|text| !text.is_empty());
        text.map(|text| Instant::parse(text).map_err(|error| ApiError::bad(field, error))).transpose()
    };
    Ok(view.then(instant("as_of", as_of)?, instant("known_at", known_at)?)?)
}

/// A period by its name, or two instants, or the last twelve months; cut to where a plant can have data.
pub fn period(view: &View, name: Option<&str>, from: Option<&str>, to: Option<&str>) -> Result<AskedPeriod, ApiError> {
    let asked = as_asked(view, name, from, to)?;
    let known = Span::new(Instant::EARLIEST_EVENT, view.now.plus(AHEAD_MS)).ok();
    let span = known.and_then(|known| asked.span.clip(known));
    let outside = || ApiError::bad("from", "the period lies before 1950 or more than ten years ahead");
    let span = span.ok_or_else(outside)?;
    Ok(AskedPeriod { span, before: asked.before.and_then(|before| before.clip(known?)), ..asked })
}

fn as_asked(view: &View, name: Option<&str>, from: Option<&str>, to: Option<&str>) -> Result<AskedPeriod, ApiError> {
    let instant = |field: &str, text: &str| Instant::parse(text).map_err(|error| ApiError::bad(field, error));
    if let (Some(from), Some(to)) = (from, to) {
        let span = Span::new(instant("from", from)?, instant("to", to)?).map_err(|error| ApiError::bad("to", error))?;
        let (zone, month) = {
            let facts = view.facts()?;
            (&facts.zone, facts.fiscal_month)
        };
        // What is said by its instants is the same period as what is said by its dates.
        if let Some(period) = Period::of_dates(span, zone) {
            let before = period::before(period, view.now, zone, month);
            return Ok(AskedPeriod { span, before, is_running: period.is_running(view.now, zone, month) });
        }
        let elapsed = view.now.min(span.end()).since(span.start()).max(1);
        let earlier = span.start().plus(-span.ms());
        let before = Span::new(earlier, earlier.plus(elapsed)).ok();
        return Ok(AskedPeriod { span, before, is_running: span.end() > view.now });
    }
    if from.is_some() || to.is_some() {
        return Err(ApiError::bad("to", "give both from and to, or a period"));
    }
    let period = match name {
        Some(name) => Period::parse(name).map_err(|error| ApiError::bad("period", error))?,
        None => Period::Last12Months,
    };
    let facts = view.facts()?;
    let (zone, month) = (&facts.zone, facts.fiscal_month);
    Ok(AskedPeriod {
        span: period.span(view.now, zone, month),
        before: period::before(period, view.now, zone, month),
        is_running: period.is_running(view.now, zone, month),
    })
}
