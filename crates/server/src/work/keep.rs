//! Worker processes: begun, watched and begun anew, so that no task takes the server down, nor one task another.

use std::os::unix::process::ExitStatusExt;
use std::process::{ExitStatus, Stdio};
use std::sync::Arc;
use std::time::{Duration, Instant};

use tokio::io::{AsyncBufReadExt, AsyncWriteExt, BufReader};
use tokio::process::{Child, ChildStderr, ChildStdout, Command};
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
    /// Keeps as many worker processes as there are slots, and a desk where somebody may ask.
    pub(crate) fn start(app: &Arc<App>) -> Self {
        let (stop, stopped) = watch::channel(false);
        let workers = (0..app.config.task_slots).map(|_| tokio::spawn(keep(app.clone(), stopped.clone())));
        let desk = app.desk.is_some().then(|| tokio::spawn(super::desk::keep(app.clone(), stopped.clone())));
        Self { stop, handles: workers.chain(desk).collect() }
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
        let worker = Uuid::new_v4();
        match Life::begin(&app, &["task-process", "--worker", &worker.to_string()], Stdio::null()) {
            Ok(mut life) => {
                app.counts.worker_began();
                let why = life.watch_over(Some(app.worker_bell.subscribe()), &mut stopped).await;
                app.counts.worker_ended(why.label());
                if let Some(ended) = why.ended(app.config.task_memory_mb, app.config.task_seconds) {
                    tracing::warn!("a worker process ended: {}", why.label());
                    take_back(&app, worker, &ended, &mut stopped).await;
                }
                life.rest(why, &mut stopped).await;
            }
            Err(e) => {
                tracing::error!("no worker process can be begun: {e}");
                rest(&mut stopped).await;
            }
        }
    }
}

/// Waits a little, unless told to stop.
pub(super) async fn rest(stopped: &mut watch::Receiver<bool>) {
    tokio::select! {
        () = tokio::time::sleep(SHORT_LIFE) => {}
        _ = stopped.changed() => {}
    }
}

/// A process of this program that works for this one.
pub(super) struct Life {
    child: Child,
    begun: Instant,
}

impl Life {
    /// Begins one. What it says goes to `said`.
    pub fn begin(app: &App, arguments: &[&str], said: Stdio) -> std::io::Result<Self> {
        let config = &app.config;
        let child = Command::new(std::env::current_exe()?)
            .args(arguments)
            .args(["--triangle-limit", &config.triangle_limit.to_string()])
            .args(["--task-memory-mb", &config.task_memory_mb.to_string()])
            .args(["--task-seconds", &config.task_seconds.to_string()])
            .env("NIMBET_DATABASE_URL", &config.database_url)
            .stdin(Stdio::piped())
            .stdout(said)
            .stderr(Stdio::piped())
            .kill_on_drop(true)
            .spawn()?;
        Ok(Self { child, begun: Instant::now() })
    }

    /// What it says to its keeper.
    pub fn said(&mut self) -> Option<ChildStdout> {
        self.child.stdout.take()
    }

    /// Rings it for each queued task, where it is to hear of them, until it ends.
    pub async fn watch_over(&mut self, bell: Option<watch::Receiver<u64>>, stopped: &mut watch::Receiver<bool>) -> Why {
        let child = &mut self.child;
        let (mut input, mut bell) = (child.stdin.take(), bell);
        let listening = child.stderr.take().map(|said| tokio::spawn(listen(said)));
        let rung = async |bell: &mut Option<watch::Receiver<u64>>| match bell {
            Some(bell) => drop(bell.changed().await),
            None => std::future::pending().await,
        };
        let status = loop {
            tokio::select! {
                status = child.wait() => break status.ok(),
                () = rung(&mut bell) => {
                    if let Some(input) = &mut input {
                        // One that has just ended is seen by the other branch.
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

    /// Waits a little where it crashed as soon as it was begun: the next would, too.
    pub async fn rest(&self, why: Why, stopped: &mut watch::Receiver<bool>) {
        if why == Why::Crash && self.begun.elapsed() < SHORT_LIFE {
            rest(stopped).await;
        }
    }
}

/// Why a worker process ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Why {
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

    pub fn label(self) -> &'static str {
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
            Self::Memory => Some(Ended { fault: Problem::too_much_memory(memory_mb).written(), by_task: true }),
            Self::Time => Some(Ended { fault: Problem::too_long(seconds).written(), by_task: true }),
            Self::Crash => Some(Ended { fault: Problem::worker_died().written(), by_task: false }),
        }
    }
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
        assert!(Why::Memory.ended(1, 1).is_some_and(|e| e.by_task));
        assert!(Why::Crash.ended(1, 1).is_some_and(|e| !e.by_task));
    }
}
