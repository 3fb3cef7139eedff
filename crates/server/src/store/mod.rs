//! Everything kept in MariaDB.

mod blobs;
mod jobs;
mod reclaim;
mod releases;
mod results;
mod tasks;

use std::str::FromStr;
use std::time::Duration;

use sqlx::mysql::{MySqlConnectOptions, MySqlPool, MySqlPoolOptions};

pub(crate) use jobs::{Change, JobRow, NewStep};
pub use reclaim::Reclaimed;
pub(crate) use releases::ReleaseRow;
pub(crate) use results::Product;
pub(crate) use tasks::{Claimed, TaskRow, TaskState};

/// Why storage did not do what was asked.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The database said no.
    #[error("database: {0}")]
    Database(#[from] sqlx::Error),
    /// The schema could not be brought up to date.
    #[error("migration: {0}")]
    Migrate(#[from] sqlx::migrate::MigrateError),
    /// What is kept does not match its checksum.
    #[error("what is kept under {0} is damaged")]
    Damaged(String),
    /// Kept text is not what it should be.
    #[error("stored text: {0}")]
    Text(#[from] serde_json::Error),
    /// There is no such thing.
    #[error("there is no such {0}")]
    NoSuch(&'static str),
    /// The job has changed since the caller looked.
    #[error("revision {held} was expected, but the job is at {now}")]
    Stale {
        /// What the caller knew.
        held: i64,
        /// What it is.
        now: i64,
    },
    /// Another worker has taken the task over, or it was cancelled.
    #[error("the task is not this worker's any more")]
    LeaseLost,
    /// Compression failed.
    #[error("compression: {0}")]
    Compression(#[from] std::io::Error),
}

type Result<T> = std::result::Result<T, StoreError>;

/// The database.
#[derive(Clone, Debug)]
pub struct Store {
    pool: MySqlPool,
}

impl Store {
    /// Connects and brings the schema up to date.
    ///
    /// # Errors
    /// [`StoreError`].
    pub async fn open(url: &str) -> Result<Self> {
        let options = MySqlConnectOptions::from_str(url)?;
        let pool = MySqlPoolOptions::new()
            .max_connections(16)
            .acquire_timeout(Duration::from_secs(20))
            .connect_with(options)
            .await?;
        sqlx::migrate!("../../migrations").run(&pool).await?;
        Ok(Self { pool })
    }
}

impl StoreError {
    /// Whether the database gave way to another transaction (deadlock or lock wait): the same again will do.
    fn is_passing(&self) -> bool {
        const DEADLOCK: &str = "40001";
        matches!(self, Self::Database(e) if e.as_database_error().and_then(|d| d.code()).is_some_and(|c| c == DEADLOCK))
    }
}

/// Does a transaction again when the database gave way to another one.
async fn again_if_passing<T, F: Future<Output = Result<T>>>(transaction: impl Fn() -> F) -> Result<T> {
    const TRIES: u32 = 8;
    for n in 1..TRIES {
        match transaction().await {
            Err(e) if e.is_passing() => tokio::time::sleep(Duration::from_millis(u64::from(n) * 10)).await,
            other => return other,
        }
    }
    transaction().await
}

fn hash_of(bytes: &[u8]) -> Result<nimbet_ledger::Hash> {
    let array = bytes.try_into().map_err(|_| StoreError::Damaged("a hash column".into()))?;
    Ok(nimbet_ledger::Hash(array))
}
