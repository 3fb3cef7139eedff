//! Files given to the page, and got from it.

use std::path::Path;
use std::time::{Duration, Instant};

use anyhow::bail;

use super::{Browser, PATIENCE};

impl Browser {
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
}
