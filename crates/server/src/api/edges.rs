//! The edges a step means, before it is done.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{Action, StepError};
use nimbet_trade::shape::{Chamfer, EdgeRuns, Round};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::desk::on_meshes;
use super::extract::{At, Sent};
use super::meshes::parse;
use crate::App;
use crate::problem::Problem;

/// A step that rounds or chamfers edges.
#[derive(Deserialize, ToSchema)]
pub(crate) struct EdgesRequest {
    #[schema(schema_with = crate::schema::action)]
    action: Action,
    /// Whether largest figures are tried out, which takes longer.
    #[serde(default)]
    tried: bool,
}

/// The runs of edges it means.
#[derive(Serialize, ToSchema)]
pub(crate) struct EdgeRunsView {
    #[schema(schema_with = crate::schema::edge_runs)]
    found: EdgeRuns,
}

/// The runs of edges a step means, not yet taken, and the largest figure each of them could have.
#[utoipa::path(post, operation_id = "edge_runs", path = "/meshes/{mesh}/edge-runs", params(("mesh" = String, Path)),
    request_body = EdgesRequest,
    responses((status = 200, body = EdgeRunsView), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn runs(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Sent(EdgesRequest { action, tried }): Sent<EdgesRequest>,
) -> Result<Json<EdgeRunsView>, Problem> {
    let (round, chamfer) = match &action {
        Action::Operation(work) => (work.operation.tool::<Round>().cloned(), work.operation.tool::<Chamfer>().cloned()),
        _ => (None, None),
    };
    let work = move |[mesh]: [Mesh; 1], progress: &Progress| {
        let found = match (&round, &chamfer) {
            (Some(round), _) => round.runs(&mesh, tried, progress),
            (_, Some(chamfer)) => chamfer.runs(&mesh, tried, progress),
            _ => return Err(Problem::bad_request("only roundings and chamfers mean edges")),
        };
        found.map(|found| EdgeRunsView { found }).map_err(|e| Problem::from(StepError::from(e)))
    };
    Ok(Json(on_meshes(&app, [parse(&mesh)?], work).await?))
}
