//! What went wrong: one act to log it, and the log across all amplifiers.

use axum::Json;
use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::evidence::entry::Readings;
use pukka_core::kernel::problem::check_text;
use pukka_core::kernel::units::Volts;
use pukka_core::plan::run_line::run_at;
use pukka_core::record::session::{Incident, Mode, Run};
use pukka_store::{incidents, new_id, runs};
use serde::{Deserialize, Serialize};

use super::super::answer::created_at;
use super::super::body::{Body, sound};
use super::super::paging::{Page, cursor};
use super::super::path::{Path, Query};
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// Mishap, if any.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct IncidentToLog {
    /// Key of the rung.
    pub rung: String,
    /// Mode of the run.
    pub mode: Mode,
    /// Kind of incident.
    pub incident: Incident,
    /// Supply volts at that moment.
    pub end_v: Option<Volts>,
    /// Observation.
    pub note: Option<String>,
}

/// An incident.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct IncidentLine {
    /// The amplifier it happened to.
    pub amplifier_id: String,
    /// Name.
    pub amplifier: String,
    /// The run.
    pub run_id: String,
    /// Time of it.
    pub at: String,
    /// Kind of incident.
    pub incident: Incident,
    /// In a sentence.
    pub says: String,
    /// The run's note.
    pub note: Option<String>,
    /// Reason why the plan went on.
    pub seen_to: Option<String>,
    /// Went past a gate without a full reason.
    pub ungated: bool,
}

/// Logs an incident: the plan stops.
#[utoipa::path(post, operation_id = "logIncident", path = "/sessions/{id}/incidents", params(("id" = String, Path)), request_body = IncidentToLog,
    responses((status = 201)))]
pub async fn log(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<IncidentToLog>,
) -> Result<Response, ApiError> {
    let IncidentToLog { rung, mode, incident, end_v, note } = body.value;
    let mut problems = Vec::new();
    check_text(&mut problems, "note", note.as_deref().unwrap_or_default(), false, 2_000);
    sound(problems)?;
    let row = super::session(&state, &id).await?;
    let rung = super::rung(&row.session, &rung)?;
    let readings = Readings { end_v, note: note.filter(|note| !note.trim().is_empty()), ..Readings::default() };
    let made = run_at(&row.session, &rung, mode, readings, new_id(), writing.at(), Some(writing.who().to_owned()));
    let run = Run { incident: Some(incident), method: None, limit_ratio: None, ..made };
    // What happened happened, gate or no gate.
    let at_session = id.clone();
    let logged = state.once(writing.author(&body.raw), move |tx, author| runs::log(tx, author, &id, &run, incident.words(), true)).await?;
    Ok(created_at(&format!("sessions/{at_session}/runs/{}", logged.id)))
}

/// Incidents of all amplifiers.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Incidents {
    /// The newest first.
    pub incidents: Vec<IncidentLine>,
    /// Start of the next page; nothing at the end.
    pub next: Option<String>,
}

/// Every incident, the newest first, a page at a time.
#[utoipa::path(get, operation_id = "listIncidents", path = "/incidents", params(Page), responses((status = 200, body = Incidents)))]
pub async fn list(Ask(state): Ask<State>, Query(page): Query<Page>) -> Result<Json<Incidents>, ApiError> {
    let (after, limit) = page.wanted()?;
    let (rows, next) = state.records(move |store| store.read(|tx| incidents::list(tx, after.as_ref(), limit))).await?;
    let line = |row: incidents::IncidentRow| IncidentLine {
        amplifier_id: row.amplifier_id,
        amplifier: row.amplifier,
        run_id: row.run_id,
        at: row.at,
        incident: row.incident,
        says: row.says,
        note: row.note,
        seen_to: row.seen_to,
        ungated: row.ungated,
    };
    Ok(Json(Incidents { incidents: rows.into_iter().map(line).collect(), next: next.as_ref().map(cursor) }))
}
