//! Captured waves of a session: kept, looked at, logged, drawn.

pub mod kept;
pub mod log;
pub mod look;
pub mod picture;

use std::sync::Arc;

use axum::http::StatusCode;
use pukka_core::captured::trace_settings;
use pukka_core::record::session::Trace;
use pukka_core::traces::cut::StretchKind;
use pukka_core::traces::{Cut, Source, SourceError, TraceSettings};
use pukka_store::Store;
use serde::{Deserialize, Serialize};

use super::path::{Path, Query};
use super::{ApiError, State};
use crate::captures::{Asked, CaptureTrouble, Captures, Known, Reading};
use crate::sessions::LoadedSession;

impl From<CaptureTrouble> for ApiError {
    fn from(trouble: CaptureTrouble) -> Self {
        match trouble {
            CaptureTrouble::Store(error) => error.into(),
            CaptureTrouble::Samples(SourceError::Stopped) => {
                Self::new(StatusCode::CONFLICT, "stopped", "The reading was stopped. Nothing was kept.")
            }
            CaptureTrouble::Unreadable(_) | CaptureTrouble::Samples(_) => {
                Self::new(StatusCode::UNPROCESSABLE_ENTITY, "no-recording", trouble.to_string())
            }
        }
    }
}

/// A stretch of a channel: as it was cut, or between ends that somebody moved.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CutView {
    /// The channel, from 0.
    pub channel: usize,
    /// Kind of stretch.
    pub kind: StretchKind,
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
}

impl CutView {
    const fn cut(self) -> Cut {
        let Self { channel, kind, from_s, to_s } = self;
        Cut { channel, kind, from_s, to_s, near_hz: None }
    }
}

/// A kept trace, opened, with its session.
struct Opened {
    row: Arc<LoadedSession>,
    trace: Trace,
    source: Box<dyn Source>,
    known: Arc<Known>,
}

impl Opened {
    fn settings(&self, load_ohm: Option<f64>) -> TraceSettings {
        let limit = self.row.session.policy.thd_limit_ratio.get();
        trace_settings(&self.trace, self.known.recording.channels, load_ohm, limit)
    }
}

/// Opens a trace of a session, and works on it off the async threads. Its reading ends when whoever asked has left.
async fn with<T: Send + 'static>(
    state: &State,
    (id, sha256): (&str, &str),
    work: impl FnOnce(&mut Opened) -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    let row = super::bench::session(state, id).await?;
    let trace = row.session.traces.iter().find(|trace| trace.sha256 == sha256).cloned();
    let trace = trace.ok_or_else(|| ApiError::not_found("trace", sha256))?;
    let (store, captures): (Arc<Store>, Captures) = (Arc::clone(&state.store), state.captures.clone());
    let reading = Arc::new(Reading::default());
    let asked = Asked(Arc::clone(&reading));
    let done = state.compute_long(move || {
        let (source, known) = captures.open(store.files(), &trace.sha256, &reading)?;
        work(&mut Opened { row, trace, source, known })
    });
    let done = done.await?;
    drop(asked);
    done
}
