//! Threads: those of a part cut to be looked at, screwed into each other, and the sizes for what was measured.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::StatusCode;
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{Action, PartId, StepError};
use nimbet_trade::fasten::{Bore, BoreSeats, Size, sizes_for_bore, sizes_for_pin};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::desk::on_meshes;
use super::extract::{At, Sent};
use super::jobs::queue;
use super::meshes::parse;
use super::tasks::TaskView;
use crate::App;
use crate::problem::Problem;
use crate::work::{TaskRequest, ThreadRef};

/// Works out a part with its marked threads cut, without changing it. The result names the mesh.
#[utoipa::path(post, operation_id = "cut_threads", path = "/jobs/{job}/parts/{part}/cut-threads",
    params(("job" = Uuid, Path), ("part" = u32, Path)),
    responses((status = 202, body = TaskView), (status = 404, body = Problem)))]
pub(crate) async fn cut(
    State(app): State<Arc<App>>,
    At((job, part)): At<(Uuid, u32)>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    let row = app.store.job(job).await?;
    row.history.part(PartId(part)).ok_or_else(|| Problem::not_found("part"))?;
    queue(&app, job, &TaskRequest::CutThreads { part: PartId(part) }).await
}

/// Two threads to be screwed together.
#[derive(Deserialize, ToSchema)]
pub(crate) struct FitRequest {
    internal: ThreadRef,
    external: ThreadRef,
}

/// Screws a part with an external thread into one with an internal thread. The result holds what was found.
#[utoipa::path(post, operation_id = "check_fit", path = "/jobs/{job}/fits", params(("job" = Uuid, Path)), request_body = FitRequest,
    responses((status = 202, body = TaskView), (status = 404, body = Problem)))]
pub(crate) async fn check_fit(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(pair): Sent<FitRequest>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    app.store.job(job).await?;
    queue(&app, job, &TaskRequest::Fit { internal: pair.internal, external: pair.external }).await
}

#[derive(Deserialize, IntoParams)]
pub(crate) struct MeasuredQuery {
    /// The diameter, mm.
    diameter: f64,
    /// Of a pin instead of a bore.
    #[serde(default)]
    pin: bool,
}

/// Sizes that may be meant.
#[derive(Serialize, ToSchema)]
pub(crate) struct SizesView {
    #[schema(schema_with = crate::schema::size_list)]
    sizes: Vec<Size>,
}

/// The sizes of threads a measured bore or pin may be meant for, the nearest first. None is chosen.
#[utoipa::path(get, operation_id = "thread_sizes", path = "/threads/sizes", params(MeasuredQuery), responses((status = 200, body = SizesView)))]
pub(crate) async fn sizes(Query(query): Query<MeasuredQuery>) -> Json<SizesView> {
    /// What printing and drills leave a bore off.
    const WITHIN: f64 = 0.1;
    let sizes = if query.pin { sizes_for_pin(query.diameter, WITHIN) } else { sizes_for_bore(query.diameter, WITHIN) };
    Json(SizesView { sizes })
}

/// Where the bores of a step are.
#[derive(Serialize, ToSchema)]
pub(crate) struct BoreSeatsView {
    #[schema(schema_with = crate::schema::bore_seats)]
    found: BoreSeats,
}

/// Where the bores of a step, not yet taken, are on a mesh and which way they go.
#[utoipa::path(post, operation_id = "seat_bores", path = "/meshes/{mesh}/bore-seats", params(("mesh" = String, Path)),
    request_body = BoreRequest,
    responses((status = 200, body = BoreSeatsView), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn seats(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Sent(BoreRequest { action }): Sent<BoreRequest>,
) -> Result<Json<BoreSeatsView>, Problem> {
    let bore = match &action {
        Action::Operation(work) => work.operation.tool::<Bore>().cloned(),
        _ => None,
    };
    let bore = bore.ok_or_else(|| Problem::bad_request("only bores have seats"))?;
    let work = move |[mesh]: [Mesh; 1], _: &Progress| {
        bore.seats(&mesh).map(|found| BoreSeatsView { found }).map_err(|e| Problem::from(StepError::from(e)))
    };
    Ok(Json(on_meshes(&app, [parse(&mesh)?], work).await?))
}

/// A step that makes bores.
#[derive(Deserialize, ToSchema)]
pub(crate) struct BoreRequest {
    #[schema(schema_with = crate::schema::action)]
    action: Action,
}
