//! What there is to choose from.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use nimbet_trade::wall::{PROCESSES, Process};
use nimbet_trade::weigh::{MATERIALS, Material};
use serde::Serialize;
use utoipa::ToSchema;

use crate::App;

/// Materials and limits.
#[derive(Serialize, ToSchema)]
pub(crate) struct Catalogue {
    #[schema(schema_with = crate::schema::material_list)]
    materials: &'static [Material],
    /// What ways of making ask of a wall.
    #[schema(schema_with = crate::schema::process_list)]
    processes: &'static [Process],
    /// The largest file that may be brought in, bytes.
    upload_limit: usize,
    /// The most triangles a file may have.
    triangle_limit: usize,
}

/// What there is to choose from.
#[utoipa::path(get, operation_id = "catalogue", path = "/catalogue", responses((status = 200, body = Catalogue)))]
pub(crate) async fn show(State(app): State<Arc<App>>) -> Json<Catalogue> {
    Json(Catalogue {
        materials: MATERIALS,
        processes: PROCESSES,
        upload_limit: app.config.upload_limit,
        triangle_limit: app.config.triangle_limit,
    })
}
