//! The walls of meshes by content hash: how thick they are, drawn and in figures, and how far two stand apart.

use std::collections::BTreeMap;
use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use bytes::Bytes;
use nimbet_formats::{Detail, DisplayExtras, display_glb};
use nimbet_kernel::thickness::{Side, Way};
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{Hash, PartId, StepError};
use nimbet_trade::wall::{
    PairReport, Process, ThinPlace, WallFinding, WallReport, clearance_drawing, pair_report, thin_before, wall_drawing,
    wall_report,
};
use nimbet_trade::wall_findings;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::desk::{examined_here, on_meshes};
use super::extract::At;
use super::meshes::{FOR_EVER, parse};
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
        wall_drawing(&mesh, query.how(), progress).map(glb).map_err(|_| Problem::cancelled())
    };
    let bytes = on_meshes(&app, [parse(&mesh)?], work).await?;
    Ok(([(header::CONTENT_TYPE, "model/gltf-binary"), (header::CACHE_CONTROL, FOR_EVER)], bytes))
}

/// A drawing with a figure at each point.
fn glb((drawn, off): (Mesh, Vec<f64>)) -> Bytes {
    Bytes::from(display_glb(&drawn, &DisplayExtras { off: Some(off), ..Default::default() }, Detail::Full))
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

/// Which state of a part is looked at.
#[derive(Deserialize, IntoParams)]
pub(crate) struct ThenQuery {
    /// Content hash of the part's mesh as a forecast step would leave it; the part as it is when absent. That step has the
    /// number 0.
    then: Option<String>,
}

/// What is wrong with the walls and corners of a part for the way the job is made, and since which step.
#[utoipa::path(get, operation_id = "wall_findings", path = "/jobs/{job}/parts/{part}/wall-findings",
    params(("job" = Uuid, Path), ("part" = u32, Path), ThenQuery),
    responses((status = 200, body = WallFindingsView), (status = 404, body = Problem)))]
pub(crate) async fn findings(
    State(app): State<Arc<App>>,
    At((job, part)): At<(Uuid, u32)>,
    Query(query): Query<ThenQuery>,
) -> Result<Json<WallFindingsView>, Problem> {
    let row = app.store.job(job).await?;
    let mut states = row.history.states(PartId(part));
    if states.is_empty() {
        return Err(Problem::not_found("part"));
    }
    // Of a forecast only what it changes is asked for.
    if let Some(then) = query.then {
        states = states.split_off(states.len() - 1);
        states.push((0, parse(&then)?));
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
    let seen = examined_here(&app, mesh).await?;
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
        let compare = move |[after, before]: [Mesh; 2], progress: &Progress| {
            thin_before(&after, &before, &asked, progress).map_err(|_| Problem::cancelled())
        };
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

/// How far apart parts should be.
#[derive(Deserialize, IntoParams)]
pub(crate) struct PairQuery {
    /// What is nearer is told, mm.
    asked: f64,
}

/// How two parts stand to each other.
#[derive(Serialize, ToSchema)]
pub(crate) struct PairView {
    #[schema(schema_with = crate::schema::pair_report)]
    pair: PairReport,
}

/// How a part stands to another: the least distance, where it is less than asked, and where they overlap.
#[utoipa::path(get, operation_id = "pair_of_parts", path = "/jobs/{job}/parts/{part}/clearance/{other}",
    params(("job" = Uuid, Path), ("part" = u32, Path), ("other" = u32, Path), PairQuery),
    responses((status = 200, body = PairView), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn pair(
    State(app): State<Arc<App>>,
    At((job, part, other)): At<(Uuid, u32, u32)>,
    Query(query): Query<PairQuery>,
) -> Result<Json<PairView>, Problem> {
    let history = app.store.job(job).await?.history;
    let held = |id| history.part(PartId(id)).ok_or_else(|| Problem::not_found("part"));
    let [one, two] = [held(part)?, held(other)?];
    let states = [one.figures.state, two.figures.state];
    let work = move |[a, b]: [Mesh; 2], progress: &Progress| {
        pair_report((&a, states[0]), (&b, states[1]), (other, &two.name), query.asked, progress)
            .map(|pair| PairView { pair })
            .map_err(|e| Problem::from(StepError::from(e)))
    };
    Ok(Json(on_meshes(&app, [one.mesh, two.mesh], work).await?))
}

/// A mesh as glTF 2.0 binary, divided finely, with how far each point stands off another mesh, mm, as the attribute `_OFF` of
/// `surface`; nought inside that.
#[utoipa::path(get, operation_id = "mesh_clearance_display", path = "/meshes/{mesh}/clearance/{other}/display.glb",
    params(("mesh" = String, Path), ("other" = String, Path)),
    responses((status = 200, content_type = "model/gltf-binary", body = Vec<u8>), (status = 404, body = Problem)))]
pub(crate) async fn clearance_display(
    State(app): State<Arc<App>>,
    At((mesh, other)): At<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    let work = |[mesh, other]: [Mesh; 2], progress: &Progress| {
        clearance_drawing(&mesh, &other, progress).map(glb).map_err(|_| Problem::cancelled())
    };
    let bytes = on_meshes(&app, [parse(&mesh)?, parse(&other)?], work).await?;
    Ok(([(header::CONTENT_TYPE, "model/gltf-binary"), (header::CACHE_CONTROL, FOR_EVER)], bytes))
}
