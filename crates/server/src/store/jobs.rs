//! Jobs and their steps. A step is committed whole, together with the end of its task, or not at all.

use nimbet_ledger::{Action, Hash, History, PartId, Step, StepReport};
use sqlx::{MySqlConnection, Row};
use uuid::Uuid;

use super::tasks::{Claimed, finish_in};
use super::{Result, Store, StoreError, again_if_passing, hash_of};

/// A job with its ledger.
#[derive(Clone, Debug)]
pub(crate) struct JobRow {
    pub id: Uuid,
    pub name: String,
    pub revision: i64,
    /// The farthest round faces of new bodies may be from true, mm.
    pub chord: f64,
    pub history: History,
}

/// A step to be committed.
#[derive(Clone, Debug)]
pub(crate) struct NewStep {
    /// The part it is done to; `None` makes a new one.
    pub part: Option<PartId>,
    pub action: Action,
    pub mesh: Hash,
    pub report: StepReport,
}

impl Store {
    /// Makes an empty job.
    pub(crate) async fn create_job(&self, name: &str) -> Result<Uuid> {
        let id = Uuid::now_v7();
        sqlx::query("INSERT INTO jobs (id, name) VALUES (?, ?)").bind(id).bind(name).execute(&self.pool).await?;
        Ok(id)
    }

    /// Ids, names and revisions of all jobs, the newest first.
    pub(crate) async fn jobs(&self) -> Result<Vec<(Uuid, String, i64)>> {
        let rows = sqlx::query("SELECT id, name, revision FROM jobs ORDER BY created_at DESC, id DESC")
            .fetch_all(&self.pool)
            .await?;
        rows.iter().map(|r| Ok((r.try_get(0)?, r.try_get(1)?, r.try_get(2)?))).collect()
    }

    /// A job with its ledger, read in one transaction.
    pub(crate) async fn job(&self, id: Uuid) -> Result<JobRow> {
        let mut tx = self.pool.begin().await?;
        let row = sqlx::query("SELECT name, revision, cursor_at, chord FROM jobs WHERE id = ?")
            .bind(id)
            .fetch_optional(&mut *tx)
            .await?
            .ok_or(StoreError::NoSuch("job"))?;
        let steps = sqlx::query(
            "SELECT number, part, action, mesh, report, name, note FROM steps WHERE job_id = ? AND place IS NOT NULL ORDER BY place",
        )
        .bind(id)
        .fetch_all(&mut *tx)
        .await?;
        tx.commit().await?;
        let steps = steps
            .iter()
            .map(|r| {
                Ok(Step {
                    number: r.try_get::<i32, _>(0)? as u32,
                    part: PartId(r.try_get::<i32, _>(1)? as u32),
                    action: serde_json::from_str(&r.try_get::<String, _>(2)?)?,
                    mesh: hash_of(&r.try_get::<Vec<u8>, _>(3)?)?,
                    report: serde_json::from_str(&r.try_get::<String, _>(4)?)?,
                    name: r.try_get(5)?,
                    note: r.try_get(6)?,
                })
            })
            .collect::<Result<Vec<_>>>()?;
        let cursor = row.try_get::<i32, _>(2)? as usize;
        let (name, revision, chord) = (row.try_get(0)?, row.try_get(1)?, row.try_get(3)?);
        Ok(JobRow { id, name, revision, chord, history: History { steps, cursor } })
    }

    /// Sets the chord tolerance.
    pub(crate) async fn set_chord(&self, id: Uuid, revision: i64, chord: f64) -> Result<()> {
        let mut tx = self.pool.begin().await?;
        lock_job(&mut tx, id, Some(revision)).await?;
        sqlx::query("UPDATE jobs SET chord = ?, revision = revision + 1 WHERE id = ?")
            .bind(chord)
            .bind(id)
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(())
    }

    /// Names a step and notes something on it.
    pub(crate) async fn label_step(
        &self,
        id: Uuid,
        revision: i64,
        number: u32,
        name: Option<&str>,
        note: Option<&str>,
    ) -> Result<()> {
        let mut tx = self.pool.begin().await?;
        lock_job(&mut tx, id, Some(revision)).await?;
        let there = sqlx::query("SELECT number FROM steps WHERE job_id = ? AND number = ? AND place IS NOT NULL")
            .bind(id)
            .bind(number)
            .fetch_optional(&mut *tx)
            .await?;
        if there.is_none() {
            return Err(StoreError::NoSuch("step"));
        }
        sqlx::query("UPDATE steps SET name = ?, note = ? WHERE job_id = ? AND number = ?")
            .bind(name)
            .bind(note)
            .bind(id)
            .bind(number)
            .execute(&mut *tx)
            .await?;
        sqlx::query("UPDATE jobs SET revision = revision + 1 WHERE id = ?").bind(id).execute(&mut *tx).await?;
        tx.commit().await?;
        Ok(())
    }

    /// Puts the cursor at `cursor` (undo, redo). Gives the new revision.
    pub(crate) async fn move_cursor(&self, id: Uuid, revision: i64, cursor: usize) -> Result<i64> {
        let mut tx = self.pool.begin().await?;
        let held = lock_job(&mut tx, id, Some(revision)).await?;
        let count: i64 = sqlx::query("SELECT COUNT(*) FROM steps WHERE job_id = ? AND place IS NOT NULL")
            .bind(id)
            .fetch_one(&mut *tx)
            .await?
            .try_get(0)?;
        if cursor as i64 > count {
            return Err(StoreError::NoSuch("place in the ledger"));
        }
        sqlx::query("UPDATE jobs SET cursor_at = ?, revision = revision + 1 WHERE id = ?")
            .bind(cursor as i32)
            .bind(id)
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(held.revision + 1)
    }

    /// Commits a step at the cursor; steps that were undone go out of line. `revision` is checked if given, and the task is
    /// ended in the same transaction if given. Gives the step's number and the new revision.
    pub(crate) async fn commit_step(
        &self,
        id: Uuid,
        revision: Option<i64>,
        step: &NewStep,
        task: Option<&Claimed>,
    ) -> Result<(u32, i64)> {
        again_if_passing(|| self.try_commit_step(id, revision, step, task)).await
    }

    async fn try_commit_step(
        &self,
        id: Uuid,
        revision: Option<i64>,
        step: &NewStep,
        task: Option<&Claimed>,
    ) -> Result<(u32, i64)> {
        let mut tx = self.pool.begin().await?;
        let held = lock_job(&mut tx, id, revision).await?;
        let number = held.next_number;
        sqlx::query("UPDATE steps SET place = NULL WHERE job_id = ? AND place >= ?")
            .bind(id)
            .bind(held.cursor)
            .execute(&mut *tx)
            .await?;
        sqlx::query(
            "INSERT INTO steps (job_id, number, place, part, action, mesh, report) VALUES (?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(id)
        .bind(number)
        .bind(held.cursor)
        .bind(step.part.map_or(number, |p| p.0 as i32))
        .bind(serde_json::to_string(&step.action)?)
        .bind(&step.mesh.0[..])
        .bind(serde_json::to_string(&step.report)?)
        .execute(&mut *tx)
        .await?;
        // Further parts are called by the numbers after the step's.
        sqlx::query("UPDATE jobs SET cursor_at = cursor_at + 1, next_number = next_number + 1 + ?, revision = revision + 1 WHERE id = ?")
            .bind(step.report.made.len() as i32)
            .bind(id)
            .execute(&mut *tx)
            .await?;
        let revision = held.revision + 1;
        if let Some(task) = task {
            let result = serde_json::json!({ "step": number, "revision": revision });
            finish_in(&mut tx, task, Ok(&result)).await?;
        }
        tx.commit().await?;
        Ok((number as u32, revision))
    }
}

struct Held {
    revision: i64,
    cursor: i32,
    next_number: i32,
}

async fn lock_job(tx: &mut MySqlConnection, id: Uuid, revision: Option<i64>) -> Result<Held> {
    let row = sqlx::query("SELECT revision, cursor_at, next_number FROM jobs WHERE id = ? FOR UPDATE")
        .bind(id)
        .fetch_optional(tx)
        .await?
        .ok_or(StoreError::NoSuch("job"))?;
    let held = Held { revision: row.try_get(0)?, cursor: row.try_get(1)?, next_number: row.try_get(2)? };
    match revision {
        Some(known) if known != held.revision => Err(StoreError::Stale { held: known, now: held.revision }),
        _ => Ok(held),
    }
}
