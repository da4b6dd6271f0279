//! Who makes a request: by the session of its cookie, or by the key that it carries.

use super::secrets;
use crate::{
    AppState,
    ground::{
        error::{ApiError, Needs},
        threads::blocking,
    },
};
use axum::{
    extract::FromRequestParts,
    http::{HeaderMap, HeaderValue, header, request::Parts},
};
use tally_core::{
    access::{accounts::Account, sessions::Lasting},
    ground::time::Instant,
};
use tally_store::{
    StoreError, View,
    access::{keys, people::Somebody, sessions},
};

/// Who signed a request, and with what.
#[derive(Debug, Clone)]
pub struct Signed {
    pub somebody: Somebody,
    with: With,
    hash: Vec<u8>,
}

#[derive(Debug, Clone)]
enum With {
    Session { id: i64, lasting: Lasting },
    Key { used_at: Option<Instant> },
}

/// What a request carries to say who makes it.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Carried {
    Session(String),
    Key(String),
}

impl Carried {
    /// A key where there is one: who sends one means it. None where there is neither.
    fn of(headers: &HeaderMap, cookie: &str) -> Result<Option<Self>, ApiError> {
        if let Some(given) = headers.get(header::AUTHORIZATION) {
            let key = given.to_str().ok().and_then(|given| given.split_once(' '));
            let key = key.filter(|(scheme, _)| scheme.eq_ignore_ascii_case("bearer"));
            let unreadable = || ApiError::bad("authorization", "must be Bearer and a key");
            return key.map(|(_, key)| Some(Self::Key(key.trim().into()))).ok_or_else(unreadable);
        }
        Ok(cookie_of(headers, cookie).map(|value| Self::Session(value.into())))
    }
}

/// A cookie of a request.
fn cookie_of<'a>(headers: &'a HeaderMap, cookie: &str) -> Option<&'a str> {
    let cookies = headers.get_all(header::COOKIE).iter().filter_map(|value| value.to_str().ok());
    let mut pairs = cookies.flat_map(|value| value.split(';')).filter_map(|pair| pair.trim().split_once('='));
    pairs.find(|(name, _)| *name == cookie).map(|(_, value)| value)
}

/// The hash of the secret that a shared device holds; none where it holds none.
#[must_use]
pub fn device_of(state: &AppState, headers: &HeaderMap) -> Option<Vec<u8>> {
    cookie_of(headers, &state.access.device_cookie()).map(secrets::hash)
}

/// The hash of what a request carries.
#[derive(Debug)]
enum Hashed {
    Session(Vec<u8>),
    Key(Vec<u8>),
}

impl Hashed {
    fn of(state: &AppState, headers: &HeaderMap) -> Result<Option<Self>, ApiError> {
        let carried = Carried::of(headers, &state.access.cookie())?;
        Ok(carried.map(|carried| match carried {
            Carried::Session(token) => Self::Session(secrets::hash(&token)),
            Carried::Key(key) => Self::Key(secrets::hash(&key)),
        }))
    }

    fn find(&self, view: &View) -> Result<Option<Signed>, StoreError> {
        Ok(match self {
            Self::Session(hash) => sessions::of_hash(view, hash, view.now)?.map(|found| {
                let with = With::Session { id: found.id, lasting: found.lasting };
                Signed { somebody: found.person, with, hash: hash.clone() }
            }),
            Self::Key(hash) => keys::of_hash(view, hash, view.now)?.map(|found| {
                let with = With::Key { used_at: found.used_at };
                Signed { somebody: found.account, with, hash: hash.clone() }
            }),
        })
    }

    /// A session that nobody knows is nobody's; who sends a key means it.
    fn known(&self, found: Option<Signed>) -> Result<Option<Signed>, ApiError> {
        match (self, found) {
            (Self::Key(_), None) => {
                Err(ApiError::unsigned(Needs::SignIn, "the key is not known here, or does not work any more"))
            }
            (_, found) => Ok(found),
        }
    }
}

impl Signed {
    /// Who makes a request with those headers; none where they say nothing, or name a session that has ended.
    ///
    /// # Errors
    /// 401 for a key that does not work, 400 for a header that can't be read.
    pub fn of(state: &AppState, headers: &HeaderMap) -> Result<Option<Self>, ApiError> {
        let Some(hashed) = Hashed::of(state, headers)? else { return Ok(None) };
        hashed.known(state.store.read(state.clock.now(), |view| hashed.find(view))?)
    }

    /// The same for every request: at once where a reader is free, which is a look at a row or two in memory, and on a thread
    /// that may wait otherwise.
    ///
    /// # Errors
    /// As [`Self::of`].
    pub async fn of_request(state: &AppState, headers: &HeaderMap) -> Result<Option<Self>, ApiError> {
        let Some(hashed) = Hashed::of(state, headers)? else { return Ok(None) };
        if let Some(found) = state.store.read_if_free(state.clock.now(), |view| hashed.find(view)) {
            return hashed.known(found?);
        }
        let state = state.clone();
        blocking(move || hashed.known(state.store.read(state.clock.now(), |view| hashed.find(view))?)).await
    }

    /// Whether it still holds: the session lasts, the key works, the person is there and of the same role.
    ///
    /// # Errors
    /// The store's own.
    pub fn still_holds(&self, state: &AppState) -> Result<bool, StoreError> {
        let hashed = match self.with {
            With::Session { .. } => Hashed::Session(self.hash.clone()),
            With::Key { .. } => Hashed::Key(self.hash.clone()),
        };
        let now = state.store.read(state.clock.now(), |view| hashed.find(view))?;
        Ok(now.is_some_and(|now| now.somebody.actor == self.somebody.actor))
    }

    /// The session it is, where it is one.
    #[must_use]
    pub fn session(&self) -> Option<i64> {
        match self.with {
            With::Session { id, .. } => Some(id),
            With::Key { .. } => None,
        }
    }

    /// The hash of its session, where it is one.
    #[must_use]
    pub fn session_hash(&self) -> Option<&[u8]> {
        self.session().map(|_| self.hash.as_slice())
    }

    /// Whether the password was given a short while ago. A key is given with every request.
    #[must_use]
    pub fn is_fresh(&self, now: Instant) -> bool {
        match self.with {
            With::Session { lasting, .. } => lasting.is_fresh(now),
            With::Key { .. } => true,
        }
    }

    /// Whether it is a person, signed in.
    #[must_use]
    pub fn is_person(&self) -> bool {
        self.somebody.actor.account == Account::Person
    }

    /// Notes that it was used, every now and then, while the request goes on.
    pub fn note(&self, state: &AppState) {
        let now = state.clock.now();
        let last = match self.with {
            With::Session { lasting, .. } => Some(lasting.seen_at),
            With::Key { used_at } => used_at,
        };
        if !Lasting::is_to_note(last, now) {
            return;
        }
        let (state, actor, session) = (state.clone(), self.somebody.actor.clone(), self.session());
        tokio::task::spawn_blocking(move || {
            let noted = state.store.write(actor, now, |tx| match session {
                Some(id) => sessions::note_seen(tx, id),
                None => keys::note_used(tx),
            });
            if let Err(error) = noted {
                tracing::warn!(?error, "it was not noted that a session or a key is used");
            }
        });
    }
}

/// Who signed the request, or nobody: for what anybody may ask.
#[derive(Debug)]
pub struct MaybeSigned(pub Option<Signed>);

impl<S: Sync> FromRequestParts<S> for MaybeSigned {
    type Rejection = std::convert::Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Self::Rejection> {
        Ok(Self(parts.extensions.get::<Signed>().cloned()))
    }
}

impl<S: Sync> FromRequestParts<S> for Signed {
    type Rejection = ApiError;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, ApiError> {
        parts.extensions.get::<Self>().cloned().ok_or_else(ApiError::nobody)
    }
}

/// The header that gives a browser its session, or takes it away.
///
/// # Errors
/// 500 for a name that no header may hold.
pub fn set_cookie(state: &AppState, token: Option<&str>) -> Result<HeaderValue, ApiError> {
    let lasts = if token.is_some() { tally_core::access::sessions::LONGEST_MS / 1_000 } else { 0 };
    header_of(state, &state.access.cookie(), token.unwrap_or_default(), lasts)
}

/// How long a browser keeps a cookie at most (RFC 6265bis, 5.5: 400 days; recalled), in seconds.
const KEPT_AT_MOST: i64 = 400 * 24 * 3_600;

/// The header that makes a browser that of a shared device.
///
/// # Errors
/// As [`set_cookie`].
pub fn set_device(state: &AppState, secret: &str) -> Result<HeaderValue, ApiError> {
    header_of(state, &state.access.device_cookie(), secret, KEPT_AT_MOST)
}

fn header_of(state: &AppState, name: &str, value: &str, lasts: i64) -> Result<HeaderValue, ApiError> {
    let secure = if state.access.over_tls { "; Secure" } else { "" };
    let text = format!("{name}={value}; Path=/; Max-Age={lasts}; HttpOnly; SameSite=Lax{secure}");
    HeaderValue::from_str(&text).map_err(|error| ApiError::bad("cookie", error))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::nothing(&[], Some(None))]
    #[case::a_cookie(&[("cookie", "a=b; tally=t0k; c=d")], Some(Some(Carried::Session("t0k".into()))))]
    #[case::two_headers(&[("cookie", "a=b"), ("cookie", "tally=t0k")], Some(Some(Carried::Session("t0k".into()))))]
    #[case::of_another_port(&[("cookie", "tally-8420=t0k")], Some(None))]
    #[case::a_key(&[("authorization", "bearer  k3y")], Some(Some(Carried::Key("k3y".into()))))]
    #[case::a_key_goes_first(&[("authorization", "Bearer k3y"), ("cookie", "tally=t")], Some(Some(Carried::Key("k3y".into()))))]
    #[case::another_scheme(&[("authorization", "Basic YTpi"), ("cookie", "tally=t")], None)]
    fn a_request_carries(#[case] given: &[(&'static str, &'static str)], #[case] carried: Option<Option<Carried>>) {
        let mut headers = HeaderMap::new();
        for (name, value) in given {
            headers.append(*name, HeaderValue::from_static(value));
        }
        assert_eq!(Carried::of(&headers, "tally").ok(), carried);
    }
}
