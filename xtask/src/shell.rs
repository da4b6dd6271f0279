//! Running other programs from the project's root.

use anyhow::{Context, Result, bail};
use std::{
    path::{Path, PathBuf},
    process::{Command, Stdio},
};

/// The project's root folder.
pub fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().map_or_else(PathBuf::new, Path::to_path_buf)
}

/// Cargo, in the project's root.
pub fn cargo() -> Command {
    let mut command = Command::new(std::env::var_os("CARGO").unwrap_or_else(|| "cargo".into()));
    command.current_dir(root());
    // What cargo told this program of itself is no part of what it builds: some crates would be built anew.
    let of_its_own = ["CARGO_PKG_", "CARGO_MANIFEST_", "CARGO_BIN_", "CARGO_CRATE_"];
    let is_its_own = |name: &str| of_its_own.iter().any(|own| name.starts_with(own));
    std::env::vars().filter(|(name, _)| is_its_own(name)).for_each(|(name, _)| _ = command.env_remove(name));
    command
}

/// Cargo for tests: what is compiled of the project is linted by the very pass that compiles it, where checking all of it by itself
/// goes through every crate twice. A warning is an error.
pub fn linting_cargo() -> Command {
    let mut command = cargo();
    // As `cargo clippy` gives its driver to cargo, and itself what to deny.
    command.env("RUSTC_WORKSPACE_WRAPPER", "clippy-driver").env("CLIPPY_ARGS", "--deny=warnings");
    command
}

/// npm, in the web project.
pub fn npm() -> Command {
    let mut command = Command::new("npm");
    command.current_dir(root().join("web"));
    command
}

/// Runs a command to its end, and fails when it fails.
pub fn run(command: &mut Command) -> Result<()> {
    eprintln!("» {}", shown(command));
    let status = command.status().with_context(|| format!("starting {}", shown(command)))?;
    if !status.success() {
        bail!("{} failed: {status}", shown(command));
    }
    Ok(())
}

/// What a command prints.
pub fn output(command: &mut Command) -> Result<Vec<u8>> {
    let done = command.stderr(Stdio::inherit()).output().with_context(|| format!("starting {}", shown(command)))?;
    if !done.status.success() {
        bail!("{} failed: {}", shown(command), done.status);
    }
    Ok(done.stdout)
}

fn shown(command: &Command) -> String {
    let parts = std::iter::once(command.get_program()).chain(command.get_args());
    parts.map(|part| part.to_string_lossy().into_owned()).collect::<Vec<_>>().join(" ")
}
