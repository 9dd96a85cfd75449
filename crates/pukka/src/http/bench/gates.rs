//! Gates: a run that can hurt the amplifier asks for a reason.

use axum::extract::{Path, State as Ask};
use axum::http::StatusCode;
use pukka_core::plan::gates::shut;
use pukka_core::plan::ladder::intended;
use pukka_core::problem::check_text;
use pukka_core::session::{Gate, Mode};
use pukka_store::{gates, idempotency};
use serde::{Deserialize, Serialize};

use super::super::body::{Body, sound};
use super::super::error::ProblemBody;
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// A reason to go past the gates before a run.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GateReason {
    /// Key of the rung.
    pub rung: String,
    /// Mode of the run.
    pub mode: Mode,
    /// Why.
    pub reason: String,
    /// Who says so.
    pub by: String,
}

/// Opens every gate before a run, with a reason and a name.
#[utoipa::path(post, operation_id = "openGates", path = "/sessions/{id}/gates", params(("id" = String, Path)), request_body = GateReason,
    responses((status = 204), (status = 422, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn open(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<GateReason>,
) -> Result<StatusCode, ApiError> {
    let GateReason { rung, mode, reason, by } = body.value;
    let mut problems = Vec::new();
    check_text(&mut problems, "reason", &reason, true, 500);
    check_text(&mut problems, "by", &by, true, 80);
    sound(problems)?;
    let row = super::session(&state, &id).await?;
    let rung = super::rung(&row.session, &rung)?;
    let opened: Vec<Gate> = shut(&row.session, &intended(&rung, mode))
        .into_iter()
        .map(|gate| Gate {
            code: gate.code,
            wiring: Some(rung.id.wiring),
            load_ohm: rung.id.load_ohm,
            mode: Some(mode),
            reason: reason.trim().to_owned(),
            by: by.trim().to_owned(),
            owner_consent: None,
        })
        .collect();
    let author = writing.author(&body.raw);
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| idempotency::once(tx, &author, |tx| gates::open(tx, &author, &id, &opened)))
    };
    state.records(work).await?;
    Ok(StatusCode::NO_CONTENT)
}
