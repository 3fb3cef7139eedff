//! Releases: check sheets and the files they are about.

use nimbet_ledger::{CheckSheet, Hash, PartId};
use sqlx::{MySql, Row, mysql::MySqlRow};
use uuid::Uuid;

use super::{Result, Store, StoreError, hash_of};

/// A release as it is kept.
#[derive(Clone, Debug)]
pub(crate) struct ReleaseRow {
    pub id: Uuid,
    pub part: PartId,
    pub mesh: Hash,
    pub sheet: CheckSheet,
    pub file: Hash,
    /// When, UTC, ISO 8601.
    pub made_at: String,
}

const COLUMNS: &str =
    "SELECT id, part, mesh, sheet, file, DATE_FORMAT(created_at, '%Y-%m-%dT%H:%i:%sZ') FROM releases WHERE ";

impl Store {
    pub(crate) async fn keep_release(&self, job: Uuid, part: PartId, mesh: Hash, sheet: &CheckSheet) -> Result<Uuid> {
        let id = Uuid::now_v7();
        sqlx::query("INSERT INTO releases (id, job_id, part, mesh, sheet, file) VALUES (?, ?, ?, ?, ?, ?)")
            .bind(id)
            .bind(job)
            .bind(part.0 as i32)
            .bind(&mesh.0[..])
            .bind(serde_json::to_string(sheet)?)
            .bind(&sheet.hash.0[..])
            .execute(&self.pool)
            .await?;
        Ok(id)
    }

    pub(crate) async fn release(&self, id: Uuid) -> Result<ReleaseRow> {
        let text = format!("{COLUMNS} id = ?");
        let row = sqlx::query::<MySql>(sqlx::AssertSqlSafe(text)).bind(id).fetch_optional(&self.pool).await?;
        read(&row.ok_or(StoreError::NoSuch("release"))?)
    }

    /// The releases of a job, the newest first.
    pub(crate) async fn releases(&self, job: Uuid) -> Result<Vec<ReleaseRow>> {
        let text = format!("{COLUMNS} job_id = ? ORDER BY created_at DESC, id DESC LIMIT 100");
        let rows = sqlx::query::<MySql>(sqlx::AssertSqlSafe(text)).bind(job).fetch_all(&self.pool).await?;
        rows.iter().map(read).collect()
    }
}

fn read(r: &MySqlRow) -> Result<ReleaseRow> {
    Ok(ReleaseRow {
        id: r.try_get(0)?,
        part: PartId(r.try_get::<i32, _>(1)? as u32),
        mesh: hash_of(&r.try_get::<Vec<u8>, _>(2)?)?,
        sheet: serde_json::from_str(&r.try_get::<String, _>(3)?)?,
        file: hash_of(&r.try_get::<Vec<u8>, _>(4)?)?,
        made_at: r.try_get(5)?,
    })
}
