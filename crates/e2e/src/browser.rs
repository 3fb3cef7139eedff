//! A headless browser driven like a person would.

use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, bail};
use thirtyfour::prelude::*;

/// How long a test waits for the screen.
const PATIENCE: Duration = Duration::from_secs(90);

/// A browser window of 1280 × 800 with its driver. Both end with the test.
pub struct Browser {
    /// The session. Ended before the driver.
    pub window: WebDriver,
    _driver: Driver,
    /// Profile and downloads.
    folder: tempfile::TempDir,
}

/// The driver process and the browser it starts; both ended when dropped, also when the test has failed.
struct Driver {
    child: Child,
    /// The browser's own folder, which names its processes.
    profile: PathBuf,
}

impl Drop for Driver {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
        let _ = Command::new("pkill").args(["-KILL", "-f"]).arg(&self.profile).status();
    }
}

/// The address of the newest job of a server, or of its jobs where there is none.
async fn newest(server: &str) -> anyhow::Result<String> {
    let jobs: serde_json::Value = reqwest::get(format!("{server}/api/v1/jobs")).await?.json().await?;
    Ok(jobs[0]["id"].as_str().map_or_else(|| format!("{server}/jobs"), |id| format!("{server}/jobs/{id}")))
}

impl Browser {
    /// Opens a window on the newest job of a server, or on one begun there where there is none, drawn without smoothed edges: twice
    /// as fast without a graphics card.
    ///
    /// # Errors
    /// When driver or browser do not come up.
    pub async fn open(server: &str) -> anyhow::Result<Self> {
        let browser = Self::open_at(&format!("{}?antialias=off", newest(server).await?)).await?;
        if browser.path().await? == "/jobs" {
            browser.fill("jobs-new", "Bench work").await?;
            browser.click("jobs-create").await?;
            browser.expect("job-name", "Bench work").await?;
        }
        Ok(browser)
    }

    /// Opens a window on the newest job of a server, drawn as a person would see it.
    ///
    /// # Errors
    /// When driver or browser do not come up.
    pub async fn open_smooth(server: &str) -> anyhow::Result<Self> {
        Self::open_scaled(&newest(server).await?, 1.0).await
    }

    /// Opens a window on an address.
    ///
    /// # Errors
    /// When driver or browser do not come up.
    pub async fn open_at(address: &str) -> anyhow::Result<Self> {
        // A quarter of the dots to draw by software; places are those of the page all the same.
        Self::open_scaled(address, 0.5).await
    }

    async fn open_scaled(address: &str, scale: f64) -> anyhow::Result<Self> {
        let folder = tempfile::tempdir()?;
        let port = std::net::TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
        let driver = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .map(|child| Driver { child, profile: folder.path().join("profile") })
            .context("chromedriver is not installed")?;
        let mut wanted = DesiredCapabilities::chrome();
        for flag in [
            "--headless=new",
            "--no-sandbox",
            "--disable-dev-shm-usage",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--use-gl=angle",
            "--use-angle=swiftshader",
            "--enable-unsafe-swiftshader",
            "--ignore-gpu-blocklist",
            "--force-prefers-reduced-motion",
            "--window-size=1280,943",
        ] {
            wanted.add_arg(flag)?;
        }
        wanted.add_arg(&format!("--force-device-scale-factor={scale}"))?;
        if scale < 1.0 {
            // By software either way, and this is the shorter one.
            wanted.add_arg("--disable-gpu-rasterization")?;
        }
        wanted.add_arg(&format!("--user-data-dir={}", driver.profile.display()))?;
        let downloads = serde_json::json!({
            "download.default_directory": folder.path().join("downloads"),
            "download.prompt_for_download": false,
        });
        wanted.add_experimental_option("prefs", downloads)?;
        let mut tries = 0;
        let window = loop {
            match WebDriver::new(format!("http://127.0.0.1:{port}"), wanted.clone()).await {
                Ok(window) => break window,
                Err(error) if tries > 100 => return Err(error.into()),
                Err(_) => tries += 1,
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        };
        window.set_script_timeout(PATIENCE).await?;
        // What the page says against itself is kept, and asked for at the end.
        let listen = serde_json::json!({ "source": include_str!("told.js") });
        window.cdp().send_raw("Page.addScriptToEvaluateOnNewDocument", listen).await?;
        window.goto(address).await?;
        Ok(Self { window, _driver: driver, folder })
    }

    fn by(test_id: &str) -> By {
        By::Css(format!("[data-testid=\"{test_id}\"]"))
    }

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
    async fn as_it_is(&self) -> String {
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

    /// Begins a tool from the list of all tools.
    ///
    /// # Errors
    /// When it is not there.
    pub async fn take_tool(&self, key: &str) -> anyhow::Result<()> {
        self.window.execute("document.querySelector('details.tools').open = true", vec![]).await?;
        self.click(&format!("tools-{key}")).await
    }

    /// Waits until the drawing of the part is there.
    async fn drawn(&self) -> anyhow::Result<WebElement> {
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
    async fn on_board(&self, x: f64, y: f64) -> anyhow::Result<(i64, i64)> {
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

    /// Goes to an address.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn goto(&self, address: &str) -> anyhow::Result<()> {
        Ok(self.window.goto(address).await?)
    }

    /// Loads the page anew.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn reload(&self) -> anyhow::Result<()> {
        Ok(self.window.refresh().await?)
    }

    /// Goes back to the address before.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn back(&self) -> anyhow::Result<()> {
        Ok(self.window.back().await?)
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
        let found = self.window.execute_async(include_str!("barriers.js"), vec![]).await?;
        Ok(serde_json::from_value(found.json().clone())?)
    }

    /// Whether no element with the test id is there now.
    ///
    /// # Errors
    /// When the browser does not answer.
    pub async fn is_absent(&self, test_id: &str) -> anyhow::Result<bool> {
        Ok(self.window.find_all(Self::by(test_id)).await?.is_empty())
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

    /// Clicks a download and gives the file's name and bytes.
    ///
    /// # Errors
    /// When no file arrives.
    pub async fn download(&self, test_id: &str) -> anyhow::Result<(String, Vec<u8>)> {
        let name = self.find(test_id).await?.text().await?;
        let path = self.folder.path().join("downloads").join(name.trim());
        let _ = std::fs::remove_file(&path);
        self.click(test_id).await?;
        let begin = Instant::now();
        while begin.elapsed() < PATIENCE {
            // The browser renames the file when it is whole.
            if let Ok(bytes) = std::fs::read(&path) {
                return Ok((name.trim().to_owned(), bytes));
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        bail!("{} was not downloaded", path.display())
    }

    /// Gives a file to the chooser of the station Bring in.
    ///
    /// # Errors
    /// When the chooser is not there.
    pub async fn give_file(&self, name: &str, bytes: &[u8]) -> anyhow::Result<()> {
        self.give_file_to("file", name, bytes).await
    }

    /// Gives a file to a chooser.
    ///
    /// # Errors
    /// When the chooser is not there.
    pub async fn give_file_to(&self, test_id: &str, name: &str, bytes: &[u8]) -> anyhow::Result<()> {
        let path: &Path = self.folder.path();
        let path = path.join(name);
        std::fs::write(&path, bytes)?;
        Ok(self.find(test_id).await?.send_keys(path.display().to_string()).await?)
    }

    /// Gives a folder to the chooser of folders.
    ///
    /// # Errors
    /// When the chooser is not there.
    pub async fn give_folder(&self, name: &str, files: &[(&str, Vec<u8>)]) -> anyhow::Result<()> {
        let folder = self.folder.path().join(name);
        for (name, bytes) in files {
            let path = folder.join(name);
            std::fs::create_dir_all(path.parent().unwrap_or(&folder))?;
            std::fs::write(&path, bytes)?;
        }
        Ok(self.find("folder").await?.send_keys(folder.display().to_string()).await?)
    }

    /// Ends browser and driver.
    ///
    /// # Errors
    /// When the browser does not answer, or the page told errors or warnings meanwhile.
    pub async fn close(self) -> anyhow::Result<()> {
        let ask = "return JSON.parse(sessionStorage.getItem('nimbet.told') ?? '[]')";
        let told: Vec<String> = serde_json::from_value(self.window.execute(ask, vec![]).await?.json().clone())?;
        self.window.quit().await?;
        if told.is_empty() { Ok(()) } else { bail!("the page told its console: {told:#?}") }
    }
}
