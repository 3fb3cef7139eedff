//! What is tidied away by itself, and when: the rule is told in docs/operate.md.

use sqlx::Row;

use super::{Reclaimed, Result, Store};

/// How long a task that is over can still be asked about, days.
const TASK_DAYS: u32 = 7;
/// How long a deleted job can be brought back, days.
pub(crate) const DELETED_DAYS: u32 = 30;
/// How long what no job refers to is kept (forecasts that were never applied), days.
const UNUSED_DAYS: u32 = 7;

/// What was tidied away.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Tidied {
    /// Tasks that were over for a week.
    pub tasks: u64,
    /// Jobs that were deleted a month ago.
    pub jobs: u64,
    /// Uploads that never ended.
    pub uploads: u64,
    /// Meshes and files nothing refers to.
    pub reclaimed: Reclaimed,
}

impl Store {
    /// Tidies, unless another process of the same database does so now.
    ///
    /// # Errors
    /// [`super::StoreError`]; what was tidied until then stays so.
    pub async fn tidy(&self) -> Result<Option<Tidied>> {
        let mut lock = self.pool.acquire().await?;
        let held: Option<i64> =
            sqlx::query("SELECT GET_LOCK(CONCAT(DATABASE(), '.tidy'), 0)").fetch_one(&mut *lock).await?.try_get(0)?;
        if held != Some(1) {
            return Ok(None);
        }
        let done = self.tidy_alone().await;
        sqlx::query("DO RELEASE_LOCK(CONCAT(DATABASE(), '.tidy'))").execute(&mut *lock).await?;
        done.map(Some)
    }

    async fn tidy_alone(&self) -> Result<Tidied> {
        let over = "DELETE FROM tasks WHERE state IN ('done', 'failed', 'cancelled') \
            AND COALESCE(ended_at, created_at) < UTC_TIMESTAMP(3) - INTERVAL ? DAY";
        let tasks = sqlx::query(over).bind(TASK_DAYS).execute(&self.pool).await?.rows_affected();
        let uploads = self.forget_uploads().await?;
        let jobs = self.forget_deleted_jobs().await?;
        Ok(Tidied { tasks, jobs, uploads, reclaimed: self.reclaim(UNUSED_DAYS).await? })
    }

    /// Takes jobs away for good that were deleted long enough ago.
    async fn forget_deleted_jobs(&self) -> Result<u64> {
        let old = sqlx::query("SELECT id FROM jobs WHERE deleted_at < UTC_TIMESTAMP(3) - INTERVAL ? DAY")
            .bind(DELETED_DAYS)
            .fetch_all(&self.pool)
            .await?;
        for row in &old {
            let id: Vec<u8> = row.try_get(0)?;
            let mut tx = self.pool.begin().await?;
            for query in [
                "DELETE FROM tasks WHERE job_id = ?",
                "DELETE FROM releases WHERE job_id = ?",
                "DELETE FROM ledger_lines WHERE job_id = ?",
                "DELETE FROM steps WHERE job_id = ?",
                "DELETE FROM jobs WHERE id = ?",
            ] {
                sqlx::query(query).bind(&id).execute(&mut *tx).await?;
            }
            tx.commit().await?;
        }
        Ok(old.len() as u64)
    }
}
