//! What each kind of task does.

use std::sync::Arc;
use std::time::Instant;

use nimbet_formats::{LengthUnit, Limits, ReleaseFormat};
use nimbet_kernel::{Mesh, Progress, mesh_bytes};
use nimbet_ledger::{
    Action, BillLine, BringIn, Edit, Following, Hash, History, Losses, PartId, Recipe, ReleaseAs, Replay, StepError,
    StepReport, StepState, UnitChoice, bring_in, cache_key, perform, release,
};
use nimbet_trade::examine;
use nimbet_trade::fasten::{ThreadMark, fit};
use nimbet_trade::wall::with_least_wall;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use utoipa::ToSchema;

use super::restore::mesh_blob;
use crate::App;
use crate::problem::Problem;
use crate::store::{Change, Claimed, JobRow, NewStep, Product, Store, StoreError};

/// A task as it is queued.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(tag = "task", rename_all = "snake_case")]
pub(crate) enum TaskRequest {
    BringIn {
        what: Action,
        /// Done to the part that comes in.
        #[serde(default)]
        recipe: Option<Recipe>,
        #[serde(default)]
        who: Option<String>,
    },
    Forecast {
        part: PartId,
        inputs: Vec<Hash>,
        action: Action,
    },
    Apply {
        revision: i64,
        part: PartId,
        action: Action,
        #[serde(default)]
        who: Option<String>,
    },
    Edit {
        revision: i64,
        edit: Edit,
        who: Option<String>,
    },
    ForetellEdit {
        edit: Edit,
    },
    CutThreads {
        part: PartId,
    },
    Fit {
        internal: ThreadRef,
        external: ThreadRef,
    },
    Release {
        part: PartId,
        mesh: Hash,
        name: String,
        format: ReleaseFormat,
        unit: LengthUnit,
        #[serde(default)]
        accept_loss: bool,
    },
}

/// A thread of a part: the step that made it and the face it is on.
#[derive(Clone, Copy, Debug, Serialize, Deserialize, ToSchema)]
pub(crate) struct ThreadRef {
    #[schema(value_type = u32)]
    pub part: PartId,
    pub step: u32,
    pub face: u32,
}

/// Runs a task. Gives its result, or `None` when it has ended its task itself.
pub(super) async fn run(app: Arc<App>, task: Claimed, progress: Progress) -> Result<Option<Value>, Problem> {
    let request: TaskRequest = serde_json::from_str(&task.request).map_err(Problem::internal)?;
    let store = &app.store;
    match request {
        TaskRequest::BringIn { what, who, recipe } => {
            let Action::BringIn(what) = what else {
                return Err(Problem::internal("a task to bring in holds another step"));
            };
            let Some(recipe) = recipe else {
                let step = brought_in(store, what, app.limits(), progress).await?;
                let change = Change { revision: None, who: who.as_deref(), task: Some(&task) };
                store.commit_step(task.job_id, &step, change).await?;
                return Ok(None);
            };
            let step = brought_in(store, what, app.limits(), progress.stage(0.0, 0.3)).await?;
            let change = Change { revision: None, who: who.as_deref(), task: Some(&task) };
            follow(&app, &step, &recipe, change, &progress.stage(0.3, 1.0)).await?;
            Ok(None)
        }
        TaskRequest::Forecast { inputs, action, .. } => {
            let (mesh, report) = result_of(&app, &action, &inputs, &progress).await??;
            Ok(Some(json!({ "mesh": mesh, "report": report })))
        }
        TaskRequest::Apply { revision, part, action, who } => {
            let job = store.job(task.job_id).await?;
            if job.revision != revision {
                return Err(Problem::stale(revision, job.revision));
            }
            let inputs = inputs_of(&job.history, part, &action)?;
            let (mesh, report) = result_of(&app, &action, &inputs, &progress).await??;
            let step = NewStep { part: Some(part), action, mesh, report };
            let change = Change { revision: Some(revision), who: who.as_deref(), task: Some(&task) };
            store.commit_step(task.job_id, &step, change).await?;
            Ok(None)
        }
        TaskRequest::Edit { revision, edit, who } => {
            let job = store.job(task.job_id).await?;
            if job.revision != revision {
                return Err(Problem::stale(revision, job.revision));
            }
            let (history, next) = edited(&app, &job, &edit, &progress).await?;
            let change = Change { revision: Some(revision), who: who.as_deref(), task: Some(&task) };
            store.commit_edit(&job, (&history, next), &edit.title(), None, change).await?;
            Ok(None)
        }
        TaskRequest::ForetellEdit { edit } => {
            let job = store.job(task.job_id).await?;
            let (history, _) = edited(&app, &job, &edit, &progress).await?;
            let own = match &edit {
                Edit::Replace { step, .. } => Some(*step),
                Edit::Insert { .. } => Some(job.next_number),
                _ => None,
            };
            let step = history.steps.iter().find(|s| Some(s.number) == own);
            // What the step itself cannot do is its problem; what others cannot do after it is told.
            if let Some(StepState::Stopped { why, places, new_pick }) = step.map(|s| &s.state) {
                return Err(Problem::stopped(why, places.clone(), *new_pick));
            }
            if let Some(StepState::Idle { why }) = step.map(|s| &s.state) {
                return Err(StepError::Trade(nimbet_trade::TradeError::NothingToDo { why: why.clone() }).into());
            }
            let later: Vec<Value> = (history.steps.iter())
                .filter(|s| Some(s.number) != own && !job.history.steps.contains(s))
                .map(|s| json!({ "step": s.number, "title": s.action.title(), "state": s.state }))
                .collect();
            let done = step.filter(|s| s.state == StepState::Done);
            Ok(Some(json!({ "mesh": done.map(|s| s.mesh), "report": done.map(|s| &s.report), "later": later })))
        }
        TaskRequest::Release { part, mesh, name, format, unit, accept_loss } => {
            let job = store.job(task.job_id).await?;
            if job.history.part(part).is_none_or(|p| p.mesh != mesh) {
                return Err(Problem::part_changed(&name));
            }
            let history = threads_cut(&app, &job, part, &progress.stage(0.0, 0.5)).await?;
            let cut = history.part(part).ok_or_else(|| Problem::not_found("part"))?.mesh;
            let losses = Losses { steps: history.losses(part), accepted: accept_loss, ..Losses::default() };
            let threads: Vec<ThreadMark> = history.threads(part).into_iter().map(|t| t.mark).collect();
            let examination = store.examination(cut).await?;
            let bytes = mesh_blob(&app, cut).await?;
            let progress = progress.stage(0.5, 1.0);
            let mut released = blocking(move || {
                let mesh = mesh_bytes::from_bytes(&bytes).map_err(Problem::internal)?;
                let wanted = ReleaseAs { name: &name, format, unit, losses };
                Ok(release(&wanted, &mesh, &examination, &threads, &progress)?)
            })
            .await?;
            let mut bill = BillLine::all(&job.history, &job.setup);
            let line = history.part(part).map(|cut| BillLine::of(&cut, &history, &job.setup));
            bill.iter_mut().filter(|l| l.id == part).zip(line).for_each(|(own, cut)| *own = cut);
            released.sheet.bill = bill;
            store.keep_blob(released.sheet.hash, released.bytes).await?;
            let id = store.keep_release(task.job_id, part, mesh, &released.sheet).await?;
            Ok(Some(json!({ "release": id })))
        }
        TaskRequest::CutThreads { part } => {
            let job = store.job(task.job_id).await?;
            let history = threads_cut(&app, &job, part, &progress).await?;
            let mesh = history.part(part).ok_or_else(|| Problem::not_found("part"))?.mesh;
            Ok(Some(json!({ "mesh": mesh })))
        }
        TaskRequest::Fit { internal, external } => {
            let job = store.job(task.job_id).await?;
            let mut pair = Vec::new();
            for (n, at) in [internal, external].into_iter().enumerate() {
                let history =
                    threads_cut(&app, &job, at.part, &progress.stage(n as f64 * 0.2, n as f64 * 0.2 + 0.2)).await?;
                let mesh = history.part(at.part).ok_or_else(|| Problem::not_found("part"))?.mesh;
                let mut threads = history.threads(at.part).into_iter();
                let thread = threads.find(|t| t.step == at.step && t.mark.face == at.face);
                pair.push((mesh_blob(&app, mesh).await?, thread.ok_or_else(|| Problem::not_found("thread"))?.mark));
            }
            let progress = progress.stage(0.4, 1.0);
            let report = blocking(move || {
                let read = |(bytes, mark): &(Vec<u8>, ThreadMark)| {
                    mesh_bytes::from_bytes(bytes).map(|mesh| (mesh, mark.clone())).map_err(Problem::internal)
                };
                let [bore, pin] = [read(&pair[0])?, read(&pair[1])?];
                fit((&bore.0, &bore.1), (&pin.0, &pin.1), &progress).map_err(|e| Problem::from(StepError::from(e)))
            })
            .await?;
            Ok(Some(json!({ "fit": report })))
        }
    }
}

/// The ledger of a job with every thread of it cut, worked out as far as it is not in the cache.
async fn threads_cut(app: &App, job: &JobRow, part: PartId, progress: &Progress) -> Result<History, Problem> {
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

/// Brings a part in and does a recipe to it, as one change. A step that cannot be done is put down as stopped, and the recipe
/// ends there.
async fn follow(
    app: &App,
    brought: &NewStep,
    recipe: &Recipe,
    change: Change<'_>,
    progress: &Progress,
) -> Result<(), Problem> {
    /// Others may change the job meanwhile; what was worked out is in the cache then.
    const TRIES: usize = 20;
    let job = change.task.map(|t| t.job_id).ok_or_else(|| Problem::internal("a recipe is run by a task"))?;
    for _ in 0..TRIES {
        let row = app.store.job(job).await?;
        let mut history = row.history.clone();
        let mut next = row.next_number + 1;
        let part = PartId(row.next_number);
        history.steps.insert(history.cursor, brought.as_step(part.0));
        history.cursor += 1;
        let mut following = Following::new(part);
        for (n, action) in recipe.steps.iter().enumerate() {
            let at = following.begin(&mut history, action, &mut next);
            let before = History { steps: history.steps[..at].to_vec(), cursor: at };
            let action = history.steps[at].action.clone();
            let outcome = match inputs_of(&before, part, &action) {
                Ok(inputs) => result_of(app, &action, &inputs, &progress.part(n, recipe.steps.len())).await?,
                Err(_) => Err(StepError::NoSuchPart(action.others().first().map_or(0, |p| p.0))),
            };
            history.steps[at].settle(outcome, &mut next)?;
            following.done(&history.steps[at]);
            if matches!(history.steps[at].state, StepState::Stopped { .. }) {
                break;
            }
        }
        let what = format!("{}, by recipe", brought.action.title());
        let change = Change { revision: Some(row.revision), ..change };
        match app.store.commit_edit(&row, (&history, next), &what, Some(part.0), change).await {
            Err(StoreError::Stale { .. }) => {}
            other => return Ok(other?),
        }
    }
    Err(Problem::internal("the job changed all the time while a recipe ran"))
}

/// A ledger after an edit, with all that depends on it worked out.
async fn edited(app: &App, job: &JobRow, edit: &Edit, progress: &Progress) -> Result<(History, u32), Problem> {
    let history = job.history.edited(edit, job.next_number)?;
    let next = job.next_number + u32::from(matches!(edit, Edit::Insert { .. }));
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
    let before = store.examination(inputs[0]).await?;
    let mut blobs = Vec::with_capacity(inputs.len());
    for input in inputs {
        blobs.push(mesh_blob(app, *input).await?);
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

pub(super) async fn brought_in(
    store: &Store,
    what: BringIn,
    limits: Limits,
    progress: Progress,
) -> Result<NewStep, Problem> {
    let bytes = store.blob(what.source).await?;
    let (file, unit) = (what.file.clone(), what.unit);
    let (part, examination) = blocking(move || {
        let reading = progress.stage(0.0, 0.5);
        let part = bring_in(&bytes[..], bytes.len() as u64, &file, unit, &limits, &reading)?;
        drop(bytes);
        let examination = examine(&part.mesh, &progress.stage(0.5, 0.9))
            .and_then(|seen| with_least_wall(seen, &part.mesh, &progress.stage(0.9, 1.0)))
            .map_err(|_| Problem::cancelled())?;
        Ok((part, examination))
    })
    .await?;
    let figures = examination.figures.clone();
    let mesh = store.keep_product(Product { mesh: part.mesh, examination }).await?;
    let told = format!("read as {} in {}", part.format.name(), part.unit.sign());
    let report = StepReport {
        done: vec![told],
        left: part.notes,
        largest_move: 0.0,
        before: None,
        after: figures,
        change: None,
        made: vec![],
        plan: vec![],
        cut: vec![],
        notices: vec![],
        threads: vec![],
        harm: None,
        seconds: None,
    };
    Ok(NewStep { part: None, action: Action::BringIn(what), mesh, report })
}

/// Runs computation off the async threads.
async fn blocking<T: Send + 'static>(work: impl FnOnce() -> Result<T, Problem> + Send + 'static) -> Result<T, Problem> {
    tokio::task::spawn_blocking(work).await.map_err(Problem::internal)?
}

/// Makes a job of parts that are at hand already, without the queue; all of it or nothing.
pub(crate) async fn bring_in_directly(store: &Store, name: &str, parts: Vec<(String, Mesh)>) -> Result<(), StoreError> {
    let mut steps = Vec::new();
    for (part, mesh) in parts {
        let body = nimbet_formats::Body { name: &part, colour: nimbet_ledger::PART_COLOUR, mesh: &mesh };
        let bytes = nimbet_formats::write_body(&body, ReleaseFormat::Ply, LengthUnit::Millimetre)
            .map_err(|e| StoreError::Compression(std::io::Error::other(e)))?;
        let source = Hash::of(&bytes);
        store.keep_blob(source, bytes).await?;
        let what = BringIn { file: format!("{part}.ply"), source, unit: UnitChoice::Millimetre };
        let step = brought_in(store, what, Limits::default(), Progress::unwatched())
            .await
            .map_err(|p| StoreError::Damaged(p.detail))?;
        steps.push(step);
    }
    store.create_job_of(name, &steps).await?;
    Ok(())
}
