//! Amplifiers: added, shown, changed, deleted.

use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::record::amplifier::{Amplifier, Terminals};
use pukka_core::record::claims::Claim;
use pukka_core::report::summary::Summary;
use pukka_store::{Author, WriteTx, amplifiers, claims, idempotency, retests, summaries};
use serde::{Deserialize, Serialize};

use super::answer::{created, revised};
use super::body::{Body, no_new_keys, no_unknown_keys, sound};
use super::patch::Patch;
use super::path::Path;
use super::sense::{self, DrawnSense};
use super::writing::Writing;
use super::{ApiError, State};

/// A claim with its revision.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ClaimView {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The line.
    pub claim: Claim,
}

impl From<claims::ClaimRow> for ClaimView {
    fn from(row: claims::ClaimRow) -> Self {
        Self { id: row.id, revision: row.revision, claim: row.claim }
    }
}

/// An amplifier with its claims.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AmplifierView {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The record.
    pub amplifier: Amplifier,
    /// Session in hand.
    pub session_id: String,
    /// Which of its sessions that is: "session 2 of 3"; "one session".
    pub session_words: String,
    /// Claims, in the order they were entered.
    pub claims: Vec<ClaimView>,
    /// Doubts about them.
    pub sense: DrawnSense,
    /// Summary of the session in hand.
    pub summary: Summary,
    /// The conductors its terminals take, in both sizes.
    pub terminals_words: Option<String>,
}

fn session_words(all: &[String], in_hand: &str) -> String {
    match all {
        [] | [_] => "one session".into(),
        several => {
            let at = several.iter().position(|id| id == in_hand).map_or(0, |at| at + 1);
            format!("session {at} of {}", several.len())
        }
    }
}

fn view(tx: &pukka_store::Connection, id: &str) -> Result<AmplifierView, pukka_store::StoreError> {
    let row = amplifiers::get(tx, id)?;
    let claims = claims::list(tx, id)?;
    Ok(AmplifierView {
        sense: sense::drawn(&row.amplifier, &claims.iter().map(|row| row.claim.clone()).collect::<Vec<_>>()),
        claims: claims.into_iter().map(ClaimView::from).collect(),
        summary: summaries::get(tx, &row.session_id)?,
        session_words: session_words(&retests::ids(tx, id)?, &row.session_id),
        terminals_words: row.amplifier.terminals.as_ref().map(Terminals::words),
        id: row.id,
        revision: row.revision,
        amplifier: row.amplifier,
        session_id: row.session_id,
    })
}

/// Adds an amplifier.
#[utoipa::path(post, operation_id = "createAmplifier", path = "/amplifiers", request_body = Amplifier,
    responses((status = 201, body = AmplifierView)))]
pub async fn create(Ask(state): Ask<State>, writing: Writing, body: Body<Amplifier>) -> Result<Response, ApiError> {
    no_unknown_keys(&body.value.extra)?;
    sound(body.value.check())?;
    let author = writing.author(&body.raw);
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| {
            let row = idempotency::once(tx, &author, |tx| amplifiers::create(tx, &author, &body.value))?;
            view(tx, &row.id)
        })
    };
    let made = state.records(work).await?;
    Ok(created(&format!("amplifiers/{}", made.id), Some(made.revision), made))
}

/// An amplifier with its claims.
#[utoipa::path(get, operation_id = "getAmplifier", path = "/amplifiers/{id}", params(("id" = String, Path)),
    responses((status = 200, body = AmplifierView)))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Response, ApiError> {
    let shown = state.records(move |store| store.read(|tx| view(tx, &id))).await?;
    Ok(revised(shown.revision, shown))
}

/// Changes an amplifier.
#[utoipa::path(put, operation_id = "updateAmplifier", path = "/amplifiers/{id}", params(("id" = String, Path)), request_body = Amplifier,
    responses((status = 200, body = AmplifierView)))]
pub async fn update(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Body<Amplifier>) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    let before = before(&state, &id).await?;
    no_new_keys(&body.value.extra, &before.extra)?;
    // Keys of an imported file that this form does not show stay with the record.
    let amplifier = Amplifier { extra: before.extra.clone(), ..body.value };
    put(&state, author, id, revision, amplifier).await
}

/// Changes a part of an amplifier's record.
#[utoipa::path(patch, operation_id = "patchAmplifier", path = "/amplifiers/{id}", params(("id" = String, Path)),
    responses((status = 200, body = AmplifierView)))]
pub async fn patch(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, patch: Patch) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(&patch.raw), writing.revision()?);
    let before = before(&state, &id).await?;
    let amplifier: Amplifier = patch.onto(&before)?;
    no_new_keys(&amplifier.extra, &before.extra)?;
    put(&state, author, id, revision, amplifier).await
}

async fn before(state: &State, id: &str) -> Result<Amplifier, ApiError> {
    let id = id.to_owned();
    state.records(move |store| store.read(|tx| Ok(amplifiers::get(tx, &id)?.amplifier))).await
}

async fn put(state: &State, author: Author, id: String, revision: i64, amplifier: Amplifier) -> Result<Response, ApiError> {
    sound(amplifier.check())?;
    let amplifier_id = id.clone();
    let all = state.records(move |store| store.read(|tx| retests::sessions(tx, &amplifier_id))).await?;
    sound(all.iter().find_map(|row| row.session.misfits(&amplifier)).into_iter().collect())?;
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| {
            idempotency::once(tx, &author, |tx| amplifiers::update(tx, &author, &id, revision, &amplifier))?;
            view(tx, &id)
        })
    };
    let changed = state.records(work).await?;
    Ok(revised(changed.revision, changed))
}

/// Deletes an amplifier with all that goes with it; undo brings it back.
#[utoipa::path(delete, operation_id = "deleteAmplifier", path = "/amplifiers/{id}", params(("id" = String, Path)),
    responses((status = 204)))]
pub async fn delete(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(b""), writing.revision()?);
    let work = move |tx: &WriteTx, author: &Author| amplifiers::delete(tx, author, &id, revision);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}
