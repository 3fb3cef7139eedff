//! What steps and edits come to: from the cache, or worked out now.

use std::time::Instant;

use nimbet_kernel::{Progress, mesh_bytes};
use nimbet_ledger::{Action, Bodies, Edit, Hash, History, PartId, Replay, StepError, StepReport, cache_key, perform};
use nimbet_trade::budget::{Extent, refuse_costly};

use super::bring_in::brought_in;
use super::examined::examined;
use super::restore::mesh_blob;
use crate::App;
use crate::problem::Problem;
use crate::store::{JobRow, Product};

/// The ledger of a job with every thread of it cut, worked out as far as it is not in the cache.
pub(super) async fn threads_cut(
    app: &App,
    job: &JobRow,
    part: PartId,
    progress: &Progress,
) -> Result<History, Problem> {
    let Some(history) = job.history.with_threads_cut() else { return Ok(job.history.clone()) };
    let steps = history.cursor;
    let mut replay = Replay::new(history, job.next_number);
    while let Some(due) = replay.due() {
        let stage = progress.part(due.place, steps);
        replay.done(result_of(app, &due.action, &due.inputs, &stage).await?)?;
    }
    let (history, _) = replay.finish();
    match history.stopped(part) {
        Some(step) => Err(Problem::after_stopped(step)),
        None => Ok(history),
    }
}

/// A ledger after an edit, with all that depends on it worked out.
pub(super) async fn edited(
    app: &App,
    job: &JobRow,
    edit: &Edit,
    progress: &Progress,
) -> Result<(History, u32), Problem> {
    let history = job.history.edited(edit, job.next_number)?;
    let next = job.next_number + edit.adds();
    let steps = history.cursor;
    let mut replay = Replay::new(history, next);
    while let Some(due) = replay.due() {
        let stage = progress.part(due.place, steps);
        replay.done(result_of(app, &due.action, &due.inputs, &stage).await?)?;
    }
    Ok(replay.finish())
}

/// The meshes that go into a step: the part's, then those of the other parts it names.
pub(crate) fn inputs_of(history: &History, part: PartId, action: &Action) -> Result<Vec<Hash>, Problem> {
    for id in std::iter::once(part).chain(action.others()) {
        if let Some(stopped) = history.stopped(id) {
            return Err(Problem::after_stopped(stopped));
        }
    }
    let held = history.part(part).ok_or_else(|| Problem::not_found("part"))?;
    if let Some(why) = history.refuses(part, action) {
        return Err(Problem::from(StepError::from(nimbet_trade::TradeError::Refused { why, places: vec![] })));
    }
    let mut inputs = vec![held.mesh];
    for id in action.others() {
        let other = history.part(id).filter(|p| p.id != part);
        inputs.push(other.ok_or_else(|| Problem::from(StepError::NoSuchPart(id.0)))?.mesh);
    }
    Ok(inputs)
}

/// The result of a step on meshes, from the cache or worked out now.
pub(super) async fn result_of(
    app: &App,
    action: &Action,
    inputs: &[Hash],
    progress: &Progress,
) -> Result<Result<(Hash, StepReport), StepError>, Problem> {
    let store = &app.store;
    let key = cache_key(action, inputs).map_err(Problem::internal)?;
    if let Some(known) = store.result(key).await? {
        return Ok(Ok(known));
    }
    if let Action::BringIn(what) = action {
        let step = brought_in(store, what.clone(), Bodies::Joined, app.limits(), progress.clone()).await?;
        store.keep_result(key, step.mesh, &step.report).await?;
        return Ok(Ok((step.mesh, step.report)));
    }
    let before = examined(app, inputs[0], progress).await?;
    let mut blobs = Vec::with_capacity(inputs.len());
    for input in inputs {
        blobs.push(mesh_blob(app, *input).await?);
    }
    if let Action::Operation(work) = action {
        let mut parts = vec![Extent::from(&before.figures)];
        for other in &inputs[1..] {
            parts.push(Extent::from(&examined(app, *other, progress).await?.figures));
        }
        let within = work.operation.refuse_outside_limits();
        let fits = || refuse_costly(&work.operation, &parts, Some(app.config.task_memory()));
        if let Err(why) = within.and_then(|()| fits()) {
            return Ok(Err(why.into()));
        }
    }
    let (action, progress) = (action.clone(), progress.clone());
    let begin = Instant::now();
    let done = blocking(move || {
        let read = |bytes: &Vec<u8>| mesh_bytes::from_bytes(bytes).map_err(Problem::internal);
        let meshes = blobs.iter().map(read).collect::<Result<Vec<_>, _>>()?;
        drop(blobs);
        Ok(perform(&action, &meshes[0], &before, &meshes[1..], &progress))
    })
    .await?;
    let mut done = match done {
        Ok(done) => done,
        Err(error) => return Ok(Err(error)),
    };
    done.report.seconds = Some(begin.elapsed().as_secs_f64());
    for (mesh, examination) in done.more {
        store.keep_product(Product { mesh, examination }).await?;
    }
    let after = store.keep_product(Product { mesh: done.mesh, examination: done.examination }).await?;
    store.keep_result(key, after, &done.report).await?;
    Ok(Ok((after, done.report)))
}

/// Runs computation off the async threads.
pub(super) async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, Problem> + Send + 'static,
) -> Result<T, Problem> {
    tokio::task::spawn_blocking(work).await.map_err(Problem::internal)?
}
