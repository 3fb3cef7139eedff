//! Drawings while somebody draws them: shown, changed, what the pointer catches. Nothing is kept.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::shape::{BoardRequest, BoardView};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::desk::{at_desk, on_meshes};
use super::extract::{At, Sent};
use super::meshes::{FOR_EVER, parse};
use super::weigh::told;
use crate::App;
use crate::problem::Problem;

#[derive(Deserialize, IntoParams)]
pub(crate) struct BoardQuery {
    /// The content hash of the part whose face the plane may follow.
    mesh: Option<String>,
}

/// A drawing to be shown.
#[derive(Deserialize, ToSchema)]
pub(crate) struct BoardAsked {
    #[schema(schema_with = crate::schema::board_request)]
    board: BoardRequest,
}

/// A drawing as it is shown.
#[derive(Serialize, ToSchema)]
pub(crate) struct BoardShown {
    #[schema(schema_with = crate::schema::board_view)]
    board: BoardView,
}

/// A drawing on its plane as it is shown, perhaps with a change made first, or with what a hand draws: its lines, where they go, what
/// is to be seen of them.
#[utoipa::path(post, operation_id = "board", path = "/boards", params(BoardQuery), request_body = BoardAsked,
    responses((status = 200, body = BoardShown), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn view(
    State(app): State<Arc<App>>,
    Query(query): Query<BoardQuery>,
    Sent(BoardAsked { board }): Sent<BoardAsked>,
) -> Result<Json<BoardShown>, Problem> {
    let board = match query.mesh {
        Some(mesh) => {
            let work = move |[mesh]: [Mesh; 1], progress: &Progress| board.view(Some(&mesh), progress).map_err(told);
            on_meshes(&app, [parse(&mesh)?], work).await?
        }
        None => at_desk(&app, move |progress| board.view(None, progress).map_err(told)).await?,
    };
    Ok(Json(BoardShown { board }))
}

/// The drawing a profile was made of.
#[utoipa::path(get, operation_id = "mesh_profile", path = "/meshes/{mesh}/profile", params(("mesh" = String, Path)),
    responses((status = 200, body = BoardShown), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn of_mesh(State(app): State<Arc<App>>, At(mesh): At<String>) -> Result<impl IntoResponse, Problem> {
    let work = |[mesh]: [Mesh; 1], progress: &Progress| BoardView::of_part(&mesh, progress).map_err(told);
    let board = on_meshes(&app, [parse(&mesh)?], work).await?;
    Ok(([(header::CACHE_CONTROL, FOR_EVER)], Json(BoardShown { board })))
}
