//! Whether the next run may start: rested, steady, cool.

use axum::Json;
use axum::extract::State as Ask;
use pukka_core::evidence::rest::{Rest, rest};
use pukka_store::rests;

use super::super::path::Path;
use super::super::{ApiError, State};

/// The state of rest after the last run.
#[utoipa::path(get, operation_id = "getRest", path = "/sessions/{id}/rest", params(("id" = String, Path)),
    responses((status = 200, body = Rest)))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<Rest>, ApiError> {
    let row = super::session(&state, &id).await?;
    let readings = state.records(move |store| store.read(|tx| rests::newest(tx, &id))).await?;
    let readings: Vec<_> = readings.into_iter().chain(state.driving.rested()).collect();
    let last = row.session.standing_runs().max_by_key(|run| run.at);
    Ok(Json(rest(&row.session.policy, last, &readings, state.clock.now())))
}
