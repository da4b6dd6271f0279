//! Sessions of the people in tests, begun where the server keeps them.

use fair_tally::{AppState, secrets};
use std::{collections::HashMap, sync::Mutex};
use tally_core::{access::roles::Role, ground::time::Instant};
use tally_store::{
    StoreError,
    access::{keys, keys::NewKey, people, sessions},
};

/// Signs people in on a server.
pub struct Signing {
    state: AppState,
    begun: Mutex<HashMap<(String, Instant), String>>,
}

impl Signing {
    pub fn on(state: AppState) -> Self {
        Self { state, begun: Mutex::default() }
    }

    /// The cookie of that person, of the first administrator without one. A session is begun anew when the clock was set, so that
    /// none is older than it may be; who is nobody has one that nobody knows.
    pub fn cookie(&self, person: Option<&str>) -> String {
        let now = self.state.clock.now();
        let mut begun = self.begun.lock().unwrap();
        let token = begun.entry((person.unwrap_or_default().into(), now)).or_insert_with(|| self.begin(person, now));
        format!("{}={token}", self.state.access.cookie())
    }

    /// A key of that name.
    pub fn key(&self, name: &str, role: Role) -> String {
        let (key, now) = (secrets::key(), self.state.clock.now());
        let new = NewKey { name: name.into(), role, scope: None, expires_at: None };
        let admin = self.state.store.read(now, |view| people::first_administrator(view)).unwrap();
        self.state.store.write(admin, now, |tx| keys::add(tx, &new, &secrets::hash(&key))).unwrap();
        key
    }

    fn begin(&self, person: Option<&str>, now: Instant) -> String {
        let token = secrets::session();
        let actor = self.state.store.read(now, |view| match person {
            Some(code) => people::by_code(view, code),
            None => people::first_administrator(view),
        });
        let from = sessions::From { address: "test".into(), device: "test".into() };
        match actor {
            Ok(actor) => {
                let hash = secrets::hash(&token);
                self.state
                    .store
                    .write(actor, now, |tx| sessions::begin(tx, &hash, &from, sessions::By::Secret, None))
                    .unwrap();
            }
            Err(StoreError::NotFound { .. }) => {}
            Err(error) => panic!("{error}"),
        }
        token
    }

    /// Forgets what was begun: a request that ends sessions may have ended these.
    pub fn forget(&self) {
        self.begun.lock().unwrap().clear();
    }
}
