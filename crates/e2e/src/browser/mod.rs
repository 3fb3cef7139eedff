//! A headless browser driven like a person would.

use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use anyhow::{Context, bail};
use thirtyfour::prelude::*;

mod files;
mod hand;
mod look;

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
    /// What the browser's own folder lies in, which names its processes.
    folder: PathBuf,
}

impl Drop for Driver {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
        let _ = Command::new("pkill").args(["-KILL", "-f"]).arg(&self.folder).status();
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
        // A sixteenth of the dots to draw by software; places are those of the page all the same.
        Self::open_scaled(address, 0.25).await
    }

    async fn open_scaled(address: &str, scale: f64) -> anyhow::Result<Self> {
        let folder = tempfile::tempdir()?;
        let port = std::net::TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
        let _driver = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            // There it puts the browser's own folder.
            .env("TMPDIR", folder.path())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .map(|child| Driver { child, folder: folder.path().to_owned() })
            .context("chromedriver is not installed")?;
        let mut wanted = DesiredCapabilities::chrome();
        // The engine alone, without windows and their services: half of what a page takes to come up.
        wanted.set_binary("/usr/bin/chromium-headless-shell")?;
        for flag in [
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
            "--window-size=1280,800",
        ] {
            wanted.add_arg(flag)?;
        }
        wanted.add_arg(&format!("--force-device-scale-factor={scale}"))?;
        if scale < 1.0 {
            // By software either way, and this is the shorter one.
            wanted.add_arg("--disable-gpu-rasterization")?;
        }
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
        let listen = serde_json::json!({ "source": include_str!("../told.js") });
        window.cdp().send_raw("Page.addScriptToEvaluateOnNewDocument", listen).await?;
        let downloads = serde_json::json!({ "behavior": "allow", "downloadPath": folder.path().join("downloads") });
        window.cdp().send_raw("Browser.setDownloadBehavior", downloads).await?;
        window.goto(address).await?;
        Ok(Self { window, _driver, folder })
    }

    fn by(test_id: &str) -> By {
        By::Css(format!("[data-testid=\"{test_id}\"]"))
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
