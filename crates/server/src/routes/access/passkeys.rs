//! Signing in without a password, and a person's own passkeys.

use super::session::{SessionView, begun, from, refused};
use crate::{
    AppState,
    access::{
        passkeys::{Answer, Site, wrong},
        signed::Signed,
    },
    ground::{
        error::ApiError,
        extract::{Body, From, Segment, Who},
        threads::blocking,
    },
};
use axum::{
    Json,
    extract::State,
    http::{HeaderMap, StatusCode},
    response::Response,
};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use tally_store::access::{passkeys, passkeys::PasskeyRow, sessions::By};
use utoipa::ToSchema;

/// What a device answered, as browsers write it (`PublicKeyCredential.toJSON`).
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignedByPasskey {
    #[schema(value_type = Object)]
    pub credential: Value,
}

/// What a device is to be asked, as browsers read it (`parseRequestOptionsFromJSON`); 404 where there are no passkeys.
#[utoipa::path(post, path = "/session/passkey/ask", responses((status = 200, body = Object)))]
pub async fn ask_to_sign(State(state): State<AppState>, headers: HeaderMap) -> Result<Json<Value>, ApiError> {
    let site = Site::required(state.access.over_tls, &headers)?;
    state.access.passkeys.ask_to_sign(&site).map(Json)
}

/// Signs in with a passkey: the device has looked who it is, so it counts as a password just given.
#[utoipa::path(post, path = "/session/passkey", request_body = SignedByPasskey,
    responses((status = 200, body = SessionView)))]
pub async fn sign_in(
    State(state): State<AppState>,
    address: From,
    headers: HeaderMap,
    Body(body): Body<SignedByPasskey>,
) -> Result<Response, ApiError> {
    let site = Site::required(state.access.over_tls, &headers)?;
    let from = from(address, &headers);
    let answer = Answer::read(&body.credential)?;
    let (asking, credential) = (state.clone(), answer.credential());
    let find = move || Ok(asking.store.read(asking.clock.now(), |view| passkeys::of_credential(view, &credential))?);
    let Some((somebody, kept)) = blocking(find).await? else {
        refused(&state, None, "passkey", from).await?;
        return Err(wrong());
    };
    match state.access.passkeys.signed(&site, &answer, kept) {
        Err(error) => {
            refused(&state, Some(somebody.actor.clone()), &somebody.actor.code, from).await?;
            Err(error)
        }
        Ok(used) => {
            let (noting, actor) = (state.clone(), somebody.actor.clone());
            let note =
                move || Ok(noting.store.write(actor, noting.clock.now(), |tx| passkeys::note_used(tx, &used))?);
            blocking(note).await?;
            begun(state, headers, somebody, from, By::Secret).await
        }
    }
}

/// One's own passkeys.
#[derive(Debug, Serialize, ToSchema)]
pub struct Passkeys {
    /// The newest first.
    pub passkeys: Vec<PasskeyRow>,
    /// Whether browsers hold passkeys for this server as it is asked: by its name, over TLS.
    pub can_be_made: bool,
}

/// One's own passkeys.
#[utoipa::path(get, path = "/passkeys", responses((status = 200, body = Passkeys)))]
pub async fn own(
    State(state): State<AppState>,
    headers: HeaderMap,
    signed: Signed,
) -> Result<Json<Passkeys>, ApiError> {
    let can_be_made = Site::of(state.access.over_tls, &headers).is_some();
    let person = signed.somebody.actor.id;
    let find = move || Ok(state.store.read(state.clock.now(), |view| passkeys::of_person(view, person))?);
    Ok(Json(Passkeys { passkeys: blocking(find).await?, can_be_made }))
}

async fn known(state: &AppState, signed: &Signed) -> Result<passkeys::Known, ApiError> {
    let (state, person) = (state.clone(), signed.somebody.actor.id);
    blocking(move || Ok(state.store.read(state.clock.now(), |view| passkeys::known(view, person))?)).await
}

/// What a device is to be asked to make a passkey, as browsers read it (`parseCreationOptionsFromJSON`).
#[utoipa::path(post, path = "/passkeys/ask", responses((status = 200, body = Object)))]
pub async fn ask_to_make(
    State(state): State<AppState>,
    headers: HeaderMap,
    signed: Signed,
) -> Result<Json<Value>, ApiError> {
    let site = Site::required(state.access.over_tls, &headers)?;
    let known = known(&state, &signed).await?;
    let somebody = &signed.somebody;
    state.access.passkeys.ask_to_make(&site, &somebody.actor.code, &somebody.name, &known).map(Json)
}

/// A passkey that a device made, and what to call it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPasskey {
    pub name: String,
    #[schema(value_type = Object)]
    pub credential: Value,
}

/// The passkey that was kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct MadePasskey {
    pub id: i64,
}

/// Keeps a passkey that a device made.
#[utoipa::path(post, path = "/passkeys", request_body = NewPasskey, responses((status = 201, body = MadePasskey)))]
pub async fn add(
    State(state): State<AppState>,
    who: Who,
    headers: HeaderMap,
    signed: Signed,
    Body(body): Body<NewPasskey>,
) -> Result<(StatusCode, Json<MadePasskey>), ApiError> {
    let site = Site::required(state.access.over_tls, &headers)?;
    let known = known(&state, &signed).await?;
    let made = state.access.passkeys.made(&site, &known, &body.credential)?;
    let id = state.write(who, move |tx| passkeys::add(tx, &body.name, &made)).await?;
    Ok((StatusCode::CREATED, Json(MadePasskey { id })))
}

/// Takes one's own passkey away.
#[utoipa::path(delete, path = "/passkeys/{id}", params(("id" = i64, Path)), responses((status = 204)))]
pub async fn remove(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<i64>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| passkeys::remove(tx, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}
