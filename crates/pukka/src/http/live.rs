//! Live runs: started, stopped, looked at as they go, and again afterwards.

use std::time::Duration;

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::live::{Method, Round, Stop};
use pukka_core::plan::ladder::Place;
use pukka_store::lives;
use serde::{Deserialize, Serialize};

use super::answer::created;
use super::body::Body;
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};
use crate::live::{CannotStart, LiveState};

/// A live run to start.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LiveToStart {
    /// The run.
    pub place: Place,
    /// Method.
    pub method: Method,
    /// Rounds a second; 20 when it is left out.
    #[serde(default)]
    pub rounds_per_s: Option<u32>,
}

/// The live run there is, or was.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LiveView {
    /// Nothing when none was started since the program began.
    pub live: Option<LiveState>,
}

/// The rounds of a run that was driven.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Ramp {
    /// The oldest first; none of a run that was logged by hand.
    pub rounds: Vec<Round>,
    /// Distortion that ended it.
    pub limit_ratio: Option<f64>,
}

impl From<CannotStart> for ApiError {
    fn from(error: CannotStart) -> Self {
        match error {
            CannotStart::Store(error) => error.into(),
            other => Self::new(StatusCode::CONFLICT, "cannot-start", other.to_string()),
        }
    }
}

const ROUNDS: std::ops::RangeInclusive<u32> = 1..=200;
const USUAL_ROUNDS: u32 = 20;

/// Starts a live run: gates are judged, the run is armed, the level rises.
#[utoipa::path(post, operation_id = "startLive", path = "/sessions/{id}/live", params(("id" = String, Path)), request_body = LiveToStart,
    responses((status = 201, body = LiveState)))]
pub async fn start(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<LiveToStart>,
) -> Result<Response, ApiError> {
    let LiveToStart { place, method, rounds_per_s } = body.value;
    let rounds = rounds_per_s.unwrap_or(USUAL_ROUNDS).clamp(*ROUNDS.start(), *ROUNDS.end());
    let author = writing.author(&body.raw);
    if let Some(stand_in) = &state.stand_in {
        // On the stand-in bench the load switch follows the run.
        let row = super::bench::session(&state, &id).await?;
        let rung = super::bench::rung(&row.session, &place.rung)?.id;
        super::stand_in::drives(stand_in, usize::from(rung.wiring.outputs()))?;
        super::stand_in::tell(stand_in, &format!("SIM:LOAD {}", rung.load_ohm.get()))?;
    }
    let started = state.driving.begin(&author, &id, place, method, Duration::from_secs(1) / rounds).await?;
    Ok(created("live", None, started))
}

/// Stops the live run, and takes the generator's level away whether or not one is under way.
#[utoipa::path(post, operation_id = "stopLive", path = "/live/stop", responses((status = 204)))]
pub async fn stop(Ask(state): Ask<State>, _writing: Writing) -> StatusCode {
    state.driving.stop(Stop::Key).await;
    StatusCode::NO_CONTENT
}

/// Result of a cut.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CutDone {
    /// In a sentence.
    pub says: String,
}

/// Takes the level away and switches the supply off, where one is under control.
#[utoipa::path(post, operation_id = "cutSupply", path = "/live/cut", responses((status = 200, body = CutDone)))]
pub async fn cut(Ask(state): Ask<State>, _writing: Writing) -> Json<CutDone> {
    Json(CutDone { says: state.driving.cut().await })
}

/// The live run there is, or was.
#[utoipa::path(get, operation_id = "getLive", path = "/live", responses((status = 200, body = LiveView)))]
pub async fn get(Ask(state): Ask<State>) -> Json<LiveView> {
    Json(LiveView { live: state.driving.state() })
}

/// The rounds of a run that was driven, to be looked at again.
#[utoipa::path(get, operation_id = "getRamp", path = "/sessions/{id}/runs/{run}/ramp", params(("id" = String, Path), ("run" = String, Path)),
    responses((status = 200, body = Ramp)))]
pub async fn ramp(Ask(state): Ask<State>, Path((id, run)): Path<(String, String)>) -> Result<Json<Ramp>, ApiError> {
    let row = super::bench::session(&state, &id).await?;
    let limit_ratio = row.session.run(&run).and_then(|run| run.limit_ratio).map(|limit| limit.get());
    let read = move |store: &pukka_store::Store| {
        store.read(|tx| match lives::of_run(tx, &run)? {
            Some(seq) => lives::rounds(tx, seq, None),
            None => Ok(Vec::new()),
        })
    };
    let rounds = state.records(read).await?;
    Ok(Json(Ramp { rounds: rounds.into_iter().map(|(_, round)| round).collect(), limit_ratio }))
}
