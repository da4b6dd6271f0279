//! Refusals that are taken down: of each account and route the first of an hour, so that nobody fills the trail by asking.

use axum::http::Method;
use std::{
    collections::HashMap,
    sync::{Mutex, PoisonError},
};
use tally_core::ground::{
    ids::PersonId,
    time::{HOUR, Instant},
};

/// Accounts with routes that are remembered; beyond them all are forgotten.
const MOST: usize = 10_000;

/// When whom was refused what was taken down.
#[derive(Debug, Default)]
pub struct Refusals(Mutex<HashMap<(PersonId, String), Instant>>);

impl Refusals {
    /// Whether this one is to be taken down; it is then remembered as such.
    pub fn is_new(&self, account: PersonId, method: &Method, path: &str, now: Instant) -> bool {
        let mut known = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if known.len() >= MOST {
            known.clear();
        }
        let of = (account, format!("{method} {path}"));
        let is_known = known.get(&of).is_some_and(|last| (0..HOUR).contains(&now.since(*last)));
        if !is_known {
            known.insert(of, now);
        }
        !is_known
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_of_an_hour_is_taken_down() {
        let refusals = Refusals::default();
        let at = |ms: i64| Instant::from_ms(ms);
        let asked = [
            (1, "/keys", 0, true),
            (1, "/keys", HOUR - 1, false),
            (1, "/people", HOUR - 1, true),
            (2, "/keys", HOUR - 1, true),
            (1, "/keys", HOUR, true),
            // A clock that was set back hides nothing.
            (1, "/keys", 0, true),
        ];
        for (account, path, ms, is_new) in asked {
            assert_eq!(refusals.is_new(PersonId(account), &Method::GET, path, at(ms)), is_new, "{account} {path} {ms}");
        }
    }
}
