//! What a person sees on the screen, and waits for.

use std::time::{Duration, Instant};

use anyhow::{Context, bail};
use thirtyfour::prelude::*;

use super::{Browser, PATIENCE};

impl Browser {
    /// Waits for the element with a test id to be there.
    ///
    /// # Errors
    /// When it does not appear.
    pub async fn find(&self, test_id: &str) -> anyhow::Result<WebElement> {
        let found = self.window.query(Self::by(test_id)).wait(PATIENCE, Duration::from_millis(50)).first().await;
        found.with_context(|| format!("'{test_id}' does not appear"))
    }

    /// Waits for something to be there by its CSS selector.
    ///
    /// # Errors
    /// When it does not appear.
    pub async fn wait_for(&self, selector: &str) -> anyhow::Result<WebElement> {
        let found = self.window.query(By::Css(selector)).wait(PATIENCE, Duration::from_millis(50)).first().await;
        found.with_context(|| format!("'{selector}' does not appear"))
    }

    /// Waits until the text of an element holds `wanted`.
    ///
    /// # Errors
    /// When it never does; tells what it held last.
    pub async fn expect(&self, test_id: &str, wanted: &str) -> anyhow::Result<String> {
        let mut last = String::new();
        let begin = Instant::now();
        while begin.elapsed() < PATIENCE {
            // An element may be redrawn between finding and reading it.
            if let Ok(element) = self.window.find(Self::by(test_id)).await
                && let Ok(text) = element.text().await
            {
                if text.contains(wanted) {
                    return Ok(text);
                }
                last = text;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        bail!("'{test_id}' does not say '{wanted}' but '{last}'; the page: {}", self.as_it_is().await)
    }

    /// Where the focus is, what lies open over the bench, and how the panel reads: what a failed test is told with.
    pub(super) async fn as_it_is(&self) -> String {
        let script = "const shown = (s) => [...document.querySelectorAll(s)].map((e) => e.innerText.slice(0, 2000));
            const focus = document.activeElement;
            return { focus: focus && (focus.dataset.testid ?? focus.outerHTML.slice(0, 200)),
                open: shown('.v-overlay--active'), panel: shown('[data-testid=\"panel\"], aside') };";
        match self.window.execute(script, vec![]).await {
            Ok(told) => told.json().to_string(),
            Err(error) => format!("does not answer: {error}"),
        }
    }

    /// Waits until the text of an element holds one of the wanted texts.
    ///
    /// # Errors
    /// When it never does.
    pub async fn expect_one_of(&self, test_id: &str, wanted: &[&str]) -> anyhow::Result<String> {
        let begin = Instant::now();
        while begin.elapsed() < PATIENCE {
            if let Ok(element) = self.window.find(Self::by(test_id)).await
                && let Ok(text) = element.text().await
                && wanted.iter().any(|w| text.contains(w))
            {
                return Ok(text);
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        bail!("'{test_id}' says none of {wanted:?}; the page: {}", self.as_it_is().await)
    }

    /// Waits until the drawing of the part is there.
    pub(super) async fn drawn(&self) -> anyhow::Result<WebElement> {
        let begin = Instant::now();
        loop {
            let viewport = self.find("viewport").await?;
            if viewport.attr("data-loading").await?.as_deref() == Some("false") {
                // Views fly for a quarter of a second unless motion is unwanted, and are drawn without a graphics card.
                tokio::time::sleep(Duration::from_millis(400)).await;
                return Ok(viewport);
            }
            if begin.elapsed() > PATIENCE {
                bail!("the part is not drawn");
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }

    /// Waits until the path of the address ends so.
    ///
    /// # Errors
    /// When it never does.
    pub async fn expect_path(&self, ending: &str) -> anyhow::Result<()> {
        let begin = Instant::now();
        while !self.path().await?.ends_with(ending) {
            if begin.elapsed() > PATIENCE {
                bail!("the address is {}, not …{ending}", self.path().await?);
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        Ok(())
    }

    /// The path of the address the browser is at.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn path(&self) -> anyhow::Result<String> {
        Ok(self.window.current_url().await?.path().to_owned())
    }

    /// What of the page as it is now keeps people out, by the success criteria of WCAG 2.1 to level AA: a line each.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn barriers(&self) -> anyhow::Result<Vec<String>> {
        let library = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/node_modules/axe-core/axe.min.js");
        self.window.execute(std::fs::read_to_string(library)?, vec![]).await?;
        let found = self.window.execute_async(include_str!("../barriers.js"), vec![]).await?;
        Ok(serde_json::from_value(found.json().clone())?)
    }

    /// Whether no element with the test id is there now.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn is_absent(&self, test_id: &str) -> anyhow::Result<bool> {
        Ok(self.window.find_all(Self::by(test_id)).await?.is_empty())
    }

    /// Where the model is looked at from, once it is drawn.
    ///
    /// # Errors
    /// When it is not drawn.
    pub async fn eye(&self) -> anyhow::Result<String> {
        let viewport = self.drawn().await?;
        viewport.attr("data-eye").await?.context("the viewport does not say where it is looked at from")
    }

    /// Where the model is looked at from, once that is no longer from where it was and stays.
    ///
    /// # Errors
    /// When it goes on being looked at from there.
    pub async fn eye_away_from(&self, before: &str) -> anyhow::Result<String> {
        let (begin, mut last) = (Instant::now(), before.to_owned());
        while begin.elapsed() < PATIENCE {
            tokio::time::sleep(Duration::from_millis(300)).await;
            let now = self.eye().await?;
            if now != before && now == last {
                return Ok(now);
            }
            last = now;
        }
        bail!("it is looked at from {before} still")
    }
}
