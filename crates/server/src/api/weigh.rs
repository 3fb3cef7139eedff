//! What is weighed and measured on demand: capacities, cuts, lengths, the bill of parts. Nothing here changes a part.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use nimbet_formats::{DrawnPart, drawing_dxf, drawing_svg};
use nimbet_kernel::{Mesh, Progress, mesh_bytes};
use nimbet_ledger::{BillLine, Hash, Part, PartId, bill_csv};
use nimbet_trade::TradeError;
use nimbet_trade::weigh::{
    Capacity, Cut, CutPlane, FillTo, KnownVessel, Measure, MeasuredValue, VesselPick, cut as cut_by,
};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::desk::{at_desk, on_meshes};
use super::extract::{At, Sent};
use super::meshes::{FOR_EVER, parse};
use crate::App;
use crate::problem::Problem;
use crate::work::mesh_blob;

/// A vessel with its mesh, ready for other levels.
#[derive(Clone)]
pub(crate) struct HeldVessel(Arc<(Mesh, KnownVessel)>);

/// Three figures with commas between them: `1,2,-3.5`.
fn three(text: &str, what: &str) -> Result<[f64; 3], Problem> {
    let numbers: Vec<f64> =
        text.split(',').filter_map(|x| x.trim().parse().ok()).filter(|x: &f64| x.is_finite()).collect();
    <[f64; 3]>::try_from(numbers).map_err(|_| Problem::bad_request(format!("{what} is three figures: 1,2,3")))
}

pub(super) fn told(e: TradeError) -> Problem {
    match e {
        TradeError::Cancelled(_) => Problem::cancelled(),
        other => Problem::from(nimbet_ledger::StepError::from(other)),
    }
}

#[derive(Deserialize, IntoParams)]
pub(crate) struct CapacityQuery {
    /// A place on the inside, mm: three figures with commas.
    at: String,
    /// Where it was seen from.
    seen: Option<String>,
    /// The direction that is up; z when absent.
    up: Option<String>,
    /// To this height above the deepest place, mm.
    depth: Option<f64>,
    /// With this volume, mm³. Without either to the brim.
    volume: Option<f64>,
}

/// What a vessel holds.
#[derive(Serialize, ToSchema)]
pub(crate) struct CapacityView {
    #[schema(schema_with = crate::schema::capacity)]
    capacity: Capacity,
}

/// What a vessel holds at a level, with a volume, or to its brim.
#[utoipa::path(get, operation_id = "mesh_capacity", path = "/meshes/{mesh}/capacity",
    params(("mesh" = String, Path), CapacityQuery),
    responses((status = 200, body = CapacityView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn capacity(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Query(query): Query<CapacityQuery>,
) -> Result<impl IntoResponse, Problem> {
    let hash = parse(&mesh)?;
    let pick = VesselPick {
        at: three(&query.at, "at")?,
        seen: query.seen.as_deref().map(|s| three(s, "seen")).transpose()?,
        up: query.up.as_deref().map_or(Ok([0.0, 0.0, 1.0]), |u| three(u, "up"))?,
    };
    let to = match (query.depth, query.volume) {
        (Some(depth), None) => FillTo::Depth(depth),
        (None, Some(volume)) => FillTo::Volume(volume),
        (None, None) => FillTo::Brim,
        _ => return Err(Problem::bad_request("give a depth or a volume, not both")),
    };
    let key = Hash::of(format!("{hash} {pick:?}").as_bytes());
    let (found, kept) = (pick.clone(), app.clone());
    let find = async move {
        let bytes = mesh_blob(&kept, hash).await?;
        at_desk(&kept, move |progress| {
            let mesh = mesh_bytes::from_bytes(&bytes).map_err(Problem::internal)?;
            let known = found.find(&mesh, progress).map_err(told)?;
            Ok(HeldVessel(Arc::new((mesh, known))))
        })
        .await
    };
    let held = app.vessels.try_get_with(key, find).await.map_err(|p: Arc<Problem>| (*p).clone())?;
    let fill = move |progress: &Progress| pick.filled(&held.0.0, &held.0.1, to, progress).map_err(told);
    let capacity = at_desk(&app, fill).await?;
    Ok(([(header::CACHE_CONTROL, FOR_EVER)], Json(CapacityView { capacity })))
}

#[derive(Deserialize, IntoParams)]
pub(crate) struct CutQuery {
    /// A point of the plane, mm: three figures with commas.
    at: String,
    /// Its normal.
    normal: String,
}

impl CutQuery {
    fn plane(&self) -> Result<CutPlane, Problem> {
        Ok(CutPlane { at: three(&self.at, "at")?, normal: three(&self.normal, "normal")? })
    }
}

/// A mesh cut by a plane.
#[derive(Serialize, ToSchema)]
pub(crate) struct CutView {
    #[schema(schema_with = crate::schema::cut)]
    cut: Cut,
}

/// A mesh cut by a plane: contours, areas, lengths.
#[utoipa::path(get, operation_id = "mesh_cut", path = "/meshes/{mesh}/cut", params(("mesh" = String, Path), CutQuery),
    responses((status = 200, body = CutView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn cut(
    State(app): State<Arc<App>>,
    At(mesh): At<String>,
    Query(query): Query<CutQuery>,
) -> Result<impl IntoResponse, Problem> {
    let plane = query.plane()?;
    let work = move |[mesh]: [Mesh; 1], _: &Progress| cut_by(&mesh, &plane).map_err(told);
    let cut = on_meshes(&app, [parse(&mesh)?], work).await?;
    Ok(([(header::CACHE_CONTROL, FOR_EVER)], Json(CutView { cut })))
}

#[derive(Deserialize, IntoParams)]
pub(crate) struct DrawingQuery {
    /// A point of the plane, mm: three figures with commas.
    at: String,
    /// Its normal.
    normal: String,
    /// What the section is called.
    name: Option<String>,
    /// Numbers of the parts, with commas; all when absent.
    parts: Option<String>,
}

/// A cut through parts of a job as a drawing: `svg` or `dxf`.
#[utoipa::path(get, operation_id = "job_cut_drawing", path = "/jobs/{job}/cut/{format}",
    params(("job" = Uuid, Path), ("format" = String, Path), DrawingQuery),
    responses((status = 200, body = String), (status = 400, body = Problem), (status = 404, body = Problem)))]
pub(crate) async fn drawing(
    State(app): State<Arc<App>>,
    At((job, format)): At<(Uuid, String)>,
    Query(query): Query<DrawingQuery>,
) -> Result<impl IntoResponse, Problem> {
    let kind = match format.as_str() {
        "svg" => "image/svg+xml",
        "dxf" => "image/vnd.dxf",
        _ => return Err(Problem::not_found("format")),
    };
    let plane = CutQuery { at: query.at, normal: query.normal }.plane()?;
    let wanted: Option<Vec<u32>> =
        query.parts.as_deref().map(|p| p.split(',').filter_map(|n| n.trim().parse().ok()).collect());
    let parts: Vec<Part> = app.store.job(job).await?.history.parts();
    let mut drawn = Vec::new();
    for part in parts.into_iter().filter(|p| wanted.as_ref().is_none_or(|w| w.contains(&p.id.0))) {
        let work = move |[mesh]: [Mesh; 1], _: &Progress| cut_by(&mesh, &plane).map_err(told);
        let cut = on_meshes(&app, [part.mesh], work).await?;
        let chains = cut.contours.into_iter().map(|c| (c.points, c.closed)).collect();
        drawn.push(DrawnPart { name: part.name, chains });
    }
    let name = query.name.unwrap_or_else(|| "Section".into());
    let text = if format == "svg" { drawing_svg(&name, &drawn) } else { drawing_dxf(&drawn) };
    let plain: String =
        name.chars().map(|c| if c.is_ascii_alphanumeric() || " -_".contains(c) { c } else { '_' }).collect();
    let disposition = format!("attachment; filename=\"{plain}.{format}\"");
    Ok(([(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, disposition)], text))
}

/// What is to be measured.
#[derive(Deserialize, ToSchema)]
pub(crate) struct MeasureRequest {
    #[schema(schema_with = crate::schema::measure)]
    measure: Measure,
}

/// What was measured.
#[derive(Serialize, ToSchema)]
pub(crate) struct MeasuredView {
    #[schema(schema_with = crate::schema::measured)]
    measured: MeasuredValue,
}

/// Measures parts of a job as they are now.
#[utoipa::path(post, operation_id = "job_measure", path = "/jobs/{job}/measure", params(("job" = Uuid, Path)), request_body = MeasureRequest,
    responses((status = 200, body = MeasuredView), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn measure(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(request): Sent<MeasureRequest>,
) -> Result<Json<MeasuredView>, Problem> {
    let history = app.store.job(job).await?.history;
    let ids = request.measure.parts();
    let mesh = |id: &u32| history.part(PartId(*id)).map(|p| p.mesh).ok_or_else(|| Problem::not_found("part"));
    let meshes = ids.iter().map(mesh).collect::<Result<Vec<Hash>, Problem>>()?;
    let (first, second) = match meshes[..] {
        [a] => (a, a),
        [a, b, ..] => (a, b),
        [] => return Err(Problem::not_found("part")),
    };
    let work = move |[a, b]: [Mesh; 2], progress: &Progress| request.measure.of(&[&a, &b], progress).map_err(told);
    Ok(Json(MeasuredView { measured: on_meshes(&app, [first, second], work).await? }))
}

/// The parts of a job with what they weigh and cost, as CSV (RFC 4180).
#[utoipa::path(get, operation_id = "job_bill", path = "/jobs/{job}/bill.csv", params(("job" = Uuid, Path)),
    responses((status = 200, body = String), (status = 404, body = Problem)))]
pub(crate) async fn bill(State(app): State<Arc<App>>, At(job): At<Uuid>) -> Result<impl IntoResponse, Problem> {
    let row = app.store.job(job).await?;
    let csv = bill_csv(&BillLine::all(&row.history, &row.setup));
    let disposition = "attachment; filename=\"bill-of-parts.csv\"";
    Ok(([(header::CONTENT_TYPE, "text/csv; charset=utf-8"), (header::CONTENT_DISPOSITION, disposition)], csv))
}
