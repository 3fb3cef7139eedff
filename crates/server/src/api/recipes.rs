//! Recipes that begin on the empty bench, and those that are shipped.

use std::sync::Arc;

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use nimbet_ledger::Recipe;
use nimbet_trade::demo::DRAWN;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;
use uuid::Uuid;

use super::extract::{At, Sent};
use super::jobs::{person, queue};
use super::tasks::TaskView;
use crate::App;
use crate::problem::{Problem, sentence};
use crate::work::TaskRequest;

/// A recipe that is shipped, to begin with.
#[derive(Serialize, ToSchema)]
pub(crate) struct ExampleView {
    /// What it is named by.
    key: &'static str,
    /// What it makes.
    name: &'static str,
    /// How, in a line.
    what: &'static str,
    /// The recipe; it begins on the empty bench.
    #[schema(value_type = Object)]
    recipe: Value,
}

/// Recipes to begin with.
#[utoipa::path(get, operation_id = "list_examples", path = "/examples", responses((status = 200, body = Vec<ExampleView>)))]
pub(crate) async fn examples() -> Result<Json<Vec<ExampleView>>, Problem> {
    let view = |drawn: &nimbet_trade::demo::Drawn| {
        let recipe = serde_json::from_str(drawn.recipe).map_err(Problem::internal)?;
        Ok(ExampleView { key: drawn.key, name: drawn.name, what: drawn.what, recipe })
    };
    Ok(Json(DRAWN.iter().map(view).collect::<Result<_, Problem>>()?))
}

/// A recipe to be done on the empty bench.
#[derive(Deserialize, ToSchema)]
pub(crate) struct RecipeRequest {
    /// See docs/recipe.md.
    #[schema(value_type = Object)]
    recipe: Value,
    /// Who does it.
    who: Option<String>,
}

/// Does a recipe on the empty bench, as one change; where a step cannot be done it ends, and that step stands there stopped.
#[utoipa::path(post, operation_id = "run_recipe", path = "/jobs/{job}/recipe", params(("job" = Uuid, Path)), request_body = RecipeRequest,
    responses((status = 202, body = TaskView), (status = 400, body = Problem), (status = 404, body = Problem)))]
pub(crate) async fn run(
    State(app): State<Arc<App>>,
    At(job): At<Uuid>,
    Sent(request): Sent<RecipeRequest>,
) -> Result<(StatusCode, Json<TaskView>), Problem> {
    app.store.revisions(job).await?;
    let text = request.recipe.to_string();
    let recipe = Recipe::parse(&text).map_err(|e| Problem::bad_request(sentence(&e.to_string())))?;
    queue(&app, job, &TaskRequest::Recipe { recipe, who: person(request.who)? }).await
}
