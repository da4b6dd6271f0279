//! Who listens to what happens: each person with so many pages at one time.

use crate::ground::error::ApiError;
use std::{
    collections::HashMap,
    sync::{Arc, Mutex, MutexGuard, PoisonError},
};
use tally_core::ground::ids::PersonId;

/// Pages of one person that listen at one time.
const MOST: usize = 16;

/// How many pages of whom listen.
#[derive(Debug, Clone, Default)]
pub struct Listening(Arc<Mutex<HashMap<PersonId, usize>>>);

/// One page that listens, as long as it is held.
#[derive(Debug)]
pub struct Listener {
    all: Listening,
    person: PersonId,
}

impl Listening {
    fn lock(&self) -> MutexGuard<'_, HashMap<PersonId, usize>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Lets one more page of that person listen.
    ///
    /// # Errors
    /// 429 where there are enough.
    pub fn one_more(&self, person: PersonId) -> Result<Listener, ApiError> {
        let mut all = self.lock();
        let count = all.entry(person).or_default();
        if *count >= MOST {
            return Err(ApiError::wait(30_000, "you listen in too many places already"));
        }
        *count += 1;
        Ok(Listener { all: self.clone(), person })
    }
}

impl Drop for Listener {
    fn drop(&mut self) {
        let mut all = self.all.lock();
        if let Some(count) = all.get_mut(&self.person) {
            *count -= 1;
            if *count == 0 {
                all.remove(&self.person);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_person_listens_in_so_many_places_and_others_in_theirs() {
        let listening = Listening::default();
        let mut mine = (0..MOST).map(|_| listening.one_more(PersonId(1)).unwrap()).collect::<Vec<_>>();
        assert!(listening.one_more(PersonId(1)).is_err());
        assert!(listening.one_more(PersonId(2)).is_ok());
        mine.pop();
        mine.push(listening.one_more(PersonId(1)).unwrap());
        drop(mine);
        assert!(listening.lock().is_empty());
    }
}
