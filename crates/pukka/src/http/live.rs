//! Live runs: started, stopped, looked at as they go, and again afterwards.

use std::convert::Infallible;
use std::time::Duration;

use axum::Json;
use axum::extract::State as Ask;
use axum::http::{HeaderMap, StatusCode};
use axum::response::sse::{Event, KeepAlive};
use axum::response::{Response, Sse};
use futures_util::stream::{self, Stream};
use pukka_core::live::{Method, Round, Stop};
use pukka_core::plan::ladder::Place;
use pukka_store::lives;
use serde::{Deserialize, Serialize};
use tokio::sync::broadcast::error::RecvError;
use tokio::sync::{broadcast, watch};

use super::answer::created;
use super::body::Body;
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};
use crate::live::{CannotStart, KeptRound, LiveState};

/// A live run to start.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LiveToStart {
    /// Which run.
    pub place: Place,
    /// How it is driven.
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
/// A stream that says nothing for two of these is taken for broken by the page.
const BEATS: Duration = Duration::from_secs(1);

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

struct Looking {
    state: State,
    states: watch::Receiver<Option<LiveState>>,
    rounds: broadcast::Receiver<KeptRound>,
    ending: watch::Receiver<bool>,
    /// Rounds that were kept while the browser was away.
    missed: std::collections::VecDeque<KeptRound>,
    seen: Option<(i64, u64)>,
}

/// Events as they come: `state` for a change of the run, `round` for readings, each after it was kept. A browser that was away
/// says with Last-Event-ID what it has seen, and gets what it missed.
#[utoipa::path(get, operation_id = "liveEvents", path = "/live/events", responses((status = 200, content_type = "text/event-stream", body = String)))]
pub async fn events(Ask(state): Ask<State>, headers: HeaderMap) -> Sse<impl Stream<Item = Result<Event, Infallible>>> {
    let seen = headers.get("last-event-id").and_then(|id| id.to_str().ok()).and_then(parse_id);
    let mut states = state.driving.states();
    states.mark_changed();
    let mut looking = Looking {
        states,
        // Listened to before the records are read: nothing falls between the two.
        rounds: state.driving.rounds(),
        ending: state.driving.ending(),
        missed: std::collections::VecDeque::new(),
        seen,
        state,
    };
    looking.catch_up().await;
    let stream = stream::unfold(looking, |mut looking| async move {
        let event = looking.next().await?;
        Some((Ok(event), looking))
    });
    Sse::new(stream).keep_alive(KeepAlive::default())
}

fn parse_id(id: &str) -> Option<(i64, u64)> {
    let (seq, n) = id.split_once(':')?;
    Some((seq.parse().ok()?, n.parse().ok()?))
}

enum Heard {
    /// Nothing for a while: the browser is told that the stream is alive.
    Beat,
    State(Option<LiveState>),
    Round(KeptRound),
    /// More came than a browser was fast enough for.
    Behind,
    Ending,
}

impl Looking {
    /// Reads what was kept of the run there is, after what was seen of it.
    async fn catch_up(&mut self) {
        let Some(seq) = self.states.borrow().as_ref().map(|live| live.seq) else { return };
        let after = self.seen.filter(|(known, _)| *known == seq).map(|(_, n)| n);
        let read = self.state.records(move |store| store.read(|tx| lives::rounds(tx, seq, after))).await;
        if let Ok(rounds) = read {
            self.missed = rounds.into_iter().map(|(n, round)| KeptRound { seq, n, round, kept_after_ms: 0.0 }).collect();
        }
    }

    /// The next event; nothing when the program is being ended.
    async fn next(&mut self) -> Option<Event> {
        loop {
            if let Some(kept) = self.missed.pop_front() {
                return Some(self.round(&kept));
            }
            match self.heard().await {
                Heard::Ending => return None,
                Heard::Beat => return Some(Event::default().event("beat").data("1")),
                Heard::State(live) => {
                    let data = serde_json::to_string(&LiveView { live }).unwrap_or_default();
                    return Some(Event::default().event("state").data(data));
                }
                Heard::Round(kept) if self.is_seen(&kept) => {}
                Heard::Round(kept) => return Some(self.round(&kept)),
                Heard::Behind => self.catch_up().await,
            }
        }
    }

    async fn heard(&mut self) -> Heard {
        tokio::select! {
            _ = self.ending.wait_for(|over| *over) => Heard::Ending,
            () = tokio::time::sleep(BEATS) => Heard::Beat,
            changed = self.states.changed() => match changed {
                Ok(()) => Heard::State(self.states.borrow_and_update().clone()),
                Err(_) => Heard::Ending,
            },
            kept = self.rounds.recv() => match kept {
                Ok(kept) => Heard::Round(kept),
                Err(RecvError::Lagged(_)) => Heard::Behind,
                Err(RecvError::Closed) => Heard::Ending,
            },
        }
    }

    fn is_seen(&self, kept: &KeptRound) -> bool {
        self.seen.is_some_and(|(seq, n)| seq == kept.seq && kept.n <= n)
    }

    fn round(&mut self, kept: &KeptRound) -> Event {
        self.seen = Some((kept.seq, kept.n));
        let data = serde_json::to_string(kept).unwrap_or_default();
        Event::default().event("round").id(format!("{}:{}", kept.seq, kept.n)).data(data)
    }
}
