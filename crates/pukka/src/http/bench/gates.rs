//! Gates: a run that can hurt the amplifier asks for a reason; and arming, the one way to start it.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use pukka_core::kernel::problem::check_text;
use pukka_core::plan::arm::Arming;
use pukka_core::plan::ladder::Place;
use pukka_core::plan::opening::{Opening, open as core_open};
use pukka_store::{Author, WriteTx, arming, gates};
use serde::{Deserialize, Serialize};

use super::super::body::{Body, sound};
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// A reason to go past the gates before a run.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GateReason {
    /// The run.
    pub place: Place,
    /// Reason, name, and what else its gates ask for.
    pub opening: Opening,
}

/// Reason why the reason before a run is taken back.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GateWithdrawn {
    /// The run.
    pub place: Place,
    /// Person who takes it back.
    pub by: String,
    /// Reason.
    pub reason: String,
}

/// A run that is armed.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ArmedRun {
    /// Since when.
    pub at: String,
    /// By whom.
    pub who: String,
    /// The one meant, and what its gates were judged on.
    pub arming: Arming,
}

impl From<arming::ArmingRow> for ArmedRun {
    fn from(armed: arming::ArmingRow) -> Self {
        Self { at: armed.at, who: armed.who, arming: armed.arming }
    }
}

/// Opens every gate before a run.
#[utoipa::path(post, operation_id = "openGates", path = "/sessions/{id}/gates", params(("id" = String, Path)), request_body = GateReason,
    responses((status = 204)))]
pub async fn open(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<GateReason>,
) -> Result<StatusCode, ApiError> {
    let GateReason { place, opening } = body.value;
    let row = super::session(&state, &id).await?;
    let rung = super::rung(&row.session, &place.rung)?;
    let opened = core_open(&row.session, &rung, place.mode, &opening).map_err(ApiError::invalid)?;
    let author = writing.author(&body.raw);
    let work = move |tx: &WriteTx, author: &Author| gates::open(tx, author, &id, &opened);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Takes back the reasons and the consent before a run; an armed run is disarmed.
#[utoipa::path(post, operation_id = "withdrawGates", path = "/sessions/{id}/gates/withdrawn", params(("id" = String, Path)),
    request_body = GateWithdrawn, responses((status = 204)))]
pub async fn withdraw(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<GateWithdrawn>,
) -> Result<StatusCode, ApiError> {
    let GateWithdrawn { place, by, reason } = body.value;
    let mut problems = Vec::new();
    check_text(&mut problems, "by", &by, true, 80);
    check_text(&mut problems, "reason", &reason, true, 500);
    sound(problems)?;
    let row = super::session(&state, &id).await?;
    let rung = super::rung(&row.session, &place.rung)?;
    let author = writing.author(&body.raw);
    let work = move |tx: &WriteTx, author: &Author| gates::withdraw_for(tx, author, &id, (&rung.id, place.mode), &by, &reason);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Arms a run: it may be started, and what its gates were judged on is frozen. Refused while a gate is shut.
#[utoipa::path(post, operation_id = "armRun", path = "/sessions/{id}/armed", params(("id" = String, Path)), request_body = Place,
    responses((status = 200, body = ArmedRun)))]
pub async fn arm(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Body<Place>) -> Result<Json<ArmedRun>, ApiError> {
    let author = writing.author(&body.raw);
    let work = move |tx: &WriteTx, author: &Author| arming::arm(tx, author, &id, &body.value);
    Ok(Json(state.once(author, work).await?.into()))
}

/// Disarms whatever is armed.
#[utoipa::path(delete, operation_id = "disarm", path = "/sessions/{id}/armed", params(("id" = String, Path)), responses((status = 204)))]
pub async fn disarm(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let author = writing.author(b"");
    let work = move |tx: &WriteTx, author: &Author| arming::disarm(tx, author, &id, "disarmed by hand");
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}
