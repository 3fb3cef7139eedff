//! What operators and their machines ask: whether the server lives, whether it can work, and what it counts.

use std::sync::Arc;

use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;

use crate::App;
use crate::work::Desk;

/// Whether the process lives: 200.
pub(super) async fn live() -> &'static str {
    "alive\n"
}

/// Whether it can work: 200, or 503 with what is missing.
pub(super) async fn ready(State(app): State<Arc<App>>) -> impl IntoResponse {
    let mut missing = Vec::new();
    if !app.store.answers().await {
        missing.push("the database does not answer");
    }
    if app.config.task_slots > 0 && app.counts.workers() == 0 {
        missing.push("no worker process runs");
    }
    if missing.is_empty() {
        (StatusCode::OK, "ready\n".to_owned())
    } else {
        (StatusCode::SERVICE_UNAVAILABLE, format!("{}\n", missing.join("; ")))
    }
}

/// Counters as Prometheus' text format.
pub(super) async fn metrics(State(app): State<Arc<App>>) -> impl IntoResponse {
    let answers = *app.database_answers.borrow();
    let tasks = if answers { app.store.tasks_by_state().await.unwrap_or_default() } else { vec![] };
    let waiting = [("desk", app.desk.as_ref().map_or(0, Desk::asking)), ("files", app.uploads.waiting())];
    ([(header::CONTENT_TYPE, "text/plain; version=0.0.4")], app.counts.told(answers, &tasks, &waiting))
}
