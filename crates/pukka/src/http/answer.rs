//! Answers with an address or a revision in their headers.

use axum::Json;
use axum::http::{HeaderName, StatusCode, header};
use axum::response::{IntoResponse, Response};
use serde::Serialize;

/// Of a record that is new: where it is, and its revision when it has one.
pub fn created(at: &str, revision: Option<i64>, body: impl Serialize) -> Response {
    (StatusCode::CREATED, location(at), revision.map(|revision| [etag(revision)]), Json(body)).into_response()
}

/// The same without a body.
pub fn created_at(at: &str) -> Response {
    (StatusCode::CREATED, location(at)).into_response()
}

/// Of a record as it is at a revision.
pub fn revised(revision: i64, body: impl Serialize) -> Response {
    ([etag(revision)], Json(body)).into_response()
}

fn location(at: &str) -> [(HeaderName, String); 1] {
    [(header::LOCATION, format!("/api/{at}"))]
}

fn etag(revision: i64) -> (HeaderName, String) {
    (header::ETAG, format!("\"{revision}\""))
}
