//! What is done to a run after it was logged: corrected, a reading struck, a check accepted; and its history.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::evidence::entry::About;
use pukka_core::evidence::rungs::RungId;
use pukka_core::kernel::problem::{Problem, check_text};
use pukka_core::plan::run_line::{line_of, run_at};
use pukka_core::record::session::{ReadingName, Run, Session};
use pukka_store::remarks::{self, Kind, Remark};
use pukka_store::{new_id, runs};
use serde::{Deserialize, Serialize};

use super::super::answer::created_at;
use super::super::body::{Body, sound};
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};
use super::runs::readable;

/// A line that takes the place of another.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Correction {
    /// The line as it should have been.
    pub line: String,
    /// Reason.
    pub reason: String,
}

/// Task of a remark.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum RemarkKind {
    /// A reading is kept and shown, but not computed with.
    Strike,
    /// A check is settled as it stands.
    Accept,
    /// Words about the run, in place of those before.
    Note,
}

/// A remark on a run.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RemarkToAdd {
    /// Kind.
    pub kind: RemarkKind,
    /// The reading to strike, or the code of the check; nothing of a note.
    #[serde(default)]
    pub what: String,
    /// Reason; the words of a note, none to take the note away.
    pub reason: String,
}

/// A meter that was found wrong.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MeterFoundWrong {
    /// Reason.
    pub reason: String,
}

/// Number of runs that something touched.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct StruckRuns {
    /// Runs.
    pub runs: usize,
}

/// A row of a run's history, the oldest first.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct HistoryRow {
    /// Time of it.
    pub at: String,
    /// Name of the person.
    pub who: String,
    /// Event: "logged", "corrected", "struck current_a", "accepted over-unity", "taken back", "put back".
    pub what: String,
    /// The line, of a run as it was logged.
    pub line: Option<String>,
    /// Reason.
    pub reason: Option<String>,
}

fn with_reason(reason: &str) -> Result<(), ApiError> {
    checked(reason, true, 500)
}

fn checked(reason: &str, is_needed: bool, most: usize) -> Result<(), ApiError> {
    let mut problems = Vec::new();
    check_text(&mut problems, "reason", reason, is_needed, most);
    sound(problems)
}

fn of<'a>(session: &'a Session, id: &str) -> Result<&'a Run, ApiError> {
    session.run(id).ok_or_else(|| ApiError::not_found("run", id))
}

/// Corrects a run: the line is logged again, and the old one stays to be seen.
#[utoipa::path(post, operation_id = "correctRun", path = "/sessions/{id}/runs/{run}/corrections", params(("id" = String, Path), ("run" = String, Path)),
    request_body = Correction, responses((status = 201)))]
pub async fn correct(
    Ask(state): Ask<State>,
    Path((id, old)): Path<(String, String)>,
    writing: Writing,
    body: Body<Correction>,
) -> Result<Response, ApiError> {
    let Correction { line, reason } = body.value;
    with_reason(&reason)?;
    let row = super::session(&state, &id).await?;
    let old = of(&row.session, &old)?;
    let rung = super::rung(&row.session, &RungId::of(old).key())?;
    let (about, readings) = readable(&row.session, &rung, old.mode, &line)?;
    if about != About::Run {
        return Err(ApiError::invalid(vec![Problem::new("line", "A run is corrected by the line of a run.")]));
    }
    let charger_on = readings.charger_on.or(old.charger_on);
    let made = run_at(&row.session, &rung, old.mode, readings, new_id(), old.at, old.who.clone());
    let run = Run {
        rest_v: made.rest_v.or(old.rest_v),
        load_measured_ohm: old.load_measured_ohm,
        group_loads_measured_ohm: old.group_loads_measured_ohm.clone(),
        charger_on,
        bank: old.bank.clone(),
        evidence: old.evidence.clone(),
        extra_drive_db: old.extra_drive_db,
        limit_ratio: old.limit_ratio,
        incident: old.incident,
        supersedes: Some(old.id.clone()),
        reason: Some(reason),
        ..made
    };
    let at = format!("sessions/{id}/runs/{}", run.id);
    state.once(writing.author(&body.raw), move |tx, author| runs::correct(tx, author, &id, &run, &line)).await?;
    Ok(created_at(&at))
}

/// Strikes a reading, accepts a check with a reason, or puts a note on a run.
#[utoipa::path(post, operation_id = "remarkOnRun", path = "/sessions/{id}/runs/{run}/remarks", params(("id" = String, Path), ("run" = String, Path)),
    request_body = RemarkToAdd, responses((status = 204)))]
pub async fn remark(
    Ask(state): Ask<State>,
    Path((id, run)): Path<(String, String)>,
    writing: Writing,
    body: Body<RemarkToAdd>,
) -> Result<StatusCode, ApiError> {
    let RemarkToAdd { kind, what, reason } = body.value;
    let what = if matches!(kind, RemarkKind::Note) {
        checked(&reason, false, 2_000)?;
        "note".to_owned()
    } else {
        with_reason(&reason)?;
        what
    };
    let kind = match kind {
        RemarkKind::Strike if !ReadingName::from_word(&what).is_some_and(ReadingName::is_single) => {
            let names: Vec<&str> = ReadingName::ALL.iter().filter(|name| name.is_single()).map(|name| name.word()).collect();
            let says = format!("“{what}” is no reading that can be struck: {}.", names.join(", "));
            return Err(ApiError::invalid(vec![Problem::new("what", says)]));
        }
        RemarkKind::Strike => Kind::Strike,
        RemarkKind::Accept => Kind::Accept,
        RemarkKind::Note => Kind::Note,
    };
    let mut problems = Vec::new();
    check_text(&mut problems, "what", &what, true, 60);
    sound(problems)?;
    let remark = Remark { kind, what, reason };
    state.once(writing.author(&body.raw), move |tx, author| remarks::add(tx, author, &id, &run, &remark)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Strikes every reading of a meter in a session, in one act.
#[utoipa::path(post, operation_id = "strikeMeter", path = "/sessions/{id}/meters/{meter}/strikes", params(("id" = String, Path), ("meter" = String, Path)),
    request_body = MeterFoundWrong, responses((status = 200, body = StruckRuns)))]
pub async fn strike_meter(
    Ask(state): Ask<State>,
    Path((id, meter)): Path<(String, String)>,
    writing: Writing,
    body: Body<MeterFoundWrong>,
) -> Result<Json<StruckRuns>, ApiError> {
    with_reason(&body.value.reason)?;
    let row = super::session(&state, &id).await?;
    if !row.session.bench.meters.iter().any(|known| known.id == meter) {
        return Err(ApiError::not_found("meter", &meter));
    }
    let reason = body.value.reason;
    let work = move |tx: &pukka_store::WriteTx, author: &pukka_store::Author| runs::strike_meter(tx, author, &id, &meter, &reason);
    let runs = state.once(writing.author(&body.raw), work).await?;
    Ok(Json(StruckRuns { runs }))
}

/// The history of a run: as it was first logged, and all that was done to it since, corrections among it.
#[utoipa::path(get, operation_id = "runHistory", path = "/sessions/{id}/runs/{run}/history", params(("id" = String, Path), ("run" = String, Path)),
    responses((status = 200, body = Vec<HistoryRow>)))]
pub async fn history(Ask(state): Ask<State>, Path((id, run)): Path<(String, String)>) -> Result<Json<Vec<HistoryRow>>, ApiError> {
    let row = super::session(&state, &id).await?;
    of(&row.session, &run)?;
    let chain = chain(&row.session, &run);
    let ids: Vec<String> = chain.iter().map(|run| run.id.clone()).collect();
    let remarks = state
        .records(move |store| {
            store.read(|tx| ids.iter().map(|id| Ok((remarks::list(tx, id)?, remarks::standings(tx, id)?))).collect::<Result<Vec<_>, _>>())
        })
        .await?;
    let mut rows: Vec<HistoryRow> = chain.iter().map(|run| as_logged(run)).collect();
    for (remarks, standings) in remarks {
        rows.extend(remarks.into_iter().map(of_remark));
        rows.extend(standings.into_iter().map(|s| HistoryRow {
            at: s.at,
            who: s.who,
            what: if s.stands { "put back" } else { "taken back" }.into(),
            line: None,
            reason: Some(s.reason),
        }));
    }
    rows.sort_by(|a, b| a.at.cmp(&b.at));
    Ok(Json(rows))
}

/// A run with what it corrected, back to the first, and with what corrected it since: it is one history, whichever is asked for.
fn chain<'a>(session: &'a Session, id: &str) -> Vec<&'a Run> {
    let corrected = |run: &'a Run| run.supersedes.as_deref().and_then(|old| session.run(old));
    let correction = |run: &'a Run| session.runs.iter().rev().find(|other| other.supersedes.as_deref() == Some(run.id.as_str()));
    let mut chain: Vec<&Run> = walk(session.run(id), corrected);
    chain.reverse();
    chain.extend(walk(chain.last().copied().and_then(correction), correction));
    chain
}

/// From one to the next, as long as there is another.
fn walk<'a>(first: Option<&'a Run>, next: impl Fn(&'a Run) -> Option<&'a Run>) -> Vec<&'a Run> {
    let mut seen: Vec<&Run> = Vec::new();
    let mut at = first;
    while let Some(run) = at.filter(|run| !seen.iter().any(|known| known.id == run.id)) {
        seen.push(run);
        at = next(run);
    }
    seen
}

fn as_logged(run: &Run) -> HistoryRow {
    HistoryRow {
        at: run.at.to_string(),
        who: run.who.clone().unwrap_or_default(),
        what: if run.supersedes.is_some() { "corrected" } else { "logged" }.into(),
        line: Some(line_of(run)),
        reason: run.reason.clone(),
    }
}

fn of_remark(row: remarks::Row) -> HistoryRow {
    let Remark { kind, what, reason } = row.remark;
    let what = match (kind, row.stands) {
        (Kind::Strike, true) => format!("struck {what}"),
        (Kind::Strike, false) => format!("no longer struck: {what}"),
        (Kind::Accept, true) => format!("accepted {what}"),
        (Kind::Accept, false) => format!("no longer accepted: {what}"),
        (Kind::Note, true) => "noted".into(),
        (Kind::Note, false) => "note taken back".into(),
    };
    HistoryRow { at: row.at, who: row.who, what, line: None, reason: Some(reason) }
}
