//! The sense-check, live as a claim is typed.

use axum::Json;
use axum::extract::State as Ask;
use pukka_core::record::amplifier::Amplifier;
use pukka_core::record::claims::Claim;
use pukka_core::record::claims::sense_view::{SenseView, sense_view};
use pukka_store::{amplifiers, claims};
use serde::{Deserialize, Serialize};

use super::body::{Body, sound};
use super::path::Path;
use super::{ApiError, State};
use crate::draw;

/// The sense-check with its picture, drawn.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DrawnSense {
    /// Findings.
    pub view: SenseView,
    /// The fuse picture, when there is one.
    pub fuses: Option<String>,
}

/// A claim that is being typed.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClaimDraft {
    /// The line so far.
    pub claim: Claim,
    /// The claim it is to replace; nothing when it is a new one.
    pub replaces: Option<String>,
}

/// The id of a line that has none yet.
const DRAFT: &str = "draft";

pub(super) fn drawn(amplifier: &Amplifier, claims: &[Claim]) -> DrawnSense {
    let view = sense_view(amplifier, claims);
    DrawnSense { fuses: view.fuses.as_ref().map(draw::fuses::fuses), view }
}

/// Checks the claims with the one that is being typed; nothing is saved.
#[utoipa::path(post, operation_id = "senseCheck", path = "/amplifiers/{id}/sense-checks", params(("id" = String, Path)), request_body = ClaimDraft,
    responses((status = 200, body = DrawnSense)))]
pub async fn check(Ask(state): Ask<State>, Path(id): Path<String>, body: Body<ClaimDraft>) -> Result<Json<DrawnSense>, ApiError> {
    let ClaimDraft { mut claim, replaces } = body.value;
    let (row, lines) = state.records(move |store| store.read(|tx| Ok((amplifiers::get(tx, &id)?, claims::list(tx, &id)?)))).await?;
    sound(claim.check(row.amplifier.channels))?;
    claim.id = replaces.clone().unwrap_or_else(|| DRAFT.to_owned());
    let mut lines: Vec<Claim> = lines.into_iter().map(|line| line.claim).collect();
    match lines.iter_mut().find(|line| Some(&line.id) == replaces.as_ref()) {
        Some(line) => *line = claim,
        None => lines.push(claim),
    }
    Ok(Json(drawn(&row.amplifier, &lines)))
}
