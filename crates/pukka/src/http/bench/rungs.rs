//! What is set for a rung.

use axum::Json;
use axum::extract::State as Ask;
use pukka_core::evidence::rungs::{RungId, bare, rungs as all_rungs};
use pukka_core::kernel::problem::{Problem, under};
use pukka_core::plan::ladder::Place;
use pukka_core::record::session::{Mode, PlannedRung, Session};
use pukka_store::{Author, WriteTx, rungs};
use serde::{Deserialize, Serialize};

use super::super::body::{Body, sound};
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// Settings to change.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RungChange {
    /// Key of the rung it is set for; nothing to add one.
    pub rung: Option<String>,
    /// Settings. Fields left out go back to what carries over.
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
    let wanted = RungId { wiring: set.wiring, setting: set.setting.clone(), load_ohm: set.load_ohm, tone_hz };
    let key = wanted.key();
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    if let Some(known) = rung {
        let old = super::rung(&row.session, &known)?.set;
        state.once(author, move |tx: &WriteTx, author: &Author| rungs::save(tx, author, &id, &old, revision, &set)).await?;
    } else {
        let keep = beside(&row.session, &wanted)?;
        state.once(author, move |tx: &WriteTx, author: &Author| rungs::add(tx, author, &id, &set, &keep)).await?;
    }
    Ok(Json(Place { rung: key, mode: Mode::Certified }))
}

/// Rungs at the same load and another tone that nobody set: a rung that is added must not take their place.
fn beside(session: &Session, wanted: &RungId) -> Result<Vec<PlannedRung>, ApiError> {
    let ladder = all_rungs(session);
    let there = ladder.iter().any(|rung| rung.id.is(wanted));
    let says = "There is a rung for this load, wiring and tone already: set that one.";
    sound(there.then(|| Problem::new("set.load_ohm", says)).into_iter().collect())?;
    let planned = |id: &RungId| session.plan.rungs.iter().any(|planned| id.is_planned(planned, session));
    let at_its_load = |id: &RungId| RungId { tone_hz: wanted.tone_hz, ..id.clone() }.is(wanted);
    Ok(ladder.into_iter().filter(|rung| at_its_load(&rung.id) && !planned(&rung.id)).map(|rung| bare(rung.id).set).collect())
}
