//! The front end, embedded.

use axum::http::{StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};

use crate::http::ApiError;

#[derive(rust_embed::RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Files;

/// A file of the front end; its own page for every place in it; 404 for what is neither.
pub async fn file(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    if let Some(response) = embedded(path) {
        return response;
    }
    if path.starts_with("api/") {
        return ApiError::not_found("address", uri.path()).into_response();
    }
    if path.starts_with("assets/") {
        return (StatusCode::NOT_FOUND, "There is nothing here.").into_response();
    }
    embedded("index.html").unwrap_or_else(|| (StatusCode::NOT_FOUND, "The front end was not built: run cargo xtask demo.").into_response())
}

/// A face of the front end, by how its file's name begins; nothing when the front end was not built.
pub fn face(name: &str) -> Option<Vec<u8>> {
    let begins = format!("assets/{name}");
    let path = Files::iter().find(|path| path.starts_with(&begins) && path.ends_with(".woff2"))?;
    Some(Files::get(&path)?.data.into_owned())
}

fn embedded(path: &str) -> Option<Response> {
    let file = Files::get(path)?;
    let kind = mime_guess::from_path(path).first_or_octet_stream();
    // Names under assets/ carry a hash of what is in them.
    let keep = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    Some(([(header::CONTENT_TYPE, kind.as_ref()), (header::CACHE_CONTROL, keep)], file.data).into_response())
}
