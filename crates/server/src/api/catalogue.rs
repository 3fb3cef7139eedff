//! What there is to choose from.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use nimbet_trade::fasten::{ALLOWANCES, Allowances, FITTINGS, Fitting, POCKETS, Pocket, Size, sizes};
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
    /// Sizes of threads.
    #[schema(schema_with = crate::schema::size_list)]
    threads: Vec<Size>,
    /// What goes with metric screws.
    #[schema(schema_with = crate::schema::fitting_list)]
    fittings: &'static [Fitting],
    /// Pockets for inserts.
    #[schema(schema_with = crate::schema::pocket_list)]
    pockets: &'static [Pocket],
    /// What each process needs added.
    #[schema(schema_with = crate::schema::allowances_list)]
    allowances: &'static [Allowances],
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
        threads: sizes(),
        fittings: FITTINGS,
        pockets: POCKETS,
        allowances: ALLOWANCES,
        upload_limit: app.config.upload_limit,
        triangle_limit: app.config.triangle_limit,
    })
}
