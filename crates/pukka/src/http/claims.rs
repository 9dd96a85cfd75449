//! Claim lines.

use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::record::claims::Claim;
use pukka_store::{Author, WriteTx, amplifiers, claims};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use super::amplifiers::ClaimView;
use super::answer::{created, revised};
use super::body::{Body, no_new_keys, sound};
use super::patch::Patch;
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};

/// Problems with a line, given its amplifier.
async fn check(state: &State, amplifier_id: String, claim: &Claim, kept: &Map<String, Value>) -> Result<(), ApiError> {
    no_new_keys(&claim.extra, kept)?;
    let row = state.records(move |store| store.read(|tx| amplifiers::get(tx, &amplifier_id))).await?;
    sound(claim.check(row.amplifier.channels))
}

/// Adds a claim line.
#[utoipa::path(post, operation_id = "createClaim", path = "/amplifiers/{id}/claims", params(("id" = String, Path)), request_body = Claim,
    responses((status = 201, body = ClaimView)))]
pub async fn create(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Body<Claim>) -> Result<Response, ApiError> {
    check(&state, id.clone(), &body.value, &Map::new()).await?;
    let author = writing.author(&body.raw);
    let work = move |tx: &WriteTx, author: &Author| claims::create(tx, author, &id, &body.value);
    let made = ClaimView::from(state.once(author, work).await?);
    Ok(created(&format!("claims/{}", made.id), Some(made.revision), made))
}

/// Changes a claim line.
#[utoipa::path(put, operation_id = "updateClaim", path = "/claims/{id}", params(("id" = String, Path)), request_body = Claim,
    responses((status = 200, body = ClaimView)))]
pub async fn update(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Body<Claim>) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    let (before, amplifier_id) = before(&state, &id).await?;
    check(&state, amplifier_id, &body.value, &before.extra).await?;
    put(&state, author, id, revision, Claim { extra: before.extra, ..body.value }).await
}

/// Changes a part of a claim line.
#[utoipa::path(patch, operation_id = "patchClaim", path = "/claims/{id}", params(("id" = String, Path)),
    responses((status = 200, body = ClaimView)))]
pub async fn patch(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, patch: Patch) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(&patch.raw), writing.revision()?);
    let (before, amplifier_id) = before(&state, &id).await?;
    let claim: Claim = patch.onto(&before)?;
    check(&state, amplifier_id, &claim, &before.extra).await?;
    put(&state, author, id, revision, claim).await
}

async fn before(state: &State, id: &str) -> Result<(Claim, String), ApiError> {
    let id = id.to_owned();
    let (row, amplifier_id) = state.records(move |store| store.read(|tx| claims::get(tx, &id))).await?;
    Ok((row.claim, amplifier_id))
}

async fn put(state: &State, author: Author, id: String, revision: i64, claim: Claim) -> Result<Response, ApiError> {
    let work = move |tx: &WriteTx, author: &Author| claims::update(tx, author, &id, revision, &claim);
    let changed = ClaimView::from(state.once(author, work).await?);
    Ok(revised(changed.revision, changed))
}

/// Removes a claim line; undo brings it back.
#[utoipa::path(delete, operation_id = "deleteClaim", path = "/claims/{id}", params(("id" = String, Path)),
    responses((status = 204)))]
pub async fn delete(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(b""), writing.revision()?);
    let work = move |tx: &WriteTx, author: &Author| claims::delete(tx, author, &id, revision);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// The claim that the verdict uses, of several about one thing.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClaimChoice {
    /// The others, which it does not use then.
    pub instead_of: Vec<String>,
}

/// Marks a claim as the one the verdict uses, instead of others of the same thing.
#[utoipa::path(post, operation_id = "useClaim", path = "/claims/{id}/choice", params(("id" = String, Path)), request_body = ClaimChoice,
    responses((status = 204)))]
pub async fn choose(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<ClaimChoice>,
) -> Result<StatusCode, ApiError> {
    let author = writing.author(&body.raw);
    let work = move |tx: &WriteTx, author: &Author| claims::choose(tx, author, &id, &body.value.instead_of);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}
