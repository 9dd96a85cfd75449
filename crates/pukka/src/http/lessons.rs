//! What the shelf and the bench taught, over all amplifiers.

use axum::Json;
use axum::extract::State as Ask;
use pukka_core::report::lessons::{DueRow, Taught, due, learn};
use pukka_store::{benches, summaries};
use serde::{Deserialize, Serialize};

use super::{ApiError, State};

/// What the shelf and the bench taught.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LessonsView {
    /// From every amplifier, by its session in hand.
    #[serde(flatten)]
    pub taught: Taught,
    /// Meters that are due for a check.
    pub due: Vec<DueRow>,
}

/// What the shelf and the bench taught: what died and where, how each maker's claims came out, what is the same under another name,
/// meters against one another, supplies and loads over the months.
#[utoipa::path(get, operation_id = "getLessons", path = "/lessons", responses((status = 200, body = LessonsView)))]
pub async fn get(Ask(state): Ask<State>) -> Result<Json<LessonsView>, ApiError> {
    let today = jiff::tz::TimeZone::UTC.to_datetime(state.clock.now()).date();
    let (entries, benches) = state.records(|store| store.read(|tx| Ok((summaries::lessons(tx)?, benches::list(tx)?)))).await?;
    let made = state.compute(move || {
        let profiles: Vec<_> = benches.into_iter().map(|row| row.profile).collect();
        LessonsView { taught: learn(&entries), due: due(&profiles, today) }
    });
    Ok(Json(made.await?))
}
