//! What each kind of task does.

use std::sync::Arc;

use nimbet_formats::{FileFormat, LengthUnit, ReleaseFormat};
use nimbet_kernel::{Progress, mesh_bytes};
use nimbet_ledger::{
    Action, BillLine, Bodies, BringIn, Edit, Hash, Losses, PartId, PartThen, PartToRelease, Recipe, ReleaseAs,
    Released, StepError, StepState, colour_of, release, release_together,
};
use nimbet_trade::fasten::{ThreadMark, fit};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use utoipa::ToSchema;

use super::bring_in::{brought_in, drawn_in, follow};
use super::examined::examined;
use super::restore::mesh_blob;
use super::results::{blocking, edited, inputs_of, result_of, threads_cut};
use crate::App;
use crate::problem::Problem;
use crate::store::{Change, Claimed, JobRow, NewStep};

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
        /// Which of its bodies come in, unless the step says.
        #[serde(default)]
        bodies: Bodies,
    },
    Recipe {
        /// Done on the empty bench.
        recipe: Recipe,
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
        format: ReleaseFormat,
        unit: LengthUnit,
        #[serde(default)]
        accept_loss: bool,
    },
    ReleaseTogether {
        parts: Vec<(PartId, Hash)>,
        title: String,
        unit: LengthUnit,
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
    let running = Running { app: &app, task: &task, progress: &progress };
    match request {
        TaskRequest::BringIn { what: Action::BringIn(what), who, recipe, bodies } => {
            running.bring_in((what, bodies), recipe, who).await
        }
        TaskRequest::BringIn { .. } => Err(Problem::internal("a task to bring in holds another step")),
        TaskRequest::Recipe { recipe, who } => {
            follow(&app, None, &recipe, running.change(None, &who), &progress).await?;
            Ok(None)
        }
        TaskRequest::Forecast { inputs, action, .. } => running.forecast(&inputs, &action).await,
        TaskRequest::Apply { revision, part, action, who } => running.apply(revision, part, action, who).await,
        TaskRequest::Edit { revision, edit, who } => running.edit(revision, &edit, who).await,
        TaskRequest::ForetellEdit { edit } => running.foretell_edit(&edit).await,
        TaskRequest::Release { part, mesh, format, unit, accept_loss } => {
            running.release(part, mesh, Wanted { format, unit, accept_loss }).await
        }
        TaskRequest::ReleaseTogether { parts, title, unit, accept_loss } => {
            running.release_together(&parts, title, unit, accept_loss).await
        }
        TaskRequest::CutThreads { part } => running.cut_threads(part).await,
        TaskRequest::Fit { internal, external } => running.fit([internal, external]).await,
    }
}

/// A task while it runs.
struct Running<'a> {
    app: &'a App,
    task: &'a Claimed,
    progress: &'a Progress,
}

/// How a part is to be released.
struct Wanted {
    format: ReleaseFormat,
    unit: LengthUnit,
    accept_loss: bool,
}

type Ended = Result<Option<Value>, Problem>;

impl Running<'_> {
    async fn job(&self) -> Result<JobRow, Problem> {
        Ok(self.app.store.job(self.task.job_id).await?)
    }

    /// The job, if nobody has changed it since.
    async fn job_at(&self, revision: i64) -> Result<JobRow, Problem> {
        let job = self.job().await?;
        if job.revision == revision { Ok(job) } else { Err(Problem::stale(revision, job.revision)) }
    }

    fn change<'c>(&'c self, revision: Option<i64>, who: &'c Option<String>) -> Change<'c> {
        Change { revision, who: who.as_deref(), task: Some(self.task) }
    }

    async fn bring_in(&self, (what, bodies): (BringIn, Bodies), recipe: Option<Recipe>, who: Option<String>) -> Ended {
        let (store, limits, change) = (&self.app.store, self.app.limits(), self.change(None, &who));
        let share = if recipe.is_some() { 0.3 } else { 1.0 };
        let reading = self.progress.stage(0.0, share);
        let is_drawing = FileFormat::of_name(&what.file).is_some_and(FileFormat::is_drawing);
        let step = match is_drawing {
            true => drawn_in(self.app, what, &reading).await?,
            false => brought_in(store, what, bodies, limits, reading).await?,
        };
        let Some(recipe) = recipe else {
            store.commit_step(self.task.job_id, &step, change).await?;
            return Ok(None);
        };
        follow(self.app, Some(&step), &recipe, change, &self.progress.stage(0.3, 1.0)).await?;
        Ok(None)
    }

    async fn forecast(&self, inputs: &[Hash], action: &Action) -> Ended {
        let (mesh, report) = result_of(self.app, action, inputs, self.progress).await??;
        Ok(Some(json!({ "mesh": mesh, "report": report })))
    }

    async fn apply(&self, revision: i64, part: PartId, action: Action, who: Option<String>) -> Ended {
        let job = self.job_at(revision).await?;
        let inputs = inputs_of(&job.history, part, &action)?;
        let (mesh, report) = result_of(self.app, &action, &inputs, self.progress).await??;
        let step = NewStep { part: Some(part), action, mesh, report };
        self.app.store.commit_step(self.task.job_id, &step, self.change(Some(revision), &who)).await?;
        Ok(None)
    }

    async fn edit(&self, revision: i64, edit: &Edit, who: Option<String>) -> Ended {
        let job = self.job_at(revision).await?;
        let (history, next) = edited(self.app, &job, edit, self.progress).await?;
        let change = self.change(Some(revision), &who);
        self.app.store.commit_edit(&job, (&history, next), &edit.title(), None, change).await?;
        Ok(None)
    }

    async fn foretell_edit(&self, edit: &Edit) -> Ended {
        let job = self.job().await?;
        let (history, _) = edited(self.app, &job, edit, self.progress).await?;
        let own = match edit {
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

    /// A part as it leaves: with all its threads, as long as it is what was asked for.
    async fn leaving(
        &self,
        job: &JobRow,
        (part, mesh): (PartId, Hash),
        accepted: bool,
        progress: &Progress,
    ) -> Result<(PartToRelease, BillLine), Problem> {
        let asked = job.history.part(part).ok_or_else(|| Problem::not_found("part"))?;
        if asked.mesh != mesh {
            return Err(Problem::part_changed(&asked.name));
        }
        let history = threads_cut(self.app, job, part, &progress.stage(0.0, 0.7)).await?;
        let cut = history.part(part).ok_or_else(|| Problem::not_found("part"))?;
        let examination = examined(self.app, cut.mesh, &progress.stage(0.7, 1.0)).await?;
        let bytes = mesh_blob(self.app, cut.mesh).await?;
        let mesh = blocking(move || mesh_bytes::from_bytes(&bytes).map_err(Problem::internal)).await?;
        let line = BillLine::of(&cut, &history, &job.setup);
        let leaving = PartToRelease {
            name: asked.name,
            colour: colour_of(cut.colour.as_deref()),
            mesh,
            examination,
            threads: history.threads(part).into_iter().map(|t| t.mark).collect(),
            losses: Losses { steps: history.losses(part), accepted, ..Losses::default() },
        };
        Ok((leaving, line))
    }

    async fn release(&self, part: PartId, mesh: Hash, wanted: Wanted) -> Ended {
        let job = self.job().await?;
        let (leaving, line) =
            self.leaving(&job, (part, mesh), wanted.accept_loss, &self.progress.stage(0.0, 0.5)).await?;
        let progress = self.progress.stage(0.5, 1.0);
        let released = blocking(move || {
            let PartToRelease { name, colour, mesh, examination, threads, losses } = leaving;
            let wanted = ReleaseAs { name: &name, colour, format: wanted.format, unit: wanted.unit, losses };
            Ok(release(&wanted, &mesh, &examination, &threads, &progress)?)
        });
        self.keep(&job, (part, mesh), released.await?, &[line]).await
    }

    async fn release_together(
        &self,
        parts: &[(PartId, Hash)],
        title: String,
        unit: LengthUnit,
        accepted: bool,
    ) -> Ended {
        let job = self.job().await?;
        let (mut leaving, mut lines) = (Vec::with_capacity(parts.len()), Vec::with_capacity(parts.len()));
        for (n, part) in parts.iter().enumerate() {
            let turn = self.progress.stage(0.0, 0.4).part(n, parts.len());
            let (part, line) = self.leaving(&job, *part, accepted, &turn).await?;
            leaving.push(part);
            lines.push(line);
        }
        let progress = self.progress.stage(0.4, 1.0);
        let mut released = blocking(move || Ok(release_together(&title, unit, &leaving, &progress)?)).await?;
        for (proof, (id, mesh)) in released.sheet.parts.iter_mut().zip(parts) {
            proof.of = Some(PartThen { id: *id, mesh: *mesh });
        }
        // Kept with the first; the sheet says of which others it is, too.
        let first = *parts.first().ok_or_else(|| Problem::not_found("part"))?;
        self.keep(&job, first, released, &lines).await
    }

    /// Keeps a released file with its sheet, and on it the bill of the job with these lines for what was released.
    async fn keep(
        &self,
        job: &JobRow,
        (part, mesh): (PartId, Hash),
        mut released: Released,
        lines: &[BillLine],
    ) -> Ended {
        let mut bill = BillLine::all(&job.history, &job.setup);
        for own in &mut bill {
            if let Some(line) = lines.iter().find(|line| line.id == own.id) {
                own.clone_from(line);
            }
        }
        released.sheet.bill = bill;
        let store = &self.app.store;
        store.keep_blob(released.sheet.hash, released.bytes).await?;
        let id = store.keep_release(self.task.job_id, part, mesh, &released.sheet).await?;
        Ok(Some(json!({ "release": id })))
    }

    async fn cut_threads(&self, part: PartId) -> Ended {
        let history = threads_cut(self.app, &self.job().await?, part, self.progress).await?;
        let mesh = history.part(part).ok_or_else(|| Problem::not_found("part"))?.mesh;
        Ok(Some(json!({ "mesh": mesh })))
    }

    async fn fit(&self, sides: [ThreadRef; 2]) -> Ended {
        let job = self.job().await?;
        let mut pair = Vec::new();
        for (n, at) in sides.into_iter().enumerate() {
            let share = self.progress.stage(n as f64 * 0.2, n as f64 * 0.2 + 0.2);
            let history = threads_cut(self.app, &job, at.part, &share).await?;
            let mesh = history.part(at.part).ok_or_else(|| Problem::not_found("part"))?.mesh;
            let mut threads = history.threads(at.part).into_iter();
            let thread = threads.find(|t| t.step == at.step && t.mark.face == at.face);
            pair.push((mesh_blob(self.app, mesh).await?, thread.ok_or_else(|| Problem::not_found("thread"))?.mark));
        }
        let progress = self.progress.stage(0.4, 1.0);
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
