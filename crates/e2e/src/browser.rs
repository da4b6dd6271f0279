//! Headless Chromium through ChromeDriver. Everything waits on states, nothing sleeps.

use crate::Server;
use anyhow::{Context, Result, bail};
use base64::{Engine, prelude::BASE64_STANDARD as BASE64};
use std::{
    io::{BufRead, BufReader},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
    time::Duration,
};
use thirtyfour::{ChromiumLikeCapabilities, error::WebDriverErrorInner, prelude::*};

/// How long a state is waited for before a test fails.
const PATIENCE: Duration = Duration::from_secs(60);
const LOOK_EVERY: Duration = Duration::from_millis(50);
/// Keys, as the driver's protocol names them.
pub const ENTER: &str = "\u{e007}";
const TAB: &str = "\u{e004}";
/// Targets at the most between one and the next.
const MOST_TABS: usize = 150;
/// How long something is looked for in what was found before.
const AFRESH: Duration = Duration::from_secs(1);

/// A driver with one browser. Both end when this is dropped.
#[derive(Debug)]
pub struct Browser {
    driver_process: Child,
    driver: WebDriver,
    driver_url: String,
    profile: tempfile::TempDir,
}

/// What is looked for on a screen that keeps somebody from using it.
#[derive(Debug, Clone, Copy)]
pub enum Barriers {
    All,
    /// What can't be told from what stands around it.
    Colours,
}

/// A screen in the browser, with the words the stories are told in.
#[derive(Debug, Clone)]
pub struct Page {
    driver: WebDriver,
    driver_url: String,
    address: String,
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

impl Page {
    /// Signs somebody in, in place of whoever was; screens that are opened from now on are theirs.
    ///
    /// # Errors
    /// When they can't sign in.
    pub async fn sign_in(&self, server: &Server, person: &str) -> Result<()> {
        self.carry(&server.sign_in(person).await?).await
    }

    /// Gives the browser a cookie, as the server would.
    async fn carry(&self, cookie: &str) -> Result<()> {
        let (name, value) = cookie.split_once('=').context("a cookie has a name")?;
        let given = serde_json::json!({"name": name, "value": value, "url": self.address, "httpOnly": true,
            "sameSite": "Lax", "path": "/"});
        self.command("Network.setCookie", given).await
    }

    /// Opens a screen.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn go(&self, path: &str) -> Result<()> {
        Ok(self.driver.goto(format!("{}{path}", self.address)).await?)
    }

    /// The first element of that CSS selector, once it is shown.
    ///
    /// # Errors
    /// When it never is.
    pub async fn find(&self, css: &str) -> Result<WebElement> {
        let begun = std::time::Instant::now();
        loop {
            let query = self.driver.query(By::Css(css.to_owned())).wait(PATIENCE, LOOK_EVERY).and_displayed();
            match query.first().await {
                // It was drawn anew between being found and being looked at.
                Err(error)
                    if matches!(error.as_inner(), WebDriverErrorInner::StaleElementReference(_))
                        && begun.elapsed() < PATIENCE => {}
                found => return found.with_context(|| format!("nothing is shown at {css}")),
            }
        }
    }

    /// All elements of that selector there are now.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn all(&self, css: &str) -> Result<Vec<WebElement>> {
        Ok(self.driver.find_all(By::Css(css.to_owned())).await?)
    }

    /// Presses what the selector finds, once it can be pressed.
    ///
    /// # Errors
    /// When it never can.
    pub async fn press(&self, css: &str) -> Result<()> {
        let element = self.find(css).await?;
        element.wait_until().wait(PATIENCE, LOOK_EVERY).clickable().await.with_context(|| format!("pressing {css}"))?;
        element.scroll_into_view().await?;
        element.click().await.with_context(|| format!("pressing {css}"))
    }

    /// Presses the button or link with that text inside what the selector finds.
    ///
    /// # Errors
    /// When there is none.
    pub async fn press_text(&self, within: &str, text: &str) -> Result<()> {
        let path = format!(".//*[self::button or self::a][contains(normalize-space(.), \"{text}\")]");
        let begun = std::time::Instant::now();
        loop {
            // What it stands in may be drawn anew meanwhile, or be another by then: it is looked for afresh each time.
            let around = self.find(within).await?;
            let query = around.query(By::XPath(path.clone())).wait(AFRESH, LOOK_EVERY).and_displayed();
            match query.first().await {
                Err(_not_yet) if begun.elapsed() < PATIENCE => {}
                found => {
                    let element = found.with_context(|| format!("no {text:?} to press in {within}"))?;
                    element.wait_until().wait(PATIENCE, LOOK_EVERY).clickable().await?;
                    element.scroll_into_view().await?;
                    return Ok(element.click().await?);
                }
            }
        }
    }

    /// Types into a field in place of what is there.
    ///
    /// # Errors
    /// When there is no such field.
    pub async fn fill(&self, css: &str, text: &str) -> Result<()> {
        let field = self.find(css).await?;
        // By its own events, because a date and time field takes keys by locale.
        let script = "const set = Object.getOwnPropertyDescriptor(arguments[0].constructor.prototype, 'value').set;
            arguments[0].focus(); set.call(arguments[0], arguments[1]);
            arguments[0].dispatchEvent(new Event('input', { bubbles: true }));
            arguments[0].dispatchEvent(new Event('change', { bubbles: true }));";
        self.driver.execute(script, vec![field.to_json()?, text.into()]).await?;
        Ok(())
    }

    /// Gives a file to a file field, hidden or not.
    ///
    /// # Errors
    /// When there is no such field.
    pub async fn give_file(&self, css: &str, file: &Path) -> Result<()> {
        let query = self.driver.query(By::Css(css.to_owned())).wait(PATIENCE, LOOK_EVERY);
        Ok(query.first().await?.send_keys(file.display().to_string()).await?)
    }

    /// Waits until what the selector finds shows that text, and answers all it shows.
    ///
    /// # Errors
    /// When it never does, with what it showed last.
    pub async fn see(&self, css: &str, text: &str) -> Result<String> {
        let start = std::time::Instant::now();
        let mut last = String::new();
        while start.elapsed() < PATIENCE {
            // An element that is replaced while it is read is read again.
            if let Ok(element) = self.driver.find(By::Css(css.to_owned())).await
                && let Ok(shown) = element.text().await
            {
                if shown.contains(text) {
                    return Ok(shown);
                }
                last = shown;
            }
            tokio::time::sleep(LOOK_EVERY).await;
        }
        bail!("{css} never showed {text:?}, but {last:?}")
    }

    /// Waits until there are that many elements.
    ///
    /// # Errors
    /// When there never are.
    pub async fn see_count(&self, css: &str, count: usize) -> Result<()> {
        let start = std::time::Instant::now();
        let mut last = 0;
        while start.elapsed() < PATIENCE {
            last = self.all(css).await?.len();
            if last == count {
                return Ok(());
            }
            tokio::time::sleep(LOOK_EVERY).await;
        }
        bail!("{css}: {last} there, not {count}")
    }

    /// Waits until the address holds that text.
    ///
    /// # Errors
    /// When it never does.
    pub async fn see_address(&self, text: &str) -> Result<()> {
        let start = std::time::Instant::now();
        while start.elapsed() < PATIENCE {
            if self.driver.current_url().await?.as_str().contains(text) {
                return Ok(());
            }
            tokio::time::sleep(LOOK_EVERY).await;
        }
        bail!("the address never held {text:?}: {}", self.driver.current_url().await?)
    }

    /// Drags what the selector finds down by so many pixels (up where negative).
    ///
    /// # Errors
    /// When there is no such element.
    pub async fn drag_down(&self, css: &str, pixels: i64) -> Result<()> {
        self.drag_by(css, 0, pixels).await
    }

    /// Drags what the selector finds so many pixels to the right and down.
    ///
    /// # Errors
    /// When there is no such element.
    pub async fn drag_by(&self, css: &str, right: i64, down: i64) -> Result<()> {
        let handle = self.find(css).await?;
        let chain = self.driver.action_chain().move_to_element_center(&handle).click_and_hold();
        let chain = chain.move_by_offset(right / 2, down / 2);
        Ok(chain.move_by_offset(right - right / 2, down - down / 2).release().perform().await?)
    }

    /// Drags what one selector finds onto what another finds.
    ///
    /// # Errors
    /// When there is no such element.
    pub async fn drag_to(&self, css: &str, onto: &str) -> Result<()> {
        let (card, place) = (self.find(css).await?, self.find(onto).await?);
        let chain = self.driver.action_chain().move_to_element_center(&card).click_and_hold();
        Ok(chain.move_by_offset(0, 9).move_to_element_center(&place).release().perform().await?)
    }

    /// Presses a key wherever the page has its focus.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn press_key(&self, key: &str) -> Result<()> {
        Ok(self.driver.action_chain().send_keys(key).perform().await?)
    }

    /// Goes on by Tab until what the selector finds has the focus, and types there.
    ///
    /// # Errors
    /// When Tab never leads there.
    pub async fn tab_and(&self, css: &str, keys: &str) -> Result<()> {
        self.find(css).await?;
        let is_there = format!("return document.activeElement?.matches({}) ?? false", serde_json::to_string(css)?);
        for _ in 0..MOST_TABS {
            if self.script(&is_there).await? == true {
                return self.press_key(keys).await;
            }
            self.press_key(TAB).await?;
        }
        bail!("Tab never leads to {css}")
    }

    /// Turns the wheel towards the page over what the selector finds, as often as said.
    ///
    /// # Errors
    /// When there is no such element.
    pub async fn wheel_in(&self, css: &str, turns: u32) -> Result<()> {
        let element = self.find(css).await?;
        // What is scrolled out of sight gets no wheel.
        element.scroll_into_view().await?;
        let place = element.rect().await?;
        // The driver's own words for a wheel (W3C WebDriver, actions), which the client library has none for.
        let x = (place.x + place.width / 2.0) as i64;
        let y = (place.y + place.height / 2.0) as i64;
        let turn = serde_json::json!({"type": "scroll", "x": x, "y": y, "deltaX": 0, "deltaY": -240, "duration": 0,
            "origin": "viewport"});
        let turns = vec![turn; turns as usize];
        let body = serde_json::json!({"actions": [{"type": "wheel", "id": "wheel", "actions": turns}]});
        let url = format!("{}/session/{}/actions", self.driver_url, self.driver.session_id());
        let answer = crate::client().post(url).body(body.to_string()).send().await?;
        anyhow::ensure!(answer.status().is_success(), "{}", answer.text().await?);
        Ok(())
    }

    /// What a script answers.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn script(&self, script: &str) -> Result<serde_json::Value> {
        Ok(self.driver.execute(script, vec![]).await?.json().clone())
    }

    /// Gives the browser a command of its own (Chrome DevTools Protocol).
    async fn command(&self, command: &str, given: serde_json::Value) -> Result<()> {
        let url = format!("{}/session/{}/goog/cdp/execute", self.driver_url, self.driver.session_id());
        let body = serde_json::json!({"cmd": command, "params": given});
        crate::client().post(url).body(body.to_string()).send().await?.error_for_status()?;
        Ok(())
    }

    /// From now on nothing comes from addresses that contain one of these.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn cut_off(&self, addresses: &[&str]) -> Result<()> {
        let urls: Vec<String> = addresses.iter().map(|part| format!("*{part}*")).collect();
        self.command("Network.enable", serde_json::json!({})).await?;
        self.command("Network.setBlockedURLs", serde_json::json!({ "urls": urls })).await
    }

    /// Gives the browser a device that holds passkeys and says yes to whatever it is asked, as with a finger.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn hold_passkeys(&self) -> Result<()> {
        self.command("WebAuthn.enable", serde_json::json!({})).await?;
        let device = serde_json::json!({"protocol": "ctap2", "transport": "internal", "hasResidentKey": true,
            "hasUserVerification": true, "isUserVerified": true, "automaticPresenceSimulation": true});
        self.command("WebAuthn.addVirtualAuthenticator", serde_json::json!({ "options": device })).await
    }

    /// Shows the page as it is printed, or on screen again.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn as_printed(&self, printed: bool) -> Result<()> {
        let media = if printed { "print" } else { "" };
        self.command("Emulation.setEmulatedMedia", serde_json::json!({ "media": media })).await
    }

    /// What axe-core finds wrong with the page that is serious or critical, targets too small to hit among it (WCAG 2.2,
    /// 2.5.8): the rule and the elements at fault.
    ///
    /// # Errors
    /// When the web's packages are not installed, or the driver's own.
    pub async fn barriers(&self, among: Barriers) -> Result<Vec<(String, Vec<String>)>> {
        let file = crate::root().join("web/node_modules/axe-core/axe.min.js");
        let axe = std::fs::read_to_string(&file).with_context(|| format!("reading {}", file.display()))?;
        self.driver.execute(axe, vec![]).await?;
        let run = "const [only, done] = arguments;
            axe.run(document, { resultTypes: ['violations'], ...(only.length ? { runOnly: only } : { rules: { 'target-size': { enabled: true } } }) }).then((found) => done(found.violations
                .filter((one) => one.impact === 'serious' || one.impact === 'critical')
                .map((one) => [one.id, one.nodes.map((node) => node.html)])))";
        let only: &[&str] = match among {
            Barriers::All => &[],
            Barriers::Colours => &["color-contrast", "link-in-text-block"],
        };
        let found = self.driver.execute_async(run, vec![serde_json::json!(only)]).await?;
        Ok(serde_json::from_value(found.json().clone())?)
    }

    /// How many sheets of A4 the page takes when it is printed.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn sheets(&self) -> Result<usize> {
        // The driver's own words for printing (W3C WebDriver, print), which the client library has none for.
        let url = format!("{}/session/{}/print", self.driver_url, self.driver.session_id());
        let body = serde_json::json!({"page": {"width": 21.0, "height": 29.7}, "shrinkToFit": false});
        let answer = crate::client().post(url).body(body.to_string()).send().await?;
        let answer: serde_json::Value = serde_json::from_str(&answer.text().await?)?;
        let pdf = answer["value"].as_str().with_context(|| format!("nothing was printed: {answer}"))?;
        let pdf = BASE64.decode(pdf)?;
        // Each sheet is an object of the type Page, the list of them one of the type Pages (ISO 32000).
        let mark = b"/Type /Page";
        let is_page = |at: &usize| pdf[*at..].starts_with(mark) && pdf.get(at + mark.len()) != Some(&b's');
        Ok((0..pdf.len()).filter(is_page).count())
    }

    /// Pictures of one height as one, side by side.
    ///
    /// # Errors
    /// The driver's own, and those of files.
    pub async fn side_by_side(&self, pictures: &[PathBuf], file: &Path) -> Result<()> {
        let mut given = Vec::new();
        for picture in pictures {
            given.push(serde_json::json!(BASE64.encode(std::fs::read(picture)?)));
        }
        let script = "return (async () => {
            const load = async (data) => createImageBitmap(await (await fetch(`data:image/png;base64,${data}`)).blob());
            const all = await Promise.all(arguments[0].map(load)), gap = 24;
            const canvas = new OffscreenCanvas(all.reduce((wide, one) => wide + one.width + gap, -gap), all[0].height);
            const on = canvas.getContext('2d');
            let at = 0;
            for (const one of all) { on.drawImage(one, at, 0); at += one.width + gap; }
            const bytes = new Uint8Array(await (await canvas.convertToBlob()).arrayBuffer());
            let text = '';
            for (const byte of bytes) text += String.fromCharCode(byte);
            return btoa(text);
        })()";
        // A page of its own: the application's lets nothing be read that it did not bring.
        self.driver.goto("about:blank").await?;
        let drawn = self.driver.execute(script, vec![given.into()]).await?;
        let drawn: String = drawn.convert()?;
        Ok(std::fs::write(file, BASE64.decode(drawn)?)?)
    }

    /// The page as a PNG.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn picture(&self, file: &Path) -> Result<()> {
        Ok(self.driver.screenshot(file).await?)
    }
}
