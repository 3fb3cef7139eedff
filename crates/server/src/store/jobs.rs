//! Jobs and their ledgers. A ledger is a line of editions of steps; each change commits a new line whole, together with the end
//! of its task, or nothing. Undo and redo go from line to line.

use nimbet_ledger::{Action, Hash, History, PartId, Setup, Step, StepReport, StepState};
use sqlx::{MySqlConnection, Row};
use uuid::Uuid;

use super::tasks::{Claimed, finish_in};
use super::{Result, Store, StoreError, again_if_passing, hash_of, read_kept, written};

/// A job with its ledger.
#[derive(Clone, Debug)]
pub(crate) struct JobRow {
    pub id: Uuid,
    pub name: String,
    pub revision: i64,
    pub setup: Setup,
    pub setup_revision: i64,
    pub history: History,
    /// Of each step its edition, by whom it was made and when.
    pub stamps: Vec<Stamp>,
    /// The first number no step and no part has.
    pub next_number: u32,
    /// What undo would take back, and redo bring again.
    pub undo: Option<String>,
    pub redo: Option<String>,
    /// By whom what undo would take back was done.
    pub undo_by: Option<String>,
    version: i32,
    next_edition: i32,
}

/// Who made an edition of a step, and when.
#[derive(Clone, Debug)]
pub(crate) struct Stamp {
    edition: i32,
    pub who: Option<String>,
    /// As in RFC 3339, UTC.
    pub at: String,
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

impl NewStep {
    /// The step with its number. Further parts it made are numbered on from there.
    pub(crate) fn as_step(&self, number: u32) -> Step {
        let mut report = self.report.clone();
        for (made, part) in report.made.iter_mut().zip(number + 1..) {
            made.part = Some(PartId(part));
        }
        Step {
            number,
            part: self.part.unwrap_or(PartId(number)),
            action: self.action.clone(),
            mesh: self.mesh,
            report,
            state: StepState::Done,
            name: None,
            note: None,
        }
    }
}

/// A change of a ledger.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Change<'a> {
    /// The revision it is about, if that matters.
    pub revision: Option<i64>,
    /// By whom.
    pub who: Option<&'a str>,
    /// The task that ends with it.
    pub task: Option<&'a Claimed>,
}

impl Store {
    /// Makes an empty job.
    pub(crate) async fn create_job(&self, name: &str) -> Result<Uuid> {
        self.create_job_of(name, &[]).await
    }

    /// Makes a job that begins with some steps; all of it or nothing.
    pub(crate) async fn create_job_of(&self, name: &str, steps: &[NewStep]) -> Result<Uuid> {
        let mut tx = self.pool.begin().await?;
        let id = create_in(&mut tx, name).await?;
        let change = Change { revision: None, who: None, task: None };
        for step in steps {
            let row = job_in(&mut tx, id, true).await?;
            put_in(&mut tx, &row, step, change).await?;
        }
        tx.commit().await?;
        Ok(id)
    }

    /// A job with its ledger, read in one transaction.
    pub(crate) async fn job(&self, id: Uuid) -> Result<JobRow> {
        let mut tx = self.pool.begin().await?;
        let row = job_in(&mut tx, id, false).await?;
        tx.commit().await?;
        Ok(row)
    }

    /// The revisions of a job and of how it is set up.
    pub(crate) async fn revisions(&self, id: Uuid) -> Result<(i64, i64)> {
        let query = "SELECT revision, setup_revision FROM jobs WHERE id = ? AND deleted_at IS NULL";
        let row = sqlx::query(query).bind(id).fetch_optional(&self.pool).await?;
        let row = row.ok_or(StoreError::NoSuch("job"))?;
        Ok((row.try_get(0)?, row.try_get(1)?))
    }

    /// The jobs with a step that made a mesh.
    pub(crate) async fn jobs_with(&self, mesh: Hash) -> Result<Vec<Uuid>> {
        let rows = sqlx::query("SELECT DISTINCT job_id FROM steps WHERE mesh = ? OR report LIKE ?")
            .bind(&mesh.0[..])
            .bind(format!("%{mesh}%"))
            .fetch_all(&self.pool)
            .await?;
        rows.iter().map(|r| Ok(r.try_get(0)?)).collect()
    }

    /// Sets how a job is set up.
    pub(crate) async fn set_up(&self, id: Uuid, revision: i64, setup: &Setup) -> Result<()> {
        let mut tx = self.pool.begin().await?;
        let row = sqlx::query("SELECT setup_revision FROM jobs WHERE id = ? AND deleted_at IS NULL FOR UPDATE")
            .bind(id)
            .fetch_optional(&mut *tx)
            .await?
            .ok_or(StoreError::NoSuch("job"))?;
        let now: i64 = row.try_get(0)?;
        if now != revision {
            return Err(StoreError::Stale { held: revision, now });
        }
        sqlx::query("UPDATE jobs SET setup = ?, setup_revision = setup_revision + 1 WHERE id = ?")
            .bind(serde_json::to_string(setup)?)
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
        let there = sqlx::query("SELECT number FROM steps WHERE job_id = ? AND number = ? LIMIT 1")
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

    /// Goes back to the line before the present one, or on to the newest that came after it.
    pub(crate) async fn undo(&self, id: Uuid, revision: i64, redo: bool) -> Result<()> {
        let mut tx = self.pool.begin().await?;
        let held = lock_job(&mut tx, id, Some(revision)).await?;
        let query = if redo {
            "SELECT MAX(version) FROM ledger_lines WHERE job_id = ? AND before_it = ?"
        } else {
            "SELECT before_it FROM ledger_lines WHERE job_id = ? AND version = ?"
        };
        let row = sqlx::query(query).bind(id).bind(held.version).fetch_one(&mut *tx).await?;
        let to: i32 = row.try_get::<Option<i32>, _>(0)?.ok_or(StoreError::NoSuch("change"))?;
        sqlx::query("UPDATE jobs SET version = ?, revision = revision + 1 WHERE id = ?")
            .bind(to)
            .bind(id)
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(())
    }

    /// Commits a step at the cursor: after the steps in force, before those held back. Gives the step's number and the new
    /// revision.
    pub(crate) async fn commit_step(&self, id: Uuid, step: &NewStep, change: Change<'_>) -> Result<(u32, i64)> {
        again_if_passing(|| self.try_commit_step(id, step, change)).await
    }

    async fn try_commit_step(&self, id: Uuid, step: &NewStep, change: Change<'_>) -> Result<(u32, i64)> {
        let mut tx = self.pool.begin().await?;
        let row = job_in(&mut tx, id, true).await?;
        refuse_stale(change, row.revision)?;
        let (number, revision) = put_in(&mut tx, &row, step, change).await?;
        if let Some(task) = change.task {
            finish_in(&mut tx, task, Ok(&serde_json::json!({ "step": number, "revision": revision }))).await?;
        }
        tx.commit().await?;
        Ok((number, revision))
    }

    /// Commits an edited ledger in the place of the one in `row`; the task tells of `step`, if that is a new one.
    pub(crate) async fn commit_edit(
        &self,
        row: &JobRow,
        (history, next): (&History, u32),
        what: &str,
        step: Option<u32>,
        change: Change<'_>,
    ) -> Result<()> {
        again_if_passing(|| async {
            let mut tx = self.pool.begin().await?;
            let held = lock_job(&mut tx, row.id, Some(row.revision)).await?;
            commit_in(&mut tx, row, history, next, what, change).await?;
            if let Some(task) = change.task {
                let result = serde_json::json!({ "step": step, "revision": held.revision + 1 });
                finish_in(&mut tx, task, Ok(&result)).await?;
            }
            Ok(tx.commit().await?)
        })
        .await
    }

    /// Makes another job with the ledger of one as it is now. Nothing is worked out anew.
    pub(crate) async fn copy_job(&self, id: Uuid, name: &str) -> Result<Uuid> {
        let mut tx = self.pool.begin().await?;
        let copy = create_in(&mut tx, name).await?;
        let from = job_in(&mut tx, id, true).await?;
        let to = job_in(&mut tx, copy, true).await?;
        let change = Change { revision: None, who: None, task: None };
        let what = format!("Copy of {}", from.name);
        commit_in(&mut tx, &to, &from.history, from.next_number, &what, change).await?;
        let setup = serde_json::to_string(&from.setup)?;
        sqlx::query("UPDATE jobs SET setup = ? WHERE id = ?").bind(setup).bind(copy).execute(&mut *tx).await?;
        tx.commit().await?;
        Ok(copy)
    }
}

async fn create_in(tx: &mut MySqlConnection, name: &str) -> Result<Uuid> {
    let id = Uuid::now_v7();
    sqlx::query("INSERT INTO jobs (id, name) VALUES (?, ?)").bind(id).bind(name).execute(&mut *tx).await?;
    sqlx::query(
        "INSERT INTO ledger_lines (job_id, version, editions, cursor_at, what) VALUES (?, 0, '[]', 0, 'the beginning')",
    )
    .bind(id)
    .execute(tx)
    .await?;
    Ok(id)
}

/// Puts a step down at the cursor; gives its number and the new revision.
async fn put_in(tx: &mut MySqlConnection, row: &JobRow, step: &NewStep, change: Change<'_>) -> Result<(u32, i64)> {
    let number = row.next_number;
    let mut history = row.history.clone();
    let next = number + 1 + step.report.made.len() as u32;
    let made = step.as_step(number);
    let what = made.action.title();
    history.steps.insert(history.cursor, made);
    history.cursor += 1;
    commit_in(tx, row, &history, next, &what, change).await?;
    Ok((number, row.revision + 1))
}

/// Puts down a line with editions of its own for the steps that are not as they were.
async fn commit_in(
    tx: &mut MySqlConnection,
    row: &JobRow,
    history: &History,
    next_number: u32,
    what: &str,
    change: Change<'_>,
) -> Result<()> {
    let mut editions = Vec::with_capacity(history.steps.len());
    let mut next = row.next_edition;
    for step in &history.steps {
        let same = row.history.steps.iter().zip(&row.stamps).find(|(old, _)| *old == step);
        if let Some((_, stamp)) = same {
            editions.push(stamp.edition);
            continue;
        }
        let state = Some(&step.state).filter(|s| **s != StepState::Done).map(serde_json::to_string).transpose()?;
        sqlx::query(
            "INSERT INTO steps (job_id, edition, number, part, action, mesh, report, state, name, note, made_by) \
             VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(row.id)
        .bind(next)
        .bind(step.number)
        .bind(step.part.0)
        .bind(serde_json::to_string(&step.action)?)
        .bind(&step.mesh.0[..])
        .bind(written(&step.report, "the report of a step")?)
        .bind(state)
        .bind(&step.name)
        .bind(&step.note)
        .bind(change.who)
        .execute(&mut *tx)
        .await?;
        editions.push(next);
        next += 1;
    }
    let version: i32 = sqlx::query("SELECT MAX(version) + 1 FROM ledger_lines WHERE job_id = ?")
        .bind(row.id)
        .fetch_one(&mut *tx)
        .await?
        .try_get::<i64, _>(0)? as i32;
    sqlx::query(
        "INSERT INTO ledger_lines (job_id, version, before_it, editions, cursor_at, what, made_by) \
         VALUES (?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(row.id)
    .bind(version)
    .bind(row.version)
    .bind(serde_json::to_string(&editions)?)
    .bind(history.cursor as i32)
    .bind(what.chars().take(300).collect::<String>())
    .bind(change.who)
    .execute(&mut *tx)
    .await?;
    sqlx::query("UPDATE jobs SET version = ?, next_edition = ?, next_number = ?, revision = revision + 1 WHERE id = ?")
        .bind(version)
        .bind(next)
        .bind(next_number)
        .bind(row.id)
        .execute(&mut *tx)
        .await?;
    Ok(())
}

/// Where a step stands whose figures were kept as numbers that are none.
fn beyond_bounds() -> StepState {
    let why = "its figures are beyond all bounds and cannot be read; undo it, or remove it".to_owned();
    StepState::Stopped { why, places: vec![], new_pick: false }
}

async fn job_in(tx: &mut MySqlConnection, id: Uuid, lock: bool) -> Result<JobRow> {
    let query = "SELECT name, revision, version, setup, next_number, next_edition, setup_revision FROM jobs \
         WHERE id = ? AND deleted_at IS NULL";
    let row = sqlx::query(sqlx::AssertSqlSafe(format!("{query}{}", if lock { " FOR UPDATE" } else { "" })))
        .bind(id)
        .fetch_optional(&mut *tx)
        .await?
        .ok_or(StoreError::NoSuch("job"))?;
    let version: i32 = row.try_get(2)?;
    let line = sqlx::query(
        "SELECT editions, cursor_at, IF(before_it IS NULL, NULL, what), \
         (SELECT n.what FROM ledger_lines n WHERE n.job_id = l.job_id AND n.before_it = l.version ORDER BY n.version DESC LIMIT 1), \
         made_by \
         FROM ledger_lines l WHERE job_id = ? AND version = ?",
    )
    .bind(id)
    .bind(version)
    .fetch_one(&mut *tx)
    .await?;
    let editions: Vec<i32> = serde_json::from_str(&line.try_get::<String, _>(0)?)?;
    // Held as JSON, so that any number of them is one parameter.
    let rows = sqlx::query(
        "SELECT s.number, s.part, s.action, s.mesh, s.report, s.state, s.name, s.note, s.edition, s.made_by, \
         DATE_FORMAT(s.made_at, '%Y-%m-%dT%TZ') \
         FROM JSON_TABLE(?, '$[*]' COLUMNS (place FOR ORDINALITY, edition INT PATH '$')) l \
         JOIN steps s ON s.job_id = ? AND s.edition = l.edition ORDER BY l.place",
    )
    .bind(serde_json::to_string(&editions)?)
    .bind(id)
    .fetch_all(&mut *tx)
    .await?;
    let (mut steps, mut stamps) = (Vec::with_capacity(rows.len()), Vec::with_capacity(rows.len()));
    for r in &rows {
        let state: Option<String> = r.try_get(5)?;
        let state = state.as_deref().map(serde_json::from_str).transpose()?.unwrap_or_default();
        let (report, numberless) = read_kept(&r.try_get::<String, _>(4)?)?;
        steps.push(Step {
            number: r.try_get::<i32, _>(0)? as u32,
            part: PartId(r.try_get::<i32, _>(1)? as u32),
            action: serde_json::from_str(&r.try_get::<String, _>(2)?)?,
            mesh: hash_of(&r.try_get::<Vec<u8>, _>(3)?)?,
            report,
            state: if numberless { beyond_bounds() } else { state },
            name: r.try_get(6)?,
            note: r.try_get(7)?,
        });
        stamps.push(Stamp { edition: r.try_get(8)?, who: r.try_get(9)?, at: r.try_get(10)? });
    }
    Ok(JobRow {
        id,
        name: row.try_get(0)?,
        revision: row.try_get(1)?,
        setup: serde_json::from_str(&row.try_get::<String, _>(3)?)?,
        setup_revision: row.try_get(6)?,
        history: History { steps, cursor: line.try_get::<i32, _>(1)? as usize },
        stamps,
        next_number: row.try_get::<i32, _>(4)? as u32,
        undo: line.try_get(2)?,
        redo: line.try_get(3)?,
        undo_by: line.try_get(4)?,
        version,
        next_edition: row.try_get(5)?,
    })
}

struct Held {
    revision: i64,
    version: i32,
}

async fn lock_job(tx: &mut MySqlConnection, id: Uuid, revision: Option<i64>) -> Result<Held> {
    let row = sqlx::query("SELECT revision, version FROM jobs WHERE id = ? AND deleted_at IS NULL FOR UPDATE")
        .bind(id)
        .fetch_optional(tx)
        .await?
        .ok_or(StoreError::NoSuch("job"))?;
    let held = Held { revision: row.try_get(0)?, version: row.try_get(1)? };
    match revision {
        Some(known) if known != held.revision => Err(StoreError::Stale { held: known, now: held.revision }),
        _ => Ok(held),
    }
}

fn refuse_stale(change: Change<'_>, now: i64) -> Result<()> {
    match change.revision {
        Some(held) if held != now => Err(StoreError::Stale { held, now }),
        _ => Ok(()),
    }
}
