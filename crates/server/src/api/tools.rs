//! The tools for a part, and what a step would take.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use nimbet_ledger::{Action, PartId, StepError};
use nimbet_trade::budget::{Cost, Extent, refuse_costly};
use nimbet_trade::kinds;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::desk::examined_here;
use super::extract::{At, Sent};
use crate::App;
use crate::problem::Problem;

#[derive(Deserialize, IntoParams)]
pub(crate) struct ToolsQuery {
    /// The part they are for; without one they begin as for a part a hand's breadth across.
    part: Option<u32>,
}

/// A tool as it stands on a list.
#[derive(Serialize, ToSchema)]
pub(crate) struct ToolView {
    /// What the entry is named by.
    key: &'static str,
    /// The kind of the steps it makes: `seal.close_gaps`.
    kind: &'static str,
    /// The station it belongs to: `seal`, `wall` …
    station: &'static str,
    /// What people call it.
    name: &'static str,
    /// What it is for, in a line.
    hint: &'static str,
    /// What it stands with on the list of its station.
    group: &'static str,
    /// Other words by which it is looked for.
    words: &'static [&'static str],
    /// Why the part does not do, if it does not.
    lacking: Option<&'static str>,
    /// What steps of this entry have that those of others of the same kind have not: a JSON pointer.
    mark: &'static str,
    /// The step it begins with; `null` stands where something has to be picked first.
    #[schema(value_type = Object)]
    start: Value,
}

/// All tools, in the order of their lists, with what each begins with for a part.
#[utoipa::path(get, operation_id = "tools_for_part", path = "/jobs/{job}/tools", params(("job" = Uuid, Path), ToolsQuery),
    responses((status = 200, body = Vec<ToolView>), (status = 404, body = Problem)))]
pub(crate) async fn list(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Query(query): Query<ToolsQuery>,
) -> Result<Json<Vec<ToolView>>, Problem> {
    let row = app.store.job(job).await?;
    let part = match query.part {
        Some(id) => Some(row.history.part(PartId(id)).ok_or_else(|| Problem::not_found("part"))?),
        None => None,
    };
    let seen = match &part {
        Some(part) => Some(examined_here(&app, part.mesh).await?),
        None => None,
    };
    // A step on the empty bench begins as for a part a hand's breadth across.
    let something = seen.as_ref().filter(|seen| seen.figures.triangles > 0);
    let begin = row.setup.begin(something, part.as_ref().and_then(|p| p.material.as_ref()));
    let seen = seen.as_ref();
    let views = kinds().into_iter().flat_map(|kind| {
        kind.entries.iter().map(move |entry| ToolView {
            key: entry.key,
            kind: kind.kind,
            station: kind.station(),
            name: entry.name,
            hint: entry.hint,
            group: entry.group,
            words: entry.words,
            lacking: entry.needs.lacking(seen),
            mark: entry.mark,
            start: kind.begun(entry, &begin),
        })
    });
    Ok(Json(views.collect()))
}

/// A kind of step that is done to a part's mesh.
#[derive(Serialize, ToSchema)]
pub(crate) struct KindView {
    /// As it stands in recipes and in the ledger: `seal.close_gaps`.
    kind: &'static str,
    /// What it does, in a sentence.
    what: &'static str,
    /// Its parameters as JSON schema, everything in place; beside the words of that, of each its `unit`, how it is asked for
    /// (`asks`, with a `hint` and the `least` number of picks), what leaving it out means (`empty`), and `when` alone it counts.
    #[schema(value_type = Object)]
    parameters: Value,
}

/// Every kind of step, with its parameters described.
#[utoipa::path(get, operation_id = "kinds", path = "/kinds", responses((status = 200, body = Vec<KindView>)))]
pub(crate) async fn all_kinds() -> Json<Vec<KindView>> {
    Json(kinds().iter().map(|k| KindView { kind: k.kind, what: k.what, parameters: k.parameters() }).collect())
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct CostRequest {
    /// The part the step would be done to.
    part: u32,
    #[schema(schema_with = crate::schema::action)]
    action: Action,
}

/// What a step is expected to take.
#[derive(Serialize, ToSchema)]
pub(crate) struct CostView {
    /// Absent for what is no work.
    #[schema(schema_with = crate::schema::cost)]
    cost: Option<Cost>,
    /// Why it would be refused for that, if it would.
    too_much: Option<String>,
}

/// What a step is expected to take, from figures of the parts alone: triangles, memory and time, within a factor of a few.
#[utoipa::path(post, operation_id = "cost_of_step", path = "/jobs/{job}/costs", params(("job" = Uuid, Path)), request_body = CostRequest,
    responses((status = 200, body = CostView), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn cost(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(asked): Sent<CostRequest>,
) -> Result<Json<CostView>, Problem> {
    let Action::Operation(work) = &asked.action else { return Ok(Json(CostView { cost: None, too_much: None })) };
    work.operation.refuse_outside_limits().map_err(StepError::from)?;
    let row = app.store.job(job).await?;
    let mut parts = Vec::new();
    for id in std::iter::once(PartId(asked.part)).chain(asked.action.others()) {
        let part = row.history.part(id).ok_or_else(|| Problem::not_found("part"))?;
        parts.push(Extent::from(&part.figures));
    }
    let too_much = refuse_costly(&work.operation, &parts, Some(app.config.task_memory())).err();
    let cost = Some(work.operation.cost(&parts));
    Ok(Json(CostView { cost, too_much: too_much.map(|e| e.to_string()) }))
}
