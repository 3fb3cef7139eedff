//! Heavy work: claimed from the queue, run beside the server, told about, cancelled, taken over.

mod restore;
mod run;

use std::sync::Arc;
use std::time::Duration;

use nimbet_kernel::Progress;
use tokio::sync::watch;
use tokio::task::JoinHandle;
use uuid::Uuid;

pub(crate) use restore::mesh_blob;
pub(crate) use run::{TaskRequest, ThreadRef, bring_in_directly, inputs_of};

use crate::App;
use crate::store::Claimed;

/// How often an idle worker looks for tasks other processes queued.
const LOOK: Duration = Duration::from_millis(400);
/// How often a running task tells how far it is. Well below the lease.
const BEAT: Duration = Duration::from_millis(150);

/// The workers of this process.
pub(crate) struct Workers {
    stop: watch::Sender<bool>,
    handles: Vec<JoinHandle<()>>,
}

/// Starts as many workers as there are slots.
pub(crate) fn start(app: &Arc<App>) -> Workers {
    let (stop, stopped) = watch::channel(false);
    let handles =
        (0..app.config.task_slots).map(|_| tokio::spawn(work(app.clone(), Uuid::new_v4(), stopped.clone()))).collect();
    Workers { stop, handles }
}

impl Workers {
    /// Lets no new task begin, puts running ones back in the queue, and waits until that is done.
    pub(crate) async fn stop(self) {
        let _ = self.stop.send(true);
        for handle in self.handles {
            let _ = handle.await;
        }
    }
}

async fn work(app: Arc<App>, worker: Uuid, mut stopped: watch::Receiver<bool>) {
    while !*stopped.borrow() {
        let claimed = match app.store.take_over_lost_tasks().await {
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

async fn run_one(app: &Arc<App>, task: &Claimed, stopped: &mut watch::Receiver<bool>) {
    let progress = Progress::default();
    let mut running = tokio::spawn(run::run(app.clone(), task.clone(), progress.clone()));
    let mut stopping = false;
    let ended = loop {
        tokio::select! {
            ended = &mut running => break ended,
            _ = stopped.changed(), if !stopping => {
                stopping = true;
                progress.cancel();
            }
            () = tokio::time::sleep(BEAT) => {
                let (fraction, doing) = progress.read();
                match app.store.beat(task, fraction, &doing).await {
                    Ok(true) => {}
                    Ok(false) => progress.cancel(),
                    Err(e) => tracing::warn!(task = task.id, "heartbeat: {e}"),
                }
            }
        }
    };
    let told = match ended {
        // Steps have ended their task with their commit.
        Ok(Ok(None)) => Ok(()),
        Ok(Ok(Some(result))) => app.store.finish_task(task, Ok(&result)).await,
        Ok(Err(problem)) if problem.is_cancelled() && stopping => app.store.requeue(task).await,
        Ok(Err(problem)) => app.store.finish_task(task, Err(&problem)).await,
        Err(panic) => app.store.finish_task(task, Err(&crate::Problem::internal(panic))).await,
    };
    if let Err(e) = told {
        tracing::warn!(task = task.id, "ending: {e}");
    }
}
