//! Devices that people share, and how they change places there with a number.

use super::session::{SessionView, begun, from, refused};
use crate::{
    AppState,
    access::{
        secrets,
        signed::{Signed, device_of, set_device},
    },
    ground::{
        error::{ApiError, Needs},
        extract::{Body, From, Segment, Who},
        threads::blocking,
    },
};
use axum::{
    Json,
    extract::State,
    http::{HeaderMap, StatusCode, header},
    response::{IntoResponse, Response},
};
use serde::{Deserialize, Serialize};
use tally_core::access::{
    pins::check,
    roles::{Action, may},
};
use tally_store::{
    StoreError,
    access::{pins, pins::DeviceRow, sessions::By},
};
use utoipa::ToSchema;

/// A person and their number.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignInByPin {
    /// Code of the person.
    pub person: String,
    pub pin: String,
}

/// What is said whether the person, the number or both are wrong, or too many tries were.
const WRONG: &str = "this number is not right, or counts no more; a password works always";

/// Signs in with a number, at a device that is shared. What asks for a password given a short while ago asks for it then.
#[utoipa::path(post, path = "/session/pin", request_body = SignInByPin, responses((status = 200, body = SessionView)))]
pub async fn sign_in(
    State(state): State<AppState>,
    address: From,
    headers: HeaderMap,
    Body(body): Body<SignInByPin>,
) -> Result<Response, ApiError> {
    let from = from(address, &headers);
    let now = state.clock.now();
    let (asking, device, code) = (state.clone(), device_of(&state, &headers), body.person.clone());
    let find = move || {
        Ok(asking.store.read(now, |view| {
            let is_shared = device.map_or(Ok(None), |device| pins::device(view, &device))?.is_some();
            Ok::<_, StoreError>((is_shared, pins::of_code(view, &code)?))
        })?)
    };
    let (is_shared, found) = blocking(find).await?;
    if !is_shared {
        let reason = "numbers count only at a device that an administrator shared; sign in with a password";
        return Err(ApiError::unsigned(Needs::SignIn, reason));
    }
    state.access.guesses.begin(&body.person, &from.address, now)?;
    if let Some(found) = found.clone() {
        let trying = state.clone();
        blocking(move || Ok(trying.store.write(found.person.actor, now, |tx| pins::try_once(tx))?)).await?;
    }
    let hash = found.as_ref().map(|found| found.hash.clone());
    let fits = state.access.hashing.fits(body.pin, hash).await?;
    match found {
        Some(found) if fits => {
            state.access.guesses.right(&body.person, &from.address);
            let (noting, actor) = (state.clone(), found.person.actor.clone());
            blocking(move || Ok(noting.store.write(actor, now, |tx| pins::was_right(tx))?)).await?;
            begun(state, headers, found.person, from, By::Number).await
        }
        found => {
            refused(&state, found.map(|one| one.person.actor), &body.person, from).await?;
            Err(ApiError::unsigned(Needs::SignIn, WRONG))
        }
    }
}

/// A number of one's own.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPin {
    /// Six digits or more.
    pub pin: String,
}

/// Sets one's own number for shared devices, in place of the one before.
#[utoipa::path(put, path = "/session/pin", request_body = NewPin, responses((status = 204)))]
pub async fn set(
    State(state): State<AppState>,
    who: Who,
    signed: Signed,
    Body(body): Body<NewPin>,
) -> Result<StatusCode, ApiError> {
    check(&body.pin, signed.somebody.actor.role).map_err(StoreError::from)?;
    let hash = state.access.hashing.make(body.pin).await?;
    state.write(who, move |tx| pins::set(tx, &hash)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Forgets one's own number.
#[utoipa::path(delete, path = "/session/pin", responses((status = 204)))]
pub async fn forget(State(state): State<AppState>, who: Who) -> Result<StatusCode, ApiError> {
    state.write(who, |tx| pins::forget(tx)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// The devices that people share.
#[utoipa::path(get, path = "/devices", responses((status = 200, body = Vec<DeviceRow>)))]
pub async fn devices(State(state): State<AppState>, who: Who) -> Result<Json<Vec<DeviceRow>>, ApiError> {
    may(who.actor.role, Action::ChangeKeys).map_err(StoreError::from)?;
    blocking(move || Ok(Json(state.store.read(state.clock.now(), |view| pins::devices(view))?))).await
}

/// A device that is to be shared.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewDevice {
    pub name: String,
}

/// The device that is shared from now on.
#[derive(Debug, Serialize, ToSchema)]
pub struct MadeDevice {
    pub id: i64,
}

/// Makes the browser that asks this one that people share: its secret comes as a cookie.
#[utoipa::path(post, path = "/devices", request_body = NewDevice, responses((status = 201, body = MadeDevice)))]
pub async fn share(
    State(state): State<AppState>,
    who: Who,
    signed: Signed,
    Body(body): Body<NewDevice>,
) -> Result<Response, ApiError> {
    if !signed.is_person() {
        return Err(StoreError::NotTheirs("a key has no device".into()).into());
    }
    let secret = secrets::session();
    let (cookie, hash) = (set_device(&state, &secret)?, secrets::hash(&secret));
    let id = state.write(who, move |tx| pins::share(tx, &body.name, &hash)).await?;
    Ok((StatusCode::CREATED, [(header::SET_COOKIE, cookie)], Json(MadeDevice { id })).into_response())
}

/// Shares a device no more.
#[utoipa::path(delete, path = "/devices/{id}", params(("id" = i64, Path)), responses((status = 204)))]
pub async fn unshare(
    State(state): State<AppState>,
    who: Who,
    Segment(id): Segment<i64>,
) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| pins::unshare(tx, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}
