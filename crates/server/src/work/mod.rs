//! Heavy work: claimed from the queue by processes of their own, told about, cancelled, taken over.

mod bring_in;
mod desk;
mod examined;
mod keep;
mod restore;
mod results;
mod run;

use std::sync::Arc;
use std::time::{Duration, Instant};

use nimbet_kernel::Progress;
use rustix::process::{Resource, Rlimit, setrlimit};
use tokio::io::{AsyncReadExt, stdin};
use tokio::sync::watch;
use uuid::Uuid;

pub(crate) use bring_in::bring_in_demo;
pub(crate) use desk::{Desk, at_the_desk, how_far, run as run_desk};
pub(crate) use examined::{examined, examined_json};
pub(crate) use keep::Keepers;
pub(crate) use restore::mesh_blob;
pub(crate) use results::inputs_of;
pub(crate) use run::{TaskRequest, ThreadRef};

use crate::App;
use crate::problem::Problem;
use crate::store::Claimed;

/// How often an idle worker looks for tasks other processes queued.
const LOOK: Duration = Duration::from_millis(400);
/// How often a running task tells how far it is, and asks whether it may go on. Well below the lease.
const BEAT: Duration = Duration::from_millis(100);
/// How long work that was told to stop may take to notice; then its process ends with it.
const GRACE: Duration = Duration::from_millis(120);
/// The exit code of a process that ended so.
const GONE: i32 = 3;

/// Runs tasks, one at a time, until the keeper that began this process closes its input, or there is a polite kill.
pub(crate) async fn run_tasks(app: Arc<App>, worker: Uuid, stop: impl Future<Output = ()> + Send + 'static) {
    limit_memory(app.config.task_memory_mb << 20);
    let (tell, stopped) = watch::channel(false);
    let bell = app.clone();
    tokio::spawn(async move {
        // Each byte says that a task was queued.
        let (mut input, mut rung) = (stdin(), [0; 64]);
        let kept = async {
            while matches!(input.read(&mut rung).await, Ok(1..)) {
                bell.task_bell.notify_one()
            }
        };
        tokio::select! {
            () = kept => {}
            () = stop => {}
        }
        let _ = tell.send(true);
    });
    work(app, worker, stopped).await;
}

/// From here on this process gets no more memory than so many bytes.
fn limit_memory(bytes: u64) {
    let limit = Rlimit { current: Some(bytes), maximum: Some(bytes) };
    if let Err(e) = setrlimit(Resource::Data, limit) {
        tracing::warn!("the memory of tasks cannot be limited: {e}");
    }
}

/// From here on this process gets so much more of the processors' time. More than a task can use that ends in time.
fn limit_time(longest: Duration) {
    /// A task that cannot be stopped any other way is given this much more.
    const SPARE: u64 = 10;
    let spent = rustix::time::clock_gettime(rustix::time::ClockId::ProcessCPUTime).tv_sec.unsigned_abs();
    let cores = std::thread::available_parallelism().map_or(1, usize::from) as u64;
    let limit = Rlimit { current: Some(spent + (longest.as_secs() + SPARE) * cores), maximum: None };
    if let Err(e) = setrlimit(Resource::Cpu, limit) {
        tracing::warn!("the time of tasks cannot be limited: {e}");
    }
}

async fn work(app: Arc<App>, worker: Uuid, mut stopped: watch::Receiver<bool>) {
    while !*stopped.borrow() {
        let claimed = match app.store.take_over_lost_tasks(&Problem::worker_died().written()).await {
            Ok(()) => app.store.claim_task(worker).await,
            Err(e) => Err(e),
        };
        match claimed {
            Ok(Some(task)) => run_one(&app, &task, &mut stopped).await,
            other => {
                if let Err(e) = other {
                    tracing::warn!("looking for tasks: {e}");
                }
                tokio::select! {
                    () = app.task_bell.notified() => {}
                    () = tokio::time::sleep(LOOK) => {}
                    _ = stopped.changed() => {}
                }
            }
        }
    }
}

/// Why running work was told to stop.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Told {
    /// This process ends: another goes on with the task.
    Stopping,
    /// It was cancelled, or is another worker's by now.
    Cancelled,
    /// It took too long.
    Late,
}

async fn run_one(app: &Arc<App>, task: &Claimed, stopped: &mut watch::Receiver<bool>) {
    let longest = Duration::from_secs(app.config.task_seconds);
    limit_time(longest);
    let (progress, begun) = (Progress::default(), Instant::now());
    let mut running = tokio::spawn(run::run(app.clone(), task.clone(), progress.clone()));
    let mut told: Option<(Told, Instant)> = None;
    let ended = loop {
        let wait = if told.is_some() { GRACE / 4 } else { BEAT };
        let tell = tokio::select! {
            ended = &mut running => break Some(ended),
            _ = stopped.changed(), if told.is_none() => Some(Told::Stopping),
            () = tokio::time::sleep(wait) => match told {
                Some((_, since)) if since.elapsed() > GRACE => break None,
                Some(_) => None,
                None if begun.elapsed() > longest => Some(Told::Late),
                None => {
                    let (fraction, doing) = progress.read();
                    match app.store.beat(task, fraction, &doing).await {
                        Ok(going_on) => (!going_on).then_some(Told::Cancelled),
                        Err(e) => {
                            tracing::warn!(task = task.id, "heartbeat: {e}");
                            None
                        }
                    }
                }
            },
        };
        if let Some(why) = tell {
            progress.cancel();
            told = Some((why, Instant::now()));
        }
    };
    let gone = ended.is_none();
    let cancelled = ended.unwrap_or(Ok(Err(Problem::cancelled())));
    let written = match (cancelled, told.map(|(why, _)| why)) {
        // Steps have ended their task with their commit.
        (Ok(Ok(None)), _) => Ok(()),
        (Ok(Ok(Some(result))), _) => app.store.finish_task(task, Ok(&result)).await,
        (Ok(Err(problem)), Some(Told::Stopping)) if problem.is_cancelled() => app.store.requeue(task).await,
        (Ok(Err(problem)), Some(Told::Late)) if problem.is_cancelled() => {
            app.store.finish_task(task, Err(&Problem::too_long(app.config.task_seconds).unfinished())).await
        }
        (Ok(Err(problem)), _) => app.store.finish_task(task, Err(&problem.unfinished())).await,
        (Err(panic), _) => app.store.finish_task(task, Err(&Problem::internal(panic).unfinished())).await,
    };
    if let Err(e) = written {
        tracing::warn!(task = task.id, "ending: {e}");
    }
    if gone {
        // The work does not ask; it goes with its process, and the keeper begins another.
        std::process::exit(GONE);
    }
}
