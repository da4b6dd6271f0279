//! What all looks at figures ask for: a scope, a period and another to compare it with, as of when.

use crate::ground::{
    error::ApiError,
    look::{self, AskedPeriod},
};
use serde::Deserialize;
use tally_core::{
    access::bounds::Bounds,
    ground::{
        ids::AssetId,
        period::{Period, a_year_before, same_part},
        time::Span,
    },
    plant::assets::Basis,
    tally::Question,
};
use tally_store::{View, plant::assets};
use utoipa::IntoParams;

#[derive(Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct AskedParams {
    /// Code of the asset; everything without it.
    pub scope: Option<String>,
    pub from: Option<String>,
    pub to: Option<String>,
    pub period: Option<String>,
    /// What it is compared with: `before` (as without it), `last_year`, or a period.
    pub against: Option<String>,
    /// A past instant: nothing later has happened.
    pub as_of: Option<String>,
    /// Only what had been recorded by then; as of that instant where no other is asked for.
    pub known_at: Option<String>,
    #[serde(default)]
    #[param(inline)]
    pub basis: Basis,
}

impl AskedParams {
    /// The look as of that instant.
    pub fn then<'a>(&self, view: &View<'a>) -> Result<View<'a>, ApiError> {
        look::then(view, self.as_of.as_deref(), self.known_at.as_deref())
    }

    /// The period and what it is compared with.
    pub fn period(&self, view: &View) -> Result<AskedPeriod, ApiError> {
        let asked = look::period(view, self.period.as_deref(), self.from.as_deref(), self.to.as_deref())?;
        Ok(AskedPeriod { before: against(view, self.against.as_deref(), asked)?, ..asked })
    }

    pub fn question(&self, view: &View, period: Span) -> Question {
        Question { period, now: view.now, basis: self.basis }
    }

    /// The asset that is asked for; without one everything, or the one asset that the viewer is given.
    pub fn asset(&self, view: &View) -> Result<Option<AssetId>, ApiError> {
        if let Some(code) = self.scope.as_deref().filter(|code| !code.is_empty()) {
            return Ok(Some(assets::require_reached(view, code)?));
        }
        match view.viewer.bounds() {
            Bounds::None => Ok(None),
            Bounds::Below(given) => match **given {
                [only] => Ok(Some(only)),
                _ => Err(ApiError::bad("scope", "choose one of the assets that you are given: a figure is of one")),
            },
        }
    }
}

/// The other period.
pub fn against(view: &View, against: Option<&str>, asked: AskedPeriod) -> Result<Option<Span>, ApiError> {
    let facts = view.facts()?;
    match against.filter(|against| !against.is_empty()) {
        None | Some("before") => Ok(asked.before),
        Some("last_year") => Ok(a_year_before(asked.span, view.now, &facts.zone)),
        Some(name) => {
            Period::parse(name).map_err(|error| ApiError::bad("against", error))?;
            let other = look::period(view, Some(name), None, None)?.span;
            Ok(if asked.is_running { same_part(asked.span, other, view.now, &facts.zone) } else { Some(other) })
        }
    }
}
