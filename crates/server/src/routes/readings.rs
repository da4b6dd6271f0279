use crate::{
    AppState,
    error::ApiError,
    extract::{Accept, Params, Segment, Who},
};
use axum::{
    Json,
    body::Bytes,
    extract::{FromRequest, Request, State},
    http::header,
    response::{IntoResponse, Response},
};
use serde::Deserialize;
use tally_core::{readings::Source, time::Instant};
use tally_store::readings::{self, Batch, Incoming, IncomingValue, Receipt, Row, Series};
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
        .look(who, move |look| {
            let span = look.period(params.period.as_deref(), params.from.as_deref(), params.to.as_deref())?.span;
            if accept.csv() {
                let mut csv = String::from("meter,at,value\n");
                readings::raw(look.conn, &code, span, |at, value| csv.push_str(&format!("{code},{at},{value}\n")))?;
                return Ok(([(header::CONTENT_TYPE, "text/csv; charset=utf-8")], csv).into_response());
            }
            let points = params.points.unwrap_or(800).clamp(2, 20_000);
            Ok(Json(readings::series(look.conn, &code, span, points)?).into_response())
        })
        .await
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
    let kind = request.headers().get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or_default().to_owned();
    let body = Bytes::from_request(request, &state).await?;
    let dry_run = params.dry_run;
    let work = move |act: &mut tally_store::Act| {
        let rows = parse(&kind, &body)?;
        let batch = Batch {
            source: params.source.unwrap_or(Source::Gateway),
            name: params.name.as_deref(),
            strict: params.strict,
        };
        readings::ingest(act, &rows, batch)
    };
    let receipt = if dry_run { state.trial(who, work).await? } else { state.write(who, work).await? };
    Ok(Json(receipt))
}

/// A reading as it is sent.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[allow(dead_code, reason = "describes the body; rows are read one by one so that a bad one is refused alone")]
pub struct ReadingBody {
    meter: String,
    at: Instant,
    value: IncomingValue,
}

fn parse(kind: &str, body: &[u8]) -> Result<Vec<Row>, tally_store::StoreError> {
    let unreadable = |error: &dyn std::fmt::Display| tally_store::StoreError::invalid("body", error.to_string());
    if kind.starts_with("text/csv") {
        return csv(body).map_err(|error| unreadable(&error));
    }
    if kind.starts_with("application/x-ndjson") {
        let text = std::str::from_utf8(body).map_err(|error| unreadable(&error))?;
        let lines = text.lines().filter(|line| !line.trim().is_empty());
        return Ok(lines
            .map(|line| serde_json::from_str(line).map_err(|error| format!("no JSON: {error}")).and_then(json_row))
            .collect());
    }
    let rows: Vec<serde_json::Value> = serde_json::from_slice(body)
        .map_err(|error| unreadable(&format!("a batch is a JSON list of {{meter, at, value}}: {error}")))?;
    Ok(rows.into_iter().map(json_row).collect())
}

fn json_row(row: serde_json::Value) -> Row {
    let field = |name: &str| row.get(name).filter(|value| !value.is_null()).ok_or_else(|| format!("{name} is missing"));
    let text =
        |name: &str| -> Result<&str, String> { field(name)?.as_str().ok_or_else(|| format!("{name} must be a text")) };
    let value = match field("value")? {
        serde_json::Value::Number(number) => {
            IncomingValue::Number(number.as_f64().ok_or_else(|| format!("value {number} is out of range"))?)
        }
        serde_json::Value::String(name) => IncomingValue::Name(name.clone()),
        other => return Err(format!("value must be a number or a grade's name, not {other}")),
    };
    let at = Instant::parse(text("at")?).map_err(|error| format!("at: {error}"))?;
    Ok(Incoming { meter: text("meter")?.into(), at, value })
}

/// Comma or semicolon; with semicolons a decimal comma is read too.
fn csv(body: &[u8]) -> Result<Vec<Row>, String> {
    let text = std::str::from_utf8(body).map_err(|error| format!("the file is not UTF-8: {error}"))?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let head = text.lines().next().unwrap_or_default();
    let delimiter = if head.contains(';') { b';' } else { b',' };
    let mut reader =
        csv::ReaderBuilder::new().delimiter(delimiter).flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes());
    let columns = reader.headers().map_err(|error| error.to_string())?.clone();
    let column = |name: &str| {
        let place = columns.iter().position(|column| column.eq_ignore_ascii_case(name));
        place.ok_or_else(|| format!("the first line must name the columns meter, at and value; {name} is missing"))
    };
    let (meter, at, value) = (column("meter")?, column("at")?, column("value")?);
    let row = |record: Result<csv::StringRecord, csv::Error>| -> Row {
        let record = record.map_err(|error| error.to_string())?;
        let cell = |place: usize, name: &str| {
            record.get(place).filter(|cell| !cell.is_empty()).ok_or_else(|| format!("{name} is missing"))
        };
        let text = cell(value, "value")?;
        let number = if delimiter == b';' { text.replace(',', ".") } else { text.to_owned() };
        let value = number.parse().map_or_else(|_| IncomingValue::Name(text.to_owned()), IncomingValue::Number);
        Ok(Incoming {
            meter: cell(meter, "meter")?.into(),
            at: Instant::parse(cell(at, "at")?).map_err(|error| format!("at: {error}"))?,
            value,
        })
    };
    Ok(reader.records().map(row).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    fn reading(value: IncomingValue) -> Incoming {
        Incoming { meter: "M-1".into(), at: Instant::parse("2026-01-01T00:00:00Z").unwrap(), value }
    }

    #[test]
    fn every_form_gives_the_same_rows_and_bad_ones_are_refused_alone() {
        let good = reading(IncomingValue::Number(1.5));
        let json = json!([
            {"meter": "M-1", "at": "2026-01-01T00:00:00Z", "value": 1.5},
            {"meter": "M-1", "at": "yesterday", "value": 1.5},
            {"at": "2026-01-01T00:00:00Z", "value": true},
        ]);
        let rows = parse("application/json", json.to_string().as_bytes()).unwrap();
        assert_eq!(rows[0], Ok(good.clone()));
        assert_eq!(rows[1], Err("at: \"yesterday\" is no time with an offset, such as 2026-03-01T08:00:00Z".into()));
        assert_eq!(rows[2], Err("value must be a number or a grade's name, not true".into()));
        let lines = "{\"meter\":\"M-1\",\"at\":\"2026-01-01T00:00:00Z\",\"value\":1.5}\n{oops\n";
        let rows = parse("application/x-ndjson", lines.as_bytes()).unwrap();
        assert_eq!(rows[0], Ok(good.clone()));
        assert!(rows[1].as_ref().is_err_and(|reason| reason.starts_with("no JSON")));
        let comma = "\u{feff}value,meter,at\n1.5,M-1,2026-01-01T00:00:00Z\n,M-1,2026-01-01T00:00:00Z\n";
        assert_eq!(parse("text/csv", comma.as_bytes()).unwrap(), [Ok(good.clone()), Err("value is missing".into())]);
        let semicolon = "meter;at;value\nM-1;2026-01-01T00:00:00Z;1,5\nM-1;2026-01-01T00:00:00Z;worn\n";
        let worn = reading(IncomingValue::Name("worn".into()));
        assert_eq!(parse("text/csv; charset=utf-8", semicolon.as_bytes()).unwrap(), [Ok(good), Ok(worn)]);
    }

    #[test]
    fn a_body_that_is_no_batch_says_what_one_is() {
        let error = parse("application/json", b"{\"meter\":1}").unwrap_err();
        assert!(error.to_string().starts_with("body: a batch is a JSON list of {meter, at, value}"), "{error}");
        let error = parse("text/csv", b"a,b\n1,2\n").unwrap_err();
        assert_eq!(
            error.to_string(),
            "body: the first line must name the columns meter, at and value; meter is missing"
        );
    }
}
