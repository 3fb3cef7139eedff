//! Examinations by mesh, and results of steps by cache key.

use nimbet_kernel::{Progress, mesh_bytes};
use nimbet_ledger::{Hash, StepReport, examination_key, mesh_hash};
use nimbet_trade::wall::with_least_wall;
use nimbet_trade::{Examination, examine};
use sqlx::Row;

use super::{Result, Store, StoreError, hash_of};

/// A part as a step leaves it, to be kept.
pub(crate) struct Product<'a> {
    pub mesh: &'a nimbet_kernel::Mesh,
    pub examination: &'a Examination,
}

impl Store {
    /// Keeps a mesh with its examination; gives its hash.
    pub(crate) async fn keep_product(&self, product: Product<'_>) -> Result<Hash> {
        let (hash, bytes) = mesh_hash(product.mesh);
        self.keep_blob(hash, bytes).await?;
        self.keep_examination(hash, product.examination).await?;
        Ok(hash)
    }

    async fn keep_examination(&self, mesh: Hash, examination: &Examination) -> Result<()> {
        let body = zstd::bulk::compress(&serde_json::to_vec(examination)?, 3)?;
        sqlx::query("INSERT IGNORE INTO examinations (cache_key, body) VALUES (?, ?)")
            .bind(&examination_key(mesh).0[..])
            .bind(body)
            .execute(&self.pool)
            .await?;
        Ok(())
    }

    /// What is known of a mesh, as JSON text. Worked out anew when an earlier version of the program examined it.
    pub(crate) async fn examination_json(&self, mesh: Hash) -> Result<Vec<u8>> {
        let row = sqlx::query("SELECT body FROM examinations WHERE cache_key = ?")
            .bind(&examination_key(mesh).0[..])
            .fetch_optional(&self.pool)
            .await?;
        if let Some(row) = row {
            let body: Vec<u8> = row.try_get(0)?;
            return Ok(zstd::stream::decode_all(&body[..])?);
        }
        let bytes = self.blob(mesh).await.map_err(|e| match e {
            StoreError::NoSuch(_) => StoreError::NoSuch("mesh"),
            other => other,
        })?;
        let damaged = || StoreError::Damaged(mesh.to_string());
        let examination = tokio::task::spawn_blocking(move || {
            mesh_bytes::from_bytes(&bytes).ok().and_then(|m| {
                let quiet = Progress::unwatched();
                examine(&m, &quiet).and_then(|seen| with_least_wall(seen, &m, &quiet)).ok()
            })
        });
        let examination = examination.await.ok().flatten().ok_or_else(damaged)?;
        self.keep_examination(mesh, &examination).await?;
        Ok(serde_json::to_vec(&examination)?)
    }

    /// What is known of a mesh.
    pub(crate) async fn examination(&self, mesh: Hash) -> Result<Examination> {
        Ok(serde_json::from_slice(&self.examination_json(mesh).await?)?)
    }

    /// The kept result of a step.
    pub(crate) async fn result(&self, key: Hash) -> Result<Option<(Hash, StepReport)>> {
        let row = sqlx::query("SELECT mesh, report FROM results WHERE cache_key = ?")
            .bind(&key.0[..])
            .fetch_optional(&self.pool)
            .await?;
        row.map(|r| Ok((hash_of(&r.try_get::<Vec<u8>, _>(0)?)?, serde_json::from_str(&r.try_get::<String, _>(1)?)?)))
            .transpose()
    }

    /// Keeps the result of a step no longer.
    pub(crate) async fn forget_result(&self, key: Hash) -> Result<()> {
        sqlx::query("DELETE FROM results WHERE cache_key = ?").bind(&key.0[..]).execute(&self.pool).await?;
        Ok(())
    }

    /// Keeps the result of a step.
    pub(crate) async fn keep_result(&self, key: Hash, mesh: Hash, report: &StepReport) -> Result<()> {
        sqlx::query("INSERT IGNORE INTO results (cache_key, mesh, report) VALUES (?, ?, ?)")
            .bind(&key.0[..])
            .bind(&mesh.0[..])
            .bind(serde_json::to_string(report)?)
            .execute(&self.pool)
            .await?;
        Ok(())
    }
}
