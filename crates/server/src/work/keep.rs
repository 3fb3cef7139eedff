//! Worker processes: begun, watched and begun anew, so that no task takes the server down, nor one task another.

use std::os::unix::process::ExitStatusExt;
use std::process::{ExitStatus, Stdio};
use std::sync::Arc;
use std::time::{Duration, Instant};

use tokio::io::{AsyncBufReadExt, AsyncWriteExt, BufReader};
use tokio::process::{Child, ChildStderr, Command};
use tokio::sync::watch;
use tokio::task::JoinHandle;
use uuid::Uuid;

use super::GONE;
use crate::App;
use crate::problem::Problem;
use crate::store::Ended;

/// A worker that crashed before it lived so long is begun anew only after as long again.
const SHORT_LIFE: Duration = Duration::from_secs(1);
/// How long a worker may take to put its task back in the queue when the server stops.
const PATIENCE: Duration = Duration::from_secs(3);

/// Those who watch over the worker processes of this server.
pub(crate) struct Keepers {
    stop: watch::Sender<bool>,
    handles: Vec<JoinHandle<()>>,
}

impl Keepers {
    /// Keeps as many worker processes as there are slots.
    pub(crate) fn start(app: &Arc<App>) -> Self {
        let (stop, stopped) = watch::channel(false);
        let handles = (0..app.config.task_slots).map(|_| tokio::spawn(keep(app.clone(), stopped.clone()))).collect();
        Self { stop, handles }
    }

    /// Ends the workers; what they had under way is back in the queue.
    pub(crate) async fn stop(self) {
        let _ = self.stop.send(true);
        for handle in self.handles {
            let _ = handle.await;
        }
    }
}

async fn keep(app: Arc<App>, mut stopped: watch::Receiver<bool>) {
    while !*stopped.borrow() {
        let (worker, begun) = (Uuid::new_v4(), Instant::now());
        let crashed = match begin(&app, worker) {
            Ok(child) => {
                app.counts.worker_began();
                let why = watch_over(&app, child, &mut stopped).await;
                app.counts.worker_ended(why.label());
                if let Some(ended) = why.ended(app.config.task_memory_mb, app.config.task_seconds) {
                    tracing::warn!("a worker process ended: {}", why.label());
                    take_back(&app, worker, &ended, &mut stopped).await;
                }
                why == Why::Crash
            }
            Err(e) => {
                tracing::error!("no worker process can be begun: {e}");
                true
            }
        };
        if crashed && begun.elapsed() < SHORT_LIFE {
            tokio::select! {
                () = tokio::time::sleep(SHORT_LIFE) => {}
                _ = stopped.changed() => {}
            }
        }
    }
}

fn begin(app: &App, worker: Uuid) -> std::io::Result<Child> {
    let config = &app.config;
    Command::new(std::env::current_exe()?)
        .args(["task-process", "--worker", &worker.to_string()])
        .args(["--triangle-limit", &config.triangle_limit.to_string()])
        .args(["--task-memory-mb", &config.task_memory_mb.to_string()])
        .args(["--task-seconds", &config.task_seconds.to_string()])
        .env("NIMBET_DATABASE_URL", &config.database_url)
        .stdin(Stdio::piped())
        .stdout(Stdio::null())
        .stderr(Stdio::piped())
        .kill_on_drop(true)
        .spawn()
}

/// Why a worker process ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Why {
    /// It was told to, or ended with work that did not ask whether to go on.
    Told,
    Memory,
    Time,
    Crash,
}

impl Why {
    fn of(status: Option<ExitStatus>, out_of_memory: bool) -> Self {
        /// SIGXCPU: more of the processors' time was used than the limit.
        const TIME: i32 = 24;
        match status {
            _ if out_of_memory => Self::Memory,
            Some(status) if status.signal() == Some(TIME) => Self::Time,
            Some(status) if matches!(status.code(), Some(0 | GONE)) => Self::Told,
            _ => Self::Crash,
        }
    }

    fn label(self) -> &'static str {
        match self {
            Self::Told => "told",
            Self::Memory => "memory",
            Self::Time => "time",
            Self::Crash => "crash",
        }
    }

    /// What that means for the task it had.
    fn ended(self, memory_mb: u64, seconds: u64) -> Option<Ended> {
        match self {
            Self::Told => None,
            Self::Memory => Some(Ended::ByTask(Problem::too_much_memory(memory_mb))),
            Self::Time => Some(Ended::ByTask(Problem::too_long(seconds))),
            Self::Crash => Some(Ended::Unknown),
        }
    }
}

/// Rings a worker for each queued task until it ends.
async fn watch_over(app: &App, mut child: Child, stopped: &mut watch::Receiver<bool>) -> Why {
    let mut input = child.stdin.take();
    let listening = child.stderr.take().map(|said| tokio::spawn(listen(said)));
    let mut bell = app.worker_bell.subscribe();
    let status = loop {
        tokio::select! {
            status = child.wait() => break status.ok(),
            _ = bell.changed() => {
                if let Some(input) = &mut input {
                    // A worker that has just ended is seen by the other branch.
                    let _ = input.write_all(b"!").await;
                }
            }
            _ = stopped.changed() => {
                drop(input.take());
                let ended = tokio::time::timeout(PATIENCE, child.wait()).await;
                if ended.is_err() {
                    let _ = child.kill().await;
                }
                break ended.ok().and_then(Result::ok);
            }
        }
    };
    let out_of_memory = match listening {
        Some(listening) => listening.await.unwrap_or(false),
        None => false,
    };
    Why::of(status, out_of_memory)
}

/// Passes on what a worker says; tells whether it said that it had no memory.
async fn listen(said: ChildStderr) -> bool {
    let (mut lines, mut out_of_memory) = (BufReader::new(said).lines(), false);
    while let Ok(Some(line)) = lines.next_line().await {
        eprintln!("{line}");
        out_of_memory |= line.starts_with("memory allocation of ");
    }
    out_of_memory
}

/// Takes back what a worker had under way, as soon as the database answers.
async fn take_back(app: &App, worker: Uuid, ended: &Ended, stopped: &mut watch::Receiver<bool>) {
    while let Err(e) = app.store.worker_ended(worker, ended).await {
        tracing::warn!("taking a task back: {e}");
        tokio::select! {
            () = tokio::time::sleep(SHORT_LIFE) => {}
            // Its lease runs out, then another server takes it over.
            _ = stopped.changed() => return,
        }
    }
    app.ring();
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_a_crash_is_tried_again() {
        let ended = |raw: i32, memory| Why::of(Some(ExitStatus::from_raw(raw)), memory);
        let (exit, signal) = (|code: i32| code << 8, |signal: i32| signal);
        assert_eq!(ended(exit(0), false), Why::Told);
        assert_eq!(ended(exit(GONE), false), Why::Told);
        assert_eq!(ended(exit(101), false), Why::Crash);
        assert_eq!(ended(signal(9), false), Why::Crash, "killed from outside");
        assert_eq!(ended(signal(24), false), Why::Time);
        assert_eq!(ended(signal(6), true), Why::Memory, "an allocation that failed aborts");
        assert!(matches!(Why::Memory.ended(1, 1), Some(Ended::ByTask(_))));
        assert!(matches!(Why::Crash.ended(1, 1), Some(Ended::Unknown)));
    }
}
