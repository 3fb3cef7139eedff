//! The built front end, shipped inside the binary.

use axum::http::{StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Files;

/// A file of the front end; any other path is the single page.
pub(super) fn file(uri: &Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    let (file, name) = match Files::get(path) {
        Some(file) => (Some(file), path),
        None => (Files::get("index.html"), "index.html"),
    };
    let Some(file) = file else {
        return (StatusCode::NOT_FOUND, "The front end was not built into this binary.").into_response();
    };
    // Names under assets/ carry a hash of their content.
    let keep = if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    let kind = file.metadata.mimetype().to_owned();
    ([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, keep.to_owned())], file.data).into_response()
}
