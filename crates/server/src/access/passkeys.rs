//! Passkeys: what a device is asked, and whether it answers with the other half of what is kept (W3C Web Authentication, level 3;
//! the ceremonies are the library's).

use crate::ground::error::{ApiError, Needs};
use axum::http::{HeaderMap, StatusCode, header, uri::Authority};
use serde::Serialize;
use serde_json::Value;
use std::sync::{Mutex, MutexGuard, PoisonError};
use tally_store::{
    StoreError,
    access::passkeys::{Known, Passkey},
};
use webauthn_rp::{
    AuthenticatedCredential, DiscoverableAuthentication64, DiscoverableAuthenticationServerState,
    DiscoverableCredentialRequestOptions, PublicKeyCredentialCreationOptions, Registration, RegistrationServerState,
    bin::{Decode, Encode},
    request::{
        AsciiDomain, FixedCapHashSet, InsertResult, PublicKeyCredentialDescriptor, RpId,
        auth::AuthenticationVerificationOptions,
        register::{
            CredProtect, Nickname, PublicKeyCredentialUserEntity, RegistrationVerificationOptions, USER_HANDLE_MAX_LEN,
            UserHandle64, Username,
        },
    },
    response::{
        AuthTransports, CredentialId,
        register::{DynamicState, StaticState},
    },
};

/// Questions that wait for their answers at the most; each waits five minutes.
const MOST_ASKED: usize = 10_000;

/// The site that devices hold passkeys for: a host by its name, over TLS, or the machine itself.
#[derive(Debug)]
pub struct Site {
    name: RpId,
    origin: String,
}

impl Site {
    /// The site that a request asks, over TLS or not; none where browsers would hold no passkey for it.
    #[must_use]
    pub fn of(over_tls: bool, headers: &HeaderMap) -> Option<Self> {
        let host = headers.get(header::HOST)?.to_str().ok()?.to_ascii_lowercase();
        let authority: Authority = host.parse().ok()?;
        let name = authority.host();
        let is_name = name.parse::<std::net::IpAddr>().is_err() && !name.starts_with('[');
        if !is_name || !(over_tls || name == "localhost") {
            return None;
        }
        let scheme = if over_tls { "https" } else { "http" };
        let origin = format!("{scheme}://{host}");
        Some(Self { name: RpId::Domain(AsciiDomain::try_from(name.to_owned()).ok()?), origin })
    }

    /// The same, where it must be one.
    ///
    /// # Errors
    /// 404 where there are no passkeys.
    pub fn required(over_tls: bool, headers: &HeaderMap) -> Result<Self, ApiError> {
        let none = "there are passkeys only where the server is asked by its name and over TLS";
        Self::of(over_tls, headers).ok_or_else(|| ApiError::request(StatusCode::NOT_FOUND, none.into()))
    }
}

/// Questions that devices were asked, while they may answer.
#[derive(Debug)]
pub struct Passkeys {
    making: Mutex<FixedCapHashSet<RegistrationServerState<USER_HANDLE_MAX_LEN>>>,
    signing: Mutex<FixedCapHashSet<DiscoverableAuthenticationServerState>>,
}

impl Default for Passkeys {
    fn default() -> Self {
        let (making, signing) = (FixedCapHashSet::new(MOST_ASKED), FixedCapHashSet::new(MOST_ASKED));
        Self { making: Mutex::new(making), signing: Mutex::new(signing) }
    }
}

fn open<T>(asked: &Mutex<T>) -> MutexGuard<'_, T> {
    asked.lock().unwrap_or_else(PoisonError::into_inner)
}

fn broken(error: impl std::fmt::Debug) -> ApiError {
    StoreError::Corrupt { table: "passkeys", reason: format!("{error:?}") }.into()
}

fn asked(inserted: InsertResult, options: &impl Serialize) -> Result<Value, ApiError> {
    match inserted {
        InsertResult::Success => serde_json::to_value(options).map_err(broken),
        InsertResult::Duplicate | InsertResult::CapacityFull => {
            let full = "too many devices are being asked at this moment; try again in a few minutes";
            Err(ApiError::request(StatusCode::TOO_MANY_REQUESTS, full.into()))
        }
    }
}

fn handle(of: &Known) -> Result<UserHandle64, ApiError> {
    match &of.handle {
        None => Ok(UserHandle64::new()),
        Some(bytes) => {
            let bytes = <[u8; USER_HANDLE_MAX_LEN]>::try_from(bytes.as_slice()).map_err(broken)?;
            UserHandle64::decode(bytes).map_err(broken)
        }
    }
}

/// A device's answer that is not to be believed, or was waited for too long.
fn unanswered() -> ApiError {
    ApiError::bad("credential", "is no answer to what this server asked; try again")
}

impl Passkeys {
    /// What a device is asked to make a passkey for a person: `PublicKeyCredentialCreationOptionsJSON`.
    ///
    /// # Errors
    /// 429 where too many are asked.
    pub fn ask_to_make(&self, site: &Site, code: &str, name: &str, known: &Known) -> Result<Value, ApiError> {
        let handle = handle(known)?;
        let user = PublicKeyCredentialUserEntity {
            name: Username::try_from(code).map_err(broken)?,
            id: &handle,
            display_name: Nickname::try_from(name).ok(),
        };
        let descriptor = |id: &Vec<u8>| {
            let id = CredentialId::<Vec<u8>>::decode(id.clone()).map_err(broken)?;
            // By which ways it is reached is the browser's to know.
            let transports = AuthTransports::decode(0).map_err(broken)?;
            Ok::<_, ApiError>(PublicKeyCredentialDescriptor { id, transports })
        };
        let held = known.credentials.iter().map(descriptor).collect::<Result<Vec<_>, _>>()?;
        let mut options = PublicKeyCredentialCreationOptions::passkey(&site.name, user, held);
        // Not every phone knows it, and this server asks for who the person is each time anyway.
        options.extensions.cred_protect = CredProtect::None;
        let (waiting, options) = options.start_ceremony().map_err(broken)?;
        asked(open(&self.making).insert_or_replace_all_expired(waiting), &options)
    }

    /// The passkey that a device made, for the person of that handle or, before the first, for whoever was asked.
    ///
    /// # Errors
    /// 400 for anything but the answer to what was asked.
    pub fn made(&self, site: &Site, known: &Known, answer: &Value) -> Result<Passkey, ApiError> {
        let answer = Registration::from_json_relaxed(answer.to_string().as_bytes()).map_err(|_unread| unanswered())?;
        let challenge = answer.challenge_relaxed().map_err(|_unread| unanswered())?;
        let waiting = open(&self.making).take(&challenge).ok_or_else(unanswered)?;
        let origins = [site.origin.as_str()];
        let options = RegistrationVerificationOptions::<&str, &str> { allowed_origins: &origins, ..Default::default() };
        let made = waiting.verify(&site.name, &answer, &options).map_err(|_refused| unanswered())?;
        let handle = made.user_id().encode().map_err(broken)?;
        if known.handle.as_ref().is_some_and(|known| *known != handle) {
            return Err(unanswered());
        }
        Ok(Passkey {
            credential: made.id().as_ref().to_vec(),
            handle: handle.to_vec(),
            fixed: made.static_state().encode().map_err(broken)?,
            used: made.dynamic_state().encode().map_err(broken)?.to_vec(),
        })
    }

    /// What a device is asked to sign in whomever it knows: `PublicKeyCredentialRequestOptionsJSON`.
    ///
    /// # Errors
    /// 429 where too many are asked.
    pub fn ask_to_sign(&self, site: &Site) -> Result<Value, ApiError> {
        let options = DiscoverableCredentialRequestOptions::passkey(&site.name);
        let (waiting, options) = options.start_ceremony().map_err(broken)?;
        asked(open(&self.signing).insert_or_replace_all_expired(waiting), &options)
    }

    /// Whether a device's answer is signed with the passkey that it names, for whom it names; then the passkey as that use leaves
    /// it. The person's presence and who they are was looked at by the device.
    ///
    /// # Errors
    /// 401.
    pub fn signed(&self, site: &Site, answer: &Answer, kept: Passkey) -> Result<Passkey, ApiError> {
        let Answer(answer) = answer;
        let challenge = answer.challenge_relaxed().map_err(|_unread| wrong())?;
        let waiting = open(&self.signing).take(&challenge).ok_or_else(wrong)?;
        let handle = handle(&Known { handle: Some(kept.handle.clone()), credentials: vec![] })?;
        if *answer.response().user_handle() != handle {
            return Err(wrong());
        }
        let id = CredentialId::<&[u8]>::decode(kept.credential.as_slice()).map_err(broken)?;
        let fixed = StaticState::decode(kept.fixed.as_slice()).map_err(broken)?;
        let used = <[u8; 7]>::try_from(kept.used.as_slice()).map_err(broken)?;
        let used = DynamicState::decode(used).map_err(broken)?;
        let mut credential = AuthenticatedCredential::new(id, &handle, fixed, used).map_err(broken)?;
        let origins = [site.origin.as_str()];
        let options =
            AuthenticationVerificationOptions::<&str, &str> { allowed_origins: &origins, ..Default::default() };
        waiting.verify(&site.name, answer, &mut credential, &options).map_err(|_refused| wrong())?;
        let used = credential.dynamic_state().encode().map_err(broken)?.to_vec();
        Ok(Passkey { used, ..kept })
    }
}

/// What a device answers when it signs somebody in.
#[derive(Debug)]
pub struct Answer(DiscoverableAuthentication64);

impl Answer {
    /// # Errors
    /// 401 for what is none.
    pub fn read(answer: &Value) -> Result<Self, ApiError> {
        let read = DiscoverableAuthentication64::from_json_relaxed(answer.to_string().as_bytes());
        read.map(Self).map_err(|_unread| wrong())
    }

    /// The passkey it names.
    #[must_use]
    pub fn credential(&self) -> Vec<u8> {
        self.0.raw_id().as_ref().to_vec()
    }
}

/// What is said whatever is wrong.
pub fn wrong() -> ApiError {
    ApiError::unsigned(Needs::SignIn, "no active person signs in with this passkey")
}
