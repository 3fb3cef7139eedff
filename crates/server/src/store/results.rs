//! Examinations by mesh, and results of steps by cache key.

use nimbet_ledger::{Hash, StepReport, mesh_hash};
use nimbet_trade::Examination;
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
        let body = zstd::bulk::compress(&serde_json::to_vec(product.examination)?, 3)?;
        sqlx::query("INSERT IGNORE INTO examinations (mesh, body) VALUES (?, ?)")
            .bind(&hash.0[..])
            .bind(body)
            .execute(&self.pool)
            .await?;
        Ok(hash)
    }

    /// What is known of a mesh, as JSON text.
    pub(crate) async fn examination_json(&self, mesh: Hash) -> Result<Vec<u8>> {
        let body: Vec<u8> = sqlx::query("SELECT body FROM examinations WHERE mesh = ?")
            .bind(&mesh.0[..])
            .fetch_optional(&self.pool)
            .await?
            .ok_or(StoreError::NoSuch("mesh"))?
            .try_get(0)?;
        Ok(zstd::stream::decode_all(&body[..])?)
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
