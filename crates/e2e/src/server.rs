//! A server process on loopback, ended with the test.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, bail};
use sqlx::Row;
use tokio::sync::OnceCell;

/// A running server. Killed when dropped.
pub struct Server {
    child: Child,
    /// `http://127.0.0.1:PORT`
    pub address: String,
}

/// Makes an empty database for one test and gives its URL.
///
/// # Errors
/// When there is no MariaDB to make it in.
pub async fn fresh_database() -> anyhow::Result<String> {
    let base = std::env::var("NIMBET_DATABASE_URL")
        .context("NIMBET_DATABASE_URL is not set: run the tests with ./test, or under scripts/with-mariadb")?;
    let name = format!("nimbet_{}", uuid::Uuid::new_v4().simple());
    let pool = sqlx::mysql::MySqlPool::connect(&base).await?;
    sqlx::query(sqlx::AssertSqlSafe(format!("CREATE DATABASE {name}"))).execute(&pool).await?;
    pool.close().await;
    let (server, _) = base.rsplit_once('/').context("the database URL has no name")?;
    Ok(format!("{server}/{name}"))
}

/// A database with the demo job in it: put down once, and copied for each test, since examining its parts takes seconds.
///
/// # Errors
/// When there is no MariaDB to make it in.
async fn demo_database() -> anyhow::Result<String> {
    static WHOLE: OnceCell<String> = OnceCell::const_new();
    let whole = WHOLE
        .get_or_try_init(|| async {
            let whole = fresh_database().await?;
            let server = Server::start(&whole, &["--demo", "--task-slots", "0"])?;
            // It comes into the database as a whole, a while after the server listens.
            let pool = sqlx::mysql::MySqlPool::connect(&whole).await?;
            while sqlx::query("SELECT 1 FROM jobs").fetch_optional(&pool).await?.is_none() {
                tokio::time::sleep(Duration::from_millis(20)).await;
            }
            pool.close().await;
            drop(server);
            anyhow::Ok(whole)
        })
        .await?;
    let copy = fresh_database().await?;
    let (_, from) = whole.rsplit_once('/').context("the database URL has no name")?;
    let pool = sqlx::mysql::MySqlPool::connect(&copy).await?;
    let tables = sqlx::query("SELECT CAST(table_name AS CHAR) FROM information_schema.tables WHERE table_schema = ?");
    for row in tables.bind(from).fetch_all(&pool).await? {
        let table: String = row.try_get(0)?;
        for query in [
            format!("CREATE TABLE {table} LIKE {from}.{table}"),
            format!("INSERT INTO {table} SELECT * FROM {from}.{table}"),
        ] {
            sqlx::query(sqlx::AssertSqlSafe(query)).execute(&pool).await?;
        }
    }
    pool.close().await;
    Ok(copy)
}

/// Fills an empty database with what an earlier version of the program kept.
///
/// # Errors
/// When that does not go.
pub async fn fill_database(database_url: &str, sql: &'static str) -> anyhow::Result<()> {
    let pool = sqlx::mysql::MySqlPool::connect(database_url).await?;
    sqlx::raw_sql(sql).execute(&pool).await?;
    pool.close().await;
    Ok(())
}

/// The built `nimbet`.
fn program() -> anyhow::Result<std::path::PathBuf> {
    let me = std::env::current_exe()?;
    Ok(me.parent().and_then(|p| p.parent()).context("no target folder")?.join("nimbet"))
}

/// Runs `nimbet` with arguments on a database and kills it after a while, or gives what it did before that.
///
/// # Errors
/// When it is not built.
pub fn killed_after(database_url: &str, arguments: &[&str], after: Duration) -> anyhow::Result<()> {
    let mut command = Command::new(program()?);
    let command = command.args(arguments).env("NIMBET_DATABASE_URL", database_url);
    let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn()?;
    std::thread::sleep(after);
    let _ = child.kill();
    let _ = child.wait();
    Ok(())
}

/// What `nimbet` says when it refuses to do something.
///
/// # Errors
/// When it does not refuse.
pub fn refusal_of(database_url: &str, arguments: &[&str]) -> anyhow::Result<String> {
    let done = Command::new(program()?).args(arguments).env("NIMBET_DATABASE_URL", database_url).output()?;
    anyhow::ensure!(!done.status.success(), "it was done");
    Ok(String::from_utf8_lossy(&done.stderr).into_owned())
}

/// What `nimbet` prints when it is run on a database.
///
/// # Errors
/// When it fails.
pub fn run_on(database_url: &str, arguments: &[&str]) -> anyhow::Result<String> {
    let done = Command::new(program()?).args(arguments).env("NIMBET_DATABASE_URL", database_url).output()?;
    anyhow::ensure!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    Ok(String::from_utf8(done.stdout)?)
}

impl Server {
    /// Starts the built `nimbet` on a free port with further arguments.
    ///
    /// # Errors
    /// When it does not come up.
    pub fn start(database_url: &str, arguments: &[&str]) -> anyhow::Result<Self> {
        let program = program()?;
        let mut child = Command::new(&program)
            .args(["serve", "--listen", "127.0.0.1:0"])
            .args(arguments)
            .env("NIMBET_DATABASE_URL", database_url)
            .stdout(Stdio::piped())
            .spawn()
            .with_context(|| format!("{} is not built", program.display()))?;
        let out = child.stdout.take().context("no output")?;
        let (tell, told) = std::sync::mpsc::channel();
        std::thread::spawn(move || {
            for line in BufReader::new(out).lines().map_while(Result::ok) {
                if let Some(address) = line.strip_prefix("listening on ") {
                    let _ = tell.send(address.to_owned());
                }
            }
        });
        // A server that ends without a word closes its output, so this is waited for only while it lives.
        const PATIENCE: Duration = Duration::from_secs(300);
        match told.recv_timeout(PATIENCE) {
            Ok(address) => Ok(Self { child, address }),
            Err(_) => {
                let _ = child.kill();
                bail!("the server did not come up")
            }
        }
    }

    /// Starts one on the demo job.
    ///
    /// # Errors
    /// When it does not come up.
    pub async fn with_demo() -> anyhow::Result<Self> {
        Self::start(&demo_database().await?, &["--demo"])
    }

    /// The process.
    pub fn process(&self) -> u32 {
        self.child.id()
    }

    /// The processes it keeps for `task-process` or `desk-process`.
    ///
    /// # Errors
    /// When the system does not tell.
    pub fn kept(&self, role: &str) -> anyhow::Result<Vec<u32>> {
        let told = std::fs::read_to_string(format!("/proc/{0}/task/{0}/children", self.child.id()))?;
        // Children may be begun by any thread of the server.
        let threads = std::fs::read_dir(format!("/proc/{}/task", self.child.id()))?;
        let all = threads.flatten().filter_map(|t| std::fs::read_to_string(t.path().join("children")).ok());
        let plays = |id: &u32| {
            let line = std::fs::read_to_string(format!("/proc/{id}/cmdline"));
            line.is_ok_and(|line| line.split('\0').any(|word| word == role))
        };
        let mut workers: Vec<u32> = all
            .chain([told])
            .flat_map(|t| t.split_whitespace().filter_map(|id| id.parse().ok()).collect::<Vec<_>>())
            .filter(plays)
            .collect();
        workers.sort_unstable();
        workers.dedup();
        Ok(workers)
    }

    /// The most memory a process has held at once, MB.
    ///
    /// # Errors
    /// When the system does not tell.
    pub fn peak_memory(process: u32) -> anyhow::Result<u64> {
        let told = std::fs::read_to_string(format!("/proc/{process}/status"))?;
        let line = told.lines().find_map(|l| l.strip_prefix("VmHWM:")).context("no peak")?;
        Ok(line.trim().trim_end_matches(" kB").parse::<u64>()? / 1024)
    }

    /// Kills the server as a power cut would (SIGKILL).
    pub fn kill(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }

    /// Asks the server to stop (SIGTERM) and waits until it has; gives whether it ended well in time.
    pub fn stop(&mut self) -> bool {
        let _ = Command::new("kill").args(["-TERM", &self.child.id().to_string()]).status();
        let begin = Instant::now();
        const PATIENCE: Duration = Duration::from_secs(60);
        while begin.elapsed() < PATIENCE {
            if let Ok(Some(status)) = self.child.try_wait() {
                return status.success();
            }
            std::thread::sleep(Duration::from_millis(20));
        }
        false
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        self.kill();
    }
}
