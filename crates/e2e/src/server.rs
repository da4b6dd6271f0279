//! A running `fair-tally` of its own.

use crate::root;
use anyhow::{Context, Result, bail};
use serde_json::Value;
use std::{
    io::{BufRead, BufReader},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
};

/// A server on a free port. It ends when this is dropped.
#[derive(Debug)]
pub struct Server {
    child: Child,
    pub address: String,
    client: reqwest::Client,
}

/// The binary as built beside the tests, or the release one.
#[must_use]
pub fn binary(release: bool) -> PathBuf {
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from);
    target.join(if release { "release" } else { "debug" }).join("fair-tally")
}

impl Server {
    /// `fair-tally serve` over that folder, its clock standing at `clock`.
    ///
    /// # Errors
    /// When the binary is not built or does not start.
    pub fn serve(data: &Path, clock: &str) -> Result<Self> {
        Self::start(false, &["serve", "--clock", clock], data)
    }

    /// The release binary's `fair-tally serve` over that folder, by the machine's clock.
    ///
    /// # Errors
    /// When the binary is not built or does not start.
    pub fn serve_release(data: &Path) -> Result<Self> {
        Self::start(true, &["serve"], data)
    }

    /// The release binary's `fair-tally serve` over that folder, its clock standing at `clock`.
    ///
    /// # Errors
    /// When the binary is not built or does not start.
    pub fn serve_release_at(data: &Path, clock: &str) -> Result<Self> {
        Self::start(true, &["serve", "--clock", clock], data)
    }

    /// `fair-tally demo` over that folder, with the whole plant.
    ///
    /// # Errors
    /// When the binary is not built or does not start.
    pub fn demo(data: &Path, release: bool) -> Result<Self> {
        Self::start(release, &["demo"], data)
    }

    /// `fair-tally demo` over that folder, with one lift.
    ///
    /// # Errors
    /// When the binary is not built or does not start.
    pub fn small_demo(data: &Path) -> Result<Self> {
        Self::start(false, &["demo", "--size", "small"], data)
    }

    /// `fair-tally serve` over a disk of so many megabytes, which only the server sees, with a standing clock.
    ///
    /// # Errors
    /// When the binary is not built or does not start, or the system lets nobody have a disk of their own (`unshare`).
    pub fn serve_on_disk(megabytes: u32, folder: &Path, clock: &str) -> Result<Self> {
        let mount = format!("mount -t tmpfs -o size={megabytes}m tmpfs \"$1\" && shift && exec \"$@\"");
        let mut command = Command::new("unshare");
        command.args(["--map-root-user", "--mount", "sh", "-c", &mount, "sh"]).arg(folder).arg(binary(false));
        command.args(["serve", "--clock", clock]);
        Self::spawn(command, folder)
    }

    fn start(release: bool, arguments: &[&str], data: &Path) -> Result<Self> {
        let mut command = Command::new(binary(release));
        command.args(arguments);
        Self::spawn(command, data)
    }

    fn spawn(mut command: Command, data: &Path) -> Result<Self> {
        command.arg("--data").arg(data).args(["--port", "0"]).env("RUST_LOG", "warn").stdout(Stdio::piped());
        let mut child = command.spawn().with_context(|| format!("starting {command:?}: build it first"))?;
        let output = BufReader::new(child.stdout.take().context("the server has no standard output")?);
        for line in output.lines() {
            if let Some(address) = line?.split("Fair Tally is at ").nth(1) {
                return Ok(Self { child, address: address.trim().into(), client: reqwest::Client::new() });
            }
        }
        bail!("the server ended before it said where it is")
    }

    /// Ends the process at once, as a crash would (SIGKILL).
    ///
    /// # Errors
    /// When the process can't be reached.
    pub fn kill(mut self) -> Result<()> {
        self.child.kill()?;
        self.child.wait()?;
        Ok(())
    }

    /// Waits until the process, which was asked to end, has ended well.
    ///
    /// # Errors
    /// When it ends otherwise.
    pub fn ended(mut self) -> Result<()> {
        let status = self.child.wait()?;
        anyhow::ensure!(status.success(), "the server ended with {status}");
        Ok(())
    }

    /// A handle that can kill the process while requests are under way.
    #[must_use]
    pub fn pid(&self) -> u32 {
        self.child.id()
    }

    /// One request with a JSON body; the answer's status and body.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn send(&self, method: &str, path: &str, body: Option<Value>) -> Result<(u16, Value)> {
        let method = reqwest::Method::from_bytes(method.as_bytes())?;
        let mut request = self.client.request(method, format!("{}/api/v1{path}", self.address));
        if let Some(body) = body {
            request = request.header("content-type", "application/json").body(body.to_string());
        }
        let answer = request.send().await?;
        let status = answer.status().as_u16();
        let text = answer.text().await?;
        Ok((status, serde_json::from_str(&text).unwrap_or(Value::String(text))))
    }

    /// What a path answers.
    ///
    /// # Errors
    /// When it is no success.
    pub async fn get(&self, path: &str) -> Result<Value> {
        self.expect("GET", path, None).await
    }

    /// Sends a body.
    ///
    /// # Errors
    /// When it is no success.
    pub async fn post(&self, path: &str, body: Value) -> Result<Value> {
        self.expect("POST", path, Some(body)).await
    }

    /// Puts a body.
    ///
    /// # Errors
    /// When it is no success.
    pub async fn put(&self, path: &str, body: Value) -> Result<Value> {
        self.expect("PUT", path, Some(body)).await
    }

    async fn expect(&self, method: &str, path: &str, body: Option<Value>) -> Result<Value> {
        let (status, answer) = self.send(method, path, body).await?;
        if !(200..300).contains(&status) {
            bail!("{method} {path} answered {status}: {answer}");
        }
        Ok(answer)
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // Already gone is as good.
        self.child.kill().ok();
        self.child.wait().ok();
    }
}
