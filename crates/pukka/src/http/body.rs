//! A JSON body, read with the path of what cannot be read.

use axum::body::Bytes;
use axum::extract::{FromRequest, Request};
use axum::http::{StatusCode, header};
use pukka_core::kernel::problem::{Problem, read_json};
use serde::de::DeserializeOwned;
use serde_json::{Map, Value};

use super::ApiError;

/// A JSON body.
#[derive(Debug)]
pub struct Body<T> {
    /// What it says.
    pub value: T,
    /// As sent, for telling one request from another.
    pub raw: Bytes,
}

impl<T: DeserializeOwned, S: Send + Sync> FromRequest<S> for Body<T> {
    type Rejection = ApiError;

    async fn from_request(request: Request, state: &S) -> Result<Self, ApiError> {
        let json = request
            .headers()
            .get(header::CONTENT_TYPE)
            .and_then(|value| value.to_str().ok())
            .is_some_and(|kind| kind.split(';').next().is_some_and(|kind| kind.trim().eq_ignore_ascii_case("application/json")));
        if !json {
            return Err(ApiError::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "not-json", "Send application/json."));
        }
        let raw = Bytes::from_request(request, state).await.map_err(|why| {
            let status = why.status();
            let code = if status == StatusCode::PAYLOAD_TOO_LARGE { "too-large" } else { "unreadable" };
            ApiError::new(status, code, "The request is too large, or broke off.")
        })?;
        let value = read_json(&raw).map_err(|problem| ApiError::invalid(vec![problem]))?;
        Ok(Self { value, raw })
    }
}

/// Refuses keys that a record does not have: a slip in a name would lose what was typed.
pub(super) fn no_unknown_keys(extra: &Map<String, Value>) -> Result<(), ApiError> {
    no_new_keys(extra, &Map::new())
}

/// The same, but for those that came with a file and are kept.
pub(super) fn no_new_keys(extra: &Map<String, Value>, kept: &Map<String, Value>) -> Result<(), ApiError> {
    sound(extra.keys().filter(|key| !kept.contains_key(*key)).map(|key| Problem::new(key.as_str(), "There is no such field.")).collect())
}

/// Turns what the core found wrong into a refusal.
pub(super) fn sound(problems: Vec<Problem>) -> Result<(), ApiError> {
    if problems.is_empty() { Ok(()) } else { Err(ApiError::invalid(problems)) }
}
