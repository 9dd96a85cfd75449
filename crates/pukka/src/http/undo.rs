//! Undo: an act of its own that takes back the last one of its tab.

use axum::Json;
use axum::extract::State as Ask;
use pukka_store::{acts, idempotency};
use serde::{Deserialize, Serialize};

use super::error::ProblemBody;
use super::writing::Writing;
use super::{ApiError, State};

/// What was taken back.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct UndoneView {
    /// "logged 1 Ω, certified".
    pub says: String,
    /// The amplifier it was done to.
    pub amplifier_id: String,
    /// Whether that amplifier is still on the shelf.
    pub on_shelf: bool,
}

/// Takes back the last act of this tab.
#[utoipa::path(post, operation_id = "undo", path = "/undo",
    responses((status = 200, body = UndoneView), (status = 409, body = ProblemBody, content_type = "application/problem+json"),
              (status = 412, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn undo(Ask(state): Ask<State>, writing: Writing) -> Result<Json<UndoneView>, ApiError> {
    let author = writing.author(b"");
    let work = move |store: &pukka_store::Store| store.write(move |tx| idempotency::once(tx, &author, |tx| acts::undo(tx, &author)));
    let acts::Undone { says, amplifier_id, on_shelf } = state.records(work).await?;
    Ok(Json(UndoneView { says, amplifier_id, on_shelf }))
}
