use crate::{
    AppState,
    error::ApiError,
    extract::{Body, Segment, Who},
    look::Look,
};
use axum::{Json, extract::State};
use serde::Deserialize;
use tally_core::{limits::Ladder, time::Span};
use tally_store::replay::{self, Asked, FinderAsked, FinderView, ReplayView};
use utoipa::ToSchema;

/// A span by its name, or two instants; the last twelve months without either.
#[derive(Debug, Default, Deserialize, ToSchema)]
pub struct Past {
    from: Option<String>,
    to: Option<String>,
    period: Option<String>,
}

impl Past {
    fn span(&self, look: &Look) -> Result<Span, ApiError> {
        Ok(look.period(self.period.as_deref(), self.from.as_deref(), self.to.as_deref())?.span)
    }
}

/// A ladder to run over the past; the meter's newest where none is given.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ReplayBody {
    #[serde(flatten)]
    past: Past,
    ladder: Option<Ladder>,
    #[serde(flatten)]
    asked: Asked,
}

/// What a ladder would have done: alarms, work, and the failures it would have caught or missed.
#[utoipa::path(post, path = "/meters/{code}/replay", params(("code" = String, Path)), request_body = ReplayBody,
    responses((status = 200, body = ReplayView)))]
pub async fn replay(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<ReplayBody>,
) -> Result<Json<ReplayView>, ApiError> {
    state
        .look(who, move |look| {
            let (span, tree) = (body.past.span(look)?, &look.snapshot.tree);
            Ok(Json(replay::of_meter(look.conn, tree, &code, span, body.ladder, &body.asked, look.now)?))
        })
        .await
}

/// A rung to move over the past.
#[derive(Debug, Deserialize, ToSchema)]
pub struct FinderBody {
    #[serde(flatten)]
    past: Past,
    ladder: Option<Ladder>,
    #[serde(flatten)]
    asked: Asked,
    #[serde(flatten)]
    which: FinderAsked,
}

/// What each of many setpoints of one rung would have come to.
#[utoipa::path(post, path = "/meters/{code}/finder", params(("code" = String, Path)), request_body = FinderBody,
    responses((status = 200, body = FinderView)))]
pub async fn finder(
    State(state): State<AppState>,
    who: Who,
    Segment(code): Segment<String>,
    Body(body): Body<FinderBody>,
) -> Result<Json<FinderView>, ApiError> {
    state
        .look(who, move |look| {
            let (span, tree) = (body.past.span(look)?, &look.snapshot.tree);
            let (which, asked) = (&body.which, &body.asked);
            Ok(Json(replay::finder(look.conn, tree, &code, span, body.ladder, which, asked, look.now)?))
        })
        .await
}
