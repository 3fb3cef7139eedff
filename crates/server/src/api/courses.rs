//! What a step leads a body through, before it is done.

use std::collections::BTreeMap;
use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{Action, Hash, StepError};
use nimbet_trade::shape::{Course, course};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::desk::on_all_meshes;
use super::extract::Sent;
use super::meshes::parse;
use crate::App;
use crate::problem::Problem;

/// A loft, a sweep or a tube.
#[derive(Deserialize, ToSchema)]
pub(crate) struct CourseRequest {
    #[schema(schema_with = crate::schema::action)]
    action: Action,
    /// The mesh of the part it is done to; absent where the bench is empty.
    mesh: Option<String>,
    /// The meshes of the other parts it names, by their numbers.
    #[serde(default)]
    parts: BTreeMap<u32, String>,
}

/// The sections it goes through, and its path.
#[derive(Serialize, ToSchema)]
pub(crate) struct CourseView {
    #[schema(schema_with = crate::schema::course)]
    course: Course,
}

/// Through which sections and along which path a step, not yet taken, leads a body.
#[utoipa::path(post, operation_id = "course", path = "/courses", request_body = CourseRequest,
    responses((status = 200, body = CourseView), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn show(
    State(app): State<Arc<App>>,
    Sent(asked): Sent<CourseRequest>,
) -> Result<Json<CourseView>, Problem> {
    let Action::Operation(step) = &asked.action else {
        return Err(Problem::bad_request("only lofts, sweeps and tubes lead through sections"));
    };
    let mut hashes: Vec<Hash> = asked.mesh.iter().map(|m| parse(m)).collect::<Result<_, _>>()?;
    for part in asked.action.others() {
        let mesh = asked.parts.get(&part.0).ok_or_else(|| Problem::from(StepError::NoSuchPart(part.0)))?;
        hashes.push(parse(mesh)?);
    }
    let (operation, own) = (step.operation.clone(), asked.mesh.is_some());
    let work = move |mut meshes: Vec<Mesh>, progress: &Progress| {
        if !own {
            meshes.insert(0, Mesh::default());
        }
        let found = course(&operation, &meshes[0], &meshes[1..], progress);
        found.map(|course| CourseView { course }).map_err(|e| Problem::from(StepError::from(e)))
    };
    Ok(Json(on_all_meshes(&app, hashes, work).await?))
}
