//! The real binary and a real browser, for tests, screenshots and benchmarks.

mod browser;
mod page;
pub mod plant;
pub mod proxy;
mod server;

pub use browser::Browser;
pub use page::{Barriers, ENTER, Page};
pub use server::{PASSWORD, Server, binary};

use std::path::{Path, PathBuf};

/// Lets HTTP clients here encrypt. To say it twice is as good as once.
fn provide() {
    rustls::crypto::ring::default_provider().install_default().ok();
}

/// A client of HTTP.
#[must_use]
pub fn client() -> reqwest::Client {
    provide();
    reqwest::Client::new()
}

/// The project's root folder.
#[must_use]
pub fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).ancestors().nth(2).map_or_else(PathBuf::new, Path::to_path_buf)
}
