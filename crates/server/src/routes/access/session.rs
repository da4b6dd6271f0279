//! Signing in and out, and one's own sessions and password.

use crate::{
    AppState,
    access::{
        passkeys::Site,
        secrets,
        signed::{MaybeSigned, Signed, device_of, set_cookie},
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
use std::collections::BTreeSet;
use tally_core::access::{
    passwords::check,
    pins::may_have,
    roles::Role,
    sessions::{FRESH_MS, IDLE_MS, LONGEST_MS},
};
use tally_store::{
    Actor, StoreError, Tx,
    access::{
        passwords::{self, Claimed},
        people::{self, Program, Somebody},
        pins::{self, Sharer},
        sessions::{self, By, SessionRow},
    },
    plant::{assets, assets::NamedAsset},
};
use utoipa::ToSchema;

/// Somebody by whom one press signs in, in the demo.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Named {
    pub code: String,
    pub name: String,
    pub role: Role,
    /// What somebody of that role is here for.
    pub is_for: &'static str,
}

impl Named {
    fn new(code: String, name: String, role: Role) -> Self {
        Self { code, name, role, is_for: role.is_for() }
    }

    fn of(somebody: &Somebody) -> Self {
        Self::new(somebody.actor.code.clone(), somebody.name.clone(), somebody.actor.role)
    }
}

/// A device that people share.
#[derive(Debug, Serialize, ToSchema)]
pub struct SharedDevice {
    pub name: String,
    /// Who has a number, by name.
    pub people: Vec<Sharer>,
}

/// Who asks, and how one may sign in here.
#[derive(Debug, Serialize, ToSchema)]
pub struct SessionView {
    /// None where nobody is signed in.
    pub signed_in: Option<Named>,
    /// The assets that they are given: they see what stands below, and nothing else. Everything where there are none.
    pub scope: Vec<NamedAsset>,
    /// Nobody could sign in yet: the code that the server printed at its start makes the first administrator.
    pub is_first: bool,
    /// Whether browsers hold passkeys for this server as it is asked: by its name, over TLS.
    pub has_passkeys: bool,
    /// The device, where it is one that people share: who has a number changes places with it here.
    pub shared: Option<SharedDevice>,
    /// In the demo, a person of each role, by whom one press signs in; empty elsewhere.
    pub demo: Vec<Named>,
}

/// Who is signed in, if anybody; and how one may sign in here.
#[utoipa::path(get, path = "/session", responses((status = 200, body = SessionView)))]
pub async fn who(
    State(state): State<AppState>,
    headers: HeaderMap,
    signed: MaybeSigned,
) -> Result<Json<SessionView>, ApiError> {
    blocking(move || view(&state, &headers, signed.0.as_ref().map(|signed| &signed.somebody)).map(Json)).await
}

fn view(state: &AppState, headers: &HeaderMap, signed_in: Option<&Somebody>) -> Result<SessionView, ApiError> {
    let is_demo = state.access.is_demo;
    let given = signed_in.map(|somebody| somebody.actor.bounds.given()).unwrap_or_default();
    let device = device_of(state, headers);
    let (is_first, demo, scope, shared) = state.store.read(state.clock.now(), |view| {
        let is_first = !is_demo && !passwords::any_administrator(view)?;
        let people = if is_demo { people::list(view)? } else { vec![] };
        let device = device.map(|device| pins::device(view, &device)).transpose()?.flatten();
        let shared = match device {
            Some(name) => Some(SharedDevice { name, people: pins::sharers(view)? }),
            None => None,
        };
        Ok::<_, StoreError>((is_first, people, assets::named(view, given)?, shared))
    })?;
    let mut roles = BTreeSet::new();
    let of_each = demo.into_iter().filter(|one| one.role != Role::Gateway && roles.insert(one.role.word()));
    let demo = of_each.map(|one| Named::new(one.code, one.name, one.role)).collect();
    let has_passkeys = Site::of(state.access.over_tls, headers).is_some();
    Ok(SessionView { signed_in: signed_in.map(Named::of), scope, is_first, has_passkeys, shared, demo })
}

/// Where a session is begun from.
pub(super) fn from(address: From, headers: &HeaderMap) -> sessions::From {
    let device = headers.get(header::USER_AGENT).and_then(|device| device.to_str().ok()).unwrap_or("unknown");
    sessions::From { address: address.0, device: device.into() }
}

/// Begins a session, and gives the browser its secret; the one that it had ends.
pub(super) async fn begun(
    state: AppState,
    headers: HeaderMap,
    somebody: Somebody,
    from: sessions::From,
    by: By,
) -> Result<Response, ApiError> {
    let token = secrets::session();
    let cookie = set_cookie(&state, Some(&token))?;
    let view = blocking(move || {
        let (hash, now) = (secrets::hash(&token), state.clock.now());
        let before = Signed::of(&state, &headers).ok().flatten();
        let before = before.as_ref().and_then(Signed::session_hash);
        let begin = |tx: &mut Tx| sessions::begin(tx, &hash, &from, by, before);
        state.store.write(somebody.actor.clone(), now, begin)?;
        view(&state, &headers, Some(&somebody))
    });
    Ok(([(header::SET_COOKIE, cookie)], Json(view.await?)).into_response())
}

/// A person and what only they know.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignIn {
    /// Code of the person, in capitals or not.
    pub person: String,
    pub password: String,
}

/// What is said whether the person, the password or both are wrong.
const WRONG: &str = "no active person has this code with this password";

async fn claimed(state: &AppState, code: &str) -> Result<Option<Claimed>, ApiError> {
    let (asking, code) = (state.clone(), code.trim().to_owned());
    blocking(move || Ok(asking.store.read(asking.clock.now(), |view| passwords::claimed(view, &code))?)).await
}

/// Takes down that somebody was not let in. By the person, where there is one: it is they who should know.
pub(super) async fn refused(
    state: &AppState,
    claimed: Option<Actor>,
    code: &str,
    from: sessions::From,
) -> Result<(), ApiError> {
    let (state, code) = (state.clone(), code.chars().take(64).collect::<String>());
    blocking(move || {
        let now = state.clock.now();
        let actor = match claimed {
            Some(actor) => actor,
            None => state.store.read(now, |view| people::program(view, Program::Door))?,
        };
        Ok(state.store.write(actor, now, |tx| sessions::note_refused(tx, &code, &from))?)
    })
    .await
}

/// Signs in with a password. Too many wrong ones make the next wait: 429 says how long.
#[utoipa::path(post, path = "/session", request_body = SignIn, responses((status = 200, body = SessionView)))]
pub async fn sign_in(
    State(state): State<AppState>,
    address: From,
    headers: HeaderMap,
    Body(body): Body<SignIn>,
) -> Result<Response, ApiError> {
    let from = from(address, &headers);
    state.access.guesses.begin(&body.person, &from.address, state.clock.now())?;
    let claimed = claimed(&state, &body.person).await?;
    let hash = claimed.as_ref().and_then(|claimed| claimed.hash.clone());
    let fits = state.access.hashing.fits(body.password, hash).await?;
    match claimed {
        Some(claimed) if fits => {
            state.access.guesses.right(&body.person, &from.address);
            begun(state, headers, claimed.person, from, By::Secret).await
        }
        claimed => {
            refused(&state, claimed.map(|one| one.person.actor), &body.person, from).await?;
            Err(ApiError::unsigned(Needs::SignIn, WRONG))
        }
    }
}

/// A code that an administrator, or the server at its first start, gave out; and the password it is to set.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ByCode {
    /// Code of the person; without it the first administrator.
    #[serde(default)]
    pub person: Option<String>,
    pub code: String,
    /// The new password: 12 characters or more.
    pub password: String,
}

/// Sets a password with a code that works once, and signs in with it.
#[utoipa::path(post, path = "/session/code", request_body = ByCode, responses((status = 200, body = SessionView)))]
pub async fn by_code(
    State(state): State<AppState>,
    address: From,
    headers: HeaderMap,
    Body(body): Body<ByCode>,
) -> Result<Response, ApiError> {
    let from = from(address, &headers);
    let person = match body.person {
        Some(person) => person,
        None => first_administrator(&state).await?,
    };
    state.access.guesses.begin(&person, &from.address, state.clock.now())?;
    let claimed = claimed(&state, &person).await?;
    let (asking, hash) = (state.clone(), secrets::code_hash(&body.code));
    let asked = claimed.as_ref().map(|claimed| claimed.person.actor.id);
    let is_right = blocking(move || {
        let Some(asked) = asked else { return Ok(false) };
        let now = asking.clock.now();
        Ok(asking.store.read(now, |view| passwords::is_code(view, asked, &hash, now))?)
    });
    let (true, Some(claimed)) = (is_right.await?, claimed.clone()) else {
        refused(&state, claimed.map(|one| one.person.actor), &person, from).await?;
        return Err(ApiError::unsigned(Needs::SignIn, WRONG_CODE));
    };
    state.access.guesses.right(&person, &from.address);
    set(&state, &claimed.person, body.password, None, Some(secrets::code_hash(&body.code))).await?;
    begun(state, headers, claimed.person, from, By::Secret).await
}

const WRONG_CODE: &str = "the code is not right, was used, or is older than an hour";

async fn first_administrator(state: &AppState) -> Result<String, ApiError> {
    let state = state.clone();
    blocking(move || Ok(state.store.read(state.clock.now(), |view| people::first_administrator(view))?.code)).await
}

/// Keeps a new password, and ends the person's other sessions; the code it was set with is used up in the same moment.
async fn set(
    state: &AppState,
    person: &Somebody,
    password: String,
    kept_session: Option<i64>,
    code: Option<Vec<u8>>,
) -> Result<(), ApiError> {
    let (checked, names) = (password.clone(), [person.actor.code.clone(), person.name.clone()]);
    blocking(move || {
        let names = names.each_ref().map(String::as_str);
        Ok(check("password", &checked, &names).map_err(StoreError::from)?)
    })
    .await?;
    let hash = state.access.hashing.make(password).await?;
    let (state, actor) = (state.clone(), person.actor.clone());
    blocking(move || {
        let now = state.clock.now();
        Ok(state.store.write(actor, now, |tx| {
            if let Some(code) = &code {
                passwords::use_code(tx, code)?;
            }
            passwords::set(tx, &hash, kept_session)
        })?)
    })
    .await
}

/// A person of the demo.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DemoPerson {
    /// Code of the person.
    pub person: String,
}

/// Signs in as somebody of the demo, whose people have no passwords; there is nothing here elsewhere.
#[utoipa::path(post, path = "/session/demo", request_body = DemoPerson, responses((status = 200, body = SessionView)))]
pub async fn demo(
    State(state): State<AppState>,
    address: From,
    headers: HeaderMap,
    Body(body): Body<DemoPerson>,
) -> Result<Response, ApiError> {
    if !state.access.is_demo {
        return Err(ApiError::request(StatusCode::NOT_FOUND, "this is no demo".into()));
    }
    let found = claimed(&state, &body.person).await?;
    let missing = || StoreError::invalid("person", format!("there is no person {:?}", body.person));
    let somebody = found.ok_or_else(missing)?.person;
    let from = from(address, &headers);
    begun(state, headers, somebody, from, By::Secret).await
}

/// Signs out.
#[utoipa::path(delete, path = "/session", responses((status = 204)))]
pub async fn sign_out(State(state): State<AppState>, who: Who, signed: Signed) -> Result<Response, ApiError> {
    let cookie = set_cookie(&state, None)?;
    if let Some(session) = signed.session() {
        state.write(who, move |tx| sessions::end(tx, session)).await?;
    }
    Ok((StatusCode::NO_CONTENT, [(header::SET_COOKIE, cookie)]).into_response())
}

/// The password of who is signed in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Again {
    pub password: String,
}

async fn check_own(state: &AppState, signed: &Signed, address: &From, password: String) -> Result<(), ApiError> {
    let actor = &signed.somebody.actor;
    state.access.guesses.begin(&actor.code, &address.0, state.clock.now())?;
    let hash = claimed(state, &actor.code).await?.and_then(|claimed| claimed.hash);
    if !state.access.hashing.fits(password, hash).await? {
        return Err(StoreError::invalid("password", "is not yours").into());
    }
    state.access.guesses.right(&actor.code, &address.0);
    Ok(())
}

/// Gives the password again, for what is only done shortly after.
#[utoipa::path(post, path = "/session/again", request_body = Again, responses((status = 204)))]
pub async fn again(
    State(state): State<AppState>,
    who: Who,
    signed: Signed,
    address: From,
    Body(body): Body<Again>,
) -> Result<StatusCode, ApiError> {
    check_own(&state, &signed, &address, body.password).await?;
    if let Some(session) = signed.session() {
        state.write(who, move |tx| sessions::note_fresh(tx, session)).await?;
    }
    Ok(StatusCode::NO_CONTENT)
}

/// One's own password, and what it is to be.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPassword {
    /// As it is.
    pub password: String,
    /// 12 characters or more.
    pub new_password: String,
}

/// Changes one's own password; all other sessions of one's own end.
#[utoipa::path(put, path = "/session/password", request_body = NewPassword, responses((status = 204)))]
pub async fn change_password(
    State(state): State<AppState>,
    signed: Signed,
    address: From,
    Body(body): Body<NewPassword>,
) -> Result<StatusCode, ApiError> {
    check_own(&state, &signed, &address, body.password).await?;
    let named = |error| match error {
        ApiError::Store(StoreError::Invalid { reason, .. }) => StoreError::invalid("new_password", reason).into(),
        other => other,
    };
    set(&state, &signed.somebody, body.new_password, signed.session(), None).await.map_err(named)?;
    Ok(StatusCode::NO_CONTENT)
}

/// One's own sessions, and how long they last.
#[derive(Debug, Serialize, ToSchema)]
pub struct Sessions {
    pub sessions: Vec<SessionRow>,
    /// Hours without a question after which one ends.
    pub idle_hours: i64,
    /// Days after which one ends in any case.
    pub longest_days: i64,
    /// Minutes after the password for what is only done shortly after it.
    pub fresh_minutes: i64,
    /// Whether somebody of that role may have a number for shared devices.
    pub may_have_pin: bool,
    /// Whether their number counts; none where they have none.
    pub pin_counts: Option<bool>,
}

/// One's own sessions.
#[utoipa::path(get, path = "/sessions", responses((status = 200, body = Sessions)))]
pub async fn own(State(state): State<AppState>, signed: Signed) -> Result<Json<Sessions>, ApiError> {
    blocking(move || {
        let (now, person) = (state.clock.now(), signed.somebody.actor.id);
        let (sessions, pin_counts) = state.store.read(now, |view| {
            let sessions = sessions::of_person(view, person, signed.session(), now)?;
            Ok::<_, StoreError>((sessions, pins::counts(view, person)?))
        })?;
        Ok(Json(Sessions {
            sessions,
            may_have_pin: may_have(signed.somebody.actor.role),
            pin_counts,
            idle_hours: IDLE_MS / 3_600_000,
            longest_days: LONGEST_MS / 86_400_000,
            fresh_minutes: FRESH_MS / 60_000,
        }))
    })
    .await
}

/// How many sessions were ended.
#[derive(Debug, Serialize, ToSchema)]
pub struct Ended {
    pub ended: usize,
}

/// Ends all of one's own sessions but the one that asks.
#[utoipa::path(delete, path = "/sessions", responses((status = 200, body = Ended)))]
pub async fn end_others(State(state): State<AppState>, who: Who, signed: Signed) -> Result<Json<Ended>, ApiError> {
    let kept = signed.session().unwrap_or_default();
    state.write(who, move |tx| Ok(Json(Ended { ended: sessions::end_others(tx, kept)? }))).await
}

/// Ends all sessions of a person: of a phone that was lost.
#[utoipa::path(delete, path = "/people/{code}/sessions", params(("code" = String, Path)),
    responses((status = 200, body = Ended)))]
pub async fn end_of(
    State(state): State<AppState>,
    who: Who,
    Segment(person): Segment<String>,
) -> Result<Json<Ended>, ApiError> {
    state.write(who, move |tx| Ok(Json(Ended { ended: sessions::end_of_person(tx, &person)? }))).await
}

/// Ends one of one's own sessions.
#[utoipa::path(delete, path = "/sessions/{id}", params(("id" = i64, Path)), responses((status = 204)))]
pub async fn end(State(state): State<AppState>, who: Who, Segment(id): Segment<i64>) -> Result<StatusCode, ApiError> {
    state.write(who, move |tx| sessions::end(tx, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}
