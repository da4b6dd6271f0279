//! Wrong passwords, counted by account and by address while the server runs.

use crate::ground::error::ApiError;
use std::{collections::HashMap, sync::Mutex};
use tally_core::{
    access::backoff::{Counted, Wrong},
    ground::time::Instant,
};

/// Accounts and addresses that are counted; beyond them, those that count no more are forgotten, and then all.
const MOST: usize = 10_000;

/// Who guessed how often.
#[derive(Debug, Default)]
pub struct Guesses {
    counted: Mutex<HashMap<(Of, String), Wrong>>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
enum Of {
    Account,
    Address,
}

impl Of {
    fn counted(self) -> Counted {
        match self {
            Self::Account => Counted::Account,
            Self::Address => Counted::Address,
        }
    }
}

impl Guesses {
    /// Lets somebody try, and counts it as wrong until it is known to be [`Self::right`], so that many at once are no way
    /// around the wait.
    ///
    /// # Errors
    /// 429 with the wait.
    pub fn begin(&self, account: &str, address: &str, now: Instant) -> Result<(), ApiError> {
        let mut counted = self.counted.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let both = both(account, address);
        let wait = both.iter().filter_map(|of| counted.get(of)?.wait(of.0.counted(), now)).max();
        if let Some(wait) = wait {
            return Err(ApiError::wait(wait, "there were too many wrong tries"));
        }
        if counted.len() >= MOST {
            counted.retain(|_, wrong| !wrong.is_forgotten(now));
            if counted.len() >= MOST {
                counted.clear();
            }
        }
        for of in both {
            let wrong = Wrong::one_more(counted.get(&of).copied(), now);
            counted.insert(of, wrong);
        }
        Ok(())
    }

    /// The try was right: the account begins anew, and the address has one less.
    pub fn right(&self, account: &str, address: &str) {
        let mut counted = self.counted.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let [of_account, of_address] = both(account, address);
        counted.remove(&of_account);
        if let Some(wrong) = counted.get_mut(&of_address) {
            wrong.tries = wrong.tries.saturating_sub(1);
        }
    }
}

fn both(account: &str, address: &str) -> [(Of, String); 2] {
    // As the account is looked for: blanks around it and capitals make no other one.
    [(Of::Account, account.trim().to_lowercase()), (Of::Address, address.into())]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_account_is_slowed_from_any_address_and_begins_anew_when_it_was_right() {
        let guesses = Guesses::default();
        let now = Instant::from_ms(0);
        for n in 0..5 {
            guesses.begin("ena", &format!("10.0.0.{n}"), now).unwrap();
        }
        for same in ["ENA", " ena", "ena\t "] {
            assert!(guesses.begin(same, "10.0.0.9", now).is_err(), "{same:?} is the same account");
        }
        assert!(guesses.begin("otto", "10.0.0.1", now).is_ok(), "another account is none of it");
        assert!(guesses.begin("ena", "10.0.0.9", now.plus(1_000)).is_ok());
        guesses.right("ena", "10.0.0.9");
        assert!(guesses.begin("ena", "10.0.0.9", now.plus(1_000)).is_ok());
    }

    #[test]
    fn an_address_is_slowed_whatever_account_it_guesses_at() {
        let guesses = Guesses::default();
        let now = Instant::from_ms(0);
        let tried = (0..40).filter(|n| guesses.begin(&format!("p{n}"), "10.0.0.1", now).is_ok()).count();
        assert_eq!(tried, 21);
        // Somebody right at the same address takes only their own try back.
        assert!(guesses.begin("p99", "10.0.0.2", now).is_ok());
    }

    #[test]
    fn what_is_counted_has_an_end() {
        let guesses = Guesses::default();
        for n in 0..=MOST {
            let (account, address) = (format!("p{n}"), format!("a{n}"));
            guesses.begin(&account, &address, Instant::from_ms(0)).unwrap();
        }
        assert!(guesses.counted.lock().unwrap().len() <= MOST);
    }
}
