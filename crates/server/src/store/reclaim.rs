//! Space taken back. The rule: what any step in any line of any job refers to stays, and what a release refers to; the rest
//! (forecasts never applied, files of work that was cancelled) goes once it has been kept for some days.

use std::collections::HashSet;

use futures::TryStreamExt;
use nimbet_ledger::{Hash, examination_key};
use serde_json::Value;
use sqlx::Row;

use super::{Result, Store, hash_of};

/// What was reclaimed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Reclaimed {
    /// Meshes and files.
    pub blobs: usize,
    /// Their bytes, before compression.
    pub bytes: u64,
}

impl Store {
    /// Takes back what no job and no release refers to and has been kept for so many days.
    ///
    /// # Errors
    /// [`super::StoreError`]; what was taken back until then stays so.
    pub async fn reclaim(&self, days: u32) -> Result<Reclaimed> {
        let old = sqlx::query("SELECT hash, bytes FROM blobs WHERE kept_at <= UTC_TIMESTAMP(3) - INTERVAL ? DAY")
            .bind(days)
            .fetch_all(&self.pool)
            .await?;
        let needed = self.needed().await?;
        let mut reclaimed = Reclaimed::default();
        for row in &old {
            let hash = hash_of(&row.try_get::<Vec<u8>, _>(0)?)?;
            if needed.contains(&hash) {
                continue;
            }
            sqlx::query("DELETE FROM results WHERE mesh = ?").bind(&hash.0[..]).execute(&self.pool).await?;
            sqlx::query("DELETE FROM examinations WHERE cache_key = ?")
                .bind(&examination_key(hash).0[..])
                .execute(&self.pool)
                .await?;
            // Somebody may just have kept it again, to refer to it.
            if !self.forget_old_blob(hash, days).await? {
                continue;
            }
            reclaimed.blobs += 1;
            reclaimed.bytes += row.try_get::<i64, _>(1)?.unsigned_abs();
        }
        Ok(reclaimed)
    }

    /// All that steps and releases refer to.
    async fn needed(&self) -> Result<HashSet<Hash>> {
        let mut needed = HashSet::new();
        let mut steps = sqlx::query("SELECT mesh, action, report FROM steps").fetch(&self.pool);
        while let Some(row) = steps.try_next().await? {
            needed.insert(hash_of(&row.try_get::<Vec<u8>, _>(0)?)?);
            // Looked at as plain JSON: a step that cannot be read any more keeps what it refers to as well.
            let action: Value = serde_json::from_str(&row.try_get::<String, _>(1)?)?;
            let report: Value = serde_json::from_str(&row.try_get::<String, _>(2)?)?;
            let made = report["made"].as_array().into_iter().flatten().map(|made| &made["mesh"]);
            needed.extend(made.chain([&action["source"]]).filter_map(|hash| hash.as_str()?.parse::<Hash>().ok()));
        }
        drop(steps);
        let mut releases = sqlx::query("SELECT mesh, file FROM releases").fetch(&self.pool);
        while let Some(row) = releases.try_next().await? {
            needed.insert(hash_of(&row.try_get::<Vec<u8>, _>(0)?)?);
            needed.insert(hash_of(&row.try_get::<Vec<u8>, _>(1)?)?);
        }
        Ok(needed)
    }
}
