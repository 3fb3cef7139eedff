//! Tasks: how far they are, as events, and cancel.

use std::convert::Infallible;
use std::sync::Arc;
use std::time::Duration;

use axum::Json;
use axum::extract::State;
use axum::response::Sse;
use axum::response::sse::{Event, KeepAlive};
use futures::Stream;
use nimbet_ledger::{StepReport, StepState};
use nimbet_trade::fasten::FitReport;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::extract::At;
use crate::App;
use crate::problem::Problem;
use crate::store::{TaskRow, TaskState};

/// How often a stream looks at its task.
const LOOK: Duration = Duration::from_millis(80);

/// A piece of heavy work.
#[derive(Serialize, ToSchema)]
pub(crate) struct TaskView {
    id: i64,
    job: Uuid,
    state: TaskState,
    /// How far it is, 0 to 1.
    fraction: f64,
    /// What it does now.
    doing: String,
    /// What came of it, once done.
    result: Option<TaskResult>,
    /// Why it failed.
    problem: Option<Problem>,
}

/// What came of a task: which fields are there depends on what it was.
#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct TaskResult {
    /// The step that was committed.
    step: Option<u32>,
    /// The revision of the job after it.
    revision: Option<i64>,
    /// The mesh a forecast leads to.
    mesh: Option<String>,
    /// What a forecast step would do.
    #[schema(schema_with = crate::schema::report)]
    report: Option<StepReport>,
    /// What an edit would do to other steps.
    later: Option<Vec<LaterStep>>,
    /// What screwing two parts together comes to.
    #[schema(schema_with = crate::schema::fit_report)]
    fit: Option<FitReport>,
    /// The release that was made.
    release: Option<Uuid>,
}

/// A step that an edit would change, with where it would stand.
#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct LaterStep {
    step: u32,
    title: String,
    #[schema(schema_with = crate::schema::step_state)]
    state: StepState,
}

impl From<TaskRow> for TaskView {
    fn from(row: TaskRow) -> Self {
        Self {
            id: row.id,
            job: row.job_id,
            state: row.state,
            fraction: row.fraction,
            doing: row.doing,
            result: row.result.and_then(|v| serde_json::from_value(v).ok()),
            problem: row.fault.and_then(|v| serde_json::from_value(v).ok()),
        }
    }
}

/// A task.
#[utoipa::path(get, operation_id = "show_task", path = "/tasks/{task}", params(("task" = i64, Path)),
    responses((status = 200, body = TaskView), (status = 404, body = Problem)))]
pub(crate) async fn show(State(app): State<Arc<App>>, At(task): At<i64>) -> Result<Json<TaskView>, Problem> {
    Ok(Json(app.store.task(task).await?.into()))
}

/// Asks a task to stop. Nothing it did is kept.
#[utoipa::path(delete, operation_id = "cancel_task", path = "/tasks/{task}", params(("task" = i64, Path)),
    responses((status = 200, body = TaskView), (status = 404, body = Problem)))]
pub(crate) async fn cancel(State(app): State<Arc<App>>, At(task): At<i64>) -> Result<Json<TaskView>, Problem> {
    app.store.cancel_task(task).await?;
    Ok(Json(app.store.task(task).await?.into()))
}

/// A task as server-sent events: one `TaskView` for each change, the last when it is over.
#[utoipa::path(get, operation_id = "task_events", path = "/tasks/{task}/events", params(("task" = i64, Path)),
    responses((status = 200, content_type = "text/event-stream", body = TaskView), (status = 404, body = Problem)))]
pub(crate) async fn events(
    State(app): State<Arc<App>>,
    At(task): At<i64>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Problem> {
    app.store.task(task).await?;
    let stream = futures::stream::unfold((app, String::new(), false), move |(app, mut last, over)| async move {
        if over {
            return None;
        }
        loop {
            let row = app.store.task(task).await.ok()?;
            let over = row.state.is_over();
            let text = serde_json::to_string(&TaskView::from(row)).ok()?;
            if text != last {
                last.clone_from(&text);
                return Some((Ok(Event::default().data(text)), (app, last, over)));
            }
            tokio::time::sleep(LOOK).await;
        }
    });
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}
