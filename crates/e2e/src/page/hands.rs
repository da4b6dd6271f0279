//! What hands do on a screen: drag, type, turn the wheel.

use super::Page;
use anyhow::{Result, bail};

/// Keys, as the driver's protocol names them.
pub const ENTER: &str = "\u{e007}";
const TAB: &str = "\u{e004}";
/// Targets at the most between one and the next.
const MOST_TABS: usize = 150;

impl Page {
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
        self.tab_to(css).await?;
        self.press_key(keys).await
    }

    /// Goes on by Tab until what the selector finds has the focus.
    ///
    /// # Errors
    /// When Tab never leads there.
    pub async fn tab_to(&self, css: &str) -> Result<()> {
        let quoted = serde_json::to_string(css)?;
        // What chooses a file is drawn by what stands around it.
        self.wait_for(&format!("return document.querySelectorAll({quoted}).length")).await?;
        let is_there = format!("return document.activeElement?.matches({quoted}) ?? false");
        for _ in 0..MOST_TABS {
            if self.script(&is_there).await? == true {
                return Ok(());
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
}
