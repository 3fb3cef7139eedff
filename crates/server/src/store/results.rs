//! Examinations by mesh, and results of steps by cache key.

use nimbet_ledger::{Hash, StepReport, examination_key, mesh_hash};
use nimbet_trade::Examination;
use sqlx::Row;

use super::{Result, Store, hash_of, off_the_runtime, written};

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
        self.keep_packed(hash, body).await?;
        Ok(hash)
    }

    async fn keep_packed(&self, mesh: Hash, body: Vec<u8>) -> Result<()> {
        sqlx::query("INSERT IGNORE INTO examinations (cache_key, body) VALUES (?, ?)")
            .bind(&examination_key(mesh).0[..])
            .bind(body)
            .execute(&self.pool)
            .await?;
        Ok(())
    }

    /// What this version of the program found of a mesh, as JSON text.
    pub(crate) async fn kept_examination(&self, mesh: Hash) -> Result<Option<Vec<u8>>> {
        let row = sqlx::query("SELECT body FROM examinations WHERE cache_key = ?")
            .bind(&examination_key(mesh).0[..])
            .fetch_optional(&self.pool)
            .await?;
        if let Some(row) = row {
            let body: Vec<u8> = row.try_get(0)?;
            return off_the_runtime(move || Ok(Some(zstd::stream::decode_all(&body[..])?))).await;
        }
        Ok(None)
    }

    /// Keeps what was found of a mesh that is kept; gives it as JSON text.
    pub(crate) async fn keep_examination(&self, mesh: Hash, examination: Examination) -> Result<Vec<u8>> {
        let (text, body) =
            off_the_runtime(move || Ok((serde_json::to_vec(&examination)?, packed(&examination)?))).await?;
        self.keep_packed(mesh, body).await?;
        Ok(text)
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
