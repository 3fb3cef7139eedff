//! The walls of meshes by content hash: how thick they are, drawn and in figures, and how far two stand apart.

use std::collections::BTreeMap;
use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use bytes::Bytes;
use nimbet_formats::{Detail, DisplayExtras, display_glb};
use nimbet_kernel::thickness::{Side, Way, thickness_map};
use nimbet_kernel::{Aabb, Mesh, Progress};
use nimbet_ledger::{Hash, PartId};
use nimbet_trade::wall::{
    Process, ThinPlace, WallFinding, WallReport, clearance_between, thin_before, wall_findings, wall_report,
};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

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
}

/// How thick the walls of a mesh are: the least, and how they are spread.
#[utoipa::path(get, operation_id = "mesh_wall", path = "/meshes/{mesh}/wall", params(("mesh" = String, Path), WallQuery),
    responses((status = 200, body = WallView), (status = 404, body = Problem)))]
pub(crate) async fn wall(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Query(query): Query<WallQuery>,
) -> Result<impl IntoResponse, Problem> {
    let work = move |[mesh]: [Mesh; 1], progress: &Progress| {
        wall_report(&mesh, query.how(), progress).map(|wall| WallView { wall }).map_err(|_| Problem::cancelled())
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

/// What is wrong with the walls and corners of a part.
#[derive(Clone, Serialize, ToSchema)]
pub(crate) struct WallFindingsView {
    /// Those that matter most first; none of a part that is not sealed.
    #[schema(schema_with = crate::schema::wall_finding_list)]
    findings: Vec<WallFinding>,
    /// By key of a finding the step after which its place was as thin as it is.
    since: BTreeMap<String, u32>,
}

/// What is wrong with the walls and corners of a part for the way the job is made, and since which step.
#[utoipa::path(get, operation_id = "wall_findings", path = "/jobs/{job}/parts/{part}/wall-findings",
    params(("job" = Uuid, Path), ("part" = u32, Path)),
    responses((status = 200, body = WallFindingsView), (status = 404, body = Problem)))]
pub(crate) async fn findings(
    State(app): State<Arc<App>>,
    At((job, part)): At<(Uuid, u32)>,
) -> Result<Json<WallFindingsView>, Problem> {
    let row = app.store.job(job).await?;
    let states = row.history.states(PartId(part));
    if states.is_empty() {
        return Err(Problem::not_found("part"));
    }
    let key = Hash::of(format!("{states:?} {:?}", row.setup.making).as_bytes());
    let asks = row.setup.making.figures().map_err(Problem::internal)?;
    let made = app.wall_findings.try_get_with(key, look_for_findings(app.clone(), states, asks)).await;
    made.map(Json).map_err(|p| (*p).clone())
}

async fn look_for_findings(
    app: Arc<App>,
    mut states: Vec<(u32, Hash)>,
    asks: Process,
) -> Result<WallFindingsView, Problem> {
    let Some((mut step, mut mesh)) = states.pop() else { return Err(Problem::not_found("part")) };
    let seen = app.store.examination(mesh).await?;
    let look = move |[mesh]: [Mesh; 1], progress: &Progress| {
        wall_findings(&mesh, &seen, &asks, progress).map_err(|_| Problem::cancelled())
    };
    let findings = on_meshes(&app, [mesh], look).await?;
    // Back through what the part was, as long as there is a place that was thin before.
    let thin = findings.iter().filter_map(|f| Some((f.finding.key.clone(), f.thinnest?.place())));
    let (mut keys, mut places): (Vec<String>, Vec<ThinPlace>) = thin.unzip();
    let mut since = BTreeMap::new();
    while let Some((before_step, before)) = states.pop().filter(|_| !keys.is_empty()) {
        let asked = places.clone();
        let compare = move |[after, before]: [Mesh; 2], _: &Progress| Ok(thin_before(&after, &before, &asked));
        let then = on_meshes(&app, [mesh, before], compare).await?;
        let mut still = (Vec::new(), Vec::new());
        for (key, (place, was_thin)) in keys.into_iter().zip(then) {
            if was_thin {
                still.0.push(key);
                still.1.push(place);
            } else {
                since.insert(key, step);
            }
        }
        (keys, places) = still;
        (step, mesh) = (before_step, before);
    }
    since.extend(keys.into_iter().map(|key| (key, step)));
    Ok(WallFindingsView { findings, since })
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
