//! Meshes by content hash: their faces, and where they lie off another.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::IntoResponse;
use bytes::Bytes;
use nimbet_formats::{Detail, DisplayExtras, display_glb};
use nimbet_kernel::deviation::spread;
use nimbet_kernel::{Aabb, Mesh, Progress};
use nimbet_trade::examine::{FaceFacts, face_facts};
use nimbet_trade::harm::taken_between;
use serde::Serialize;
use utoipa::ToSchema;

use super::desk::on_meshes;
use super::extract::At;
use super::meshes::{FOR_EVER, parse};
use crate::App;
use crate::problem::Problem;

/// The faces of a mesh.
#[derive(Serialize, ToSchema)]
pub(crate) struct FacesView {
    /// The largest first.
    #[schema(schema_with = crate::schema::face_list)]
    faces: Vec<FaceFacts>,
}

/// The faces of a mesh: area, and the surface each lies on.
#[utoipa::path(get, operation_id = "mesh_faces", path = "/meshes/{mesh}/faces", params(("mesh" = String, Path)),
    responses((status = 200, body = FacesView), (status = 404, body = Problem)))]
pub(crate) async fn faces(State(app): State<Arc<App>>, At(mesh): At<String>) -> Result<impl IntoResponse, Problem> {
    let work =
        |[mesh]: [Mesh; 1], progress: &Progress| face_facts(&mesh, None, progress).map_err(|_| Problem::cancelled());
    let faces = on_meshes(&app, [parse(&mesh)?], work).await?;
    Ok(([(header::CACHE_CONTROL, FOR_EVER)], Json(FacesView { faces })))
}

/// What of a mesh is lost in another, as glTF 2.0 binary; without triangles where nothing is.
#[utoipa::path(get, operation_id = "mesh_lost_display", path = "/meshes/{mesh}/lost/{from}/display.glb",
    params(("mesh" = String, Path), ("from" = String, Path)),
    responses((status = 200, content_type = "model/gltf-binary", body = Vec<u8>), (status = 404, body = Problem)))]
pub(crate) async fn lost_display(
    State(app): State<Arc<App>>,
    At((mesh, from)): At<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    let work = |[mesh, from]: [Mesh; 2], progress: &Progress| {
        let lost = taken_between(&[&from], &[&mesh], progress).map_err(|_| Problem::cancelled())?.lost;
        Ok(Bytes::from(display_glb(&lost.mesh, &DisplayExtras::default(), Detail::Full)))
    };
    let bytes = on_meshes(&app, [parse(&mesh)?, parse(&from)?], work).await?;
    Ok(([(header::CONTENT_TYPE, "model/gltf-binary"), (header::CACHE_CONTROL, FOR_EVER)], bytes))
}

/// A mesh as glTF 2.0 binary, divided finely where it differs from another, with the distance from that at each point, mm, as
/// the attribute `_OFF` of `surface`.
#[utoipa::path(get, operation_id = "mesh_deviation_display", path = "/meshes/{mesh}/deviation/{from}/display.glb",
    params(("mesh" = String, Path), ("from" = String, Path)),
    responses((status = 200, content_type = "model/gltf-binary", body = Vec<u8>), (status = 404, body = Problem)))]
pub(crate) async fn deviation_display(
    State(app): State<Arc<App>>,
    At((mesh, from)): At<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    let work = |[mesh, from]: [Mesh; 2], progress: &Progress| {
        /// As fine as can be seen on a screen, and not more than a browser draws.
        const SPACING: f64 = 0.01;
        const MOST: usize = 1_500_000;
        let spacing = Aabb::of(mesh.points().iter().copied()).diagonal() * SPACING;
        let most = MOST.max(mesh.triangles().len());
        let (drawn, off) = spread(&mesh, &from, spacing, most, progress).map_err(|_| Problem::cancelled())?;
        let extras = DisplayExtras { off: Some(off), ..Default::default() };
        Ok(Bytes::from(display_glb(&drawn, &extras, Detail::Full)))
    };
    let bytes = on_meshes(&app, [parse(&mesh)?, parse(&from)?], work).await?;
    Ok(([(header::CONTENT_TYPE, "model/gltf-binary"), (header::CACHE_CONTROL, FOR_EVER)], bytes))
}
