//! The queue of heavy work, with leases: a worker that dies loses its lease and the task is taken over.

use serde_json::Value;
use sqlx::{MySqlConnection, Row};
use uuid::Uuid;

use super::{Result, Store, StoreError, again_if_passing};

/// How long a worker may be silent before its task is taken over, seconds.
const LEASE_SECONDS: i32 = 6;
/// How often a task is begun before it counts as lost: one that stopped its worker is tried once more, in a worker of its own.
const MOST_ATTEMPTS: i32 = 2;
/// The same where all of a server went silent, with whoever watched over its workers: a power cut is no fault of a task's.
const MOST_LOST: i32 = 5;

/// Where a task stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, serde::Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "lowercase")]
pub(crate) enum TaskState {
    Queued,
    Running,
    Done,
    Failed,
    Cancelled,
}

impl TaskState {
    pub fn is_over(self) -> bool {
        matches!(self, Self::Done | Self::Failed | Self::Cancelled)
    }
}

/// A task as it is kept.
#[derive(Clone, Debug)]
pub(crate) struct TaskRow {
    pub id: i64,
    pub job_id: Uuid,
    pub state: TaskState,
    pub fraction: f64,
    pub doing: String,
    pub result: Option<Value>,
    pub fault: Option<Value>,
}

/// What to say of a task that ended with its worker, and whether the same would happen again.
#[derive(Clone, Debug)]
pub(crate) struct Ended {
    pub fault: Value,
    pub by_task: bool,
}

/// How a task ends that gives no result.
#[derive(Clone, Debug)]
pub(crate) struct Unfinished {
    pub fault: Value,
    pub cancelled: bool,
}

/// A task claimed by a worker.
#[derive(Clone, Debug)]
pub(crate) struct Claimed {
    pub id: i64,
    pub job_id: Uuid,
    pub worker: Uuid,
    pub request: String,
}

impl Store {
    pub(crate) async fn queue_task(&self, job: Uuid, request: &str) -> Result<i64> {
        let done = sqlx::query("INSERT INTO tasks (job_id, request) VALUES (?, ?)")
            .bind(job)
            .bind(request)
            .execute(&self.pool)
            .await?;
        Ok(done.last_insert_id() as i64)
    }

    pub(crate) async fn task(&self, id: i64) -> Result<TaskRow> {
        let row = sqlx::query("SELECT job_id, state, fraction, doing, result, problem FROM tasks WHERE id = ?")
            .bind(id)
            .fetch_optional(&self.pool)
            .await?
            .ok_or(StoreError::NoSuch("task"))?;
        let state: String = row.try_get(1)?;
        let result: Option<String> = row.try_get(4)?;
        let problem: Option<String> = row.try_get(5)?;
        Ok(TaskRow {
            id,
            job_id: row.try_get(0)?,
            state: serde_json::from_value(Value::String(state))?,
            fraction: row.try_get(2)?,
            doing: row.try_get(3)?,
            result: result.as_deref().map(serde_json::from_str).transpose()?,
            fault: problem.as_deref().map(serde_json::from_str).transpose()?,
        })
    }

    /// Takes the oldest waiting task, if there is one.
    pub(crate) async fn claim_task(&self, worker: Uuid) -> Result<Option<Claimed>> {
        again_if_passing(|| self.try_claim_task(worker)).await
    }

    async fn try_claim_task(&self, worker: Uuid) -> Result<Option<Claimed>> {
        let mut tx = self.pool.begin().await?;
        let row = sqlx::query(
            "SELECT id, job_id, request FROM tasks WHERE state = 'queued' ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED",
        )
        .fetch_optional(&mut *tx)
        .await?;
        let Some(row) = row else { return Ok(None) };
        let claimed = Claimed { id: row.try_get(0)?, job_id: row.try_get(1)?, worker, request: row.try_get(2)? };
        sqlx::query(
            "UPDATE tasks SET state = 'running', worker = ?, attempts = attempts + 1, fraction = 0, doing = 'starting', \
             lease_until = UTC_TIMESTAMP(3) + INTERVAL ? SECOND WHERE id = ?",
        )
        .bind(worker)
        .bind(LEASE_SECONDS)
        .bind(claimed.id)
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(Some(claimed))
    }

    /// Puts tasks of silent workers back in the queue, and gives up on those that were begun too often, with what to say of them.
    pub(crate) async fn take_over_lost_tasks(&self, fault: &Value) -> Result<()> {
        // Looked for without locks first: updates by state would lock the tasks of live workers.
        let lost = sqlx::query("SELECT id FROM tasks WHERE state = 'running' AND lease_until < UTC_TIMESTAMP(3)")
            .fetch_all(&self.pool)
            .await?;
        for row in &lost {
            sqlx::query(
                "UPDATE tasks SET worker = NULL, problem = IF(attempts >= ?, ?, NULL), \
                 doing = 'waiting: its worker stopped, and it is begun once more', \
                 ended_at = IF(cancel OR attempts >= ?, UTC_TIMESTAMP(3), NULL), state = IF(cancel, 'cancelled', IF(attempts >= ?, 'failed', 'queued')) \
                 WHERE id = ? AND state = 'running' AND lease_until < UTC_TIMESTAMP(3)",
            )
            .bind(MOST_LOST)
            .bind(fault.to_string())
            .bind(MOST_LOST)
            .bind(MOST_LOST)
            .bind(row.try_get::<i64, _>(0)?)
            .execute(&self.pool)
            .await?;
        }
        Ok(())
    }

    /// Takes a task back from a worker process that has ended: it fails, or another worker takes it over at once.
    pub(crate) async fn worker_ended(&self, worker: Uuid, why: &Ended) -> Result<()> {
        let most = if why.by_task { 0 } else { MOST_ATTEMPTS };
        sqlx::query(
            "UPDATE tasks SET worker = NULL, lease_until = NULL, ended_at = IF(cancel OR attempts >= ?, UTC_TIMESTAMP(3), NULL), \
             problem = IF(cancel, NULL, IF(attempts >= ?, ?, NULL)), \
             doing = 'waiting: its worker stopped, and it is begun once more', \
             state = IF(cancel, 'cancelled', IF(attempts >= ?, 'failed', 'queued')) WHERE worker = ? AND state = 'running'",
        )
        .bind(most)
        .bind(most)
        .bind(why.fault.to_string())
        .bind(most)
        .bind(worker)
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// How many tasks are in each state.
    pub(crate) async fn tasks_by_state(&self) -> Result<Vec<(String, i64)>> {
        let rows = sqlx::query("SELECT state, COUNT(*) FROM tasks GROUP BY state ORDER BY state")
            .fetch_all(&self.pool)
            .await?;
        rows.iter().map(|r| Ok((r.try_get(0)?, r.try_get(1)?))).collect()
    }

    /// How many tasks wait to be begun.
    pub(crate) async fn waiting_tasks(&self) -> Result<i64> {
        Ok(sqlx::query("SELECT COUNT(*) FROM tasks WHERE state = 'queued'").fetch_one(&self.pool).await?.try_get(0)?)
    }

    /// Tells how far a task is and renews its lease. Gives whether it may go on.
    pub(crate) async fn beat(&self, task: &Claimed, fraction: f64, doing: &str) -> Result<bool> {
        let done = sqlx::query(
            "UPDATE tasks SET fraction = ?, doing = ?, lease_until = UTC_TIMESTAMP(3) + INTERVAL ? SECOND \
             WHERE id = ? AND worker = ? AND state = 'running' AND NOT cancel",
        )
        .bind(fraction)
        .bind(doing.chars().take(190).collect::<String>())
        .bind(LEASE_SECONDS)
        .bind(task.id)
        .bind(task.worker)
        .execute(&self.pool)
        .await?;
        Ok(done.rows_affected() == 1)
    }

    /// Ends a task on its own (steps end theirs when they are committed).
    pub(crate) async fn finish_task(
        &self,
        task: &Claimed,
        outcome: std::result::Result<&Value, &Unfinished>,
    ) -> Result<()> {
        let mut tx = self.pool.begin().await?;
        finish_in(&mut tx, task, outcome).await?;
        Ok(tx.commit().await?)
    }

    /// Puts a running task back in the queue: the server stops.
    pub(crate) async fn requeue(&self, task: &Claimed) -> Result<()> {
        sqlx::query(
            "UPDATE tasks SET state = IF(cancel, 'cancelled', 'queued'), worker = NULL, attempts = attempts - 1, \
             doing = 'waiting', ended_at = IF(cancel, UTC_TIMESTAMP(3), NULL) \
             WHERE id = ? AND worker = ? AND state = 'running'",
        )
        .bind(task.id)
        .bind(task.worker)
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// Asks a task to stop; one that has not begun is over at once.
    pub(crate) async fn cancel_task(&self, id: i64) -> Result<()> {
        sqlx::query(
            "UPDATE tasks SET cancel = TRUE, ended_at = IF(state = 'queued', UTC_TIMESTAMP(3), NULL), \
             state = IF(state = 'queued', 'cancelled', state) \
             WHERE id = ? AND state IN ('queued', 'running')",
        )
        .bind(id)
        .execute(&self.pool)
        .await?;
        Ok(())
    }
}

/// Ends a task inside a transaction, if it is still this worker's.
pub(super) async fn finish_in(
    tx: &mut MySqlConnection,
    task: &Claimed,
    outcome: std::result::Result<&Value, &Unfinished>,
) -> Result<()> {
    let (state, result, problem) = match outcome {
        Ok(result) => ("done", Some(result.to_string()), None),
        Err(u) => (if u.cancelled { "cancelled" } else { "failed" }, None, Some(u.fault.to_string())),
    };
    let done = sqlx::query(
        "UPDATE tasks SET state = ?, result = ?, problem = ?, fraction = IF(? = 'done', 1, fraction), lease_until = NULL, \
         ended_at = UTC_TIMESTAMP(3) \
         WHERE id = ? AND worker = ? AND state = 'running'",
    )
    .bind(state)
    .bind(result)
    .bind(problem)
    .bind(state)
    .bind(task.id)
    .bind(task.worker)
    .execute(tx)
    .await?;
    if done.rows_affected() == 1 { Ok(()) } else { Err(StoreError::LeaseLost) }
}
