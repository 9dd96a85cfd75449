//! What became of a write whose answer never came.

use axum::Json;
use axum::extract::State as Ask;
use pukka_store::idempotency;
use serde::{Deserialize, Serialize};

use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};

/// Outcome of a write.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct WriteView {
    /// Whether it was done. When it was not, it will not be: its key is given up.
    pub done: bool,
    /// Answer given.
    #[schema(value_type = Option<Object>)]
    pub answer: Option<serde_json::Value>,
}

/// Settles what became of a write, by its idempotency key: done, with its answer; or given up, so that a request that is still
/// on its way is not done any more.
#[utoipa::path(delete, operation_id = "settleWrite", path = "/writes/{key}", params(("key" = String, Path)),
    responses((status = 200, body = WriteView)))]
pub async fn settle(Ask(state): Ask<State>, Path(key): Path<String>, writing: Writing) -> Result<Json<WriteView>, ApiError> {
    if key.len() > super::writing::MOST_CHARS {
        return Err(ApiError::not_found("write", &key));
    }
    let author = writing.author(b"");
    let work = move |store: &pukka_store::Store| store.write(move |tx| idempotency::answer_or_give_up(tx, &author, &key));
    let answer = state.records(work).await?;
    let done = answer.is_some();
    Ok(Json(WriteView { done, answer: answer.and_then(|text| serde_json::from_str(&text).ok()) }))
}
