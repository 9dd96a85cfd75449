//! Claim lines.

use axum::Json;
use axum::extract::{Path, State as Ask};
use axum::http::StatusCode;
use pukka_core::record::claims::Claim;
use pukka_store::{amplifiers, claims, idempotency};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use super::amplifiers::ClaimView;
use super::body::{Body, no_new_keys, sound};
use super::error::ProblemBody;
use super::writing::Writing;
use super::{ApiError, State};

/// What is wrong with a line, given its amplifier.
async fn check(state: &State, amplifier_id: String, claim: &Claim, kept: &Map<String, Value>) -> Result<(), ApiError> {
    no_new_keys(&claim.extra, kept)?;
    let row = state.records(move |store| store.read(|tx| amplifiers::get(tx, &amplifier_id))).await?;
    sound(claim.check(row.amplifier.channels))
}

/// Adds a claim line.
#[utoipa::path(post, operation_id = "createClaim", path = "/amplifiers/{id}/claims", params(("id" = String, Path)), request_body = Claim,
    responses((status = 201, body = ClaimView), (status = 422, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn create(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<Claim>,
) -> Result<(StatusCode, Json<ClaimView>), ApiError> {
    check(&state, id.clone(), &body.value, &Map::new()).await?;
    let author = writing.author(&body.raw);
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| idempotency::once(tx, &author, |tx| claims::create(tx, &author, &id, &body.value)))
    };
    Ok((StatusCode::CREATED, Json(state.records(work).await?.into())))
}

/// Changes a claim line.
#[utoipa::path(put, operation_id = "updateClaim", path = "/claims/{id}", params(("id" = String, Path)), request_body = Claim,
    responses((status = 200, body = ClaimView), (status = 412, body = ProblemBody, content_type = "application/problem+json"),
              (status = 422, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn update(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<Claim>,
) -> Result<Json<ClaimView>, ApiError> {
    let wanted = id.clone();
    let (before, amplifier_id) = state.records(move |store| store.read(|tx| claims::get(tx, &wanted))).await?;
    check(&state, amplifier_id, &body.value, &before.claim.extra).await?;
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    let claim = Claim { extra: before.claim.extra, ..body.value };
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| idempotency::once(tx, &author, |tx| claims::update(tx, &author, &id, revision, &claim)))
    };
    Ok(Json(state.records(work).await?.into()))
}

/// Removes a claim line; undo brings it back.
#[utoipa::path(delete, operation_id = "deleteClaim", path = "/claims/{id}", params(("id" = String, Path)),
    responses((status = 204), (status = 412, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn delete(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(b""), writing.revision()?);
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| idempotency::once(tx, &author, |tx| claims::delete(tx, &author, &id, revision)))
    };
    state.records(work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Which of several claims of one thing the verdict uses.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClaimChosen {
    /// The others, which it does not use then.
    pub instead_of: Vec<String>,
}

/// Marks a claim as the one the verdict uses, instead of others of the same thing.
#[utoipa::path(post, operation_id = "useClaim", path = "/claims/{id}/use", params(("id" = String, Path)), request_body = ClaimChosen,
    responses((status = 204), (status = 404, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn choose(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<ClaimChosen>,
) -> Result<StatusCode, ApiError> {
    let author = writing.author(&body.raw);
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| idempotency::once(tx, &author, |tx| claims::choose(tx, &author, &id, &body.value.instead_of)))
    };
    state.records(work).await?;
    Ok(StatusCode::NO_CONTENT)
}
