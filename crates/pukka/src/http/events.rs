//! What happens, as it happens: the live run's readings, and changes of the records.

use std::convert::Infallible;
use std::time::Duration;

use axum::extract::State as Ask;
use axum::http::HeaderMap;
use axum::response::Sse;
use axum::response::sse::{Event, KeepAlive};
use futures_util::stream::{self, Stream};
use pukka_store::{self as store, lives};
use serde::Serialize;
use tokio::sync::broadcast::error::RecvError;
use tokio::sync::{broadcast, watch};

use super::State;
use super::live::LiveView;
use crate::live::{KeptRound, LiveState};

/// A stream that says nothing for two of these is taken for broken by the page.
const BEATS: Duration = Duration::from_secs(1);
/// Most changes that may wait for a browser that is slow to take them.
const WAITING: usize = 256;

/// A change of the records.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct Change {
    /// The tab it was made in; “lines” where the lines of the shelf were made, which lists are sorted and searched by.
    pub tab: String,
    /// The amplifiers it concerns; none when it may concern anything.
    pub amplifiers: Vec<String>,
}

/// Place where changes of the records are heard.
#[derive(Debug, Clone)]
pub struct Changes(broadcast::Sender<store::Change>);

impl Changes {
    /// The changes of these records.
    #[must_use]
    pub fn of(records: &store::Store) -> Self {
        let (tell, _) = broadcast::channel(WAITING);
        let changes = Self(tell.clone());
        // Nobody may be listening.
        records.on_change(move |change| drop(tell.send(change)));
        changes
    }

    fn hear(&self) -> broadcast::Receiver<store::Change> {
        self.0.subscribe()
    }
}

struct Looking {
    state: State,
    states: watch::Receiver<Option<LiveState>>,
    rounds: broadcast::Receiver<KeptRound>,
    changes: broadcast::Receiver<store::Change>,
    ending: watch::Receiver<bool>,
    /// Rounds that were kept while the browser was away.
    missed: std::collections::VecDeque<KeptRound>,
    seen: Option<(i64, u64)>,
}

/// One event of the stream, by its fields.
#[derive(Debug, utoipa::ToSchema)]
#[expect(dead_code, reason = "it describes what is sent")]
pub struct StreamedEvent {
    /// Kind.
    event: EventKind,
    /// What it says: JSON of a `LiveView`, a `KeptRound` or a `Change`; of a beat nothing of interest.
    data: String,
    /// Of a round: the run and the round, to go on from.
    id: Option<String>,
}

/// Kind of an event.
#[derive(Debug, utoipa::ToSchema)]
#[schema(rename_all = "kebab-case")]
#[expect(dead_code, reason = "it describes what is sent")]
pub enum EventKind {
    State,
    Round,
    Change,
    Beat,
}

/// Events as they come: `state` for a change of the run, `round` for readings, each after it was kept, `change` for a change of the
/// records by whoever made it, `beat` every second when there is nothing to say. A browser that was away
/// says with Last-Event-ID what it has seen, and gets what it missed.
#[utoipa::path(get, operation_id = "liveEvents", path = "/live/events", responses((status = 200, content_type = "text/event-stream", body = StreamedEvent)))]
pub async fn events(Ask(state): Ask<State>, headers: HeaderMap) -> Sse<impl Stream<Item = Result<Event, Infallible>>> {
    let seen = headers.get("last-event-id").and_then(|id| id.to_str().ok()).and_then(parse_id);
    let mut states = state.driving.states();
    states.mark_changed();
    let mut looking = Looking {
        states,
        // Listened to before the records are read: nothing falls between the two.
        rounds: state.driving.rounds(),
        changes: state.changes.hear(),
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
    Change(Change),
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
                Heard::Change(change) => {
                    let data = serde_json::to_string(&change).unwrap_or_default();
                    return Some(Event::default().event("change").data(data));
                }
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
            change = self.changes.recv() => match change {
                Ok(store::Change { tab, amplifiers }) => Heard::Change(Change { tab, amplifiers }),
                // Which changes were missed nobody knows: everything is to be asked for again.
                Err(RecvError::Lagged(_)) => Heard::Change(Change { tab: String::new(), amplifiers: Vec::new() }),
                Err(RecvError::Closed) => Heard::Ending,
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
