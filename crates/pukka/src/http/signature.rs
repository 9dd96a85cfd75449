//! The reviewer's name and mark, which stand on every card.

use axum::body::{Body as Raw, to_bytes};
use axum::extract::State as Ask;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use pukka_core::kernel::problem::check_text;
use pukka_store::signature::{self, SignatureRow};
use pukka_store::{Author, WriteTx};
use serde::{Deserialize, Serialize};

use super::answer::revised;
use super::body::{Body, sound};
use super::writing::Writing;
use super::{ApiError, State};
use crate::photo::{MOST_BYTES, PhotoError, as_mark};

/// Name and mark; the mark's picture is at `/api/signature/mark`.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SignatureView {
    /// Revision; 0 while nothing was ever given.
    pub revision: i64,
    /// Name as it stands on cards.
    pub name: String,
    /// Whether there is a mark.
    pub has_mark: bool,
}

impl From<SignatureRow> for SignatureView {
    fn from(row: SignatureRow) -> Self {
        Self { revision: row.revision, name: row.name, has_mark: row.mark.is_some() }
    }
}

/// A name for cards.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignatureName {
    /// In a line; nothing for none.
    pub name: String,
}

fn answer(row: SignatureRow) -> Response {
    revised(row.revision, SignatureView::from(row))
}

/// The reviewer's name and mark.
#[utoipa::path(get, operation_id = "getSignature", path = "/signature", responses((status = 200, body = SignatureView)))]
pub async fn get(Ask(state): Ask<State>) -> Result<Response, ApiError> {
    Ok(answer(state.records(|store| store.read(signature::get)).await?))
}

/// Changes the name.
#[utoipa::path(patch, operation_id = "nameSignature", path = "/signature", request_body = SignatureName,
    responses((status = 200, body = SignatureView)))]
pub async fn name(Ask(state): Ask<State>, writing: Writing, body: Body<SignatureName>) -> Result<Response, ApiError> {
    let mut problems = Vec::new();
    check_text(&mut problems, "name", &body.value.name, false, 60);
    sound(problems)?;
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    let work = move |tx: &WriteTx, author: &Author| {
        let mark = signature::get(tx)?.mark;
        signature::set(tx, author, revision, body.value.name.trim(), mark.as_deref()).map(|row| row.revision)
    };
    state.once(author, work).await?;
    get(Ask(state)).await
}

/// The mark.
#[utoipa::path(get, operation_id = "getMark", path = "/signature/mark", responses((status = 200, content_type = "image/png"),
    (status = 404, description = "There is no mark.", content_type = "application/problem+json", body = super::error::ProblemBody)))]
pub async fn mark(Ask(state): Ask<State>) -> Result<Response, ApiError> {
    let row = state.records(|store| store.read(signature::get)).await?;
    let png = row.mark.ok_or_else(|| ApiError::not_found("mark", "signature"))?;
    Ok(([(header::CONTENT_TYPE, "image/png"), (header::CACHE_CONTROL, "no-cache")], png).into_response())
}

/// Sets the mark: PNG, JPEG or WebP as the body. It is decoded and encoded again; nothing else of the file is kept.
#[utoipa::path(put, operation_id = "setMark", path = "/signature/mark",
    request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 200, body = SignatureView)))]
pub async fn set_mark(Ask(state): Ask<State>, writing: Writing, body: Raw) -> Result<Response, ApiError> {
    let bytes = to_bytes(body, MOST_BYTES).await.map_err(|_| PhotoError::TooLarge)?;
    let (author, revision) = (writing.author(&bytes), writing.revision()?);
    let png = state.compute_long(move || as_mark(&bytes)).await??;
    write_mark(&state, author, revision, Some(png)).await
}

/// Removes the mark.
#[utoipa::path(delete, operation_id = "deleteMark", path = "/signature/mark", responses((status = 200, body = SignatureView)))]
pub async fn delete_mark(Ask(state): Ask<State>, writing: Writing) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(b""), writing.revision()?);
    write_mark(&state, author, revision, None).await
}

async fn write_mark(state: &State, author: Author, revision: i64, mark: Option<Vec<u8>>) -> Result<Response, ApiError> {
    let work = move |tx: &WriteTx, author: &Author| {
        let name = signature::get(tx)?.name;
        signature::set(tx, author, revision, &name, mark.as_deref()).map(|row| row.revision)
    };
    state.once(author, work).await?;
    get(Ask(state.clone())).await
}
