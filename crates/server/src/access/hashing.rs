//! Passwords as they are kept: Argon2id, at the cost that OWASP's Password Storage Cheat Sheet sets for it (19 MiB, two passes, one
//! lane; recalled).

use crate::ground::{error::ApiError, threads::blocking};
use argon2::{
    Algorithm, Argon2, Params, Version,
    password_hash::{PasswordHasher, PasswordVerifier, phc::PasswordHash},
};
use axum::http::StatusCode;
use std::sync::Arc;
use tokio::sync::Semaphore;

/// Memory of one hash, in KiB.
const MEMORY: u32 = 19 * 1024;
const PASSES: u32 = 2;
const LANES: u32 = 1;

/// Hashes made at one time: each takes a core for as long as it lasts.
const AT_ONCE: usize = 2;

/// Who waits for a hash; who comes after them is told to come again.
const WAITING: usize = 32;

/// Where passwords are hashed, few at a time.
#[derive(Debug)]
pub struct Hashing {
    turns: Arc<Semaphore>,
    room: Arc<Semaphore>,
}

impl Default for Hashing {
    fn default() -> Self {
        Self { turns: Arc::new(Semaphore::new(AT_ONCE)), room: Arc::new(Semaphore::new(AT_ONCE + WAITING)) }
    }
}

fn argon2() -> Argon2<'static> {
    let params = Params::new(MEMORY, PASSES, LANES, None).unwrap_or_default();
    Argon2::new(Algorithm::Argon2id, Version::V0x13, params)
}

fn made(password: &str) -> Result<String, ApiError> {
    let failed = |error| ApiError::request(StatusCode::INTERNAL_SERVER_ERROR, format!("no hash was made: {error}"));
    Ok(argon2().hash_password(password.as_bytes()).map_err(failed)?.to_string())
}

fn fits(password: &str, hash: &str) -> bool {
    PasswordHash::new(hash).is_ok_and(|hash| argon2().verify_password(password.as_bytes(), &hash).is_ok())
}

/// A hash of a password that nobody has: checked where there is none, so that nobody learns from the time who has one.
const NOBODYS: &str = "$argon2id$v=19$m=19456,t=2,p=1$ZmFpci10YWxseS1ub2JvZHk$\
    1ERxCmdNnGMJgw4tIKjc5kBT8WMp8MfKMAbtYjFDkCo";

impl Hashing {
    /// Does it when it is its turn. The turn goes with the work, which goes on when its client has gone: or whoever hangs up
    /// would let the next one in beside it.
    async fn in_turn<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let room = self.room.clone().try_acquire_owned();
        let room = room.map_err(|_full| ApiError::wait(1_000, "many are signing in"))?;
        // The semaphore is never closed.
        let turn = self.turns.clone().acquire_owned().await;
        let turn = turn.map_err(|_closed| ApiError::wait(1_000, "the server ends"))?;
        blocking(move || {
            let _held = (room, turn);
            work()
        })
        .await
    }

    /// The hash of a new password.
    pub async fn make(&self, password: String) -> Result<String, ApiError> {
        self.in_turn(move || made(&password)).await
    }

    /// Whether it is the password of that hash; never without one, and after as long.
    pub async fn fits(&self, password: String, hash: Option<String>) -> Result<bool, ApiError> {
        self.in_turn(move || {
            let fits = fits(&password, hash.as_deref().unwrap_or(NOBODYS));
            Ok(fits && hash.is_some())
        })
        .await
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_hash_fits_its_password_alone_and_says_what_it_cost() {
        let (one, other) = (made("gravel ladder oyster").unwrap(), made("gravel ladder oyster").unwrap());
        assert!(one.starts_with("$argon2id$v=19$m=19456,t=2,p=1$"), "{one}");
        assert_ne!(one, other, "each has a salt of its own");
        assert!(fits("gravel ladder oyster", &one) && !fits("gravel ladder oysters", &one) && !fits("", &one));
        assert!(!fits("x", "no hash"));
    }

    /// One that can't be read, or has another cost, would tell by the time who has a password.
    #[test]
    fn the_hash_of_nobody_costs_as_much() {
        let nobodys = PasswordHash::new(NOBODYS).unwrap();
        assert_eq!(nobodys.params.get_str("m"), Some(MEMORY.to_string().as_str()));
    }

    #[tokio::test]
    async fn two_at_once_and_the_rest_wait_their_turn() {
        let hashing = Hashing::default();
        let _both = hashing.turns.acquire_many(2).await.unwrap();
        let waits = tokio::time::timeout(std::time::Duration::from_millis(50), hashing.make("x".into())).await;
        assert!(waits.is_err(), "a third waits");
        let _room = hashing.room.acquire_many((AT_ONCE + WAITING) as u32).await.unwrap();
        assert_eq!(hashing.make("x".into()).await.unwrap_err().status(), StatusCode::TOO_MANY_REQUESTS);
    }

    #[tokio::test]
    async fn who_hangs_up_lets_nobody_in_beside_their_hash() {
        let hashing = Arc::new(Hashing::default());
        let (begun, has_begun) = tokio::sync::oneshot::channel();
        let (finish, may_finish) = std::sync::mpsc::channel::<()>();
        let asked = hashing.clone();
        let client = tokio::spawn(async move {
            let work = move || {
                begun.send(()).unwrap();
                may_finish.recv().unwrap();
                Ok(())
            };
            asked.in_turn(work).await
        });
        has_begun.await.unwrap();
        client.abort();
        assert!(client.await.unwrap_err().is_cancelled());
        assert_eq!(hashing.turns.available_permits(), AT_ONCE - 1, "its hash is still being made");
        finish.send(()).unwrap();
        drop(hashing.turns.acquire_many(AT_ONCE as u32).await.unwrap());
    }
}
