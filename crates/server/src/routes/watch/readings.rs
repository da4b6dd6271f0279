use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Accept, Params, Segment, Who},
        look,
        threads::blocking,
    },
    outside::{format::Format, incoming, incoming::ReadingBody},
};
use axum::{
    Json,
    body::Bytes,
    extract::{FromRequest, Request, State},
    http::header,
    response::{IntoResponse, Response},
};
use serde::Deserialize;
use tally_core::{
    access::seen::Topic,
    ground::{texts, time::Span},
    outside::files::CsvOut,
    watch::{
        batch::{Batch, Receipt},
        readings::Source,
    },
};
use tally_store::{
    StoreError, View,
    watch::{readings, readings::Series},
};
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SeriesParams {
    from: Option<String>,
    to: Option<String>,
    period: Option<String>,
    /// About how many points to draw; 800 without it.
    points: Option<usize>,
}

/// Readings for drawing, thinned with their extremes kept; raw as CSV where `Accept` says `text/csv`.
#[utoipa::path(get, path = "/meters/{code}/readings", params(("code" = String, Path), SeriesParams),
    responses((status = 200, body = Series)))]
pub async fn of_meter(
    State(state): State<AppState>,
    who: Who,
    accept: Accept,
    Segment(code): Segment<String>,
    Params(params): Params<SeriesParams>,
) -> Result<Response, ApiError> {
    state
        .look(who, Topic::Meters, move |view| {
            let span = look::period(view, params.period.as_deref(), params.from.as_deref(), params.to.as_deref())?.span;
            if accept.csv() {
                let csv = csv_of(view, &code, span)?;
                return Ok(([(header::CONTENT_TYPE, "text/csv; charset=utf-8")], csv).into_response());
            }
            let points = params.points.unwrap_or(800).clamp(2, 20_000);
            Ok(Json(readings::series(view, &code, span, points)?).into_response())
        })
        .await
}

/// A meter's readings as the import takes them.
fn csv_of(view: &View, code: &str, span: Span) -> Result<Vec<u8>, StoreError> {
    let failed = |error: csv::Error| StoreError::File(error.to_string());
    let mut csv = CsvOut::new(Vec::new());
    csv.line(["meter", "at", "value"]).map_err(failed)?;
    let mut written = Ok(());
    readings::raw(view, code, span, |at, _, value| {
        if written.is_ok() {
            written = csv.line([code, at.to_string().as_str(), value]).map_err(failed);
        }
    })?;
    written?;
    csv.into_inner().map_err(|error| StoreError::File(error.to_string()))
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct BatchParams {
    /// All or nothing.
    #[serde(default)]
    strict: bool,
    /// Only say what would become of the batch; nothing is kept.
    #[serde(default)]
    dry_run: bool,
    /// Where the readings come from; `gateway` without it.
    #[param(inline)]
    source: Option<Source>,
    /// Such as a file's name.
    name: Option<String>,
}

/// A batch of readings `[{meter, at, value}]` as JSON, NDJSON (`application/x-ndjson`) or CSV (`text/csv`, head
/// `meter,at,value`). Good rows are kept and bad ones listed with their reason.
#[utoipa::path(post, path = "/readings", params(BatchParams), request_body(content = Vec<ReadingBody>),
    responses((status = 200, body = Receipt)))]
pub async fn post(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<BatchParams>,
    request: Request,
) -> Result<Json<Receipt>, ApiError> {
    let kind = request.headers().get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or_default();
    let format = Format::of_media_type(kind);
    let source = params.source.unwrap_or(Source::Gateway);
    texts::line(params.name.as_deref().unwrap_or_default()).map_err(|error| ApiError::bad("name", error))?;
    let body = Bytes::from_request(request, &state).await?;
    let BatchParams { strict, dry_run, name, .. } = params;
    let work = move || {
        // Taken apart before anything is locked.
        let rows = incoming::parse(format, &body, None, usize::MAX)?.rows;
        drop(body);
        let (store, now) = (&state.store, state.clock.now());
        let batch = Batch { source, name: name.as_deref(), strict };
        let work = |tx: &mut tally_store::Tx| readings::ingest(tx, &rows, batch);
        let taken = if dry_run { store.trial(who.actor, now, work) } else { store.write(who.actor, now, work) }?;
        Ok(Json(taken.told()))
    };
    blocking(work).await
}
