//! Figures and lists counted a second way, by plain SQL over the same rows: on the demo, and on a generated plant of 20,000 assets.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

mod column_file;
mod downtime;
mod figures;
mod lists;
mod looks;
mod upkept;

use rusqlite::Connection;
use std::sync::OnceLock;
use tally_core::ground::time::Instant;
use tally_demo::{TODAY, ensure, opening, plan::Size};
use tally_e2e::plant;
use tally_store::Store;

/// A plant to look at, with when.
struct Plant {
    _folder: tempfile::TempDir,
    store: Store,
    now: Instant,
}

impl Plant {
    /// A way of its own to the rows.
    fn database(&self) -> Connection {
        Connection::open(self.store.path()).unwrap()
    }
}

fn demo() -> &'static Plant {
    static DEMO: OnceLock<Plant> = OnceLock::new();
    DEMO.get_or_init(|| {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path(), opening(TODAY)).unwrap();
        ensure(&store, TODAY, Size::Full, |_| ()).unwrap();
        Plant { _folder: folder, store, now: opening(TODAY) }
    })
}

fn large() -> &'static Plant {
    static LARGE: OnceLock<Plant> = OnceLock::new();
    LARGE.get_or_init(|| {
        let folder = tempfile::tempdir().unwrap();
        let size = plant::Size { assets: 20_000, orders: 20_000, downtimes: 2_000, meters: 50 };
        plant::write(folder.path(), size).unwrap();
        let now = Instant::parse(plant::NOW).unwrap();
        let store = Store::open(folder.path(), now).unwrap();
        Plant { _folder: folder, store, now }
    })
}
