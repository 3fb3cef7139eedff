//! What a person does with mouse and keyboard.

use std::time::{Duration, Instant};

use anyhow::{Context, bail};
use thirtyfour::prelude::*;

use super::{Browser, PATIENCE};

impl Browser {
    /// Clicks the element with a test id.
    ///
    /// # Errors
    /// When it cannot be clicked.
    pub async fn click(&self, test_id: &str) -> anyhow::Result<()> {
        let begin = Instant::now();
        loop {
            let element = self.find(test_id).await?;
            element.scroll_into_view().await?;
            match element.click().await {
                Ok(()) => return Ok(()),
                // Something is still moving over it, or it was drawn anew: a person would wait a moment too.
                Err(_) if begin.elapsed() < PATIENCE => tokio::time::sleep(Duration::from_millis(60)).await,
                Err(error) => return Err(error).with_context(|| format!("'{test_id}' cannot be clicked")),
            }
        }
    }

    /// Begins a tool from the list of all tools.
    ///
    /// # Errors
    /// When it is not there.
    pub async fn take_tool(&self, key: &str) -> anyhow::Result<()> {
        self.window.execute("document.querySelector('details.tools').open = true", vec![]).await?;
        self.click(&format!("tools-{key}")).await
    }

    /// Clicks in an element, so many pixels from its middle.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn click_in(&self, test_id: &str, x: i64, y: i64) -> anyhow::Result<()> {
        self.drawn().await?;
        let element = self.find(test_id).await?;
        let chain = self.window.action_chain();
        Ok(chain.move_to_element_with_offset(&element, x, y).click().perform().await?)
    }

    /// Points to a place in an element, so many pixels from its middle, without clicking.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn point_in(&self, test_id: &str, x: i64, y: i64) -> anyhow::Result<()> {
        self.drawn().await?;
        let element = self.find(test_id).await?;
        Ok(self.window.action_chain().move_to_element_with_offset(&element, x, y).perform().await?)
    }

    /// Puts a figure into a field in the place of what is there.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn fill(&self, test_id: &str, text: &str) -> anyhow::Result<()> {
        let begin = Instant::now();
        loop {
            let field = self.find(test_id).await?.find(By::Css("input")).await?;
            field.scroll_into_view().await?;
            match field.send_keys(Key::Control + "a").await {
                Ok(()) => return Ok(field.send_keys(text).await?),
                // What is still coming up cannot be typed into yet.
                Err(_) if begin.elapsed() < PATIENCE => tokio::time::sleep(Duration::from_millis(60)).await,
                Err(error) => return Err(error).with_context(|| format!("nothing can be typed into '{test_id}'")),
            }
        }
    }

    /// Puts lines of text into a field in the place of what is there, and leaves the field.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn type_into(&self, test_id: &str, text: &str) -> anyhow::Result<()> {
        let field = self.find(test_id).await?.find(By::Css("textarea")).await?;
        field.scroll_into_view().await?;
        field.send_keys(Key::Control + "a").await?;
        field.send_keys(text).await?;
        self.window.execute("document.activeElement?.blur()", vec![]).await?;
        Ok(())
    }

    /// Writes a row into a plain field in the place of what is there, and enters it.
    ///
    /// # Errors
    /// When nothing can be typed there.
    pub async fn enter_row(&self, test_id: &str, row: &str) -> anyhow::Result<()> {
        let field = self.find(test_id).await?;
        field.scroll_into_view().await?;
        field.send_keys(Key::Control + "a").await?;
        Ok(field.send_keys(row + Key::Enter).await?)
    }

    /// Where a place of the board is on the page, once the view is at rest.
    pub(super) async fn on_board(&self, x: f64, y: f64) -> anyhow::Result<(i64, i64)> {
        let script = "const b = document.querySelector('[data-testid=board]');
            const at = b.getBoundingClientRect();
            const [zero, right, up] = [b.dataset.zero, b.dataset.right, b.dataset.up].map((p) => p.split(',').map(Number));
            return [0, 1].map((k) => [at.x, at.y][k] + zero[k]
                + (right[k] - zero[k]) * arguments[0] / 10 + (up[k] - zero[k]) * arguments[1] / 10);";
        self.find("board").await?;
        // Before the first picture nothing lies where it will.
        self.drawn().await?;
        let place = || self.window.execute(script, vec![x.into(), y.into()]);
        let mut before = place().await?.convert::<[f64; 2]>()?;
        let begin = Instant::now();
        // At rest it is where it was three times running.
        let mut same = 0;
        while begin.elapsed() < PATIENCE {
            tokio::time::sleep(Duration::from_millis(120)).await;
            let now = place().await?.convert::<[f64; 2]>()?;
            same = if now == before { same + 1 } else { 0 };
            if same == 3 {
                return Ok((now[0].round() as i64, now[1].round() as i64));
            }
            before = now;
        }
        bail!("the board does not come to rest")
    }

    /// Points to a place of the board, mm.
    ///
    /// # Errors
    /// When there is no board.
    pub async fn point_on_board(&self, x: f64, y: f64) -> anyhow::Result<()> {
        let (x, y) = self.on_board(x, y).await?;
        Ok(self.window.action_chain().move_to(x, y).perform().await?)
    }

    /// Clicks a place of the board, mm.
    ///
    /// # Errors
    /// When there is no board.
    pub async fn click_on_board(&self, x: f64, y: f64) -> anyhow::Result<()> {
        let (x, y) = self.on_board(x, y).await?;
        let clicked = self.window.action_chain().move_to(x, y).click().perform().await;
        if let Err(error) = clicked {
            let board = "const b = document.querySelector('[data-testid=board]');
                const at = b?.getBoundingClientRect();
                return JSON.stringify([b?.dataset, at, scrollY, innerHeight, document.styleSheets.length]);";
            let board = self.window.execute(board, vec![]).await?.convert::<String>()?;
            bail!("a click at {x}, {y}: {error}; the board: {board}; the eye: {}", self.eye().await?);
        }
        Ok(())
    }

    /// Ticks a box, or takes its tick away.
    ///
    /// # Errors
    /// When it cannot be clicked.
    pub async fn tick(&self, test_id: &str) -> anyhow::Result<()> {
        let input = self.find(test_id).await?.find(By::Css("input")).await?;
        input.scroll_into_view().await?;
        Ok(input.click().await?)
    }

    /// Drags in an element with the left button, from and to so many pixels from its middle.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn drag_in(&self, test_id: &str, from: (i64, i64), to: (i64, i64)) -> anyhow::Result<()> {
        self.drawn().await?;
        let element = self.find(test_id).await?;
        let mut chain =
            self.window.action_chain().move_to_element_with_offset(&element, from.0, from.1).click_and_hold();
        for step in 1..=4 {
            let at = |a: i64, b: i64| a + (b - a) * step / 4;
            chain = chain.move_to_element_with_offset(&element, at(from.0, to.0), at(from.1, to.1));
        }
        Ok(chain.release().perform().await?)
    }

    /// Presses keys as if nothing were in focus.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn press(&self, keys: impl Into<TypingData>) -> anyhow::Result<()> {
        self.window.execute("document.activeElement?.blur()", vec![]).await?;
        Ok(self.window.action_chain().send_keys(keys).perform().await?)
    }

    /// Presses a key where the focus is.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn press_here(&self, key: Key) -> anyhow::Result<()> {
        Ok(self.window.action_chain().send_keys(key).perform().await?)
    }

    /// Presses Escape until nothing lies open over the bench: a list that is just opening may not hear the first.
    ///
    /// # Errors
    /// When something stays open.
    pub async fn escape_lists(&self) -> anyhow::Result<()> {
        let open = By::Css(".v-overlay--active:not(.v-tooltip, .v-snackbar)");
        let begin = Instant::now();
        while begin.elapsed() < PATIENCE {
            self.press_here(Key::Escape).await?;
            tokio::time::sleep(Duration::from_millis(300)).await;
            if self.window.find_all(open.clone()).await?.is_empty() {
                return Ok(());
            }
        }
        bail!("Escape does not close what lies open: {}", self.as_it_is().await)
    }

    /// Presses Enter where the focus is.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn press_enter(&self) -> anyhow::Result<()> {
        self.press_here(Key::Enter).await
    }

    /// Presses a key in an element, which gets the focus.
    ///
    /// # Errors
    /// When there is no such element, or the browser does not answer.
    pub async fn press_in(&self, test_id: &str, key: Key) -> anyhow::Result<()> {
        Ok(self.find(test_id).await?.send_keys(key).await?)
    }

    /// Presses a key with Control held.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn press_with_control(&self, key: &str) -> anyhow::Result<()> {
        self.window.execute("document.activeElement?.blur()", vec![]).await?;
        Ok(self.window.action_chain().key_down(Key::Control).send_keys(key).key_up(Key::Control).perform().await?)
    }

    /// Types into the field that has the focus, and presses Enter.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn type_and_enter(&self, text: &str) -> anyhow::Result<()> {
        Ok(self.window.action_chain().send_keys(text).send_keys(Key::Enter).perform().await?)
    }

    /// Chooses the part in the tray.
    ///
    /// # Errors
    /// When it is not there.
    pub async fn choose_part(&self, name: &str) -> anyhow::Result<()> {
        let chip = self.find(&format!("part-{name}")).await?;
        Ok(chip.find(By::Tag("button")).await?.click().await?)
    }

    /// Chooses from a list by its words.
    ///
    /// # Errors
    /// When it is not there.
    pub async fn choose(&self, test_id: &str, words: &str) -> anyhow::Result<()> {
        let item = By::XPath(format!(
            "(//*[contains(@class,'v-overlay--active')])[last()]//*[contains(@class,'v-list-item-title') and contains(.,'{words}')]"
        ));
        for _ in 0..20 {
            // What is still growing cannot be clicked yet.
            if self.find(test_id).await?.click().await.is_err() {
                tokio::time::sleep(Duration::from_millis(100)).await;
                continue;
            }
            let found =
                self.window.query(item.clone()).wait(Duration::from_secs(2), Duration::from_millis(50)).first().await;
            if let Ok(found) = found {
                // The list is still growing out of its field; the driver would call the row not interactable yet.
                let click = "arguments[0].closest('.v-list-item').click()";
                self.window.execute(click, vec![found.to_json()?]).await?;
                return Ok(());
            }
        }
        bail!("'{words}' is not offered in '{test_id}'")
    }
}
