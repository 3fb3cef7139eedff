//! The walls of meshes by content hash: how thick they are, drawn and in figures, and how far two stand apart.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use bytes::Bytes;
use nimbet_formats::{Detail, DisplayExtras, display_glb};
use nimbet_kernel::thickness::{Side, Way, thickness_map};
use nimbet_kernel::{Aabb, Mesh, Progress};
use nimbet_trade::wall::{CornerRun, WallReport, clearance_between, corner_runs, wall_report};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::extract::At;
use super::meshes::{FOR_EVER, parse};
use super::surfaces::on_meshes;
use crate::App;
use crate::problem::Problem;

#[derive(Deserialize, IntoParams)]
pub(crate) struct WallQuery {
    /// Straight through instead of by the largest ball inside.
    #[serde(default)]
    ray: bool,
    /// Gaps and slots instead of walls.
    #[serde(default)]
    outside: bool,
    /// Areas thinner than this, mm, are told one by one.
    below: Option<f64>,
    /// Inner corners sharper than this radius, mm, are told, and feather edges.
    corner: Option<f64>,
}

impl WallQuery {
    fn how(&self) -> (Side, Way) {
        let side = if self.outside { Side::Outside } else { Side::Inside };
        (side, if self.ray { Way::Ray } else { Way::Ball })
    }
}

/// How thick a mesh is.
#[derive(Serialize, ToSchema)]
pub(crate) struct WallView {
    #[schema(schema_with = crate::schema::wall_report)]
    wall: WallReport,
    /// Corners that crumble in a mould or do not fill; where they were asked for.
    #[schema(schema_with = crate::schema::corner_list)]
    corners: Vec<CornerRun>,
}

/// How thick the walls of a mesh are: the least, how they are spread, and where they are thin.
#[utoipa::path(get, operation_id = "mesh_wall", path = "/meshes/{mesh}/wall", params(("mesh" = String, Path), WallQuery),
    responses((status = 200, body = WallView), (status = 400, body = Problem), (status = 404, body = Problem)))]
pub(crate) async fn wall(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Query(query): Query<WallQuery>,
) -> Result<impl IntoResponse, Problem> {
    if query.below.is_some_and(|b| !(b > 0.0 && b.is_finite())) {
        return Err(Problem::bad_request("the least wall must be a length above 0 mm"));
    }
    let work = move |[mesh]: [Mesh; 1], progress: &Progress| {
        let wall = wall_report(&mesh, query.how(), query.below, &progress.stage(0.0, 0.9))
            .map_err(|_| Problem::cancelled())?;
        let corners = match query.corner {
            Some(radius) => corner_runs(&mesh, radius, &progress.stage(0.9, 1.0)).map_err(|_| Problem::cancelled())?,
            None => vec![],
        };
        Ok(WallView { wall, corners })
    };
    let view = on_meshes(&app, [parse(&mesh)?], work).await?;
    Ok(([(header::CACHE_CONTROL, FOR_EVER)], Json(view)))
}

/// A mesh as glTF 2.0 binary, divided finely, with the thickness at each point, mm, as the attribute `_OFF` of `surface`; where
/// nothing lies opposite within a fifth of the part it is a thousand times the part.
#[utoipa::path(get, operation_id = "mesh_wall_display", path = "/meshes/{mesh}/wall/display.glb",
    params(("mesh" = String, Path), WallQuery),
    responses((status = 200, content_type = "model/gltf-binary", body = Vec<u8>), (status = 404, body = Problem)))]
pub(crate) async fn wall_display(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Query(query): Query<WallQuery>,
) -> Result<impl IntoResponse, Problem> {
    let work = move |[mesh]: [Mesh; 1], progress: &Progress| {
        /// As fine as can be seen on a screen, and not more than a browser draws.
        const SPACING: f64 = 0.015;
        const MOST: usize = 400_000;
        const THICK: f64 = 0.2;
        let size = Aabb::of(mesh.points().iter().copied()).diagonal();
        let fine = (size * SPACING, MOST.max(mesh.triangles().len()));
        let (drawn, across) =
            thickness_map(&mesh, query.how(), fine, size * THICK, progress).map_err(|_| Problem::cancelled())?;
        let off = across.into_iter().map(|a| a.min(size * 1000.0)).collect();
        let extras = DisplayExtras { off: Some(off), ..Default::default() };
        Ok(Bytes::from(display_glb(&drawn, &extras, Detail::Full)))
    };
    let bytes = on_meshes(&app, [parse(&mesh)?], work).await?;
    Ok(([(header::CONTENT_TYPE, "model/gltf-binary"), (header::CACHE_CONTROL, FOR_EVER)], bytes))
}

/// How far two meshes stand apart.
#[derive(Serialize, ToSchema)]
pub(crate) struct ClearanceView {
    /// The least distance, mm; nought where they meet; absent where one is empty.
    least: Option<f64>,
    /// Where it is on the one, mm.
    from: Option<[f64; 3]>,
    /// Where it is on the other, mm.
    to: Option<[f64; 3]>,
}

/// The least distance between two meshes, with where it is.
#[utoipa::path(get, operation_id = "mesh_clearance", path = "/meshes/{mesh}/clearance/{other}",
    params(("mesh" = String, Path), ("other" = String, Path)),
    responses((status = 200, body = ClearanceView), (status = 404, body = Problem)))]
pub(crate) async fn clearance(
    State(app): State<Arc<App>>,
    At((mesh, other)): At<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    let work = |[mesh, other]: [Mesh; 2], progress: &Progress| {
        clearance_between(&mesh, &other, progress).map_err(|_| Problem::cancelled())
    };
    let found = on_meshes(&app, [parse(&mesh)?, parse(&other)?], work).await?;
    let view = ClearanceView { least: found.map(|f| f.0), from: found.map(|f| f.1), to: found.map(|f| f.2) };
    Ok(([(header::CACHE_CONTROL, FOR_EVER)], Json(view)))
}
