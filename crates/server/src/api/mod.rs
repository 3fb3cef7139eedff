//! The API under `/api/v1`, and the front end.

mod boards;
mod catalogue;
mod courses;
mod desk;
mod edges;
mod edits;
mod extract;
mod front;
mod job_list;
mod jobs;
mod meshes;
mod operate;
mod recipes;
mod releases;
mod surfaces;
mod tasks;
mod threads;
mod tools;
mod unread;
mod walls;
mod watch;
mod weigh;
mod who;

pub(crate) use meshes::DeviationView;
pub(crate) use walls::WallFindingsView;
pub(crate) use watch::Watched;
pub(crate) use weigh::HeldVessel;

use std::sync::Arc;
use std::time::Duration;

use axum::Router;
use axum::extract::DefaultBodyLimit;
use axum::http::Uri;
use axum::middleware::{from_fn, from_fn_with_state};
use axum::routing::get;
use tower_http::CompressionLevel;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::timeout::RequestBodyTimeoutLayer;
use tower_http::trace::TraceLayer;
use utoipa::OpenApi;
use utoipa_axum::router::{OpenApiRouter, UtoipaMethodRouterExt};
use utoipa_axum::routes;

use crate::problem::Problem;
use crate::work::{at_the_desk, how_far};
use crate::{App, BODY, FEW};

#[derive(OpenApi)]
#[openapi(
    info(title = "Nimbet", description = "Turns open surface and solid models into watertight, valid solids."),
    components(schemas(Problem))
)]
struct Doc;

/// What may take long while somebody waits for the answer.
fn worked_out() -> OpenApiRouter<Arc<App>> {
    OpenApiRouter::new()
        .routes(routes!(meshes::examination))
        .routes(routes!(meshes::weighing))
        .routes(routes!(meshes::display))
        .routes(routes!(meshes::deviation_from))
        .routes(routes!(surfaces::faces))
        .routes(routes!(surfaces::deviation_display))
        .routes(routes!(surfaces::lost_display))
        .routes(routes!(walls::wall))
        .routes(routes!(walls::wall_display))
        .routes(routes!(walls::pair))
        .routes(routes!(walls::clearance_display))
        .routes(routes!(walls::findings))
        .routes(routes!(weigh::capacity))
        .routes(routes!(weigh::cut))
        .routes(routes!(weigh::drawing))
        .routes(routes!(weigh::measure))
        .routes(routes!(edges::runs))
        .routes(routes!(courses::show))
        .routes(routes!(threads::seats))
        .routes(routes!(boards::view))
        .routes(routes!(boards::of_mesh))
        .routes(routes!(boards::carried))
        .routes(routes!(boards::outlines).layer(DefaultBodyLimit::max(nimbet_formats::LARGEST_DRAWING)))
        .routes(routes!(boards::file))
        .routes(routes!(tools::list))
        .routes(routes!(tools::all_kinds))
        .routes(routes!(recipes::examples))
        .routes(routes!(tools::cost))
}

/// How far that is.
fn how_far_it_is() -> OpenApiRouter<Arc<App>> {
    OpenApiRouter::new().routes(routes!(watch::show))
}

/// For what is asked with a few words and numbers.
fn few() -> DefaultBodyLimit {
    DefaultBodyLimit::max(FEW)
}

/// Everything that can be asked; what is worked out, of the desk of a server.
fn described(server: Option<&Arc<App>>) -> OpenApiRouter<Arc<App>> {
    let (mut worked_out, mut how_far_it_is) = (worked_out(), how_far_it_is());
    if let Some(app) = server {
        worked_out = worked_out.layer(from_fn_with_state(app.clone(), at_the_desk));
        how_far_it_is = how_far_it_is.layer(from_fn_with_state(app.clone(), how_far));
    }
    let v1 = OpenApiRouter::new()
        .routes(routes!(job_list::list, job_list::create).layer(few()))
        .routes(routes!(jobs::show))
        .routes(routes!(job_list::delete, job_list::change).layer(few()))
        .routes(routes!(job_list::create_demo).layer(few()))
        .routes(routes!(job_list::deleted))
        .routes(routes!(job_list::bring_back).layer(few()))
        .routes(routes!(jobs::bring_in).layer(DefaultBodyLimit::disable()))
        .routes(routes!(recipes::run))
        .routes(routes!(jobs::forecast))
        .routes(routes!(jobs::apply))
        .routes(routes!(edits::edit))
        .routes(routes!(edits::forecast_edit))
        .routes(routes!(edits::parts_at))
        .routes(routes!(edits::undo).layer(few()))
        .routes(routes!(edits::redo).layer(few()))
        .routes(routes!(edits::copy).layer(few()))
        .routes(routes!(edits::events))
        .routes(routes!(jobs::change_settings))
        .routes(routes!(jobs::label_step).layer(few()))
        .routes(routes!(jobs::export_recipe))
        .routes(routes!(weigh::bill))
        .routes(routes!(threads::cut).layer(few()))
        .routes(routes!(threads::check_fit).layer(few()))
        .routes(routes!(threads::sizes))
        .routes(routes!(releases::list, releases::make).layer(few()))
        .routes(routes!(releases::file))
        .routes(routes!(tasks::show, tasks::cancel).layer(few()))
        .routes(routes!(tasks::events))
        .routes(routes!(catalogue::show))
        .merge(worked_out)
        .merge(how_far_it_is);
    OpenApiRouter::with_openapi(Doc::openapi()).nest("/api/v1", v1)
}

pub(crate) fn document() -> utoipa::openapi::OpenApi {
    described(None).split_for_parts().1
}

pub(crate) fn router(app: Arc<App>) -> Router {
    /// A body comes in without longer pauses.
    const PAUSE: Duration = Duration::from_secs(20);
    let (router, _) = described(Some(&app)).split_for_parts();
    router
        .route("/api/v1/openapi.json", get(|| async { crate::schema::openapi_json() }))
        .route("/health/live", get(operate::live))
        .route("/health/ready", get(operate::ready))
        .route("/metrics", get(operate::metrics))
        .method_not_allowed_fallback(|| async { Problem::not_found("way of asking this") })
        .fallback(|uri: Uri| async move { front::file(&uri).ok_or_else(|| Problem::not_found("address")) })
        .layer(DefaultBodyLimit::max(BODY))
        .layer(RequestBodyTimeoutLayer::new(PAUSE))
        .layer(CompressionLayer::new().quality(CompressionLevel::Fastest))
        .layer(TraceLayer::new_for_http())
        .layer(CatchPanicLayer::new())
        .layer(from_fn(watch::named))
        .layer(from_fn_with_state(app.clone(), who::may_ask))
        .layer(from_fn(unread::heard_out))
        .with_state(app)
}

/// What the desk of a server answers; who may ask has been looked at by the server.
pub(crate) fn desk_router(app: Arc<App>) -> Router {
    let (router, _) = OpenApiRouter::new().nest("/api/v1", worked_out().merge(how_far_it_is())).split_for_parts();
    router.layer(DefaultBodyLimit::max(BODY)).layer(CatchPanicLayer::new()).layer(from_fn(watch::named)).with_state(app)
}
