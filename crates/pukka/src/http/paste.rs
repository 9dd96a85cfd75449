//! A pasted spec table: read first, and added only once it is approved.

use axum::Json;
use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::kernel::problem::{Problem, under};
use pukka_core::record::claims::Claim;
use pukka_core::record::claims::paste::{Fact, MOST_CHARS, PasteResult, paste};
use pukka_store::{Author, WriteTx, amplifiers, claims};
use serde::{Deserialize, Serialize};

use super::amplifiers::ClaimView;
use super::answer::created;
use super::body::{Body, no_unknown_keys, sound};
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};

/// A block of text.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SpecText {
    /// As copied from a manual, a box or a page.
    pub text: String,
}

/// Claim lines that were approved.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ApprovedClaims {
    /// The lines, in order; one that stands there already from the same source is not added again.
    #[serde(default)]
    pub claims: Vec<Claim>,
    /// Facts for the amplifier's record.
    #[serde(default)]
    pub facts: Vec<Fact>,
}

/// The most lines added at once.
const MOST_CLAIMS: usize = 100;

/// Reads a block of text into claim lines; nothing is saved.
#[utoipa::path(post, operation_id = "readSpecTable", path = "/amplifiers/{id}/spec-tables", params(("id" = String, Path)), request_body = SpecText,
    responses((status = 200, body = PasteResult)))]
pub async fn read(Ask(state): Ask<State>, Path(id): Path<String>, body: Body<SpecText>) -> Result<Json<PasteResult>, ApiError> {
    let length = body.value.text.chars().count();
    if length > MOST_CHARS {
        let says = format!("{length} characters are too many at once: {MOST_CHARS} at most.");
        return Err(ApiError::invalid(vec![Problem::new("text", says)]));
    }
    let (row, lines) = state.records(move |store| store.read(|tx| Ok((amplifiers::get(tx, &id)?, claims::list(tx, &id)?)))).await?;
    let there: Vec<Claim> = lines.into_iter().map(|line| line.claim).collect();
    let mut pasted = paste(&body.value.text, Some(row.amplifier.channels));
    pasted.against(&row.amplifier, &there);
    Ok(Json(pasted))
}

/// Adds approved claim lines: all of them or none.
#[utoipa::path(post, operation_id = "addClaims", path = "/amplifiers/{id}/claims/approved", params(("id" = String, Path)), request_body = ApprovedClaims,
    responses((status = 201, body = [ClaimView])))]
pub async fn add(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<ApprovedClaims>,
) -> Result<Response, ApiError> {
    let ApprovedClaims { claims: lines, facts } = body.value;
    if lines.len() > MOST_CLAIMS || facts.len() > MOST_CLAIMS || (lines.is_empty() && facts.is_empty()) {
        return Err(ApiError::invalid(vec![Problem::new("claims", format!("Between 1 and {MOST_CLAIMS} lines at once."))]));
    }
    let (wanted, at) = (id.clone(), format!("amplifiers/{id}"));
    let mut amplifier = state.records(move |store| store.read(|tx| amplifiers::get(tx, &wanted))).await?.amplifier;
    facts.iter().for_each(|fact| fact.put(&mut amplifier));
    let channels = amplifier.channels;
    let mut problems = under("facts", amplifier.check());
    for (i, claim) in lines.iter().enumerate() {
        no_unknown_keys(&claim.extra)?;
        problems.extend(under(&format!("claims[{i}]"), claim.check(channels)));
    }
    sound(problems)?;
    let author = writing.author(&body.raw);
    let work = move |tx: &WriteTx, author: &Author| claims::approve(tx, author, &id, &lines, &facts);
    let rows = state.once(author, work).await?;
    Ok(created(&at, None, rows.into_iter().map(ClaimView::from).collect::<Vec<_>>()))
}
