//! Jobs, bringing files in, forecasts, steps.

use std::sync::Arc;
use std::time::Instant;

use axum::Json;
use axum::extract::multipart::{Field, MultipartError};
use axum::extract::{Multipart, State};
use axum::http::StatusCode;
use nimbet_ledger::{
    Action, BillLine, Bodies, BringIn, CutBy, Hash, History, Losses, Part, PartId, PartThread, Recipe, SetMaterial,
    Setup, StepReport, StepState, UnitChoice,
};
use nimbet_trade::Figures;
use nimbet_trade::words::{is_plain, plain};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::extract::{At, Sent};
use super::tasks::TaskView;
use crate::App;
use crate::problem::{Problem, sentence};
use crate::store::{JobRow, Upload};
use crate::work::{TaskRequest, inputs_of};

/// A job with its parts and ledger.
#[derive(Serialize, ToSchema)]
pub(crate) struct JobView {
    id: Uuid,
    name: String,
    /// Goes up with every change; writes must name the one they are about.
    revision: i64,
    /// How the job is set up.
    #[schema(schema_with = crate::schema::setup)]
    setup: Setup,
    /// Goes up with every change of that; writes of it must name the one they are about.
    setup_revision: i64,
    /// How many of the steps are in force; those after are held back.
    cursor: usize,
    /// What undo would take back.
    undo: Option<String>,
    /// By whom that was done.
    undo_by: Option<String>,
    /// What redo would bring again.
    redo: Option<String>,
    parts: Vec<PartView>,
    steps: Vec<StepView>,
}

/// A part as the steps in force leave it.
#[derive(Serialize, ToSchema)]
pub(crate) struct PartView {
    id: u32,
    name: String,
    /// The colour it is shown in, as `#rrggbb`, where it has one of its own.
    colour: Option<String>,
    /// The group it is in.
    group: Option<String>,
    /// Content hash of its mesh.
    mesh: String,
    /// Its material.
    #[schema(schema_with = crate::schema::set_material)]
    material: Option<SetMaterial>,
    /// Mass in grams, for a sealed part with a material.
    mass: Option<f64>,
    /// What its material costs, in the money of the house.
    cost: Option<f64>,
    /// Whether it fits the job's bench, some way turned.
    fits: Option<bool>,
    #[schema(schema_with = crate::schema::figures)]
    figures: Figures,
    /// The stopped step after which the part is not what it was meant to be.
    stopped: Option<u32>,
    /// The faces other parts cut into it.
    #[schema(schema_with = crate::schema::cut_by_list)]
    cut: Vec<CutBy>,
    /// Threads that steps gave it, cut or marked; where they were then. One whose face is gone is gone.
    #[schema(schema_with = crate::schema::part_thread_list)]
    threads: Vec<PartThread>,
    /// What steps that mend took off its surface.
    #[schema(schema_with = crate::schema::losses)]
    losses: Losses,
}

/// A step in the ledger.
#[derive(Serialize, ToSchema)]
pub(crate) struct StepView {
    number: u32,
    part: u32,
    /// The other parts that go in.
    others: Vec<u32>,
    title: String,
    /// What people call it.
    name: Option<String>,
    /// What people noted on it.
    note: Option<String>,
    #[schema(schema_with = crate::schema::action)]
    action: Action,
    /// Content hash of the part's mesh afterwards.
    mesh: String,
    #[schema(schema_with = crate::schema::report)]
    report: StepReport,
    #[schema(schema_with = crate::schema::step_state)]
    state: StepState,
    /// The steps that cannot be without the parts it makes.
    needed_by: Vec<u32>,
    /// By whom it was made as it is now.
    who: Option<String>,
    /// When, as in RFC 3339, UTC.
    at: String,
}

impl JobView {
    pub(super) fn new(job: JobRow) -> Self {
        let needed_by: Vec<Vec<u32>> = job.history.steps.iter().map(|s| job.history.needing(s.number)).collect();
        let parts = PartView::all(&job.history, &job.setup);
        let steps =
            job.history.steps.into_iter().zip(needed_by).zip(job.stamps).map(|((s, needed_by), stamp)| StepView {
                state: s.state,
                needed_by,
                who: stamp.who,
                at: stamp.at,
                number: s.number,
                part: s.part.0,
                others: s.action.others().into_iter().map(|p| p.0).collect(),
                title: s.action.title(),
                name: s.name,
                note: s.note,
                action: s.action,
                mesh: s.mesh.to_string(),
                report: s.report,
            });
        Self {
            id: job.id,
            name: job.name,
            revision: job.revision,
            setup: job.setup,
            setup_revision: job.setup_revision,
            cursor: job.history.cursor,
            undo: job.undo,
            undo_by: job.undo_by,
            redo: job.redo,
            steps: steps.collect(),
            parts,
        }
    }
}

impl PartView {
    /// The parts as the steps in force leave them.
    pub(super) fn all(history: &History, setup: &Setup) -> Vec<Self> {
        history.parts().into_iter().map(|part| Self::new(part, history, setup)).collect()
    }

    fn new(part: Part, history: &History, setup: &Setup) -> Self {
        let BillLine { mass, cost, fits, .. } = BillLine::of(&part, history, setup);
        Self {
            stopped: history.stopped(part.id).map(|step| step.number),
            threads: history.threads(part.id),
            losses: Losses { steps: history.losses(part.id), ..Losses::default() },
            id: part.id.0,
            name: part.name,
            colour: part.colour,
            group: part.group,
            mesh: part.mesh.to_string(),
            material: part.material,
            mass,
            cost,
            fits,
            figures: part.figures,
            cut: part.cut,
        }
    }
}

/// A job with its parts and ledger.
#[utoipa::path(get, operation_id = "show_job", path = "/jobs/{job}", params(("job" = Uuid, Path)),
    responses((status = 200, body = JobView), (status = 404, body = Problem)))]
pub(crate) async fn show(State(app): State<Arc<App>>, At(job): At<Uuid>) -> Result<Json<JobView>, Problem> {
    Ok(Json(JobView::new(app.store.job(job).await?)))
}

/// A file with its unit.
#[derive(ToSchema)]
#[expect(dead_code, reason = "describes the form; the handler reads it field by field")]
pub(crate) struct FileForm {
    #[schema(format = Binary, content_media_type = "application/octet-stream")]
    file: String,
    /// A recipe that is done to the part, as JSON text.
    recipe: Option<String>,
    /// Who brings it in.
    who: Option<String>,
    /// `auto`, `ask` (refused as `unit-in-doubt` where neither the file nor its size tells), `millimetre`, `centimetre`, `metre` or
    /// `inch`.
    unit: Option<String>,
    /// How far triangles may stand off exact surfaces, mm; 0.02 where nothing is said.
    chord: Option<f64>,
    /// Whether faces end where colours, materials or named groups of the file do; so where nothing is said.
    groups: Option<bool>,
    /// Which bodies of the file come in: `joined` (all, as one part: the default), `each` (each as a part of its own), `ask` (refused as
    /// `several-bodies` with the list of them where there are more than one), or a JSON list of `{ body, name, colour }`.
    bodies: Option<String>,
}

/// Brings a file in as a new part.
#[utoipa::path(post, operation_id = "bring_in_file", path = "/jobs/{job}/files", params(("job" = Uuid, Path)),
    request_body(content = FileForm, content_type = "multipart/form-data"),
    responses((status = 202, body = TaskView), (status = 413, body = Problem), (status = 400, body = Problem)))]
pub(crate) async fn bring_in(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    mut form: Multipart,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    let _room = app.uploads.enter().await?;
    app.store.revisions(job).await?;
    let (mut file, mut unit, mut who, mut recipe) = (None, UnitChoice::Auto, None, None);
    let (mut chord, mut groups, mut bodies) = (None, true, Bodies::Joined);
    while let Some(field) = form.next_field().await.map_err(broken)? {
        match field.name() {
            Some("file") if file.is_none() => {
                let name: String = plain(field.file_name().unwrap_or("part")).chars().take(200).collect();
                file = Some((name, take_in(&app, field).await?));
            }
            Some("file") => return Err(Problem::bad_request("One form brings one file.")),
            Some("unit") => {
                let text = words(field).await?;
                unit = serde_json::from_value(text.into()).map_err(|e| Problem::bad_request(format!("unit: {e}")))?;
            }
            Some("chord") => {
                let text = words(field).await?;
                chord = Some(text.trim().parse().map_err(|_| Problem::bad_request("chord: this is no number"))?);
            }
            Some("groups") => {
                let text = words(field).await?;
                groups = text.trim().parse().map_err(|_| Problem::bad_request("groups: either true or false"))?;
            }
            Some("bodies") => bodies = bodies_of(&words(field).await?)?,
            Some("who") => who = Some(words(field).await?),
            Some("recipe") => {
                let text = words(field).await?;
                recipe = Some(Recipe::parse(&text).map_err(|e| Problem::bad_request(sentence(&e.to_string())))?);
            }
            _ => {}
        }
    }
    let who = person(who)?;
    let (name, source) = file.ok_or_else(|| Problem::bad_request("The form holds no file."))?;
    let (bodies, picked) = match bodies {
        Bodies::Picked(picked) => (Bodies::Joined, Some(picked)),
        other => (other, None),
    };
    let what = BringIn { file: name, source, unit, chord, groups, bodies: picked };
    if let Some(why) = what.fault() {
        return Err(Problem::bad_request(sentence(&why)));
    }
    queue(&app, job, &TaskRequest::BringIn { what: Action::BringIn(what), who, recipe, bodies }).await
}

/// Which bodies, as the form says.
fn bodies_of(text: &str) -> Result<Bodies, Problem> {
    match text.trim() {
        "joined" => Ok(Bodies::Joined),
        "each" => Ok(Bodies::Each),
        "ask" => Ok(Bodies::Ask),
        list => {
            let picked = serde_json::from_str(list).map_err(|e| Problem::bad_request(format!("bodies: {e}")))?;
            Ok(Bodies::Picked(picked))
        }
    }
}

fn broken(e: MultipartError) -> Problem {
    // A body that pauses too long ends with an error of its own.
    let slow = std::iter::successors(Some(&e as &dyn std::error::Error), |e| e.source());
    match slow.into_iter().any(|e| e.is::<tower_http::timeout::TimeoutError>()) {
        true => Problem::too_slow(),
        false => Problem::bad_request(e.body_text()),
    }
}

/// A short field of a form.
async fn words(mut field: Field<'_>) -> Result<String, Problem> {
    /// Recipes are the longest.
    const LONGEST: usize = 1 << 20;
    let mut bytes = Vec::new();
    while let Some(chunk) = field.chunk().await.map_err(broken)? {
        if bytes.len() + chunk.len() > LONGEST {
            return Err(Problem::bad_request("A field of the form is longer than 1 MB."));
        }
        bytes.extend_from_slice(&chunk);
    }
    String::from_utf8(bytes).map_err(|_| Problem::bad_request("A field of the form is not UTF-8."))
}

/// Keeps a file chunk by chunk as it comes in; gives its hash.
async fn take_in(app: &App, mut field: Field<'_>) -> Result<Hash, Problem> {
    let (begun, limit) = (Instant::now(), app.config.upload_limit);
    let mut upload = app.store.begin_upload().await?;
    let fault = loop {
        match field.chunk().await {
            Ok(None) => return Ok(upload.finish().await?),
            Ok(Some(chunk)) if upload.length() + chunk.len() as u64 > limit as u64 => break Problem::too_large(limit),
            Ok(Some(_)) if begun.elapsed() > Upload::LONGEST => break Problem::too_slow(),
            Ok(Some(chunk)) => {
                if let Err(error) = upload.push(&chunk).await {
                    break error.into();
                }
            }
            Err(error) => break broken(error),
        }
    };
    // If this fails as well, what came in is tidied away later.
    let _ = upload.give_up().await;
    Err(fault)
}

/// A step to be forecast or applied.
#[derive(Deserialize, ToSchema)]
pub(crate) struct StepRequest {
    /// The revision of the job the step is meant for.
    revision: i64,
    /// The part it is done to.
    part: u32,
    #[schema(schema_with = crate::schema::action)]
    action: Action,
    /// Who does it: at most 100 characters.
    who: Option<String>,
}

/// Works out what a step would do, without doing it.
#[utoipa::path(post, operation_id = "forecast_step", path = "/jobs/{job}/forecasts", params(("job" = Uuid, Path)), request_body = StepRequest,
    responses((status = 202, body = TaskView), (status = 404, body = Problem), (status = 409, body = Problem)))]
pub(crate) async fn forecast(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(step): Sent<StepRequest>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    let (part, inputs) = inputs(&app, job, &step).await?;
    queue(&app, job, &TaskRequest::Forecast { part, inputs, action: step.action }).await
}

/// Does a step.
#[utoipa::path(post, operation_id = "apply_step", path = "/jobs/{job}/steps", params(("job" = Uuid, Path)), request_body = StepRequest,
    responses((status = 202, body = TaskView), (status = 404, body = Problem), (status = 409, body = Problem)))]
pub(crate) async fn apply(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(step): Sent<StepRequest>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    let (part, _) = inputs(&app, job, &step).await?;
    queue(&app, job, &TaskRequest::Apply { revision: step.revision, part, action: step.action, who: person(step.who)? })
        .await
}

/// The part a step is for, and the meshes that go into it.
async fn inputs(app: &App, job: Uuid, step: &StepRequest) -> Result<(PartId, Vec<Hash>), Problem> {
    let row = app.store.job(job).await?;
    if row.revision != step.revision {
        return Err(Problem::stale(step.revision, row.revision));
    }
    let part = PartId(step.part);
    Ok((part, inputs_of(&row.history, part, &step.action)?))
}

/// Settings of a job.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SettingsRequest {
    /// The revision of the settings this is meant for.
    setup_revision: i64,
    #[schema(schema_with = crate::schema::setup)]
    setup: Setup,
}

/// Changes the settings of a job; steps that were done stay as they are.
#[utoipa::path(put, operation_id = "change_settings", path = "/jobs/{job}/settings", params(("job" = Uuid, Path)), request_body = SettingsRequest,
    responses((status = 200, body = JobView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
pub(crate) async fn change_settings(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(to): Sent<SettingsRequest>,
) -> Result<Json<JobView>, Problem> {
    to.setup.check().map_err(|why| Problem::bad_request(sentence(&why)))?;
    app.store.set_up(job, to.setup_revision, &to.setup).await?;
    Ok(Json(JobView::new(app.store.job(job).await?)))
}

/// What a step is called, and what is noted on it.
#[derive(Deserialize, ToSchema)]
pub(crate) struct LabelRequest {
    /// The revision of the job this is meant for.
    revision: i64,
    /// At most 200 characters; none takes it away.
    name: Option<String>,
    /// At most 4000 characters; none takes it away.
    note: Option<String>,
}

/// Names a step and notes something on it.
#[utoipa::path(put, operation_id = "label_step", path = "/jobs/{job}/steps/{step}/label",
    params(("job" = Uuid, Path), ("step" = u32, Path)), request_body = LabelRequest,
    responses((status = 200, body = JobView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
pub(crate) async fn label_step(
    State(app): State<Arc<App>>,
    At((job, step)): At<(Uuid, u32)>,
    Sent(label): Sent<LabelRequest>,
) -> Result<Json<JobView>, Problem> {
    let words = |text: &Option<String>, most: usize| {
        let text = text.as_deref().map(str::trim).filter(|t| !t.is_empty()).map(str::to_owned);
        match text {
            Some(t) if t.chars().count() > most => Err(Problem::bad_request(format!(
                "A name has at most 200 characters, a note 4000; this has more than {most}."
            ))),
            Some(t) if !t.lines().all(is_plain) => {
                Err(Problem::bad_request("A name or note is without characters that control or turn text."))
            }
            text => Ok(text),
        }
    };
    let (name, note) = (words(&label.name, 200)?, words(&label.note, 4000)?);
    app.store.label_step(job, label.revision, step, name.as_deref(), note.as_deref()).await?;
    Ok(Json(JobView::new(app.store.job(job).await?)))
}

/// The steps in force of a part as a recipe, to be run on other files.
#[utoipa::path(get, operation_id = "export_recipe", path = "/jobs/{job}/parts/{part}/recipe",
    params(("job" = Uuid, Path), ("part" = u32, Path)),
    responses((status = 200, body = serde_json::Value, description = "a recipe, see docs/recipe.md"), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn export_recipe(
    State(app): State<Arc<App>>,
    At((job, part)): At<(Uuid, u32)>,
) -> Result<Json<Recipe>, Problem> {
    let history = app.store.job(job).await?.history;
    let name = history.part(PartId(part)).ok_or_else(|| Problem::not_found("part"))?.name;
    Ok(Json(Recipe::of(&history, PartId(part), name)?))
}

/// The name of who does something, if it is one.
pub(super) fn person(who: Option<String>) -> Result<Option<String>, Problem> {
    let who = who.map(|w| w.trim().to_owned()).filter(|w| !w.is_empty());
    match &who {
        Some(w) if w.chars().count() > 100 || !is_plain(w) => {
            Err(Problem::bad_request("A person's name has at most 100 characters, none of which control or turn text."))
        }
        _ => Ok(who),
    }
}

/// Queues a task and rings for a worker.
pub(super) async fn queue(
    app: &App,
    job: Uuid,
    request: &TaskRequest,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    /// A queue nobody would wait for the end of.
    const MOST_WAITING: i64 = 500;
    if app.store.waiting_tasks().await? >= MOST_WAITING {
        return Err(Problem::busy("500 tasks wait to be done"));
    }
    let text = serde_json::to_string(request).map_err(Problem::internal)?;
    let id = app.store.queue_task(job, &text).await?;
    app.ring();
    Ok((StatusCode::ACCEPTED, Json(TaskView::from(app.store.task(id).await?))))
}
