use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{BasedOn, Body, Params, Segment, Who},
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::{Deserialize, Serialize, de::DeserializeOwned};
use tally_core::{
    access::seen::Topic,
    codes::failures::NewFailure,
    ground::ids::{DowntimeId, EntryId, FailureId, WorkOrderId},
    plant::downtime::NewDowntime,
    work::{NewWork, StateMove, WorkChange, WorkState, entries::NewEntry},
};
use tally_store::{
    Tx,
    codes::failures,
    ground::{base, base::Edited},
    plant::downtime,
    work,
    work::{Filter, Page, SortBy, WorkDetail, WorkPage, entries},
};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ListParams {
    scope: Option<String>,
    /// States with commas between; `open` stands for all before done.
    state: Option<String>,
    /// Kinds with commas between.
    kind: Option<String>,
    /// Ranks with commas between.
    rank: Option<String>,
    /// Codes of crews with commas between.
    crew: Option<String>,
    /// `person` or `ladder`.
    source: Option<String>,
    /// In number, title or asset.
    text: Option<String>,
    /// Only open work whose window has run out.
    #[serde(default)]
    past_window: bool,
    /// Only work that has stood longer in its state than is allowed.
    #[serde(default)]
    over_limit: bool,
    /// Only work that waits past the date that was expected.
    #[serde(default)]
    late_waiting: bool,
    #[param(inline)]
    sort: Option<SortBy>,
    #[serde(default)]
    descending: bool,
    cursor: Option<String>,
    limit: Option<usize>,
}

fn words(list: Option<&str>) -> impl Iterator<Item = &str> {
    list.unwrap_or_default().split(',').map(str::trim).filter(|word| !word.is_empty())
}

fn enums<T: DeserializeOwned>(field: &str, list: Option<&str>) -> Result<Vec<T>, ApiError> {
    let value = |word: &str| serde_json::from_value(serde_json::Value::String(word.into()));
    words(list).map(|word| value(word).map_err(|error| ApiError::bad(field, error))).collect()
}

fn states(list: Option<&str>) -> Result<Vec<WorkState>, ApiError> {
    let mut states = Vec::new();
    for word in words(list) {
        if word == "open" {
            states.extend(WorkState::ALL.into_iter().filter(|state| state.is_open()));
        } else {
            states.extend(enums::<WorkState>("state", Some(word))?);
        }
    }
    Ok(states)
}

/// Values of one filter that may be chosen.
const MOST_CHOSEN: usize = 200;

/// Work in scope, filtered and sorted, with facets and totals.
#[utoipa::path(get, path = "/work-orders", params(ListParams), responses((status = 200, body = WorkPage)))]
pub async fn list(
    State(state): State<AppState>,
    who: Who,
    Params(params): Params<ListParams>,
) -> Result<Json<WorkPage>, ApiError> {
    state
        .look(who, Topic::Work, move |view| {
            for (field, list) in [
                ("state", &params.state),
                ("kind", &params.kind),
                ("rank", &params.rank),
                ("crew", &params.crew),
                ("source", &params.source),
            ] {
                if words(list.as_deref()).count() > MOST_CHOSEN {
                    return Err(ApiError::bad(field, format!("at most {MOST_CHOSEN} values at once")));
                }
            }
            let ranks = words(params.rank.as_deref())
                .map(|word| word.parse().map_err(|error| ApiError::bad("rank", error)))
                .collect::<Result<_, _>>()?;
            let filter = Filter {
                scope: params.scope,
                states: states(params.state.as_deref())?,
                kinds: enums("kind", params.kind.as_deref())?,
                ranks,
                crews: words(params.crew.as_deref()).map(String::from).collect(),
                sources: words(params.source.as_deref()).map(String::from).collect(),
                text: params.text,
                past_window: params.past_window,
                over_limit: params.over_limit,
                late_waiting: params.late_waiting,
            };
            let page = Page {
                sort: params.sort.unwrap_or_default(),
                descending: params.descending,
                cursor: params.cursor,
                limit: params.limit.unwrap_or(60).clamp(1, 500),
            };
            Ok(Json(work::list(view, &filter, &page)?))
        })
        .await
}

/// The order that was written.
#[derive(Debug, Serialize, ToSchema)]
pub struct Raised {
    pub number: WorkOrderId,
}

/// Work that was raised, on one asset or several.
#[derive(Debug, Serialize, ToSchema)]
pub struct RaisedWork {
    pub number: WorkOrderId,
    /// Those on the other assets, in their order.
    pub also: Vec<WorkOrderId>,
}

/// Raises work.
#[utoipa::path(post, path = "/work-orders", request_body = NewWork, responses((status = 201, body = RaisedWork)))]
pub async fn raise(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<NewWork>,
) -> Result<(StatusCode, Json<RaisedWork>), ApiError> {
    let raise = move |tx: &mut tally_store::Tx| {
        let (number, also) = work::raise_on_each(tx, &body)?;
        Ok(RaisedWork { number, also })
    };
    Ok((StatusCode::CREATED, Json(state.write(who, raise).await?)))
}

/// One work order on one page.
#[utoipa::path(get, path = "/work-orders/{number}", params(("number" = i64, Path)),
    responses((status = 200, body = WorkDetail)))]
pub async fn one(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
) -> Result<Json<WorkDetail>, ApiError> {
    state.look(who, Topic::Work, move |view| Ok(Json(work::detail(view, number)?))).await
}

/// Changes what work says and plans.
#[utoipa::path(patch, path = "/work-orders/{number}", params(("number" = i64, Path)), request_body = WorkChange,
    responses((status = 200, body = Raised)))]
pub async fn change(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<WorkChange>,
) -> Result<Json<Raised>, ApiError> {
    state.write(who, move |tx| work::change(tx, number, &body).map(|()| Json(Raised { number }))).await
}

/// Moves work to another state.
#[utoipa::path(post, path = "/work-orders/{number}/state", params(("number" = i64, Path), BasedOn), request_body = StateMove,
    responses((status = 200, body = Raised)))]
pub async fn set_state(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Params(based): Params<BasedOn>,
    Body(body): Body<StateMove>,
) -> Result<Json<Raised>, ApiError> {
    let set = move |tx: &mut Tx| {
        base::require(tx, Edited::State(number), based.based_on)?;
        work::set_state(tx, number, &body).map(|()| Json(Raised { number }))
    };
    state.write(who, set).await
}

/// An entry that was written.
#[derive(Debug, Serialize, ToSchema)]
pub struct Entered {
    pub id: EntryId,
}

/// Reports hours, material, a service or a tool.
#[utoipa::path(post, path = "/work-orders/{number}/entries", params(("number" = i64, Path)), request_body = NewEntry,
    responses((status = 201, body = Entered)))]
pub async fn add_entry(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewEntry>,
) -> Result<(StatusCode, Json<Entered>), ApiError> {
    let add = move |tx: &mut tally_store::Tx| entries::add(tx, number, &body);
    Ok((StatusCode::CREATED, Json(Entered { id: state.write(who, add).await? })))
}

/// Why an entry is taken back.
#[derive(Debug, Deserialize, ToSchema)]
pub struct Reversal {
    reason: String,
}

/// Takes an entry back by one of the opposite sign.
#[utoipa::path(post, path = "/work-orders/{number}/entries/{id}/reverse",
    params(("number" = i64, Path), ("id" = i64, Path)), request_body = Reversal,
    responses((status = 201, body = Entered)))]
pub async fn reverse_entry(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, EntryId)>,
    Body(body): Body<Reversal>,
) -> Result<(StatusCode, Json<Entered>), ApiError> {
    let reverse = move |tx: &mut tally_store::Tx| entries::reverse(tx, number, id, &body.reason);
    Ok((StatusCode::CREATED, Json(Entered { id: state.write(who, reverse).await? })))
}

/// Downtime that was written.
#[derive(Debug, Serialize, ToSchema)]
pub struct DowntimeEntered {
    pub id: DowntimeId,
}

/// Reports downtime on work.
#[utoipa::path(post, path = "/work-orders/{number}/downtime", params(("number" = i64, Path)),
    request_body = NewDowntime, responses((status = 201, body = DowntimeEntered)))]
pub async fn add_downtime(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewDowntime>,
) -> Result<(StatusCode, Json<DowntimeEntered>), ApiError> {
    let add = move |tx: &mut tally_store::Tx| downtime::add_to_work(tx, number, &body);
    Ok((StatusCode::CREATED, Json(DowntimeEntered { id: state.write(who, add).await? })))
}

/// A failure report that was written.
#[derive(Debug, Serialize, ToSchema)]
pub struct FailureEntered {
    pub id: FailureId,
}

/// Reports what failed, or corrects the report: one for each asset of the order.
#[utoipa::path(put, path = "/work-orders/{number}/failure", params(("number" = i64, Path)), request_body = NewFailure,
    responses((status = 200, body = FailureEntered)))]
pub async fn put_failure(
    State(state): State<AppState>,
    who: Who,
    Segment(number): Segment<WorkOrderId>,
    Body(body): Body<NewFailure>,
) -> Result<Json<FailureEntered>, ApiError> {
    state.write(who, move |tx| failures::put(tx, number, &body).map(|id| Json(FailureEntered { id }))).await
}

/// Takes a failure report back that should not be there.
#[utoipa::path(delete, path = "/work-orders/{number}/failures/{id}", params(("number" = i64, Path), ("id" = i64, Path)),
    responses((status = 204)))]
pub async fn remove_failure(
    State(state): State<AppState>,
    who: Who,
    Segment((number, id)): Segment<(WorkOrderId, FailureId)>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| failures::remove(tx, number, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}
