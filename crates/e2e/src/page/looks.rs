//! What is asked of the browser about a screen: scripts, barriers, paper, pictures.

use super::{LOOK_EVERY, PATIENCE, Page};
use anyhow::{Context, Result, bail};
use base64::{Engine, prelude::BASE64_STANDARD as BASE64};
use std::path::{Path, PathBuf};

/// What is looked for on a screen that keeps somebody from using it.
#[derive(Debug, Clone, Copy)]
pub enum Barriers {
    All,
    /// What can't be told from what stands around it.
    Colours,
}

impl Page {
    /// Waits until a script that is asked again and again answers a number above nothing.
    ///
    /// # Errors
    /// When it never does.
    pub async fn wait_for(&self, script: &str) -> Result<()> {
        let asked = format!("return (async () => {{ {script} }})()");
        let start = std::time::Instant::now();
        while start.elapsed() < PATIENCE {
            if self.script(&asked).await?.as_f64().is_some_and(|found| found > 0.0) {
                return Ok(());
            }
            tokio::time::sleep(LOOK_EVERY).await;
        }
        bail!("never: {script}")
    }

    /// Waits until the browser has kept the application and jobs, so that both open without a network.
    ///
    /// # Errors
    /// When it never does.
    pub async fn kept(&self) -> Result<()> {
        let kept = "return navigator.serviceWorker.controller !== null && (await caches.keys()).length > 0 && \
            (await new Promise((then) => { const open = indexedDB.open('fair-tally'); open.onsuccess = () => { \
                const all = open.result.transaction('kept').objectStore('kept').getAllKeys(); \
                all.onsuccess = () => then(all.result.filter((name) => name.startsWith('answer [\"work-order\"')).length) } }))";
        self.wait_for(kept).await.context("the application is not kept")
    }

    /// What a script answers.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn script(&self, script: &str) -> Result<serde_json::Value> {
        Ok(self.driver.execute(script, vec![]).await?.json().clone())
    }

    /// Gives the browser a command of its own (Chrome DevTools Protocol).
    pub(crate) async fn command(&self, command: &str, given: serde_json::Value) -> Result<()> {
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

    /// Shows the page as on a screen that is touched.
    ///
    /// # Errors
    /// The driver's own.
    pub async fn by_touch(&self) -> Result<()> {
        self.command("Emulation.setTouchEmulationEnabled", serde_json::json!({ "enabled": true })).await
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
