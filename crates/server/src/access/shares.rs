//! How much of the server one account takes at one time: so many pages that listen, so many questions under way.

use crate::ground::error::ApiError;
use std::{
    collections::HashMap,
    sync::{Arc, Mutex, MutexGuard, PoisonError},
};
use tally_core::ground::ids::PersonId;

/// What is taken, by whom.
#[derive(Debug, Clone)]
pub struct Shares {
    most: usize,
    /// What is said to who takes too much.
    enough: &'static str,
    /// Milliseconds after which it is worth another try.
    wait_ms: i64,
    taken: Arc<Mutex<HashMap<PersonId, usize>>>,
}

/// One share, as long as it is held.
#[derive(Debug)]
pub struct Share {
    all: Shares,
    account: PersonId,
}

impl Shares {
    /// Of pages that listen to what happens.
    #[must_use]
    pub fn of_listening() -> Self {
        Self::new(16, "you listen in too many places already", 30_000)
    }

    /// Of questions that are being answered: more than a browser asks at once, or a script that means well.
    #[must_use]
    pub fn of_asking() -> Self {
        Self::new(64, "you ask too much at once; wait for what you asked", 1_000)
    }

    fn new(most: usize, enough: &'static str, wait_ms: i64) -> Self {
        Self { most, enough, wait_ms, taken: Arc::default() }
    }

    fn lock(&self) -> MutexGuard<'_, HashMap<PersonId, usize>> {
        self.taken.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// One more of that account's.
    ///
    /// # Errors
    /// 429 where it has as many as there are for one.
    pub fn one_more(&self, account: PersonId) -> Result<Share, ApiError> {
        let mut all = self.lock();
        let count = all.entry(account).or_default();
        if *count >= self.most {
            return Err(ApiError::wait(self.wait_ms, self.enough));
        }
        *count += 1;
        Ok(Share { all: self.clone(), account })
    }
}

impl Drop for Share {
    fn drop(&mut self) {
        let mut all = self.all.lock();
        if let Some(count) = all.get_mut(&self.account) {
            *count -= 1;
            if *count == 0 {
                all.remove(&self.account);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_account_has_so_many_shares_and_others_have_theirs() {
        for shares in [Shares::of_listening(), Shares::of_asking()] {
            let mut mine = (0..shares.most).map(|_| shares.one_more(PersonId(1)).unwrap()).collect::<Vec<_>>();
            assert_eq!(shares.one_more(PersonId(1)).unwrap_err().status().as_u16(), 429);
            assert!(shares.one_more(PersonId(2)).is_ok());
            mine.pop();
            mine.push(shares.one_more(PersonId(1)).unwrap());
            drop(mine);
            assert!(shares.lock().is_empty());
        }
    }
}
