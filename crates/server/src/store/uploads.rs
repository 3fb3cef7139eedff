//! Files on their way in, kept chunk by chunk as they come, so that no file is ever held whole.

use std::time::Duration;

use nimbet_ledger::Hash;
use sqlx::Row;
use uuid::Uuid;

use super::blobs::{CHUNK, compressed, is_kept};
use super::{Result, Store};

/// An upload that is not there within this time is given up, hours.
const ABANDONED_HOURS: u32 = 2;

/// A file on its way in. Its chunks are kept under an id of the upload's own until the hash of the whole is known.
pub(crate) struct Upload {
    store: Store,
    id: Hash,
    hasher: nimbet_ledger::Hasher,
    chunks: i32,
    length: u64,
    /// What does not fill a chunk yet.
    rest: Vec<u8>,
}

impl Store {
    /// Begins an upload.
    pub(crate) async fn begin_upload(&self) -> Result<Upload> {
        let id = Hash::of(Uuid::new_v4().as_bytes());
        sqlx::query("INSERT INTO uploads (id) VALUES (?)").bind(&id.0[..]).execute(&self.pool).await?;
        let hasher = nimbet_ledger::Hasher::default();
        Ok(Upload { store: self.clone(), id, hasher, chunks: 0, length: 0, rest: Vec::with_capacity(CHUNK) })
    }

    /// Forgets what came in of uploads that never ended; gives how many there were.
    pub(super) async fn forget_uploads(&self) -> Result<u64> {
        let old = sqlx::query("SELECT id FROM uploads WHERE began_at < UTC_TIMESTAMP(3) - INTERVAL ? HOUR")
            .bind(ABANDONED_HOURS)
            .fetch_all(&self.pool)
            .await?;
        for row in &old {
            self.forget_upload(&row.try_get::<Vec<u8>, _>(0)?).await?;
        }
        Ok(old.len() as u64)
    }

    async fn forget_upload(&self, id: &[u8]) -> Result<()> {
        // The note goes last: whoever is killed between leaves it for the next time.
        sqlx::query("DELETE FROM blob_chunks WHERE hash = ?").bind(id).execute(&self.pool).await?;
        sqlx::query("DELETE FROM uploads WHERE id = ?").bind(id).execute(&self.pool).await?;
        Ok(())
    }
}

impl Upload {
    /// The longest an upload may take altogether.
    pub const LONGEST: Duration = Duration::from_secs(ABANDONED_HOURS as u64 * 1800);

    /// Bytes that came in so far.
    pub fn length(&self) -> u64 {
        self.length
    }

    /// Keeps what came in.
    pub async fn push(&mut self, mut bytes: &[u8]) -> Result<()> {
        self.length += bytes.len() as u64;
        while !bytes.is_empty() {
            let (some, later) = bytes.split_at(bytes.len().min(CHUNK - self.rest.len()));
            self.rest.extend_from_slice(some);
            bytes = later;
            if self.rest.len() == CHUNK {
                self.keep_chunk().await?;
            }
        }
        Ok(())
    }

    async fn keep_chunk(&mut self) -> Result<()> {
        let (plain, mut hasher) = (std::mem::take(&mut self.rest), std::mem::take(&mut self.hasher));
        let (hasher, chunk, mut plain) = super::off_the_runtime(move || {
            hasher.update(&plain);
            Ok((hasher, compressed(&plain)?, plain))
        })
        .await?;
        plain.clear();
        (self.hasher, self.rest) = (hasher, plain);
        sqlx::query("INSERT INTO blob_chunks (hash, chunk, data) VALUES (?, ?, ?)")
            .bind(&self.id.0[..])
            .bind(self.chunks)
            .bind(chunk)
            .execute(&self.store.pool)
            .await?;
        self.chunks += 1;
        Ok(())
    }

    /// Keeps the whole as a blob under its hash, which it gives.
    pub async fn finish(mut self) -> Result<Hash> {
        if !self.rest.is_empty() {
            self.keep_chunk().await?;
        }
        let hash = self.hasher.finish();
        let mut tx = self.store.pool.begin().await?;
        if !is_kept(&mut *tx, hash).await? {
            // Of two that bring the same file at once one moves its chunks here, and the other finds them there.
            sqlx::query("UPDATE IGNORE blob_chunks SET hash = ? WHERE hash = ?")
                .bind(&hash.0[..])
                .bind(&self.id.0[..])
                .execute(&mut *tx)
                .await?;
            sqlx::query("INSERT IGNORE INTO blobs (hash, bytes, chunks) VALUES (?, ?, ?)")
                .bind(&hash.0[..])
                .bind(self.length as i64)
                .bind(self.chunks)
                .execute(&mut *tx)
                .await?;
        }
        tx.commit().await?;
        self.store.forget_upload(&self.id.0).await?;
        Ok(hash)
    }

    /// Forgets what came in.
    pub async fn give_up(self) -> Result<()> {
        self.store.forget_upload(&self.id.0).await
    }
}
