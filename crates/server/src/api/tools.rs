//! The tools, for a part.

use std::sync::Arc;

use axum::Json;
use axum::extract::{Query, State};
use nimbet_ledger::PartId;
use nimbet_trade::kinds;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::extract::At;
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
        Some(part) => Some(app.store.examination(part.mesh).await?),
        None => None,
    };
    let begin = row.setup.begin(seen.as_ref(), part.as_ref().and_then(|p| p.material.as_ref()));
    let views = kinds().into_iter().flat_map(|kind| {
        kind.entries.iter().map(move |entry| ToolView {
            key: entry.key,
            kind: kind.kind,
            station: kind.station(),
            name: entry.name,
            hint: entry.hint,
            words: entry.words,
            lacking: entry.needs.lacking(begin.seen),
            mark: entry.mark,
            start: kind.begun(entry, &begin),
        })
    });
    Ok(Json(views.collect()))
}
