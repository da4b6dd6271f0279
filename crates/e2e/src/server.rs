//! A running `fair-tally` of its own.

use crate::root;
use anyhow::{Context, Result, bail};
use serde_json::{Value, json};
use std::{
    io::{BufRead, BufReader},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
};

/// The password of everybody who signs in on servers of tests.
pub const PASSWORD: &str = "gravel ladder oyster";

/// Code of the first administrator.
const FIRST: &str = "admin";

/// A server on a free port. It ends when this is dropped.
#[derive(Debug)]
pub struct Server {
    child: Child,
    pub address: String,
    client: reqwest::Client,
    is_demo: bool,
    /// What the server printed for the first administrator, where nobody could sign in yet.
    pub first_code: Option<String>,
    /// Of the first administrator, once it was needed.
    session: tokio::sync::Mutex<Option<String>>,
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

    /// As [`Self::serve`], with more arguments, asked by that client and at that host name.
    ///
    /// # Errors
    /// When the binary is not built or does not start.
    pub fn serve_with(data: &Path, clock: &str, more: &[&str], client: reqwest::Client) -> Result<Self> {
        let mut command = Command::new(binary(false));
        command.args(["serve", "--clock", clock]).args(more);
        let mut server = Self::spawn(command, data)?;
        server.client = client;
        Ok(server)
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
        // Receivers of webhooks are on the machine of the test.
        command.args(["--webhooks-to", "127.0.0.0/8,::1/128"]);
        command.arg("--data").arg(data).args(["--port", "0"]).env("RUST_LOG", "warn").stdout(Stdio::piped());
        let mut child = command.spawn().with_context(|| format!("starting {command:?}: build it first"))?;
        let output = BufReader::new(child.stdout.take().context("the server has no standard output")?);
        let mut first_code = None;
        let is_demo = command.get_args().any(|argument| argument == "demo");
        for line in output.lines() {
            let line = line?;
            if let Some(rest) = line.split("with the code ").nth(1) {
                first_code = rest.split(',').next().map(String::from);
            }
            if let Some(address) = line.split("Fair Tally is at ").nth(1) {
                let (address, client, session) = (address.trim().into(), crate::client(), Default::default());
                return Ok(Self { child, address, client, is_demo, first_code, session });
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

    /// One request of the first administrator's with a JSON body; the answer's status and body. A session that the clock of
    /// the test has outlived is begun anew.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn send(&self, method: &str, path: &str, body: Option<Value>) -> Result<(u16, Value)> {
        let (status, answer) = self.send_with(&self.cookie().await?, method, path, body.clone()).await?;
        if status != 401 {
            return Ok((status, answer));
        }
        *self.session.lock().await = None;
        self.send_with(&self.cookie().await?, method, path, body).await
    }

    /// One request with that cookie.
    async fn send_with(&self, cookie: &str, method: &str, path: &str, body: Option<Value>) -> Result<(u16, Value)> {
        let method = reqwest::Method::from_bytes(method.as_bytes())?;
        let mut request = self.client.request(method, format!("{}/api/v1{path}", self.address));
        request = request.header("cookie", cookie);
        if let Some(body) = body {
            request = request.header("content-type", "application/json").body(body.to_string());
        }
        let answer = request.send().await?;
        let status = answer.status().as_u16();
        let text = answer.text().await?;
        Ok((status, serde_json::from_str(&text).unwrap_or(Value::String(text))))
    }

    /// Asked at that host from now on, whatever address it listens at.
    #[must_use]
    pub fn asked_at(mut self, host: &str) -> Self {
        self.address = self.address.replace("0.0.0.0", host);
        self
    }

    /// What asks it.
    #[must_use]
    pub fn client(&self) -> &reqwest::Client {
        &self.client
    }

    /// The cookie of the first administrator's session.
    ///
    /// # Errors
    /// When they can't sign in.
    pub async fn cookie(&self) -> Result<String> {
        let mut session = self.session.lock().await;
        if let Some(cookie) = session.as_ref() {
            return Ok(cookie.clone());
        }
        let begun = match &self.first_code {
            _ if self.is_demo => self.enter("/session/demo", self.demo_administrator().await?).await?,
            Some(code) => {
                let first = self.enter("/session/code", json!({"code": code, "password": PASSWORD})).await;
                // Used before: the password is set.
                match first {
                    Ok(cookie) => cookie,
                    Err(_used) => self.enter("/session", json!({"person": FIRST, "password": PASSWORD})).await?,
                }
            }
            None => self.enter("/session", json!({"person": FIRST, "password": PASSWORD})).await?,
        };
        *session = Some(begun.clone());
        Ok(begun)
    }

    async fn demo_administrator(&self) -> Result<Value> {
        let asked = self.client.get(format!("{}/api/v1/session", self.address)).send().await?;
        let view: Value = serde_json::from_str(&asked.text().await?)?;
        let people = view["demo"].as_array().context("the demo names nobody")?;
        let found =
            people.iter().find(|one| one["role"] == "administrator").context("the demo has no administrator")?;
        Ok(json!({"person": found["code"]}))
    }

    /// The cookie of a new session of that person's, who gets a password where they need one.
    ///
    /// # Errors
    /// When they can't sign in.
    pub async fn sign_in(&self, person: &str) -> Result<String> {
        if self.is_demo {
            return self.enter("/session/demo", json!({ "person": person })).await;
        }
        let made = self.post(&format!("/people/{person}/reset-code"), Value::Null).await?;
        let by = json!({"person": person, "code": made["code"], "password": PASSWORD});
        self.enter("/session/code", by).await
    }

    /// A key of that name and role.
    ///
    /// # Errors
    /// When none is made.
    pub async fn key(&self, name: &str, role: &str) -> Result<String> {
        let made = self.post("/keys", json!({"name": name, "role": role})).await?;
        Ok(made["key"].as_str().context("a key")?.to_owned())
    }

    /// What is at a whole address of this server, as the first administrator gets it.
    ///
    /// # Errors
    /// When it is no success.
    pub async fn download(&self, address: &str) -> Result<Vec<u8>> {
        let answer = self.client.get(address).header("cookie", self.cookie().await?).send().await?;
        Ok(answer.error_for_status()?.bytes().await?.to_vec())
    }

    /// The cookie of one more session of the first administrator's, with the password.
    ///
    /// # Errors
    /// When they can't sign in.
    pub async fn sign_in_first(&self) -> Result<String> {
        self.enter("/session", json!({"person": FIRST, "password": PASSWORD})).await
    }

    /// Whether a cookie, of this server or of one before it on the same folder, is that of somebody signed in.
    ///
    /// # Errors
    /// When the server does not answer.
    pub async fn is_signed_in(&self, cookie: &str) -> Result<bool> {
        // A cookie is called by the port, and a server that is started again has another one here.
        let (_, secret) = cookie.split_once('=').context("a cookie has a name")?;
        let port = self.address.rsplit(':').next().unwrap_or_default();
        let (_, view) = self.send_with(&format!("fair-tally-{port}={secret}"), "GET", "/session", None).await?;
        Ok(view["signed_in"].is_object())
    }

    /// Takes a file of CSV in, and keeps it.
    ///
    /// # Errors
    /// When a row is refused, or the server does not answer.
    pub async fn import(&self, kind: &str, file: String) -> Result<()> {
        let request = self.client.post(format!("{}/api/v1/import/{kind}?dry_run=false", self.address));
        let request = request.header("cookie", self.cookie().await?).header("content-type", "text/csv");
        let receipt: Value = serde_json::from_str(&request.body(file).send().await?.error_for_status()?.text().await?)?;
        anyhow::ensure!(receipt["refused"] == 0, "{receipt}");
        Ok(())
    }

    async fn enter(&self, path: &str, body: Value) -> Result<String> {
        let request = self.client.post(format!("{}/api/v1{path}", self.address));
        let answer = request.header("content-type", "application/json").body(body.to_string()).send().await?;
        let set = answer.headers().get("set-cookie").and_then(|set| set.to_str().ok()).map(String::from);
        let Some(set) = set else { bail!("{path} lets nobody in: {}", answer.text().await?) };
        Ok(set.split(';').next().unwrap_or_default().to_owned())
    }

    /// What a path answers.
    ///
    /// # Errors
    /// When it is no success.
    pub async fn get(&self, path: &str) -> Result<Value> {
        self.expect("GET", path, None).await
    }

    /// Asks, and takes the answer as it comes: what it takes a client to read it is not the server's.
    ///
    /// # Errors
    /// When it is no success.
    pub async fn fetch(&self, path: &str) -> Result<Vec<u8>> {
        let asked = self.client.get(format!("{}/api/v1{path}", self.address)).header("cookie", self.cookie().await?);
        let answer = asked.send().await?.error_for_status()?;
        Ok(answer.bytes().await?.into())
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
