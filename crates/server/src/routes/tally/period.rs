use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Params, Who},
        look,
    },
};
use axum::{Json, extract::State};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::seen::Topic,
    facts::Snapshot,
    ground::{period::Period, time::Span},
};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PeriodParams {
    /// As it stands in links: `this_month`, `2026-03`, `2026-03-01..2026-04-01`, …
    period: String,
}

/// A named period, cut in the installation's time zone.
#[derive(Debug, Serialize, ToSchema)]
pub struct PeriodBody {
    pub period: String,
    pub span: Span,
    /// What it is compared with.
    pub before: Option<Span>,
    /// One step back and one on, as they stand in links.
    pub earlier: String,
    pub later: String,
    pub time_zone: String,
}

/// What a named period covers now.
#[utoipa::path(get, path = "/period", params(PeriodParams), responses((status = 200, body = PeriodBody)))]
pub async fn get(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<PeriodParams>,
) -> Result<Json<PeriodBody>, ApiError> {
    state
        .look(who, Topic::Plant, move |view| {
            let asked = look::period(view, Some(&params.period), None, None)?;
            let period = Period::parse(&params.period).map_err(|error| ApiError::bad("period", error))?;
            let Snapshot { zone, fiscal_month, .. } = view.facts()?;
            Ok(Json(PeriodBody {
                period: period.to_string(),
                span: asked.span,
                before: asked.before,
                earlier: period.step(-1, view.now, zone, *fiscal_month).to_string(),
                later: period.step(1, view.now, zone, *fiscal_month).to_string(),
                time_zone: zone.iana_name().unwrap_or("UTC").into(),
            }))
        })
        .await
}
