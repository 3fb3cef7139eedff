//! Content-addressed blobs in compressed chunks, checked against their hash at each read.

use nimbet_kernel::Mesh;
use nimbet_ledger::{Hash, mesh_hash};
use sqlx::{AssertSqlSafe, MySqlExecutor, Row};

use super::{Result, Store, StoreError, off_the_runtime};

/// Bytes in a chunk before compression. One row of a megabyte is read and written fastest.
pub(super) const CHUNK: usize = 1 << 20;
/// The fastest level: meshes shrink to about a half, and higher levels gain a tenth for ten times the time.
const LEVEL: i32 = 1;

impl Store {
    /// Keeps `bytes` under their hash, if they are not kept yet.
    pub(crate) async fn keep_blob(&self, hash: Hash, bytes: Vec<u8>) -> Result<()> {
        if is_kept(&self.pool, hash).await? {
            return Ok(());
        }
        let length = bytes.len() as i64;
        let chunks =
            off_the_runtime(move || bytes.chunks(CHUNK).map(compressed).collect::<Result<Vec<Vec<u8>>>>()).await?;
        let mut tx = self.pool.begin().await?;
        for (n, chunk) in chunks.iter().enumerate() {
            sqlx::query("INSERT IGNORE INTO blob_chunks (hash, chunk, data) VALUES (?, ?, ?)")
                .bind(&hash.0[..])
                .bind(n as i32)
                .bind(chunk)
                .execute(&mut *tx)
                .await?;
        }
        sqlx::query("INSERT IGNORE INTO blobs (hash, bytes, chunks) VALUES (?, ?, ?)")
            .bind(&hash.0[..])
            .bind(length)
            .bind(chunks.len() as i32)
            .execute(&mut *tx)
            .await?;
        Ok(tx.commit().await?)
    }

    /// Keeps a blob no longer: it is damaged.
    pub(crate) async fn forget_blob(&self, hash: Hash) -> Result<()> {
        self.forget_blob_if(hash, "TRUE").await.map(drop)
    }

    /// Keeps a blob no longer if it was last kept so many days ago; gives whether it was.
    pub(super) async fn forget_old_blob(&self, hash: Hash, days: u32) -> Result<bool> {
        self.forget_blob_if(hash, &format!("kept_at <= UTC_TIMESTAMP(3) - INTERVAL {days} DAY")).await
    }

    async fn forget_blob_if(&self, hash: Hash, condition: &str) -> Result<bool> {
        let mut tx = self.pool.begin().await?;
        let blob = AssertSqlSafe(format!("DELETE FROM blobs WHERE hash = ? AND {condition}"));
        let gone = sqlx::query(blob).bind(&hash.0[..]).execute(&mut *tx).await?.rows_affected() == 1;
        if gone {
            sqlx::query("DELETE FROM blob_chunks WHERE hash = ?").bind(&hash.0[..]).execute(&mut *tx).await?;
        }
        tx.commit().await?;
        Ok(gone)
    }

    /// The bytes kept under `hash`, checked.
    pub(crate) async fn blob(&self, hash: Hash) -> Result<Vec<u8>> {
        // What is on the empty bench is known without being kept.
        if let (nothing, bytes) = mesh_hash(&Mesh::default())
            && nothing == hash
        {
            return Ok(bytes);
        }
        let length: i64 = sqlx::query("SELECT bytes FROM blobs WHERE hash = ?")
            .bind(&hash.0[..])
            .fetch_optional(&self.pool)
            .await?
            .ok_or(StoreError::NoSuch("content"))?
            .try_get(0)?;
        let rows = sqlx::query("SELECT data FROM blob_chunks WHERE hash = ? ORDER BY chunk")
            .bind(&hash.0[..])
            .fetch_all(&self.pool)
            .await?;
        let chunks = rows.iter().map(|r| r.try_get::<Vec<u8>, _>(0)).collect::<std::result::Result<Vec<_>, _>>()?;
        off_the_runtime(move || {
            let mut bytes = Vec::with_capacity(usize::try_from(length).unwrap_or(0));
            for chunk in chunks {
                let plain = zstd::bulk::decompress(&chunk, CHUNK).map_err(|_| StoreError::Damaged(hash.to_string()))?;
                bytes.extend_from_slice(&plain);
            }
            if Hash::of(&bytes) == hash { Ok(bytes) } else { Err(StoreError::Damaged(hash.to_string())) }
        })
        .await
    }
}

/// Whether a blob is kept. If so it counts as kept just now: who asks is about to refer to it, and it must not be tidied away
/// before that.
pub(super) async fn is_kept(on: impl MySqlExecutor<'_>, hash: Hash) -> Result<bool> {
    let again = "UPDATE blobs SET kept_at = UTC_TIMESTAMP(3) WHERE hash = ?";
    Ok(sqlx::query(again).bind(&hash.0[..]).execute(on).await?.rows_affected() == 1)
}

pub(super) fn compressed(chunk: &[u8]) -> Result<Vec<u8>> {
    Ok(zstd::bulk::compress(chunk, LEVEL)?)
}
