//! A stretch becomes a run: what it would be, and the run itself.

use axum::Json;
use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::captured::{CapturedReading, Moment, Unfit, captured_run, reading, with_second_meter};
use pukka_core::evidence::figures;
use pukka_core::evidence::rungs::Rung;
use pukka_core::kernel::problem::Problem;
use pukka_core::kernel::working::Figure;
use pukka_core::plan::ladder::find;
use pukka_core::plan::run_line::line_of;
use pukka_core::record::session::{Mode, Run};
use pukka_core::traces::cut::StretchKind;
use pukka_core::traces::report::{Stretch, SupplyFigures};
use pukka_core::traces::{ChannelKind, Cut, TraceSettings, cut_anew};
use pukka_store::{Author, WriteTx, new_id, runs};
use serde::{Deserialize, Serialize};

use super::super::answer::created;
use super::super::body::{Body, sound};
use super::super::writing::Writing;
use super::{ApiError, CutView, Opened, Path, State, with};
use crate::captures::CaptureTrouble;

/// A stretch as a run of a place.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CapturedToLog {
    /// The stretch, of any of the outputs: the others at the same time come along.
    pub cut: CutView,
    /// Key of the rung.
    pub rung: String,
    /// Mode of the run.
    pub mode: Mode,
    /// A run of this id was typed by hand already: the trace is a second meter of it.
    #[serde(default)]
    pub second_of: Option<String>,
    /// Happened already, past a gate: log it, keep it out of the verdict until a reason is given.
    #[serde(default)]
    pub happened: bool,
}

/// What it would be.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CapturedPreview {
    /// Why it is no such run; nothing when it is one.
    pub unfit: Option<String>,
    /// Readings, as a line.
    pub line: Option<String>,
    /// Power in total.
    pub power: Option<Figure>,
    /// Runs of this place and mode that were typed by hand: it can be a second meter of one of them.
    pub typed: Vec<TypedRun>,
}

/// A run that was typed by hand.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TypedRun {
    /// Id.
    pub id: String,
    /// Readings, as a line.
    pub line: String,
}

/// A run that was logged of a trace.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CapturedRun {
    /// Id.
    pub id: String,
    /// Place: "2 Ω, dynamic".
    pub place: String,
    /// Readings, as a line.
    pub line: String,
    /// Went past a gate without a reason, and stays out of the verdict.
    pub ungated: bool,
}

/// Seconds on either side of a moment that the supply is read over.
const AROUND_S: f64 = 0.05;

/// The outputs at the time of a stretch, and the supply just there.
fn moment(opened: &mut Opened, asked: &TraceSettings, cut: CutView) -> Result<Moment, CaptureTrouble> {
    let Opened { source, known, .. } = opened;
    let first = cut_anew(source.as_mut(), asked, &known.levels, cut.cut())?;
    let mut outputs: Vec<(usize, Stretch)> = Vec::new();
    for (n, setting) in asked.channels.iter().enumerate() {
        if n == cut.channel {
            outputs.push((n, first.clone()));
        } else if setting.kind == ChannelKind::Output {
            let same = Cut { channel: n, near_hz: first.frequency_hz, ..cut.cut() };
            let other = cut_anew(source.as_mut(), asked, &known.levels, same)?;
            // One that is not driven is not there.
            if other.rms > SILENT * first.rms {
                outputs.push((n, other));
            }
        }
    }
    let (at_s, seconds) = (first.certified.map(|found| found.at_s), known.recording.seconds());
    let supply = |from_s: f64, to_s: f64, source: &mut dyn pukka_core::traces::Source| -> Result<Option<SupplyFigures>, CaptureTrouble> {
        let span = Cut { kind: StretchKind::Quiet, from_s: from_s.max(0.0), to_s: to_s.min(seconds), ..cut.cut() };
        Ok(cut_anew(source, asked, &known.levels, span)?.supply)
    };
    let is_ramp = matches!(first.kind, StretchKind::Ramp | StretchKind::Steps);
    let top = || first.points.iter().flatten().max_by(|a, b| a.rms.total_cmp(&b.rms)).map(|top| top.at_s);
    let supply_then = match at_s.or_else(top).filter(|_| is_ramp) {
        Some(at) => supply(at - AROUND_S, at + AROUND_S, source.as_mut())?,
        None => None,
    };
    // Before anything was driven: what the recording begins with, if that is silence.
    let rest_hops = (REST_S * known.recording.rate_hz) as usize / known.levels.hop;
    let begins_with = || known.levels.channels[cut.channel].peak(0, rest_hops) * asked.channels[cut.channel].scale.abs();
    let is_first = first.from_s > REST_S && begins_with() < SILENT * first.peak;
    let rest_v = if is_first { supply(0.0, REST_S, source.as_mut())?.and_then(|rest| rest.mean_v) } else { None };
    Ok(Moment { outputs, supply: supply_then, rest_v })
}

/// Part of the loudest output below which another is not driven.
const SILENT: f64 = 0.02;
/// Seconds of silence that the supply at rest is read over.
const REST_S: f64 = 0.01;

/// The place that is asked for, and what the stretch reads as a run of it, or why it is none.
fn read(opened: &mut Opened, wanted: &CapturedToLog) -> Result<(Rung, Result<CapturedReading, Unfit>), ApiError> {
    let rung = find(&opened.row.session, &wanted.rung).ok_or_else(|| ApiError::not_found("rung", &wanted.rung))?;
    let load = rung.set.load_measured_ohm.unwrap_or(rung.id.load_ohm).get();
    let asked = opened.settings(Some(load));
    let moment = moment(opened, &asked, wanted.cut)?;
    let found = reading(&opened.row.session, &rung, wanted.mode, &opened.trace, &moment);
    Ok((rung, found))
}

fn made(opened: &Opened, wanted: &CapturedToLog, (rung, found): (&Rung, &CapturedReading), writing: &Stamp) -> Result<Run, ApiError> {
    let (id, at, who) = (new_id(), writing.at, Some(writing.who.clone()));
    match &wanted.second_of {
        None => Ok(captured_run(&opened.row.session, rung, wanted.mode, (&opened.trace, found), (id, at, who))),
        Some(first) => {
            let run = opened.row.session.standing_runs().find(|run| run.id == *first).ok_or_else(|| ApiError::not_found("run", first))?;
            Ok(with_second_meter(run, &opened.trace, found, id))
        }
    }
}

/// When and by whom.
#[derive(Debug, Clone)]
struct Stamp {
    at: jiff::Timestamp,
    who: String,
}

/// What a stretch would be as a run of a place: its readings and its power, or why it is none. Nothing is logged.
#[utoipa::path(post, operation_id = "previewCaptured", path = "/sessions/{id}/traces/{sha256}/previews",
    params(("id" = String, Path), ("sha256" = String, Path)), request_body = CapturedToLog, responses((status = 200, body = CapturedPreview)))]
pub async fn preview(
    Ask(state): Ask<State>,
    Path((id, sha256)): Path<(String, String)>,
    body: Body<CapturedToLog>,
) -> Result<Json<CapturedPreview>, ApiError> {
    let (wanted, stamp) = (body.value, Stamp { at: state.clock.now(), who: "local".into() });
    let made = with(&state, (&id, &sha256), move |opened| {
        let (rung, found) = read(opened, &wanted)?;
        let is_there = |run: &&Run| rung.id.is_of(run) && run.mode == wanted.mode && run.evidence.is_empty() && run.was_read();
        let typed =
            opened.row.session.standing_runs().filter(is_there).map(|run| TypedRun { id: run.id.clone(), line: line_of(run) }).collect();
        Ok(match found {
            Err(why) => CapturedPreview { unfit: Some(why.to_string()), line: None, power: None, typed },
            Ok(found) => {
                let run = made(opened, &CapturedToLog { second_of: None, ..wanted }, (&rung, &found), &stamp)?;
                let power = figures(&opened.row.session, &run).ok().map(|figures| figures.total);
                CapturedPreview { unfit: None, line: Some(line_of(&run)), power, typed }
            }
        })
    });
    Ok(Json(made.await?))
}

/// Logs a stretch as a run of a place, or as a second meter of one that was typed by hand. The trace is its evidence.
#[utoipa::path(post, operation_id = "logCaptured", path = "/sessions/{id}/traces/{sha256}/runs",
    params(("id" = String, Path), ("sha256" = String, Path)), request_body = CapturedToLog, responses((status = 201, body = CapturedRun)))]
pub async fn log(
    Ask(state): Ask<State>,
    Path((id, sha256)): Path<(String, String)>,
    writing: Writing,
    body: Body<CapturedToLog>,
) -> Result<Response, ApiError> {
    let author = writing.author(&body.raw);
    let (wanted, stamp) = (body.value, Stamp { at: writing.at(), who: writing.who().to_owned() });
    let asked = wanted.clone();
    let run = with(&state, (&id, &sha256), move |opened| {
        let (rung, found) = read(opened, &asked)?;
        let found = found.map_err(|why| ApiError::invalid(vec![Problem::new("cut", why.to_string())]))?;
        let run = made(opened, &asked, (&rung, &found), &stamp)?;
        sound(run.check(&opened.row.session))?;
        Ok((run, opened.trace.name.clone()))
    });
    let (run, name) = run.await?;
    let session_id = id.clone();
    let happened = wanted.happened;
    let work = move |tx: &WriteTx, author: &Author| {
        let entry = format!("{name}: {}", line_of(&run));
        let (run_id, ungated) = if run.supersedes.is_some() {
            runs::correct(tx, author, &session_id, &run, &entry)?;
            (run.id.clone(), false)
        } else {
            let logged = runs::log(tx, author, &session_id, &run, &entry, happened)?;
            (logged.id, logged.ungated)
        };
        Ok(CapturedRun { id: run_id, place: run.place_words(), line: line_of(&run), ungated })
    };
    let logged = state.once(author, work).await?;
    Ok(created(&format!("sessions/{id}/runs/{}", logged.id), None, logged))
}
