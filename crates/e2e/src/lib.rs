//! The real binary and a real browser, for tests, screenshots and benchmarks.

mod browser;
pub mod plant;
mod server;

pub use browser::{Browser, Page};
pub use server::{PASSWORD, Server, binary};

use std::path::{Path, PathBuf};

/// The project's root folder.
#[must_use]
pub fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).ancestors().nth(2).map_or_else(PathBuf::new, Path::to_path_buf)
}
