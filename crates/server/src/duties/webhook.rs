//! Delivers events to their addresses, signed.

use crate::{
    AppState,
    ground::{error::ApiError, threads::blocking},
    outside::outgoing::told,
};
use hmac::{Hmac, KeyInit, Mac};
use sha2::Sha256;
use std::collections::BTreeMap;
use tally_store::{
    access::people,
    outside::{webhooks, webhooks::Due},
};
use tokio::task::JoinSet;

/// Header with the signature of the body.
pub const SIGNATURE: &str = "x-fair-tally-signature";
/// Header with the event's id: the same when it is sent again.
const EVENT: &str = "x-fair-tally-event";

/// Deliveries tried at one go.
const AT_ONCE: usize = 100;

/// `sha256=` and the HMAC (RFC 2104) of the body in hexadecimal, by the secret of the address.
pub fn signature(secret: &str, body: &[u8]) -> String {
    format!("sha256={}", hex::encode(mac(secret, body).finalize().into_bytes()))
}

/// Whether a body was signed by that secret, asked without telling by the time it takes how much of it is right.
pub fn is_signed(signature: &str, secret: &str, body: &[u8]) -> bool {
    let told = signature.strip_prefix("sha256=").and_then(|text| hex::decode(text).ok());
    told.is_some_and(|told| mac(secret, body).verify_slice(&told).is_ok())
}

fn mac(secret: &str, body: &[u8]) -> Hmac<Sha256> {
    let mut mac = Hmac::<Sha256>::new_from_slice(secret.as_bytes()).expect("a key of any length is taken");
    mac.update(body);
    mac
}

/// Sends what is due. Receivers are told side by side, each one thing after the other; one that does not answer is left
/// alone until the next time.
pub(super) async fn deliver(state: &AppState) -> Result<(), ApiError> {
    let looking = state.clone();
    let due = blocking(move || {
        let now = looking.clock.now();
        Ok(looking.store.read(now, |view| webhooks::due(view, AT_ONCE))?)
    })
    .await?;
    let mut by_url: BTreeMap<String, Vec<Due>> = BTreeMap::new();
    for one in due {
        by_url.entry(one.url.clone()).or_default().push(one);
    }
    let mut receivers = JoinSet::new();
    for waiting in by_url.into_values() {
        receivers.spawn(tell(state.clone(), waiting));
    }
    let mut told = Ok(());
    while let Some(one) = receivers.join_next().await {
        told = told.and(one.unwrap_or_else(|panicked| Err(ApiError::bad("webhook", panicked))));
    }
    told
}

async fn tell(state: AppState, waiting: Vec<Due>) -> Result<(), ApiError> {
    for one in waiting {
        let error = send(&state, &one).await.err();
        let (noting, is_out) = (state.clone(), error.is_some());
        blocking(move || {
            let (store, now) = (&noting.store, noting.clock.now());
            let actor = store.read(now, |view| people::program(view, people::Program::Webhooks))?;
            Ok(store.write(actor, now, |tx| webhooks::tried(tx, one.delivery, error.as_deref()))?)
        })
        .await?;
        if is_out {
            break;
        }
    }
    Ok(())
}

async fn send(state: &AppState, one: &Due) -> Result<(), String> {
    let request = state
        .outgoing
        .post(&one.url)?
        .header(reqwest::header::CONTENT_TYPE, "application/json")
        .header(EVENT, one.event.to_string())
        .header(SIGNATURE, signature(&one.secret, one.payload.as_bytes()))
        .body(one.payload.clone());
    let answer = request.send().await.map_err(|error| told(&error))?;
    match answer.status() {
        status if status.is_success() => Ok(()),
        status if status.is_redirection() => Err(format!("answered {status}; it is not followed elsewhere")),
        status => Err(format!("answered {status}")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// RFC 4231, test case 2 (key "Jefe"), from memory.
    #[test]
    fn the_signature_is_that_of_the_standard() {
        assert_eq!(
            signature("Jefe", b"what do ya want for nothing?"),
            "sha256=5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843"
        );
    }

    #[test]
    fn only_what_the_secret_signed_is_signed() {
        let signed = signature("Jefe", b"what do ya want for nothing?");
        assert!(is_signed(&signed, "Jefe", b"what do ya want for nothing?"));
        for (said, secret, body) in [
            (signed.as_str(), "Jefe", "what do ya want for something?"),
            (&signed, "jefe", "what do ya want for nothing?"),
            (&signed[..signed.len() - 2], "Jefe", "what do ya want for nothing?"),
            ("", "Jefe", "what do ya want for nothing?"),
        ] {
            assert!(!is_signed(said, secret, body.as_bytes()), "{said} {secret} {body}");
        }
    }
}
