//! The ladder as it stands, and the cautions before a first run.

use std::collections::BTreeMap;

use axum::Json;
use axum::extract::{Path, State as Ask};
use axum::http::StatusCode;
use pukka_core::plan::cautions::{self as core_cautions, Caution};
use pukka_core::plan::ladder::{Ladder, ladder};
use pukka_core::plan::rungs::rungs;
use pukka_store::sessions;
use serde::{Deserialize, Serialize};

use super::super::error::ProblemBody;
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// The ladder, with what the bench has to know beside it.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LadderView {
    /// The ladder.
    pub ladder: Ladder,
    /// Revision of what is set for a rung, by its key; 0 where nothing was set yet.
    pub revisions: BTreeMap<String, i64>,
    /// The cautions that bear on any run.
    pub cautions: Vec<Caution>,
    /// Whether they were read.
    pub cautions_read: bool,
}

/// The ladder of a session.
#[utoipa::path(get, operation_id = "getLadder", path = "/sessions/{id}/ladder", params(("id" = String, Path)),
    responses((status = 200, body = LadderView), (status = 404, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<LadderView>, ApiError> {
    let row = super::session(&state, &id).await?;
    let planned = || row.session.plan.rungs.iter().zip(&row.rung_revisions);
    let revision = |rung: &pukka_core::plan::rungs::Rung| {
        planned().find(|(set, _)| rung.id.is_planned(set, &row.session)).map_or(0, |(_, revision)| *revision)
    };
    Ok(Json(LadderView {
        revisions: rungs(&row.session).iter().map(|rung| (rung.id.key(), revision(rung))).collect(),
        ladder: ladder(&row.session),
        cautions: core_cautions::cautions(&row.session),
        cautions_read: row.cautions_read_at.is_some(),
    }))
}

/// Notes that the cautions were read.
#[utoipa::path(post, operation_id = "readCautions", path = "/sessions/{id}/cautions", params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn cautions(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let author = writing.author(b"");
    state.records(move |store| store.write(move |tx| sessions::read_cautions(tx, &author, &id))).await?;
    Ok(StatusCode::NO_CONTENT)
}
