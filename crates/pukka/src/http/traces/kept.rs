//! Traces of a session: added, described, removed.

use axum::Json;
use axum::body::Body as Raw;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_capture::open;
use pukka_core::kernel::problem::{Problem, check_text};
use pukka_core::record::session::{Session, Trace, TraceChannel};
use pukka_core::traces::ChannelKind;
use pukka_store::{Author, Kept, Store, WriteTx, traces};
use serde::{Deserialize, Serialize};

use super::super::answer::created;
use super::super::body::{Body, sound};
use super::super::download::spool;
use super::super::writing::Writing;
use super::{ApiError, Asked, Path, Query, Reading, State};
use crate::captures::{CaptureTrouble, first_pass};

/// A trace in the list of its session.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TraceLine {
    /// Hash of its file, in hexadecimal.
    pub sha256: String,
    /// Name of its file.
    pub name: String,
    /// Meaning of its channels.
    pub channels: Vec<TraceChannel>,
    /// Whether its file is here.
    pub is_there: bool,
    /// Runs that stand on it.
    pub runs: Vec<TracedRun>,
}

/// A run that stands on a trace.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TracedRun {
    /// Id.
    pub id: String,
    /// Place: "2 Ω, dynamic".
    pub place: String,
    /// Seconds of the recording where its stretch begins.
    pub from_s: Option<f64>,
}

/// Traces of a session.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Traces {
    /// In the order they were added.
    pub traces: Vec<TraceLine>,
}

/// How far the recording is read that was asked for last.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TraceProgress {
    /// 0 to 1.
    pub part: f64,
}

/// Name of a file that is brought.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct TraceNamed {
    /// Name of the file.
    name: String,
}

/// What is said of a trace.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TraceSaid {
    /// Name.
    pub name: String,
    /// Meaning of its channels, each of them.
    pub channels: Vec<TraceChannel>,
}

/// The largest recording that is taken: a WAV ends there.
const MOST_BYTES: u64 = 4 << 30;

fn line(store: &Store, session: &Session, trace: &Trace) -> TraceLine {
    let own = |run: &&pukka_core::record::session::Run| run.evidence.iter().any(|own| own.sha256.as_ref() == Some(&trace.sha256));
    let traced = |run: &pukka_core::record::session::Run| TracedRun {
        id: run.id.clone(),
        place: run.place_words(),
        from_s: run.evidence.iter().find(|own| own.sha256.as_ref() == Some(&trace.sha256)).and_then(|own| own.from_s),
    };
    TraceLine {
        sha256: trace.sha256.clone(),
        name: trace.name.clone(),
        channels: trace.channels.clone(),
        is_there: store.files().path(Kept::Trace, &trace.sha256).is_ok(),
        runs: session.standing_runs().filter(own).map(traced).collect(),
    }
}

/// Traces of a session.
#[utoipa::path(get, operation_id = "listTraces", path = "/sessions/{id}/traces", params(("id" = String, Path)),
    responses((status = 200, body = Traces)))]
pub async fn list(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<Traces>, ApiError> {
    let row = super::super::bench::session(&state, &id).await?;
    let store = std::sync::Arc::clone(&state.store);
    let made = state.compute(move || row.session.traces.iter().map(|trace| line(&store, &row.session, trace)).collect());
    Ok(Json(Traces { traces: made.await? }))
}

/// How far the recording is read that was asked for last: a long one takes seconds.
#[utoipa::path(get, operation_id = "getTraceProgress", path = "/traces/progress", responses((status = 200, body = TraceProgress)))]
pub async fn progress(Ask(state): Ask<State>) -> Json<TraceProgress> {
    Json(TraceProgress { part: state.captures.part() })
}

/// Keeps a recording with a session: WAV, FLAC, AIFF, CAF or the CSV of an oscilloscope as the body. It is read through first: one that
/// cannot be read whole is refused with the place, and nothing of it is kept. The same recording twice is one.
#[utoipa::path(post, operation_id = "addTrace", path = "/sessions/{id}/traces", params(("id" = String, Path), TraceNamed),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = TraceLine)))]
pub async fn add(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    Query(TraceNamed { name }): Query<TraceNamed>,
    writing: Writing,
    body: Raw,
) -> Result<Response, ApiError> {
    // All of it first: an answer that comes before the body was sent is lost.
    let file = spool(body, state.store.folder(), MOST_BYTES).await?;
    let mut problems = Vec::new();
    check_text(&mut problems, "name", &name, true, 255);
    sound(problems)?;
    super::super::bench::session(&state, &id).await?;
    let reading = std::sync::Arc::new(Reading::default());
    let asked = Asked(std::sync::Arc::clone(&reading));
    let (store, captures, author, session_id) =
        (std::sync::Arc::clone(&state.store), state.captures.clone(), writing.author(b""), id.clone());
    let kept = state.compute_long(move || -> Result<Trace, CaptureTrouble> {
        let mut source = open(file.path())?;
        captures.reads(&reading);
        let known = first_pass(source.as_mut(), file.path(), &reading)?;
        let channels = known.recording.channels;
        let like = store.read(|tx| traces::channels_like(tx, &session_id, channels))?;
        let sha256 = store.files().keep_trace(file.into_part())?;
        let usual = |_| TraceChannel { kind: ChannelKind::Output.word().into(), scale: Some(1.0), ..TraceChannel::default() };
        let trace = Trace { sha256, name, channels: like.unwrap_or_else(|| (0..channels).map(usual).collect()) };
        let (kept, bytes) = (trace.clone(), known.bytes);
        store.write(move |tx| traces::add(tx, &author, &session_id, &kept, bytes))?;
        Ok(trace)
    });
    let kept = kept.await??;
    drop(asked);
    let row = super::super::bench::session(&state, &id).await?;
    let made = line(&state.store, &row.session, row.session.traces.iter().find(|own| own.sha256 == kept.sha256).unwrap_or(&kept));
    Ok(created(&format!("sessions/{id}/traces/{}", made.sha256), None, made))
}

/// Says what the channels of a trace are: output, supply, generator; their scales, and which meter gave them.
#[utoipa::path(put, operation_id = "describeTrace", path = "/sessions/{id}/traces/{sha256}",
    params(("id" = String, Path), ("sha256" = String, Path)), request_body = TraceSaid, responses((status = 204)))]
pub async fn describe(
    Ask(state): Ask<State>,
    Path((id, sha256)): Path<(String, String)>,
    writing: Writing,
    body: Body<TraceSaid>,
) -> Result<StatusCode, ApiError> {
    let TraceSaid { name, channels } = body.value;
    let trace = Trace { sha256, name: name.trim().to_owned(), channels };
    let mut problems = trace.check();
    let row = super::super::bench::session(&state, &id).await?;
    let known = |kind: &str| ChannelKind::ALL.iter().any(|known| known.word() == kind);
    for (i, channel) in trace.channels.iter().enumerate() {
        if !known(&channel.kind) {
            problems.push(Problem::new(format!("channels[{i}].kind"), "An output, supply volts, supply amps, the generator, or unused."));
        }
        if channel.meter.as_ref().is_some_and(|id| row.session.bench.meters.iter().all(|meter| meter.id != *id)) {
            problems.push(Problem::new(format!("channels[{i}].meter"), "The bench has no such meter."));
        }
    }
    sound(problems)?;
    let work = move |tx: &WriteTx, author: &Author| traces::describe(tx, author, &id, &trace);
    state.once(writing.author(&body.raw), work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Removes a trace from its session; undo brings it back. One that backs a run stays.
#[utoipa::path(delete, operation_id = "removeTrace", path = "/sessions/{id}/traces/{sha256}",
    params(("id" = String, Path), ("sha256" = String, Path)), responses((status = 204)))]
pub async fn remove(Ask(state): Ask<State>, Path((id, sha256)): Path<(String, String)>, writing: Writing) -> Result<StatusCode, ApiError> {
    let work = move |tx: &WriteTx, author: &Author| traces::remove(tx, author, &id, &sha256);
    state.once(writing.author(b""), work).await?;
    Ok(StatusCode::NO_CONTENT)
}
