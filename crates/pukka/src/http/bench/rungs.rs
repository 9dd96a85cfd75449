//! What is set for a rung.

use axum::Json;
use axum::extract::State as Ask;
use pukka_core::evidence::rungs::RungId;
use pukka_core::kernel::problem::under;
use pukka_core::plan::ladder::Place;
use pukka_core::record::session::{Mode, PlannedRung};
use pukka_store::{Author, WriteTx, rungs};
use serde::{Deserialize, Serialize};

use super::super::body::{Body, sound};
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// What to set.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RungChange {
    /// Key of the rung it is set for; nothing to add one.
    pub rung: Option<String>,
    /// What to set. Fields left out go back to what carries over.
    pub set: PlannedRung,
}

/// Sets a rung, or adds one; answers with its key, which holds its tone.
#[utoipa::path(put, operation_id = "saveRung", path = "/sessions/{id}/rungs", params(("id" = String, Path)), request_body = RungChange,
    responses((status = 200, body = Place)))]
pub async fn save(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<RungChange>,
) -> Result<Json<Place>, ApiError> {
    let row = super::session(&state, &id).await?;
    sound(under("set", body.value.set.check(row.session.amplifier.channels)))?;
    let RungChange { rung, mut set } = body.value;
    let own_tone = || pukka_core::evidence::rungs::own_tone(&row.session);
    let tone_hz = *set.tone_hz.get_or_insert_with(own_tone);
    let old = match &rung {
        Some(key) => super::rung(&row.session, key)?.set,
        None => set.clone(),
    };
    let key = RungId { wiring: set.wiring, setting: set.setting.clone(), load_ohm: set.load_ohm, tone_hz }.key();
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    let work = move |tx: &WriteTx, author: &Author| rungs::save(tx, author, &id, &old, revision, &set);
    state.once(author, work).await?;
    Ok(Json(Place { rung: key, mode: Mode::Certified }))
}
