use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Accept, Params, Segment, Who},
        look,
        threads::blocking,
    },
    outside::{
        files,
        files::{Doing, Export, FileKind, Import, ImportReceipt, Parsed, Progress},
        format::Format,
    },
};
use axum::{
    Json,
    body::{Body, Bytes},
    extract::{FromRequest, Request, State},
    http::{HeaderValue, header},
    response::{IntoResponse, Response},
};
use serde::Deserialize;
use tally_core::{
    access::seen::Topic,
    ground::{calendar::zone, texts},
};
use tally_store::{StoreError, access::trail, plant::settings};
use tokio_util::io::ReaderStream;
use utoipa::IntoParams;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ImportParams {
    /// Only say what would become of the file; nothing is kept.
    #[serde(default)]
    dry_run: bool,
    /// IANA name, of times in the file that have no offset; the installation's without it.
    time_zone: Option<String>,
    /// The file's name.
    name: Option<String>,
    /// A name of the client's choosing, by which to ask for progress and to cancel.
    job: Option<String>,
}

/// Takes a file: CSV, JSON, NDJSON, or the first sheet of a workbook (XLSX). Answers what became of every line; as CSV where `Accept` says
/// `text/csv`.
#[utoipa::path(post, path = "/import/{kind}", params(("kind" = FileKind, Path), ImportParams),
    request_body(content = String, content_type = "text/csv"), responses((status = 200, body = ImportReceipt)))]
pub async fn import(
    State(state): State<AppState>,
    who: Who,
    accept: Accept,
    Segment(kind): Segment<FileKind>,
    Params(params): Params<ImportParams>,
    request: Request,
) -> Result<Response, ApiError> {
    let media_type = request.headers().get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok());
    let format = Format::of_media_type(media_type.unwrap_or("text/csv"));
    let body = Bytes::from_request(request, &state).await?;
    let zone = params.time_zone.filter(|name| !name.is_empty()).map(|name| zone(&name)).transpose();
    let zone = zone.map_err(|error| ApiError::bad("time_zone", error))?;
    for (field, text) in [("name", &params.name), ("job", &params.job)] {
        texts::line(text.as_deref().unwrap_or_default()).map_err(|error| ApiError::bad(field, error))?;
    }
    let import = Import { kind, format, zone, name: params.name };
    let taken = || StoreError::Conflict("an import of that name is under way; give it another".into());
    let under_way = state.imports.begin(params.job, &who.actor.code).ok_or_else(taken)?;
    let trial = params.dry_run;
    let work = move || {
        let mut import = import;
        if import.zone.is_none() {
            import.zone = Some(state.store.read(state.clock.now(), |view| settings::time_zone(view))?);
        }
        let parsed = Parsed::of(&import, &body)?;
        drop(body);
        let doing = Doing { actor: who.actor, clock: &state.clock };
        let under_way = under_way.import.clone();
        Ok(files::import(&state.store, &doing, &import, parsed, trial, &mut |done, all| under_way.step(done, all))?)
    };
    let receipt = blocking(work).await?;
    if accept.csv() {
        return Ok(([(header::CONTENT_TYPE, Format::Csv.media_type())], receipt.receipt.to_csv()).into_response());
    }
    Ok(Json(receipt).into_response())
}

fn job(state: &AppState, name: &str) -> Result<std::sync::Arc<crate::outside::imports::UnderWay>, ApiError> {
    let missing = || StoreError::not_found("import under way", name).into();
    state.imports.get(name).ok_or_else(missing)
}

/// How far an import is that is under way.
#[utoipa::path(get, path = "/imports/{job}", params(("job" = String, Path)), responses((status = 200, body = Progress)))]
pub async fn progress(
    State(state): State<AppState>,
    who: Who,
    Segment(name): Segment<String>,
) -> Result<Json<Progress>, ApiError> {
    let job = job(&state, &name)?;
    if !job.is_of(&who.actor.code) {
        return Err(StoreError::NotTheirs("only who began an import is told how far it is".into()).into());
    }
    let (done, all) = job.progress();
    Ok(Json(Progress { done, all }))
}

/// Stops an import that is under way. What was taken until then stays, and the same file goes on from there.
#[utoipa::path(delete, path = "/imports/{job}", params(("job" = String, Path)), responses((status = 200, body = Progress)))]
pub async fn cancel(
    State(state): State<AppState>,
    who: Who,
    Segment(name): Segment<String>,
) -> Result<Json<Progress>, ApiError> {
    let job = job(&state, &name)?;
    if !job.cancel(&who.actor.code) {
        return Err(StoreError::NotTheirs("only who began an import may cancel it".into()).into());
    }
    let (done, all) = job.progress();
    Ok(Json(Progress { done, all }))
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ExportParams {
    /// Code of the asset whose rows, and those of all below it, are written.
    scope: Option<String>,
    /// Of readings.
    period: Option<String>,
    from: Option<String>,
    to: Option<String>,
}

/// Header of an export that names the meters of which something can't be read.
const UNREADABLE: &str = "x-unreadable-meters";

/// All rows of a kind: `assets.csv`, `meters.json`, `readings.ndjson`, `people.xlsx`. The header `x-unreadable-meters` names meters of which
/// something is missing.
#[utoipa::path(get, path = "/export/{file}", params(("file" = String, Path), ExportParams),
    responses((status = 200, body = String, content_type = "text/csv")))]
pub async fn export(
    State(state): State<AppState>,
    who: Who,
    Segment(file): Segment<String>,
    Params(params): Params<ExportParams>,
) -> Result<Response, ApiError> {
    let (kind, form) = file.split_once('.').unwrap_or((&file, "csv"));
    let kind: FileKind = serde_json::from_value(serde_json::Value::String(kind.into()))
        .map_err(|_unknown| ApiError::bad("file", format!("there is nothing to export called {kind:?}")))?;
    let form = Format::of_ending(form)
        .ok_or_else(|| ApiError::bad("file", format!("{form:?} is none of csv, json, ndjson, xlsx")))?;
    let written = state
        .look_long(who.clone(), Topic::Office, move |view| {
            let asks = params.period.is_some() || params.from.is_some() || params.to.is_some();
            let period = || look::period(view, params.period.as_deref(), params.from.as_deref(), params.to.as_deref());
            let span = asks.then(period).transpose()?.map(|asked| asked.span);
            let which = Export { scope: look::scope(view, params.scope.as_deref())?, span };
            Ok(files::export_aside(view, kind, &which, form)?)
        })
        .await?;
    let taken = file.clone();
    state.note(who.actor, move |tx| trail::note_taken(tx, &taken));
    let body = Body::from_stream(ReaderStream::new(tokio::fs::File::from_std(written.file)));
    let disposition = format!("attachment; filename=\"{file}\"");
    let headers = [(header::CONTENT_TYPE, form.media_type().to_owned()), (header::CONTENT_DISPOSITION, disposition)];
    let mut response = (headers, body).into_response();
    if !written.unreadable.is_empty() {
        let meters = written.unreadable.join(", ");
        tracing::error!(meters, "readings can't be read, and are missing in a file");
        let named = HeaderValue::from_str(&meters).unwrap_or(HeaderValue::from_static("several"));
        response.headers_mut().insert(UNREADABLE, named);
    }
    Ok(response)
}
