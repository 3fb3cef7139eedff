//! Changing one's mind: edits of earlier steps, undo and redo, copies of jobs; and telling others about changes.

use std::convert::Infallible;
use std::sync::Arc;
use std::time::Duration;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::StatusCode;
use axum::response::Sse;
use axum::response::sse::{Event, KeepAlive};
use futures::Stream;
use nimbet_ledger::Edit;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::extract::{At, Sent};
use super::job_list::job_name;
use super::jobs::{JobView, PartView, person, queue};
use super::tasks::TaskView;
use crate::App;
use crate::problem::Problem;
use crate::work::TaskRequest;

/// How often a stream looks at its job.
const LOOK: Duration = Duration::from_millis(250);

/// A change to steps that were done.
#[derive(Deserialize, ToSchema)]
pub(crate) struct EditRequest {
    /// The revision of the job this is meant for.
    revision: i64,
    #[schema(schema_with = crate::schema::edit)]
    edit: Edit,
    /// Who does it: at most 100 characters.
    who: Option<String>,
}

/// Changes steps that were done, and works out what depends on them.
#[utoipa::path(post, operation_id = "edit_ledger", path = "/jobs/{job}/edits", params(("job" = Uuid, Path)), request_body = EditRequest,
    responses((status = 202, body = TaskView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn edit(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(request): Sent<EditRequest>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    refuse_unfit(&app, job, &request).await?;
    let who = person(request.who)?;
    queue(&app, job, &TaskRequest::Edit { revision: request.revision, edit: request.edit, who }).await
}

/// Works out what an edit would do to its step and to those after it, without making it.
#[utoipa::path(post, operation_id = "forecast_edit", path = "/jobs/{job}/edit-forecasts", params(("job" = Uuid, Path)), request_body = EditRequest,
    responses((status = 202, body = TaskView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn forecast_edit(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(request): Sent<EditRequest>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    refuse_unfit(&app, job, &request).await?;
    queue(&app, job, &TaskRequest::ForetellEdit { edit: request.edit }).await
}

/// Refuses at once what needs no working out to be refused.
async fn refuse_unfit(app: &App, job: Uuid, request: &EditRequest) -> Result<(), Problem> {
    let row = app.store.job(job).await?;
    if row.revision != request.revision {
        return Err(Problem::stale(request.revision, row.revision));
    }
    row.history.edited(&request.edit, row.next_number)?;
    Ok(())
}

/// A place in the ledger.
#[derive(Deserialize, IntoParams)]
pub(crate) struct Place {
    /// The step before which, or after which.
    step: u32,
    /// Whether after it.
    #[serde(default)]
    after: bool,
}

/// The parts as they were at a place in the ledger.
#[utoipa::path(get, operation_id = "parts_at", path = "/jobs/{job}/parts", params(("job" = Uuid, Path), Place),
    responses((status = 200, body = [PartView]), (status = 404, body = Problem)))]
pub(crate) async fn parts_at(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Query(place): Query<Place>,
) -> Result<Json<Vec<PartView>>, Problem> {
    let row = app.store.job(job).await?;
    let until = row.history.until(place.step, place.after).ok_or_else(|| Problem::not_found("step"))?;
    Ok(Json(PartView::all(&until, &row.setup)))
}

/// Which revision of a job a request is about.
#[derive(Deserialize, ToSchema)]
pub(crate) struct RevisionRequest {
    /// The revision of the job this is meant for.
    revision: i64,
}

/// Takes the last change of the ledger back. Nothing is worked out anew.
#[utoipa::path(post, operation_id = "undo", path = "/jobs/{job}/undo", params(("job" = Uuid, Path)), request_body = RevisionRequest,
    responses((status = 200, body = JobView), (status = 404, body = Problem), (status = 409, body = Problem)))]
pub(crate) async fn undo(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(held): Sent<RevisionRequest>,
) -> Result<Json<JobView>, Problem> {
    app.store.undo(job, held.revision, false).await?;
    Ok(Json(JobView::new(app.store.job(job).await?)))
}

/// Brings the change that was last taken back again.
#[utoipa::path(post, operation_id = "redo", path = "/jobs/{job}/redo", params(("job" = Uuid, Path)), request_body = RevisionRequest,
    responses((status = 200, body = JobView), (status = 404, body = Problem), (status = 409, body = Problem)))]
pub(crate) async fn redo(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(held): Sent<RevisionRequest>,
) -> Result<Json<JobView>, Problem> {
    app.store.undo(job, held.revision, true).await?;
    Ok(Json(JobView::new(app.store.job(job).await?)))
}

/// The name of a copy.
#[derive(Deserialize, ToSchema)]
pub(crate) struct CopyRequest {
    /// At most 200 characters.
    name: String,
}

/// Makes another job with the parts and the ledger of one as it is now.
#[utoipa::path(post, operation_id = "copy_job", path = "/jobs/{job}/copies", params(("job" = Uuid, Path)), request_body = CopyRequest,
    responses((status = 201, body = JobView), (status = 400, body = Problem), (status = 404, body = Problem)))]
pub(crate) async fn copy(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(copy): Sent<CopyRequest>,
) -> Result<(StatusCode, Json<JobView>), Problem> {
    let name = job_name(&copy.name)?;
    app.store.revisions(job).await?;
    let id = app.store.copy_job(job, name).await?;
    Ok((StatusCode::CREATED, Json(JobView::new(app.store.job(id).await?))))
}

/// That a job has changed.
#[derive(Serialize, ToSchema)]
pub(crate) struct JobChanged {
    /// The revision it is at.
    revision: i64,
    /// That of how it is set up.
    setup_revision: i64,
}

/// Changes of a job as server-sent events: one `JobChanged` at the beginning and for each change, whoever made it.
#[utoipa::path(get, operation_id = "job_events", path = "/jobs/{job}/events", params(("job" = Uuid, Path)),
    responses((status = 200, content_type = "text/event-stream", body = JobChanged), (status = 404, body = Problem)))]
pub(crate) async fn events(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Problem> {
    app.store.revisions(job).await?;
    let stream = futures::stream::unfold((app, None), move |(app, last)| async move {
        loop {
            let now = app.store.revisions(job).await.ok()?;
            if last != Some(now) {
                let text = serde_json::to_string(&JobChanged { revision: now.0, setup_revision: now.1 }).ok()?;
                return Some((Ok(Event::default().data(text)), (app, Some(now))));
            }
            let mut stopping = app.stopping.subscribe();
            if tokio::time::timeout(LOOK, stopping.wait_for(|stop| *stop)).await.is_ok() {
                return None;
            }
        }
    });
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}
