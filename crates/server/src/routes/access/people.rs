use crate::{
    AppState,
    ground::{
        error::ApiError,
        extract::{Body, Who},
    },
};
use axum::{Json, extract::State, http::StatusCode};
use serde::Serialize;
use tally_core::access::{
    roles::{Action, may},
    seen::Topic,
};
use tally_store::access::{
    people,
    people::{Crew, Person},
};
use utoipa::ToSchema;

/// Everybody, and who is asking.
#[derive(Debug, Serialize, ToSchema)]
pub struct People {
    pub people: Vec<Person>,
    /// Code of the person who acts.
    pub acting: String,
    /// What that person may look at, and do.
    pub sees: Vec<Topic>,
    pub may: Vec<Action>,
}

/// The people there are; what they earn and where their mail goes only for those who may see it.
#[utoipa::path(get, path = "/people", responses((status = 200, body = People)))]
pub async fn list(State(state): State<AppState>, who: Who) -> Result<Json<People>, ApiError> {
    let (role, bounds, acting) = (who.actor.role, who.actor.bounds.clone(), who.actor.code.clone());
    let does = move |action: &Action| may(role, *action).is_ok() && !(action.is_of_whole() && bounds.is_bounded());
    state
        .look(who, Topic::Plant, move |view| {
            let mut people = people::list(view)?;
            if !view.viewer.sees(Topic::Pay) {
                for person in &mut people {
                    (person.rate, person.mail) = (None, None);
                }
            }
            Ok(Json(People {
                people,
                acting,
                sees: Topic::ALL.into_iter().filter(|topic| view.viewer.sees(*topic)).collect(),
                may: Action::ALL.into_iter().filter(does).collect(),
            }))
        })
        .await
}

/// Adds a person.
#[utoipa::path(post, path = "/people", request_body = Person, responses((status = 201, body = Person)))]
pub async fn add(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<Person>,
) -> Result<(StatusCode, Json<Person>), ApiError> {
    state.write(who, move |tx| people::add(tx, &body).map(|_| (StatusCode::CREATED, Json(body)))).await
}

/// The crews there are.
#[utoipa::path(get, path = "/crews", responses((status = 200, body = Vec<Crew>)))]
pub async fn crews(State(state): State<AppState>, who: Who) -> Result<Json<Vec<Crew>>, ApiError> {
    state.look(who, Topic::Plant, |view| Ok(Json(people::crews(view)?))).await
}

/// Adds a crew.
#[utoipa::path(post, path = "/crews", request_body = Crew, responses((status = 201, body = Crew)))]
pub async fn add_crew(
    State(state): State<AppState>,
    who: Who,
    Body(body): Body<Crew>,
) -> Result<(StatusCode, Json<Crew>), ApiError> {
    state.write(who, move |tx| people::add_crew(tx, &body).map(|_| (StatusCode::CREATED, Json(body)))).await
}
