//! Headless Chromium through ChromeDriver. Everything waits on states, nothing sleeps.

use crate::{Server, page::Page};
use anyhow::{Context, Result, bail};
use std::{
    io::{BufRead, BufReader},
    process::{Child, Command, Stdio},
};
use thirtyfour::{ChromiumLikeCapabilities, prelude::*};

/// A driver with one browser. Both end when this is dropped.
#[derive(Debug)]
pub struct Browser {
    driver_process: Child,
    driver: WebDriver,
    driver_url: String,
    profile: tempfile::TempDir,
}

/// Times that a driver is started before it is given up.
const STARTS: u32 = 5;

/// A driver that listens, with its port. One that finds the port it drew taken for one of the two protocols ends at once: then
/// another is started.
fn driver() -> Result<(Child, String)> {
    for _ in 0..STARTS {
        let mut process = Command::new("/usr/bin/chromedriver")
            .arg("--port=0")
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .context("starting /usr/bin/chromedriver")?;
        let output = process.stdout.take().context("chromedriver has no standard output")?;
        let mut lines = BufReader::new(output).lines().map_while(Result::ok);
        let port = lines.find_map(|line| Some(line.split_once("started successfully on port ")?.1.to_owned()));
        if let Some(port) = port {
            // Its output is read to the end, or it would stop when the pipe is full.
            std::thread::spawn(move || lines.for_each(drop));
            return Ok((process, port.trim_end_matches('.').to_owned()));
        }
        process.wait()?;
    }
    bail!("chromedriver ended before it said its port, {STARTS} times")
}

impl Browser {
    /// A browser whose pages are `width` by `height`.
    ///
    /// # Errors
    /// When ChromeDriver or Chromium do not start.
    pub async fn open(width: u32, height: u32) -> Result<Self> {
        crate::provide();
        let (driver_process, port) = driver()?;
        let profile = tempfile::tempdir()?;
        let mut capabilities = DesiredCapabilities::chrome();
        capabilities.set_binary("/usr/bin/chromium")?;
        for argument in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-dev-shm-usage",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
            &format!("--user-data-dir={}", profile.path().display()),
        ] {
            capabilities.add_arg(argument)?;
        }
        let driver_url = format!("http://127.0.0.1:{port}");
        let driver = WebDriver::new(&driver_url, capabilities).await?;
        let browser = Self { driver_process, driver, driver_url, profile };
        browser.resize(width, height).await?;
        // Some versions give a window that nobody looks at no focus, and its fields no event of it.
        let focused = serde_json::json!({"enabled": true});
        browser.at("about:blank").command("Emulation.setFocusEmulationEnabled", focused).await?;
        Ok(browser)
    }

    /// Sets the size of the page itself, whatever the window's frame takes.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn resize(&self, width: u32, height: u32) -> Result<()> {
        self.driver.set_window_rect(0, 0, width, height).await?;
        let inner = self.driver.execute("return [window.innerWidth, window.innerHeight]", vec![]).await?;
        let inner: (u32, u32) = inner.convert()?;
        let (more_x, more_y) = (width.saturating_sub(inner.0), height.saturating_sub(inner.1));
        self.driver.set_window_rect(0, 0, width + more_x, height + more_y).await?;
        Ok(())
    }

    /// The page, at a server, with its first administrator signed in.
    ///
    /// # Errors
    /// When they can't sign in.
    pub async fn page(&self, server: &Server) -> Result<Page> {
        let page = self.at(&server.address);
        page.carry(&server.cookie().await?).await?;
        Ok(page)
    }

    /// The page, at a server, with nobody signed in.
    #[must_use]
    pub fn at(&self, address: &str) -> Page {
        Page { driver: self.driver.clone(), driver_url: self.driver_url.clone(), address: address.into() }
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        // Closing the session would need the runtime, which may be gone: driver and browser are ended as they are, the
        // browser by the profile that is its alone.
        self.driver.clone().leak().ok();
        self.driver_process.kill().ok();
        self.driver_process.wait().ok();
        let profile = format!("user-data-dir={}", self.profile.path().display());
        Command::new("pkill").args(["-9", "-f", &profile]).stderr(Stdio::null()).status().ok();
    }
}
