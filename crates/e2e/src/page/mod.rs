//! A screen, with the words the stories are told in: what is seen and pressed here, what hands do beyond that in [`hands`], what
//! is asked of the browser itself in [`looks`].

mod hands;
mod looks;

pub use hands::ENTER;
pub use looks::Barriers;

use crate::Server;
use anyhow::{Context, Result, bail};
use std::{path::Path, time::Duration};
use thirtyfour::{error::WebDriverErrorInner, prelude::*};

/// How long a state is waited for before a test fails.
const PATIENCE: Duration = Duration::from_secs(60);
const LOOK_EVERY: Duration = Duration::from_millis(50);
/// How long something is looked for in what was found before.
const AFRESH: Duration = Duration::from_secs(1);

/// A screen in the browser, with the words the stories are told in.
#[derive(Debug, Clone)]
pub struct Page {
    pub(crate) driver: WebDriver,
    pub(crate) driver_url: String,
    pub(crate) address: String,
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
    pub(crate) async fn carry(&self, cookie: &str) -> Result<()> {
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
}
