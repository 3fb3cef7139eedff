//! How far an answer is that takes long: whoever asks may name the request, and ask for it by that name meanwhile. Who no longer
//! waits for the answer stops the work.

use std::collections::HashMap;
use std::sync::{Arc, Mutex};

use axum::Json;
use axum::extract::{Request, State};
use axum::middleware::Next;
use axum::response::Response;
use nimbet_kernel::Progress;
use serde::Serialize;
use utoipa::ToSchema;

use super::extract::At;
use crate::App;

/// The header that names a request.
const HEADER: &str = "nimbet-watch";

tokio::task_local! {
    /// The name of the request that is being answered.
    static NAME: String;
}

/// The work under way, by the name of its request.
#[derive(Default)]
pub(crate) struct Watched(Mutex<HashMap<String, Progress>>);

/// Work that is stopped, and forgotten, when nobody holds this any more.
pub(super) struct Waited {
    app: Arc<App>,
    name: Option<String>,
    progress: Progress,
}

impl Waited {
    /// Begins work for the request that is being answered.
    pub fn begin(app: &Arc<App>) -> Self {
        let name = NAME.try_with(String::clone).ok();
        let progress = Progress::default();
        if let (Some(name), Ok(mut watched)) = (&name, app.watched.0.lock()) {
            watched.insert(name.clone(), progress.clone());
        }
        Self { app: app.clone(), name, progress }
    }

    pub fn progress(&self) -> Progress {
        self.progress.clone()
    }
}

impl Drop for Waited {
    fn drop(&mut self) {
        self.progress.cancel();
        if let (Some(name), Ok(mut watched)) = (&self.name, self.app.watched.0.lock()) {
            watched.remove(name);
        }
    }
}

/// Remembers what a request is called while it is answered.
pub(super) async fn named(request: Request, next: Next) -> Response {
    const LONGEST: usize = 64;
    let name = request.headers().get(HEADER).and_then(|name| name.to_str().ok()).filter(|name| name.len() <= LONGEST);
    match name.map(str::to_owned) {
        Some(name) => NAME.scope(name, next.run(request)).await,
        None => next.run(request).await,
    }
}

/// How far an answer is.
#[derive(Serialize, ToSchema)]
pub(crate) struct WatchView {
    /// From 0 to 1.
    fraction: f64,
    /// What is done now, in plain words.
    doing: String,
}

/// How far the answer to a request is that was sent with the header `Nimbet-Watch` and this name; at nought where nothing has begun.
#[utoipa::path(get, operation_id = "watch_request", path = "/watch/{name}", params(("name" = String, Path)),
    responses((status = 200, body = WatchView)))]
pub(crate) async fn show(State(app): State<Arc<App>>, At(name): At<String>) -> Json<WatchView> {
    let progress = app.watched.0.lock().ok().and_then(|watched| watched.get(&name).cloned());
    let (fraction, doing) = progress.unwrap_or_default().read();
    Json(WatchView { fraction, doing })
}
