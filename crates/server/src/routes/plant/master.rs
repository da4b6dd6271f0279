use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Params, Segment, Who},
        look,
    },
};
use axum::{Json, extract::State};
use serde::Deserialize;
use std::collections::BTreeMap;
use tally_core::{access::seen::Topic, ground::calendar::zone, outside::files::Decimal};
use tally_store::plant::{
    master,
    master::{AskedChanges, ChangeRow, Given, GivenRow, Kind, MasterPage, MasterReceipt, Outcome, Query},
};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct MasterParams {
    /// Code of the asset whose rows, and those of all below it, are listed.
    scope: Option<String>,
    /// In code or name.
    text: Option<String>,
    /// `column:value` with commas between; `column:` for rows without a value.
    filter: Option<String>,
    /// A column.
    sort: Option<String>,
    #[serde(default)]
    descending: bool,
    /// What is retired or not active, too.
    #[serde(default)]
    all: bool,
    cursor: Option<String>,
    limit: Option<usize>,
}

/// Filters at one time.
const MOST_FILTERS: usize = 50;

fn filters_of(params: &MasterParams) -> usize {
    params.filter.as_deref().map_or(0, |filter| filter.split(',').count())
}

/// A table of master data: its columns, a part of its rows, and the values its filters offer.
#[utoipa::path(get, path = "/master/{kind}", params(("kind" = Kind, Path), MasterParams),
    responses((status = 200, body = MasterPage)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Segment(kind): Segment<Kind>,
    Params(params): Params<MasterParams>,
) -> Result<Json<MasterPage>, ApiError> {
    let topic = match kind {
        Kind::People => Topic::Pay,
        Kind::Meters => Topic::Meters,
        Kind::UpkeepPlans => Topic::Office,
        Kind::Assets | Kind::EquipmentClasses | Kind::Crews => Topic::Plant,
        Kind::Storeroom => Topic::Office,
    };
    state
        .look(who, topic, move |view| {
            let parts = params.filter.as_deref().unwrap_or_default().split(',').filter(|part| !part.is_empty());
            let filters = parts
                .map(|part| part.split_once(':').map(|(column, value)| (column.to_owned(), value.to_owned())))
                .map(|filter| filter.ok_or_else(|| ApiError::bad("filter", "write column:value")))
                .collect::<Result<_, _>>()?;
            if filters_of(&params) > MOST_FILTERS {
                return Err(ApiError::bad("filter", format!("at most {MOST_FILTERS} filters at once")));
            }
            let offset = params.cursor.as_deref().map_or(Ok(0), str::parse::<u32>);
            let query = Query {
                scope: match kind {
                    Kind::Assets | Kind::Meters => look::scope(view, params.scope.as_deref())?,
                    _ => None,
                },
                text: params.text,
                filters,
                sort: params.sort,
                descending: params.descending,
                all: params.all,
                offset: offset.map_err(|error| ApiError::bad("cursor", error))? as usize,
                limit: params.limit.unwrap_or(100).clamp(1, 500),
            };
            Ok(Json(master::list(view, kind, &query)?))
        })
        .await
}

/// A row to add or change: fields and their new texts, as a file would have them. Fields that are left out stay.
#[derive(Debug, Deserialize, ToSchema)]
pub struct MasterRowBody {
    values: BTreeMap<String, String>,
    /// What the fields are believed to hold now; the row is refused where somebody changed it meanwhile.
    #[serde(default)]
    was: BTreeMap<String, String>,
}

/// Rows of one table. All give the same fields.
#[derive(Debug, Deserialize, ToSchema)]
pub struct MasterRows {
    rows: Vec<MasterRowBody>,
    /// Why, for moves.
    #[serde(default)]
    reason: String,
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TakeParams {
    /// Only say what would become of the rows; nothing is kept.
    #[serde(default)]
    dry_run: bool,
}

/// Adds and changes rows by their code. When it is done in earnest, all rows are taken or, where one is refused, none.
#[utoipa::path(post, path = "/master/{kind}", params(("kind" = Kind, Path), TakeParams), request_body = MasterRows,
    responses((status = 200, body = MasterReceipt)))]
pub async fn take(
    State(state): State<AppState>,
    who: Who,
    Segment(kind): Segment<Kind>,
    Params(params): Params<TakeParams>,
    Body(body): Body<MasterRows>,
) -> Result<Json<MasterReceipt>, ApiError> {
    let columns: Vec<String> = body.rows.first().map(|row| row.values.keys().cloned().collect()).unwrap_or_default();
    if let Some(place) = body.rows.iter().position(|row| !row.values.keys().eq(columns.iter())) {
        return Err(ApiError::bad(format!("rows[{place}].values"), "all rows give the same fields"));
    }
    let many = body.rows.len() > 1;
    let dry_run = params.dry_run;
    let work = move |tx: &mut tally_store::Tx| {
        let settings = tally_store::plant::settings::get(tx)?;
        let zone = zone(&settings.time_zone).ok();
        let rows = (0..).zip(body.rows).map(|(place, row)| GivenRow {
            line: place,
            cells: Ok(row.values.into_values().collect()),
            was: row.was.into_iter().collect(),
        });
        let source = if body.reason.trim().is_empty() { "changed in the setup" } else { body.reason.trim() };
        let given = Given { columns: &columns, rows, decimal: Decimal::PointOrComma, zone: zone.as_ref(), source };
        let receipt = master::take(tx, kind, given, &mut |_, _| true)?;
        let refused = receipt.lines.iter().find(|line| line.outcome == Outcome::Refused && !dry_run);
        match refused.and_then(|line| Some((line, line.reasons.first()?))) {
            Some((line, first)) => {
                let row = if many { format!("rows[{}].", line.line) } else { String::new() };
                Err(tally_store::StoreError::invalid(format!("{row}{}", first.field), &first.reason))
            }
            None => Ok(Json(receipt)),
        }
    };
    state.tx(who, dry_run, work).await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct HistoryParams {
    #[param(inline)]
    kind: Option<Kind>,
    /// Of the row; all rows without it.
    code: Option<String>,
    /// Words, up to four, that all stand in what was done, to what, or by whom.
    text: Option<String>,
    limit: Option<usize>,
}

/// Who changed what of the master data, and when, the newest first; who came in, and who was refused.
#[utoipa::path(get, path = "/changes", params(HistoryParams), responses((status = 200, body = Vec<ChangeRow>)))]
pub async fn history(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<HistoryParams>,
) -> Result<Json<Vec<ChangeRow>>, ApiError> {
    state
        .look(who, Topic::Office, move |view| {
            let limit = params.limit.unwrap_or(100).clamp(1, 1_000);
            let (code, text) = (params.code.as_deref(), params.text.as_deref());
            Ok(Json(master::history(view, AskedChanges { kind: params.kind, code, text }, limit)?))
        })
        .await
}
