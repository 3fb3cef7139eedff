//! Examinations by mesh, and results of steps by cache key.

use nimbet_kernel::{Progress, mesh_bytes};
use nimbet_ledger::{Hash, StepReport, examination_key, mesh_hash};
use nimbet_trade::wall::with_least_wall;
use nimbet_trade::{Examination, examine};
use sqlx::Row;

use super::{Result, Store, StoreError, hash_of, off_the_runtime, written};

/// A part as a step leaves it, to be kept.
pub(crate) struct Product {
    pub mesh: nimbet_kernel::Mesh,
    pub examination: Examination,
}

impl Store {
    /// Keeps a mesh with its examination; gives its hash.
    pub(crate) async fn keep_product(&self, product: Product) -> Result<Hash> {
        let (hash, bytes, body) = off_the_runtime(move || {
            let (hash, bytes) = mesh_hash(&product.mesh);
            Ok((hash, bytes, packed(&product.examination)?))
        })
        .await?;
        self.keep_blob(hash, bytes).await?;
        self.keep_examination(hash, body).await?;
        Ok(hash)
    }

    async fn keep_examination(&self, mesh: Hash, body: Vec<u8>) -> Result<()> {
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
            return off_the_runtime(move || Ok(zstd::stream::decode_all(&body[..])?)).await;
        }
        let bytes = self.blob(mesh).await.map_err(|e| match e {
            StoreError::NoSuch(_) => StoreError::NoSuch("mesh"),
            other => other,
        })?;
        let (text, body) = off_the_runtime(move || {
            let read = mesh_bytes::from_bytes(&bytes).ok().and_then(|m| {
                let quiet = Progress::unwatched();
                examine(&m, &quiet).and_then(|seen| with_least_wall(seen, &m, &quiet)).ok()
            });
            let examination = read.ok_or_else(|| StoreError::Damaged(mesh.to_string()))?;
            Ok((serde_json::to_vec(&examination)?, packed(&examination)?))
        })
        .await?;
        self.keep_examination(mesh, body).await?;
        Ok(text)
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
            .bind(written(report, "the report of a step")?)
            .execute(&self.pool)
            .await?;
        Ok(())
    }
}

/// An examination as it is kept.
fn packed(examination: &Examination) -> Result<Vec<u8>> {
    Ok(zstd::bulk::compress(written(examination, "what was found of a part")?.as_bytes(), 3)?)
}
