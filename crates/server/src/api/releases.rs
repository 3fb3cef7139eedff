//! Releases: made, listed, downloaded.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use nimbet_formats::{LengthUnit, ReleaseFormat};
use nimbet_ledger::{CheckSheet, Hash, History, MOST_TOGETHER, PartId};
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
    /// Further parts that go into the same file: 3MF only.
    #[serde(default)]
    with: Vec<u32>,
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

/// Writes a part, or several into one 3MF, reads the file back, proves it, and keeps it with its check sheet.
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
    let ReleaseRequest { format, unit, accept_loss, .. } = wanted;
    let request = match wanted.with.len() {
        0 => TaskRequest::Release { part: part.id, mesh: part.mesh, format, unit, accept_loss },
        more => {
            let title = format!("{} and {more} more", part.name);
            TaskRequest::ReleaseTogether { parts: together(&row.history, &wanted)?, title, unit, accept_loss }
        }
    };
    queue(&app, job, &request).await
}

/// The parts of one file, each once.
fn together(history: &History, wanted: &ReleaseRequest) -> Result<Vec<(PartId, Hash)>, Problem> {
    if wanted.format != ReleaseFormat::ThreeMf {
        return Err(Problem::bad_request("Several parts go into one file as 3MF only."));
    }
    if wanted.with.len() >= MOST_TOGETHER {
        return Err(Problem::bad_request(format!("At most {MOST_TOGETHER} parts go into one file.")));
    }
    let mut parts: Vec<(PartId, Hash)> = Vec::with_capacity(wanted.with.len() + 1);
    for id in std::iter::once(&wanted.part).chain(&wanted.with).map(|n| PartId(*n)) {
        if let Some(stopped) = history.stopped(id) {
            return Err(Problem::after_stopped(stopped));
        }
        let part = history.part(id).ok_or_else(|| Problem::not_found("part"))?;
        if parts.iter().any(|(known, _)| *known == id) {
            return Err(Problem::bad_request(format!("{} is named twice.", part.name)));
        }
        parts.push((id, part.mesh));
    }
    Ok(parts)
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
