//! Meshes by content hash: what is known of them, what they weigh, how they look.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use bytes::Bytes;
use nimbet_formats::{Detail, DisplayExtras, display_glb};
use nimbet_kernel::deviation::deviation;
use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Mesh, Progress, Topology, rims};
use nimbet_ledger::Hash;
use nimbet_trade::examine::{chain_points, name_rims};
use nimbet_trade::weigh::{Faceting, VolumeGuess, Weighing, faceting, guess_volume};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::desk::{examined_here, on_meshes};
use super::extract::At;
use super::watch::Waited;
use crate::App;
use crate::problem::Problem;
use crate::work::examined_json;

pub(super) const FOR_EVER: &str = "public, max-age=31536000, immutable";

pub(super) fn parse(hash: &str) -> Result<Hash, Problem> {
    hash.parse().map_err(Problem::bad_request)
}

/// What is known of a mesh (an `Examination`).
#[utoipa::path(get, operation_id = "mesh_examination", path = "/meshes/{mesh}/examination", params(("mesh" = String, Path)),
    responses((status = 200, description = "An Examination.", content_type = "application/json"), (status = 404, body = Problem)))]
pub(crate) async fn examination(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
) -> Result<impl IntoResponse, Problem> {
    let waited = Waited::begin(&app);
    let text = examined_json(&app, parse(&mesh)?, &waited.progress()).await?;
    // Not for ever: a later version of the program may see more in the same mesh.
    Ok(([(header::CONTENT_TYPE, "application/json"), (header::CACHE_CONTROL, "no-cache")], text))
}

/// What a mesh weighs.
#[derive(Serialize, ToSchema)]
pub(crate) struct WeighingView {
    #[schema(schema_with = crate::schema::weighing)]
    weighing: Weighing,
    /// What facets take from the volume; of a sealed part.
    #[schema(schema_with = crate::schema::faceting)]
    faceting: Option<Faceting>,
    /// Of a part that is not sealed: a guess at its volume.
    #[schema(schema_with = crate::schema::volume_guess)]
    guess: Option<VolumeGuess>,
}

/// Volume, area, centre of mass, inertia, and how far the volume is to be believed.
#[utoipa::path(get, operation_id = "mesh_weighing", path = "/meshes/{mesh}/weighing", params(("mesh" = String, Path)),
    responses((status = 200, body = WeighingView), (status = 404, body = Problem)))]
pub(crate) async fn weighing(State(app): State<Arc<App>>, At(mesh): At<String>) -> Result<Json<WeighingView>, Problem> {
    let hash = parse(&mesh)?;
    let weighing = examined_here(&app, hash).await?.weighing;
    let work = move |[mesh]: [Mesh; 1], progress: &Progress| {
        let sealed = weighing.volume.is_some();
        let faceting = sealed.then(|| faceting(&mesh, progress)).transpose().map_err(|_| Problem::cancelled())?;
        let guess = (!sealed).then(|| guess_volume(&mesh, progress)).transpose().map_err(|_| Problem::cancelled())?;
        Ok(WeighingView { weighing, faceting, guess })
    };
    Ok(Json(on_meshes(&app, [hash], work).await?))
}

#[derive(Deserialize, IntoParams)]
pub(crate) struct DisplayQuery {
    /// `true` for a thinned surface to move about in.
    #[serde(default)]
    coarse: bool,
}

/// The mesh as glTF 2.0 binary: `surface`, `rim R1` …, `crowded`, `tangle`.
#[utoipa::path(get, operation_id = "mesh_display", path = "/meshes/{mesh}/display.glb", params(("mesh" = String, Path), DisplayQuery),
    responses((status = 200, content_type = "model/gltf-binary", body = Vec<u8>), (status = 404, body = Problem)))]
pub(crate) async fn display(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Query(query): Query<DisplayQuery>,
) -> Result<impl IntoResponse, Problem> {
    let hash = parse(&mesh)?;
    let key = (hash, query.coarse);
    let made = app.displays.try_get_with(key, make_display(app.clone(), hash, query.coarse)).await;
    let bytes = made.map_err(|p| (*p).clone())?;
    Ok(([(header::CONTENT_TYPE, "model/gltf-binary"), (header::CACHE_CONTROL, FOR_EVER)], bytes))
}

async fn make_display(app: Arc<App>, hash: Hash, coarse: bool) -> Result<Bytes, Problem> {
    let tangle = examined_here(&app, hash).await?.tangle;
    on_meshes(&app, [hash], move |[mesh], _| {
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        // The rims of a profile are its outlines: they have no names, and nothing is wrong with them.
        let rims = if mesh.drawn().is_some() { vec![] } else { rims::rims(&topology) };
        let (chains, facts) = name_rims(&mesh, rims);
        let crowded = topology.edges_with(EdgeUse::Crowded).chain(topology.edges_with(EdgeUse::Clashing));
        let extras = DisplayExtras {
            rims: chains.iter().zip(facts).map(|(c, f)| (f.name, chain_points(&mesh, c), c.closed)).collect(),
            crowded: crowded
                .map(|e| {
                    let (a, b) = topology.ends(topology.halves(e)[0]);
                    [mesh.points()[a as usize], mesh.points()[b as usize]]
                })
                .collect(),
            tangle,
            off: None,
        };
        let detail = if coarse { Detail::Coarse } else { Detail::Full };
        Ok(Bytes::from(display_glb(&mesh, &extras, detail)))
    })
    .await
}

/// How far one surface lies from another, both ways.
#[derive(Clone, Copy, Serialize, ToSchema)]
pub(crate) struct DeviationView {
    /// No point of the mesh lies farther from the other than this, mm.
    largest: f64,
    /// The mean over the mesh, mm.
    mean: f64,
    /// Where it is largest, mm.
    at: [f64; 3],
    /// No point of the other mesh lies farther from this one than this, mm.
    largest_back: f64,
    /// The mean over the other mesh, mm.
    mean_back: f64,
}

/// How far a mesh lies from what it was.
#[utoipa::path(get, operation_id = "mesh_deviation", path = "/meshes/{mesh}/deviation/{from}",
    params(("mesh" = String, Path), ("from" = String, Path)),
    responses((status = 200, body = DeviationView), (status = 404, body = Problem)))]
pub(crate) async fn deviation_from(
    State(app): State<Arc<App>>,
    At((mesh, from)): At<(String, String)>,
) -> Result<Json<DeviationView>, Problem> {
    let (mesh, from) = (parse(&mesh)?, parse(&from)?);
    let measured = app.deviations.try_get_with((mesh, from), measure_deviation(app.clone(), mesh, from)).await;
    measured.map(Json).map_err(|p| (*p).clone())
}

async fn measure_deviation(app: Arc<App>, mesh: Hash, from: Hash) -> Result<DeviationView, Problem> {
    on_meshes(&app, [mesh, from], |[mesh, from], progress| {
        let there = deviation(&mesh, &from, progress).map_err(|_| Problem::cancelled())?;
        let back = deviation(&from, &mesh, progress).map_err(|_| Problem::cancelled())?;
        Ok(DeviationView {
            largest: there.largest,
            mean: there.mean,
            at: there.at.to_array(),
            largest_back: back.largest,
            mean_back: back.mean,
        })
    })
    .await
}
