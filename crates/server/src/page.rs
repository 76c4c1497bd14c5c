//! The built page, embedded in the binary.

use axum::http::{StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Page;

const UNBUILT: &str = "The page is not built into this binary. Build it with: cargo xtask build\n";

/// A file of the page; any other path gives the page itself, which does its own routing.
pub(crate) async fn serve(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    if path.starts_with("api/") {
        return crate::error::Problem::not_found(format!("there is nothing at /{path}"))
            .into_response();
    }
    let (name, file) = match Page::get(path) {
        Some(file) => (path, Some(file)),
        None if path.starts_with("assets/") => return StatusCode::NOT_FOUND.into_response(),
        None => ("index.html", Page::get("index.html")),
    };
    let Some(file) = file else {
        return (StatusCode::SERVICE_UNAVAILABLE, UNBUILT).into_response();
    };
    // Files under assets/ carry a hash of their content in their name.
    let cache = if name.starts_with("assets/") {
        "public, max-age=31536000, immutable"
    } else {
        "no-cache"
    };
    let kind = file.metadata.mimetype().to_owned();
    (
        [
            (header::CONTENT_TYPE, kind),
            (header::CACHE_CONTROL, cache.to_owned()),
        ],
        file.data.into_owned(),
    )
        .into_response()
}
