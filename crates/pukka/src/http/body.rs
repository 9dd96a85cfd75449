//! A JSON body, read with the path of what cannot be read.

use axum::body::Bytes;
use axum::extract::{FromRequest, Request};
use axum::http::{StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse as _, Response};
use pukka_core::kernel::problem::{Problem, read_json};
use serde::de::DeserializeOwned;
use serde_json::{Map, Value};

use super::ApiError;

/// A JSON body.
#[derive(Debug)]
pub struct Body<T> {
    /// Value shown.
    pub value: T,
    /// As sent, for telling one request from another.
    pub raw: Bytes,
}

impl<T: DeserializeOwned, S: Send + Sync> FromRequest<S> for Body<T> {
    type Rejection = ApiError;

    async fn from_request(request: Request, state: &S) -> Result<Self, ApiError> {
        let raw = read_raw(request, state, &["application/json"]).await?;
        let value = read_json(&raw).map_err(|problem| ApiError::invalid(vec![problem]))?;
        Ok(Self { value, raw })
    }
}

/// Reads a short body whole before anything is answered. A connection whose body was not read to its end is closed behind the answer,
/// and what of the body still arrives then can make the peer lose the answer.
pub(super) async fn short_first(request: Request, next: Next) -> Response {
    let length = request.headers().get(header::CONTENT_LENGTH).and_then(|length| length.to_str().ok()?.parse::<usize>().ok());
    if length.is_none_or(|length| length == 0 || length > super::MOST_BYTES) {
        return next.run(request).await;
    }
    let (parts, body) = request.into_parts();
    match axum::body::to_bytes(body, super::MOST_BYTES).await {
        Ok(bytes) => next.run(Request::from_parts(parts, bytes.into())).await,
        Err(_) => ApiError::new(StatusCode::BAD_REQUEST, "unreadable", "The request broke off.").into_response(),
    }
}

/// The bytes of a body of one of these kinds.
pub(super) async fn read_raw<S: Send + Sync>(request: Request, state: &S, kinds: &[&str]) -> Result<Bytes, ApiError> {
    let kind = request.headers().get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok());
    let kind = kind.and_then(|kind| kind.split(';').next()).unwrap_or_default().trim();
    if !kinds.iter().any(|known| kind.eq_ignore_ascii_case(known)) {
        return Err(ApiError::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "not-json", format!("Send {}.", kinds.join(" or "))));
    }
    Bytes::from_request(request, state).await.map_err(|why| {
        let status = why.status();
        let code = if status == StatusCode::PAYLOAD_TOO_LARGE { "too-large" } else { "unreadable" };
        ApiError::new(status, code, "The request is too large, or broke off.")
    })
}

/// A record that cannot be written as JSON: it was read from there, so this does not come.
pub(super) fn unlike_a_record(why: &serde_json::Error) -> Problem {
    tracing::error!(%why, "a record could not be written as JSON");
    Problem::new(".", "The record cannot be changed in part.")
}

/// Refuses keys that a record does not have: a slip in a name would lose what was typed.
pub(super) fn no_unknown_keys(extra: &Map<String, Value>) -> Result<(), ApiError> {
    no_new_keys(extra, &Map::new())
}

/// Likewise, but for those that came with a file and are kept.
pub(super) fn no_new_keys(extra: &Map<String, Value>, kept: &Map<String, Value>) -> Result<(), ApiError> {
    sound(extra.keys().filter(|key| !kept.contains_key(*key)).map(|key| Problem::new(key.as_str(), "There is no such field.")).collect())
}

/// Turns what the core found wrong into a refusal.
pub(super) fn sound(problems: Vec<Problem>) -> Result<(), ApiError> {
    if problems.is_empty() { Ok(()) } else { Err(ApiError::invalid(problems)) }
}
