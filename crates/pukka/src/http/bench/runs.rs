//! The entry line, before and after Enter.

use std::sync::Arc;

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::assess::check_run;
use pukka_core::assess::checks::Check;
use pukka_core::evidence::entry::{self, About, Entry, EntryContext, Readings, Segment};
use pukka_core::evidence::rungs::Rung;
use pukka_core::evidence::{RunFigures, figures};
use pukka_core::kernel::problem::{Problem, check_text};
use pukka_core::plan::ladder::Place;
use pukka_core::plan::run_line::{line_of, run_at};
use pukka_core::record::session::{Idle, Mode, Run, Session};
use pukka_store::{Author, Store, StoreError, WriteTx, new_id, rests, runs, sessions, steps};
use serde::{Deserialize, Serialize};

use super::super::answer::created;
use super::super::body::{Body, sound};
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};
use crate::sessions::LoadedSession;

/// A line that is being typed.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedLine {
    /// Key of the rung.
    pub rung: String,
    /// Mode of the run.
    pub mode: Mode,
    /// The line so far.
    pub line: String,
    /// Counts the keystrokes: an answer to an older one is dropped.
    pub seq: u64,
    /// Lines that the next key may make of it, at most 16: a page that knows them shows the figures with the key itself.
    #[serde(default)]
    #[schema(max_items = 16)]
    pub also: Vec<String>,
}

/// Result of a line so far, and of those it may become.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Preview {
    /// The keystroke it answers.
    pub seq: u64,
    /// Result of the line.
    #[serde(flatten)]
    pub line: UnderstoodLine,
    /// Result of each of the other lines, in their order.
    pub also: Vec<UnderstoodLine>,
}

/// Result of a line.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct UnderstoodLine {
    /// The line, piece by piece.
    pub segments: Vec<Segment>,
    /// Subject of the line.
    pub about: About,
    /// Reason why it cannot be logged yet.
    pub not_yet: Option<String>,
    /// Figures that it would come to.
    pub figures: Option<RunFigures>,
    /// Doubts about it.
    pub checks: Vec<Check>,
}

/// A line to log.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RunToLog {
    /// Key of the rung.
    pub rung: String,
    /// Mode of the run.
    pub mode: Mode,
    /// The line.
    pub line: String,
    /// Happened already, past a gate: log it, keep it out of the verdict until a reason is given.
    #[serde(default)]
    pub happened: bool,
    /// Refuse it, with the doubts, when there is a stop or a doubt about what was read: Enter asks once.
    #[serde(default)]
    pub unless_doubted: bool,
}

/// A line that was logged.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoggedRun {
    /// Subject.
    pub about: About,
    /// Id of the run or of the row; nothing of the idle draw and the rest voltage.
    pub id: Option<String>,
    /// The run to make next; nothing when all are logged.
    pub next: Option<Place>,
    /// Went past a gate without a reason, and stays out of the verdict.
    pub ungated: bool,
}

impl LoggedRun {
    /// The answer that it was logged: where the run is, or the session whose settings it changed.
    pub(super) fn created(self, session_id: &str) -> Response {
        let run = self.id.as_ref().filter(|_| self.about == About::Run).map(|run| format!("/runs/{run}")).unwrap_or_default();
        created(&format!("sessions/{session_id}{run}"), None, self)
    }
}

/// A run in full.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RunView {
    /// Readings, as a line.
    pub line: String,
    /// Figures.
    pub figures: Option<RunFigures>,
    /// Reason why it comes to nothing.
    pub trouble: Option<String>,
    /// Doubts about it.
    pub checks: Vec<Check>,
}

/// Reason why a run is taken back.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TakeBack {
    /// Reason.
    pub reason: String,
}

pub(super) fn understood(session: &Session, rung: &Rung, mode: Mode, line: &str) -> Entry {
    entry::read(line, EntryContext { wiring: rung.id.wiring, mode, meters: &session.bench.meters })
}

/// A line that can be logged, as what it comes to.
pub(super) fn readable(session: &Session, rung: &Rung, mode: Mode, line: &str) -> Result<(About, Readings), ApiError> {
    let Entry { readings, not_yet, about, .. } = understood(session, rung, mode, line);
    match not_yet {
        Some(why) => Err(ApiError::invalid(vec![Problem::new("line", why)])),
        None => Ok((about, readings)),
    }
}

/// Lines that may be asked about beside the one that is typed: a digit more, a point, a space, a character less.
const MOST_ALSO: usize = 16;

/// A line among the runs that are there, before it is logged.
fn look(session: &Session, rung: &Rung, mode: Mode, line: &str, now: jiff::Timestamp) -> UnderstoodLine {
    let Entry { segments, about, readings, not_yet } = understood(session, rung, mode, line);
    let run = run_at(session, rung, mode, readings, "now".into(), now, None);
    let figures = figures(session, &run).ok().filter(|_| matches!(about, About::Run | About::Step));
    let checks = if figures.is_some() && about == About::Run { check_run(session, &run) } else { Vec::new() };
    UnderstoodLine { segments, about, not_yet, figures, checks }
}

/// Result of a line, before it is logged.
#[utoipa::path(post, operation_id = "previewRun", path = "/sessions/{id}/previews", params(("id" = String, Path)), request_body = TypedLine,
    responses((status = 200, body = Preview)))]
pub async fn preview(Ask(state): Ask<State>, Path(id): Path<String>, body: Body<TypedLine>) -> Result<Json<Preview>, ApiError> {
    let TypedLine { rung, mode, line, seq, also } = body.value;
    if also.len() > MOST_ALSO {
        return Err(ApiError::invalid(vec![Problem::new("also", format!("These are {} lines: {MOST_ALSO} at most.", also.len()))]));
    }
    let now = state.clock.now();
    let each = move |_: &Store, row: &Arc<LoadedSession>| {
        let session = &row.session;
        let rung = super::rung(session, &rung)?;
        let also = also.iter().map(|other| look(session, &rung, mode, other, now)).collect();
        Ok(Preview { seq, line: look(session, &rung, mode, &line, now), also })
    };
    state.with_session(&id, each).await.map(Json)
}

/// Refuses a run that a stop or a doubt about its readings names, with each of them.
pub(super) fn not_doubted(session: &Session, run: &Run) -> Result<(), ApiError> {
    let doubts = check_run(session, run).into_iter().filter(Check::asks_before_logging);
    let problems: Vec<Problem> = doubts.map(|check| Problem::new(check.code.word(), format!("{} {}", check.title, check.says))).collect();
    if problems.is_empty() { Ok(()) } else { Err(ApiError::doubted(&run.place_words(), problems)) }
}

/// The run just logged, with the efficiency that its meter showed after it: the run as it was stays to be seen.
fn with_efficiency(session: &Session, readings: &Readings) -> Result<Run, ApiError> {
    let standing: Vec<&str> = session.standing_runs().filter(|run| run.was_read()).map(|run| run.id.as_str()).collect();
    let last = session.runs.iter().rev().find(|run| standing.contains(&run.id.as_str()));
    let refused = |says: &str| ApiError::invalid(vec![Problem::new("line", says)]);
    match last {
        None => Err(refused("An efficiency alone belongs to the run just logged: none is logged yet.")),
        Some(run) if run.mode == Mode::Dynamic => Err(refused("The run just logged is a burst: there is no efficiency of one.")),
        Some(run) => Ok(Run {
            id: new_id(),
            efficiency_read_ratio: readings.efficiency_ratio,
            supersedes: Some(run.id.clone()),
            reason: Some("its efficiency was read after it".into()),
            ..run.clone()
        }),
    }
}

/// Logs a run.
#[utoipa::path(post, operation_id = "logRun", path = "/sessions/{id}/runs", params(("id" = String, Path)), request_body = RunToLog,
    responses((status = 201, body = LoggedRun)))]
pub async fn log(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Body<RunToLog>) -> Result<Response, ApiError> {
    let (author, at, who) = (writing.author(&body.raw), writing.at(), writing.who().to_owned());
    let RunToLog { rung: key, mode, line, happened, unless_doubted } = body.value;
    let place = Place { rung: key, mode };
    let read = {
        let (key, line) = (place.rung.clone(), line.clone());
        move |row: &Arc<LoadedSession>| {
            let rung = super::rung(&row.session, &key)?;
            let (about, readings) = readable(&row.session, &rung, mode, &line)?;
            let with_efficiency = (about == About::Efficiency).then(|| with_efficiency(&row.session, &readings)).transpose()?;
            let run = run_at(&row.session, &rung, mode, readings.clone(), new_id(), at, Some(who));
            let next = (about == About::Run).then(|| row.with_run(&run));
            if let Some(next) = next.as_ref().filter(|_| unless_doubted) {
                not_doubted(next.session(), &run)?;
            }
            Ok(ReadLine { about, readings, with_efficiency, run, next })
        }
    };
    let at_session = id.clone();
    let work = move |tx: &WriteTx, author: &Author, read: ReadLine| {
        let ReadLine { about, readings, with_efficiency, run, next } = read;
        let idle = readings.current_a.map(|current_a| Idle { current_a, supply_v: readings.end_v });
        match (about, readings.step(), idle, readings.end_v) {
            (About::Step, Some(step), ..) => {
                let row = steps::add(tx, author, &at_session, &place, &step, &line)?;
                Ok(LoggedRun { about, id: Some(row), next: Some(place), ungated: false })
            }
            (About::Idle, _, Some(idle), _) => {
                sessions::set_idle(tx, author, &at_session, idle)?;
                Ok(LoggedRun { about, id: None, next: Some(place), ungated: false })
            }
            (About::Rest, .., Some(volts)) => {
                rests::add(tx, author, &at_session, volts)?;
                Ok(LoggedRun { about, id: None, next: Some(place), ungated: false })
            }
            (About::Efficiency, ..) => {
                let Some(run) = with_efficiency else { return Err(StoreError::NotFound { what: "run", id: place.rung }) };
                runs::correct(tx, author, &at_session, &run, &line_of(&run))?;
                Ok(LoggedRun { about, id: Some(run.id), next: Some(place), ungated: false })
            }
            _ => {
                let runs::LoggedRun { id, ungated, next } = runs::log_next(tx, author, &at_session, &run, &line, happened, next)?;
                Ok(LoggedRun { about: About::Run, id: Some(id), next, ungated })
            }
        }
    };
    let logged = state.with_session_once(&id, author, read, work).await?;
    Ok(logged.created(&id))
}

/// A line as it was read among the runs that are there.
struct ReadLine {
    about: About,
    readings: Readings,
    /// The run just logged, with the efficiency that the line says.
    with_efficiency: Option<Run>,
    run: Run,
    /// The session with that run, where it is one.
    next: Option<runs::NextSession>,
}

/// A run in full.
#[utoipa::path(get, operation_id = "getRun", path = "/sessions/{id}/runs/{run}", params(("id" = String, Path), ("run" = String, Path)),
    responses((status = 200, body = RunView)))]
pub async fn get(Ask(state): Ask<State>, Path((id, run)): Path<(String, String)>) -> Result<Json<RunView>, ApiError> {
    let look = move |_: &Store, row: &Arc<LoadedSession>| {
        let found = row.session.run(&run).ok_or_else(|| ApiError::not_found("run", &run))?;
        let (shown, trouble) = match figures(&row.session, found) {
            Ok(shown) => (Some(shown), None),
            Err(why) => (None, Some(why.to_string())),
        };
        let checks = row.checks().iter().filter(|check| check.runs.contains(&run)).cloned().collect();
        Ok(RunView { line: line_of(found), figures: shown, trouble, checks })
    };
    state.with_session(&id, look).await.map(Json)
}

/// Takes a run back; its readings stay, and undo puts it back.
#[utoipa::path(post, operation_id = "takeBackRun", path = "/sessions/{id}/runs/{run}/withdrawal", params(("id" = String, Path), ("run" = String, Path)),
    request_body = TakeBack, responses((status = 204)))]
pub async fn take_back(
    Ask(state): Ask<State>,
    Path((id, run)): Path<(String, String)>,
    writing: Writing,
    body: Body<TakeBack>,
) -> Result<StatusCode, ApiError> {
    let mut problems = Vec::new();
    check_text(&mut problems, "reason", &body.value.reason, true, 500);
    sound(problems)?;
    let author = writing.author(&body.raw);
    let work = move |tx: &WriteTx, author: &Author| runs::take_back(tx, author, &id, &run, &body.value.reason);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}
