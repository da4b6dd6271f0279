//! Delivers events to their addresses, signed.

use crate::{AppState, error::ApiError, state::blocking};
use hmac::{Hmac, KeyInit, Mac};
use sha2::Sha256;
use std::fmt::Write;
use tally_store::{people, webhooks};

/// Header with the signature of the body.
pub const SIGNATURE: &str = "x-fair-tally-signature";
/// Header with the event's id: the same when it is sent again.
const EVENT: &str = "x-fair-tally-event";

/// Deliveries tried at one go.
const AT_ONCE: usize = 100;

/// `sha256=` and the HMAC (RFC 2104) of the body in hexadecimal, by the secret of the address.
pub fn signature(secret: &str, body: &[u8]) -> String {
    let mut mac = Hmac::<Sha256>::new_from_slice(secret.as_bytes()).expect("a key of any length is taken");
    mac.update(body);
    mac.finalize().into_bytes().iter().fold(String::from("sha256="), |mut text, byte| {
        write!(text, "{byte:02x}").expect("a string takes everything");
        text
    })
}

pub(super) async fn deliver(state: &AppState, client: &reqwest::Client) -> Result<(), ApiError> {
    let looking = state.clone();
    let due = blocking(move || {
        let now = looking.clock.now();
        Ok(looking.store.read(|conn| webhooks::due(conn, now, AT_ONCE))?)
    })
    .await?;
    for one in due {
        let request = client
            .post(&one.url)
            .header(reqwest::header::CONTENT_TYPE, "application/json")
            .header(EVENT, one.event.to_string())
            .header(SIGNATURE, signature(&one.secret, one.payload.as_bytes()))
            .body(one.payload.clone());
        let error = match request.send().await {
            Ok(answer) if answer.status().is_success() => None,
            Ok(answer) => Some(format!("answered {}", answer.status())),
            Err(error) => Some(error.to_string()),
        };
        let noting = state.clone();
        blocking(move || {
            let (store, now) = (&noting.store, noting.clock.now());
            let actor = store.read(people::first_administrator)?;
            Ok(store.write(actor, now, |act| webhooks::tried(act, one.delivery, error.as_deref()))?)
        })
        .await?;
    }
    Ok(())
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
}
