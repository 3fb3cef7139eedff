//! Bringing the schema up to date, so that it survives a kill at any moment.
//!
//! MariaDB commits each change of a table by itself, so a migration cannot be one transaction. Instead each *statement* can be done
//! twice (`IF NOT EXISTS`, `INSERT IGNORE` …), and how many statements of a migration are done is written down after each: who
//! comes after a kill does the last one again and goes on.

use sqlx::mysql::MySqlPool;
use sqlx::pool::PoolConnection;
use sqlx::{AssertSqlSafe, Connection, MySql, Row};

use super::{Result, StoreError};

/// The migrations in order; a migration's version is its place, from 1.
const MIGRATIONS: [&str; 8] = [
    include_str!("../../../../migrations/0001_first.sql"),
    include_str!("../../../../migrations/0002_chord.sql"),
    include_str!("../../../../migrations/0003_step_names.sql"),
    include_str!("../../../../migrations/0004_lines.sql"),
    include_str!("../../../../migrations/0005_kept_at.sql"),
    include_str!("../../../../migrations/0006_setup.sql"),
    include_str!("../../../../migrations/0007_holds.sql"),
    include_str!("../../../../migrations/0008_archive.sql"),
];

/// How long another process may take to migrate, seconds.
const PATIENCE: i32 = 600;

/// Brings the schema up to date. Processes that start together do it one after the other.
///
/// # Errors
/// [`StoreError::Newer`] if a later version of the program has been here.
pub(super) async fn migrate(pool: &MySqlPool) -> Result<()> {
    let mut db = pool.acquire().await?;
    let lock = "SELECT GET_LOCK(CONCAT(DATABASE(), '.schema'), ?)";
    let held: Option<i64> = sqlx::query(lock).bind(PATIENCE).fetch_one(&mut *db).await?.try_get(0)?;
    if held != Some(1) {
        return Err(StoreError::MigrationBusy);
    }
    let done = migrate_alone(&mut db).await;
    // The lock goes with the connection.
    let closed = db.detach().close().await;
    done?;
    Ok(closed?)
}

async fn migrate_alone(db: &mut PoolConnection<MySql>) -> Result<()> {
    let table = "CREATE TABLE IF NOT EXISTS schema_stages \
        (version INT NOT NULL PRIMARY KEY, statements INT NOT NULL, whole BOOLEAN NOT NULL DEFAULT FALSE)";
    sqlx::raw_sql(table).execute(&mut **db).await?;
    let earlier = adopt(db).await?;
    let newest: Option<i32> =
        sqlx::query("SELECT MAX(version) FROM schema_stages").fetch_one(&mut **db).await?.try_get(0)?;
    let known = MIGRATIONS.len() as i32;
    if newest.is_some_and(|newest| newest > known) {
        return Err(StoreError::Newer { found: newest.unwrap_or(known), known });
    }
    for (version, text) in (1..).zip(MIGRATIONS) {
        let row = sqlx::query("SELECT statements, whole FROM schema_stages WHERE version = ?")
            .bind(version)
            .fetch_optional(&mut **db)
            .await?;
        let (mut done, whole) = match row {
            Some(row) => (row.try_get::<i32, _>(0)? as usize, row.try_get::<bool, _>(1)?),
            None => (0, false),
        };
        if whole {
            continue;
        }
        let statements: Vec<&str> = statements(text).collect();
        while done < statements.len() {
            if let Err(error) = sqlx::raw_sql(AssertSqlSafe(statements[done].to_owned())).execute(&mut **db).await
                && !(earlier == Some(version) && is_done_already(&error))
            {
                return Err(error.into());
            }
            done += 1;
            record(db, version, done, done == statements.len()).await?;
        }
    }
    Ok(())
}

/// Takes over what the first versions of the program wrote down about migrations, which was by the whole migration only. Gives the
/// one they were killed in, of which it is not known how far it got.
async fn adopt(db: &mut PoolConnection<MySql>) -> Result<Option<i32>> {
    let there =
        "SELECT 1 FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = '_sqlx_migrations'";
    if sqlx::query(there).fetch_optional(&mut **db).await?.is_none() {
        return Ok(None);
    }
    let rows = sqlx::query("SELECT CAST(version AS INT), success FROM _sqlx_migrations").fetch_all(&mut **db).await?;
    let mut broken = None;
    for row in &rows {
        let version = row.try_get::<i64, _>(0)? as i32;
        if row.try_get::<bool, _>(1)? {
            record(db, version, 0, true).await?;
        } else {
            broken = Some(version);
        }
    }
    Ok(broken)
}

async fn record(db: &mut PoolConnection<MySql>, version: i32, statements: usize, whole: bool) -> Result<()> {
    let query = "INSERT INTO schema_stages (version, statements, whole) VALUES (?, ?, ?) \
        ON DUPLICATE KEY UPDATE statements = GREATEST(statements, VALUES(statements)), whole = whole OR VALUES(whole)";
    sqlx::query(query).bind(version).bind(statements as i32).bind(whole).execute(&mut **db).await?;
    Ok(())
}

/// Whether a statement fails because it needs a column that a later one of the same migration takes away.
fn is_done_already(error: &sqlx::Error) -> bool {
    const UNKNOWN_COLUMN: &str = "42S22";
    error.as_database_error().and_then(|e| e.code()).is_some_and(|code| code == UNKNOWN_COLUMN)
}

/// The statements of a migration: each ends with a semicolon at the end of a line.
fn statements(text: &str) -> impl Iterator<Item = &str> {
    text.split(";\n").map(str::trim).filter(|s| s.lines().any(|l| !l.trim().is_empty() && !l.trim().starts_with("--")))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Whoever is killed between a statement and its record does the statement again.
    #[test]
    fn every_statement_can_be_done_twice() {
        let all: Vec<&str> = MIGRATIONS.iter().flat_map(|text| statements(text)).collect();
        assert!(all.len() > 20, "{} statements", all.len());
        for statement in all {
            let plain: Vec<&str> = statement.lines().filter(|l| !l.trim().starts_with("--")).collect();
            let plain = plain.join(" ");
            for (change, twice) in [
                ("CREATE TABLE", "CREATE TABLE IF NOT EXISTS"),
                ("ADD COLUMN", "ADD COLUMN IF NOT EXISTS"),
                ("DROP COLUMN", "DROP COLUMN IF EXISTS"),
                ("ADD KEY", "ADD KEY IF NOT EXISTS"),
                ("DROP KEY", "DROP KEY IF EXISTS"),
                ("INSERT", "INSERT IGNORE"),
            ] {
                assert_eq!(plain.matches(change).count(), plain.matches(twice).count(), "{change}: {plain}");
            }
        }
    }
}
