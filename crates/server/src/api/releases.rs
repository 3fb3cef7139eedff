//! Releases: made, listed, downloaded.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use nimbet_formats::{LengthUnit, ReleaseFormat};
use nimbet_ledger::{CheckSheet, PartId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::extract::{At, Sent};
use super::jobs::queue;
use super::tasks::TaskView;
use crate::App;
use crate::problem::Problem;
use crate::store::ReleaseRow;
use crate::work::TaskRequest;

/// A released file with its check sheet.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReleaseView {
    id: Uuid,
    part: u32,
    /// Content hash of the mesh that was released.
    mesh: String,
    /// When, UTC, ISO 8601.
    made_at: String,
    #[schema(schema_with = crate::schema::sheet)]
    sheet: CheckSheet,
}

impl From<ReleaseRow> for ReleaseView {
    fn from(r: ReleaseRow) -> Self {
        Self { id: r.id, part: r.part.0, mesh: r.mesh.to_string(), made_at: r.made_at, sheet: r.sheet }
    }
}

/// What to release and how.
#[derive(Deserialize, ToSchema)]
pub(crate) struct ReleaseRequest {
    revision: i64,
    part: u32,
    #[schema(schema_with = crate::schema::format)]
    format: ReleaseFormat,
    #[schema(schema_with = crate::schema::unit)]
    unit: LengthUnit,
    /// Whether more of the surface may be lost by mending than may be without asking.
    #[serde(default)]
    accept_loss: bool,
}

/// The releases of a job, the newest first.
#[utoipa::path(get, operation_id = "list_releases", path = "/jobs/{job}/releases", params(("job" = Uuid, Path)),
    responses((status = 200, body = [ReleaseView])))]
pub(crate) async fn list(State(app): State<Arc<App>>, At(job): At<Uuid>) -> Result<Json<Vec<ReleaseView>>, Problem> {
    Ok(Json(app.store.releases(job).await?.into_iter().map(Into::into).collect()))
}

/// Writes a part, reads it back, proves it, and keeps the file with its check sheet.
#[utoipa::path(post, operation_id = "make_release", path = "/jobs/{job}/releases", params(("job" = Uuid, Path)), request_body = ReleaseRequest,
    responses((status = 202, body = TaskView), (status = 404, body = Problem), (status = 409, body = Problem)))]
pub(crate) async fn make(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(wanted): Sent<ReleaseRequest>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    let row = app.store.job(job).await?;
    if row.revision != wanted.revision {
        return Err(Problem::stale(wanted.revision, row.revision));
    }
    if let Some(stopped) = row.history.stopped(PartId(wanted.part)) {
        return Err(Problem::after_stopped(stopped));
    }
    let part = row.history.part(PartId(wanted.part)).ok_or_else(|| Problem::not_found("part"))?;
    let request = TaskRequest::Release {
        part: part.id,
        mesh: part.mesh,
        name: part.name,
        format: wanted.format,
        unit: wanted.unit,
        accept_loss: wanted.accept_loss,
    };
    queue(&app, job, &request).await
}

/// The released file.
#[utoipa::path(get, operation_id = "release_file", path = "/releases/{release}/file", params(("release" = Uuid, Path)),
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>), (status = 404, body = Problem)))]
pub(crate) async fn file(State(app): State<Arc<App>>, At(release): At<Uuid>) -> Result<impl IntoResponse, Problem> {
    let row = app.store.release(release).await?;
    let bytes = app.store.blob(row.file).await?;
    let plain: String = row.sheet.file.chars().filter(|c| c.is_ascii() && *c != '"').collect();
    let headers = [
        (header::CONTENT_TYPE, "application/octet-stream".to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{plain}\"")),
    ];
    Ok((headers, bytes))
}
