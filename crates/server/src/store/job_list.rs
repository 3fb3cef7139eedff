//! The list of jobs: named, put into the archive, deleted for some days before they go.

use sqlx::Row;
use uuid::Uuid;

use super::{Result, Store, StoreError};

/// A job in the list of jobs.
#[derive(Clone, Debug)]
pub(crate) struct JobLine {
    pub id: Uuid,
    pub name: String,
    pub revision: i64,
    pub archived: bool,
    /// When its ledger was last changed, as in RFC 3339, UTC, and by whom.
    pub at: String,
    pub who: Option<String>,
}

impl Store {
    /// Whether there was ever a job.
    pub(crate) async fn is_fresh(&self) -> Result<bool> {
        Ok(sqlx::query("SELECT 1 FROM jobs LIMIT 1").fetch_optional(&self.pool).await?.is_none())
    }

    /// All jobs, the newest first.
    pub(crate) async fn jobs(&self) -> Result<Vec<JobLine>> {
        let query = "SELECT j.id, j.name, j.revision, j.archived_at IS NOT NULL, DATE_FORMAT(l.made_at, '%Y-%m-%dT%TZ'), l.made_by \
            FROM jobs j JOIN ledger_lines l ON l.job_id = j.id AND l.version = j.version \
            WHERE j.deleted_at IS NULL ORDER BY j.created_at DESC, j.id DESC";
        let rows = sqlx::query(query).fetch_all(&self.pool).await?;
        let line = |r: &sqlx::mysql::MySqlRow| {
            Ok(JobLine {
                id: r.try_get(0)?,
                name: r.try_get(1)?,
                revision: r.try_get(2)?,
                archived: r.try_get(3)?,
                at: r.try_get(4)?,
                who: r.try_get(5)?,
            })
        };
        rows.iter().map(line).collect()
    }

    /// Renames a job, puts it into the archive or takes it out; what is absent stays.
    pub(crate) async fn change_job(&self, id: Uuid, name: Option<&str>, archived: Option<bool>) -> Result<()> {
        let query = "UPDATE jobs SET name = COALESCE(?, name), \
            archived_at = CASE ? WHEN TRUE THEN COALESCE(archived_at, UTC_TIMESTAMP(3)) WHEN FALSE THEN NULL ELSE archived_at END \
            WHERE id = ? AND deleted_at IS NULL";
        self.revisions(id).await?;
        sqlx::query(query).bind(name).bind(archived).bind(id).execute(&self.pool).await?;
        Ok(())
    }

    /// Ids and names of deleted jobs that can still be brought back, with when they were deleted; the last first.
    pub(crate) async fn deleted_jobs(&self) -> Result<Vec<(Uuid, String, String)>> {
        let query = "SELECT id, name, DATE_FORMAT(deleted_at, '%Y-%m-%dT%TZ') FROM jobs WHERE deleted_at IS NOT NULL \
            ORDER BY deleted_at DESC, id DESC";
        let rows = sqlx::query(query).fetch_all(&self.pool).await?;
        rows.iter().map(|r| Ok((r.try_get(0)?, r.try_get(1)?, r.try_get(2)?))).collect()
    }

    /// Deletes a job, or brings it back.
    pub(crate) async fn delete_job(&self, id: Uuid, deleted: bool) -> Result<()> {
        let query =
            "UPDATE jobs SET deleted_at = IF(?, UTC_TIMESTAMP(3), NULL) WHERE id = ? AND (deleted_at IS NULL) = ?";
        let done = sqlx::query(query).bind(deleted).bind(id).bind(deleted).execute(&self.pool).await?;
        if done.rows_affected() == 1 { Ok(()) } else { Err(StoreError::NoSuch("job")) }
    }
}
