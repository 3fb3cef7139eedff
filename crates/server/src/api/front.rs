//! The built front end, shipped inside the binary.

use axum::http::{StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Files;

/// A file of the front end; `/` is the page, and so is every address of a job in it.
pub(super) fn file(uri: &Uri) -> Option<Response> {
    let path = uri.path().trim_start_matches('/');
    let is_page = path.is_empty() || path == "jobs" || path.starts_with("jobs/");
    let name = if is_page { "index.html" } else { path };
    let Some(file) = Files::get(name) else {
        return is_page
            .then(|| (StatusCode::NOT_FOUND, "The front end was not built into this binary.").into_response());
    };
    // Names under assets/ carry a hash of their content.
    let keep = if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    let kind = file.metadata.mimetype().to_owned();
    Some(([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, keep.to_owned())], file.data).into_response())
}
