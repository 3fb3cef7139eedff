//! Everything kept in MariaDB.

mod blobs;
mod job_list;
mod jobs;
mod migrate;
mod reclaim;
mod releases;
mod results;
mod tasks;
mod tidy;
mod uploads;

use std::str::FromStr;
use std::time::Duration;

use serde::Serialize;
use serde::de::DeserializeOwned;
use sqlx::mysql::{MySqlConnectOptions, MySqlPool, MySqlPoolOptions};

pub(crate) use job_list::JobLine;
pub(crate) use jobs::{Change, JobRow, NewStep};
pub use reclaim::Reclaimed;
pub(crate) use releases::ReleaseRow;
pub(crate) use results::Product;
pub(crate) use tasks::{Claimed, Ended, TaskRow, TaskState, Unfinished};
pub(crate) use tidy::DELETED_DAYS;
pub use tidy::Tidied;
pub(crate) use uploads::Upload;

/// Why storage did not do what was asked.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The database said no.
    #[error("database: {0}")]
    Database(#[from] sqlx::Error),
    /// The database is of a later version of the program.
    #[error(
        "this database was brought up to schema {found} by a later version of Nimbet; this version knows schema {known}. \
         Start that version, or restore a backup made before it (docs/operate.md)"
    )]
    Newer {
        /// The schema of the database.
        found: i32,
        /// The latest schema this program knows.
        known: i32,
    },
    /// Another process is bringing the schema up to date, and does not come to an end.
    #[error("another process has been bringing the database up to date for ten minutes; look at its log")]
    MigrationBusy,
    /// What is kept cannot be read.
    #[error("{0} cannot be read any more")]
    Unreadable(String),
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
        let store = Self::join(url)?;
        migrate::migrate(&store.pool).await?;
        Ok(store)
    }

    /// A database whose schema another process has brought up to date.
    ///
    /// # Errors
    /// [`StoreError`].
    pub(crate) fn join(url: &str) -> Result<Self> {
        /// All handlers share these; most hold one for a few milliseconds.
        const CONNECTIONS: u32 = 16;
        let options = MySqlConnectOptions::from_str(url)?;
        // Who asks while the database is away is told so soon.
        let pool = MySqlPoolOptions::new()
            .max_connections(CONNECTIONS)
            .acquire_timeout(Duration::from_secs(3))
            .connect_lazy_with(options);
        Ok(Self { pool })
    }

    /// Whether the database answers.
    pub(crate) async fn answers(&self) -> bool {
        const SOON: Duration = Duration::from_millis(1500);
        let asked = tokio::time::timeout(SOON, sqlx::query("SELECT 1").execute(&self.pool)).await;
        matches!(asked, Ok(Ok(_)))
    }
}

impl StoreError {
    /// Whether the database does not answer: nothing that was asked is at fault.
    pub(crate) fn is_away(&self) -> bool {
        use sqlx::Error;
        /// ER_SERVER_SHUTDOWN, ER_CON_COUNT_ERROR.
        const AWAY: [u16; 2] = [1053, 1040];
        match self {
            Self::Database(Error::Io(_) | Error::PoolTimedOut | Error::PoolClosed | Error::WorkerCrashed) => true,
            _ => self.is_one_of(&AWAY),
        }
    }

    /// Whether the database has no room for what it was given.
    pub(crate) fn has_no_room(&self) -> bool {
        /// EE_WRITE, ER_DISK_FULL, ER_ERROR_ON_WRITE, ER_RECORD_FILE_FULL.
        const FULL: [u16; 4] = [3, 1021, 1026, 1114];
        self.is_one_of(&FULL)
    }

    fn is_one_of(&self, numbers: &[u16]) -> bool {
        let Self::Database(sqlx::Error::Database(e)) = self else { return false };
        e.try_downcast_ref::<sqlx::mysql::MySqlDatabaseError>().is_some_and(|e| numbers.contains(&e.number()))
    }

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

/// Hashing and compression are done off the async threads.
async fn off_the_runtime<T: Send + 'static>(work: impl FnOnce() -> Result<T> + Send + 'static) -> Result<T> {
    tokio::task::spawn_blocking(work).await.map_err(|e| StoreError::Compression(std::io::Error::other(e)))?
}

/// What is to be kept, as JSON text that reads back equal: numbers that are none would be kept as nothing, and never be read again.
fn written<T: Serialize + DeserializeOwned + PartialEq>(value: &T, what: &str) -> Result<String> {
    let text = serde_json::to_string(value)?;
    match serde_json::from_str::<T>(&text) {
        Ok(read) if read == *value => Ok(text),
        _ => Err(StoreError::Unreadable(what.to_owned())),
    }
}

/// What was kept before that was looked at: numbers that are none are read as nought. Says whether there were some.
fn read_kept<T: DeserializeOwned>(text: &str) -> Result<(T, bool)> {
    /// A report has a few dozen numbers.
    const MOST: usize = 1000;
    let first = match serde_json::from_str(text) {
        Ok(value) => return Ok((value, false)),
        Err(error) => error,
    };
    let mut value: serde_json::Value = serde_json::from_str(text)?;
    for _ in 0..MOST {
        let path = match serde_path_to_error::deserialize::<_, T>(&value) {
            Ok(read) => return Ok((read, true)),
            Err(error) => error.path().clone(),
        };
        let mut at = Some(&mut value);
        for segment in path.iter() {
            at = match segment {
                serde_path_to_error::Segment::Seq { index } => at.and_then(|v| v.get_mut(*index)),
                serde_path_to_error::Segment::Map { key } => at.and_then(|v| v.get_mut(key)),
                _ => at,
            };
        }
        match at {
            Some(nothing) if nothing.is_null() => *nothing = 0.0.into(),
            _ => break,
        }
    }
    Err(first.into())
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use super::*;

    #[derive(Debug, PartialEq, serde::Serialize, serde::Deserialize)]
    struct Kept {
        area: f64,
        places: Vec<[f64; 3]>,
        none: Option<f64>,
    }

    #[test]
    fn numbers_that_are_none_are_not_kept_and_those_that_were_are_read_as_nought() {
        let kept = |area| Kept { area, places: vec![[1.0, 2.0, f64::INFINITY]], none: None };
        for area in [1.0, f64::NAN, f64::INFINITY] {
            assert!(matches!(written(&kept(area), "it"), Err(StoreError::Unreadable(_))));
        }
        let text = serde_json::to_string(&kept(f64::NAN)).unwrap();
        let (read, some) = read_kept::<Kept>(&text).unwrap();
        assert_eq!((read, some), (Kept { area: 0.0, places: vec![[1.0, 2.0, 0.0]], none: None }, true));
        let sound = Kept { area: 1e-9, places: vec![], none: Some(0.1) };
        let text = written(&sound, "it").unwrap();
        assert_eq!(read_kept::<Kept>(&text).unwrap(), (sound, false));
        assert!(read_kept::<Kept>("{\"area\": \"much\"}").is_err());
    }
}
