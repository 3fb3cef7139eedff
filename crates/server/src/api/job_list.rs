//! The jobs of the house: listed, made, renamed, put into the archive, deleted and brought back.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use nimbet_trade::words::is_plain;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::extract::{At, Sent};
use super::jobs::JobView;
use crate::App;
use crate::problem::Problem;
use crate::store::{DELETED_DAYS, JobLine};

/// A job in the list of jobs.
#[derive(Serialize, ToSchema)]
pub(crate) struct JobEntry {
    id: Uuid,
    name: String,
    revision: i64,
    /// Whether it was put into the archive: kept, but out of the way.
    archived: bool,
    /// When its ledger was last changed, as in RFC 3339, UTC.
    at: String,
    /// By whom.
    who: Option<String>,
}

impl From<JobLine> for JobEntry {
    fn from(JobLine { id, name, revision, archived, at, who }: JobLine) -> Self {
        Self { id, name, revision, archived, at, who }
    }
}

/// The name of a new job.
#[derive(Deserialize, ToSchema)]
pub(crate) struct NewJob {
    name: String,
}

/// All jobs, the newest first.
#[utoipa::path(get, operation_id = "list_jobs", path = "/jobs", responses((status = 200, body = [JobEntry])))]
pub(crate) async fn list(State(app): State<Arc<App>>) -> Result<Json<Vec<JobEntry>>, Problem> {
    Ok(Json(app.store.jobs().await?.into_iter().map(JobEntry::from).collect()))
}

/// What changes of a job as such; what is absent stays.
#[derive(Deserialize, ToSchema)]
pub(crate) struct JobChange {
    /// What it is called.
    name: Option<String>,
    /// Whether it is in the archive.
    archived: Option<bool>,
}

/// Renames a job, puts it into the archive or takes it out.
#[utoipa::path(patch, operation_id = "change_job", path = "/jobs/{job}", params(("job" = Uuid, Path)), request_body = JobChange,
    responses((status = 200, body = [JobEntry]), (status = 400, body = Problem), (status = 404, body = Problem)))]
pub(crate) async fn change(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(change): Sent<JobChange>,
) -> Result<Json<Vec<JobEntry>>, Problem> {
    let name = change.name.as_deref().map(job_name).transpose()?;
    app.store.change_job(job, name, change.archived).await?;
    list(State(app)).await
}

/// Makes an empty job.
#[utoipa::path(post, operation_id = "create_job", path = "/jobs", request_body = NewJob,
    responses((status = 201, body = JobView), (status = 400, body = Problem)))]
pub(crate) async fn create(
    State(app): State<Arc<App>>,
    Sent(new): Sent<NewJob>,
) -> Result<(StatusCode, Json<JobView>), Problem> {
    let id = app.store.create_job(job_name(&new.name)?).await?;
    Ok((StatusCode::CREATED, Json(JobView::new(app.store.job(id).await?))))
}

/// Makes another demo job: made-up parts with all that can be wrong with them, to try things on.
#[utoipa::path(post, operation_id = "create_demo_job", path = "/demo-jobs", responses((status = 201, body = JobView)))]
pub(crate) async fn create_demo(State(app): State<Arc<App>>) -> Result<(StatusCode, Json<JobView>), Problem> {
    let id = crate::work::bring_in_demo(&app.store).await?;
    Ok((StatusCode::CREATED, Json(JobView::new(app.store.job(id).await?))))
}

/// The name of a job, if it is one.
pub(super) fn job_name(name: &str) -> Result<&str, Problem> {
    let name = name.trim();
    if name.is_empty() || name.chars().count() > 200 || !is_plain(name) {
        let told = "A job needs a name of at most 200 characters, without characters that control or turn text.";
        return Err(Problem::bad_request(told));
    }
    Ok(name)
}

/// A deleted job that can still be brought back.
#[derive(Serialize, ToSchema)]
pub(crate) struct DeletedJob {
    id: Uuid,
    name: String,
    /// When it was deleted, as in RFC 3339, UTC.
    at: String,
    /// How long after that it can be brought back, days.
    days: u32,
}

/// Deleted jobs that can still be brought back, the last first.
#[utoipa::path(get, operation_id = "list_deleted_jobs", path = "/deleted-jobs", responses((status = 200, body = [DeletedJob])))]
pub(crate) async fn deleted(State(app): State<Arc<App>>) -> Result<Json<Vec<DeletedJob>>, Problem> {
    let jobs = app.store.deleted_jobs().await?.into_iter();
    Ok(Json(jobs.map(|(id, name, at)| DeletedJob { id, name, at, days: DELETED_DAYS }).collect()))
}

/// Deletes a job. For 30 days it can be brought back as it was.
#[utoipa::path(delete, operation_id = "delete_job", path = "/jobs/{job}", params(("job" = Uuid, Path)),
    responses((status = 200, body = DeletedJob), (status = 404, body = Problem)))]
pub(crate) async fn delete(State(app): State<Arc<App>>, At(job): At<Uuid>) -> Result<Json<DeletedJob>, Problem> {
    app.store.delete_job(job, true).await?;
    let told = app.store.deleted_jobs().await?.into_iter().find(|(id, _, _)| *id == job);
    let (id, name, at) = told.ok_or_else(|| Problem::not_found("job"))?;
    Ok(Json(DeletedJob { id, name, at, days: DELETED_DAYS }))
}

/// Brings a deleted job back.
#[utoipa::path(post, operation_id = "bring_back_job", path = "/deleted-jobs/{job}/bring-back", params(("job" = Uuid, Path)),
    responses((status = 200, body = JobView), (status = 404, body = Problem)))]
pub(crate) async fn bring_back(State(app): State<Arc<App>>, At(job): At<Uuid>) -> Result<Json<JobView>, Problem> {
    app.store.delete_job(job, false).await?;
    Ok(Json(JobView::new(app.store.job(job).await?)))
}
