//! Everything that is no operation: the pages of the front end and their files.

use axum::http::{StatusCode, Uri};
use axum::response::{IntoResponse, Response};

use super::ApiError;
use crate::assets::embedded;

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
