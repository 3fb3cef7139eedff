//! Drawings while somebody draws them: shown, changed, what the pointer catches. Nothing is kept.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use bytes::Bytes;
use nimbet_formats::{profile_dxf, profile_svg, read_outlines};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::TradeError;
use nimbet_trade::shape::{BoardRequest, BoardView, Carried, Line, Profile, Shape, carry};
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

/// Lines to be carried down from a part onto a board.
#[derive(Deserialize, ToSchema)]
pub(crate) struct CarryAsked {
    /// Where the plane has its zero, mm.
    origin: [f64; 3],
    /// Where its x goes.
    right: [f64; 3],
    /// Where its y goes.
    up: [f64; 3],
    #[schema(schema_with = crate::schema::carried)]
    carried: Carried,
}

/// Lines carried down from a part.
#[derive(Serialize, ToSchema)]
pub(crate) struct CarriedLines {
    #[schema(schema_with = crate::schema::line_list)]
    lines: Vec<Line>,
}

/// The lines a part has on the plane of a board: its cut, its silhouette, its rims or its edges. Nothing is kept.
#[utoipa::path(post, operation_id = "carry_down", path = "/meshes/{mesh}/carried", params(("mesh" = String, Path)), request_body = CarryAsked,
    responses((status = 200, body = CarriedLines), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn carried(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Sent(asked): Sent<CarryAsked>,
) -> Result<Json<CarriedLines>, Problem> {
    let [origin, right, up] = [asked.origin, asked.right, asked.up].map(Point::from_array);
    let frame = PlaneFrame::new(origin, right.cross(up)).map(|f| f.along(right));
    let frame = frame.ok_or_else(|| told(TradeError::Refused { why: "that is no plane".into(), places: vec![] }))?;
    let work =
        move |[mesh]: [Mesh; 1], progress: &Progress| carry(&mesh, &frame, &asked.carried, progress).map_err(told);
    Ok(Json(CarriedLines { lines: on_meshes(&app, [parse(&mesh)?], work).await? }))
}

/// A drawing that was read.
#[derive(Serialize, ToSchema)]
pub(crate) struct OutlinesView {
    /// What is drawn, as lines of a profile, mm.
    #[schema(schema_with = crate::schema::shape_list)]
    shapes: Vec<Shape>,
    /// The unit of the file, or what it was taken for.
    unit: String,
    /// What could not be read as an outline, with how often.
    left_out: std::collections::BTreeMap<String, usize>,
}

/// Reads a drawing (DXF as text, SVG) as lines of a profile. Nothing is kept.
#[utoipa::path(post, operation_id = "read_outlines", path = "/boards/outlines", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = OutlinesView), (status = 413, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn outlines(State(app): State<Arc<App>>, bytes: Bytes) -> Result<Json<OutlinesView>, Problem> {
    let read = move |progress: &Progress| {
        progress.check().map_err(|_| Problem::cancelled())?;
        let found = read_outlines(&bytes, None)
            .map_err(|e| told(TradeError::Refused { why: e.to_string(), places: vec![] }))?;
        Ok(OutlinesView { shapes: found.shapes, unit: found.unit, left_out: found.left_out })
    };
    Ok(Json(at_desk(&app, read).await?))
}

/// A profile as a drawing with true arcs: `svg` or `dxf`.
#[utoipa::path(get, operation_id = "mesh_profile_file", path = "/meshes/{mesh}/profile/{format}",
    params(("mesh" = String, Path), ("format" = String, Path)),
    responses((status = 200, body = String), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn file(
    State(app): State<Arc<App>>,
    At((mesh, format)): At<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    let kind = match format.as_str() {
        "svg" => "image/svg+xml",
        "dxf" => "image/vnd.dxf",
        _ => return Err(Problem::not_found("format")),
    };
    let svg = format == "svg";
    let work = move |[mesh]: [Mesh; 1], progress: &Progress| {
        let profile = Profile::of(&mesh, progress).map_err(told)?;
        let curves = &profile.network.curves;
        Ok(if svg { profile_svg("Profile", curves) } else { profile_dxf(curves) })
    };
    let text = on_meshes(&app, [parse(&mesh)?], work).await?;
    let disposition = format!("attachment; filename=\"Profile.{format}\"");
    Ok(([(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, disposition)], text))
}
