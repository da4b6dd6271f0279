//! What was found out about all rows of a part, by what it is called: it holds until they change.

use std::sync::{Arc, PoisonError, RwLock};

type Found = (&'static str, Arc<[u32]>);

/// What is known of a part. It is shared by clones of the part, and forgotten with the rows.
#[derive(Debug, Default)]
pub(super) struct Noted(RwLock<Vec<Found>>);

impl Noted {
    pub(super) fn of(&self, what: &str) -> Option<Arc<[u32]>> {
        let noted = self.0.read().unwrap_or_else(PoisonError::into_inner);
        noted.iter().find(|(known, _)| *known == what).map(|(_, found)| found.clone())
    }

    /// Whoever notes the same at the same time found the same.
    pub(super) fn note(&self, what: &'static str, found: Arc<[u32]>) {
        let mut noted = self.0.write().unwrap_or_else(PoisonError::into_inner);
        if noted.iter().all(|(known, _)| *known != what) {
            noted.push((what, found));
        }
    }
}
