//! Sessions of an amplifier that came to the bench more than once: listed, opened, taken in hand, and set against one another.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use jiff::civil::Date;
use pukka_core::assess::Overall;
use pukka_core::kernel::problem::{Problem, check_text};
use pukka_core::record::claims::USUAL_SUPPLY_V;
use pukka_core::report::compare::{Changes, Contender, changes};
use pukka_store::{Author, StoreError, WriteTx, retests};
use serde::{Deserialize, Serialize};

use super::answer::created;
use super::body::{Body, sound};
use super::compare::volts_of;
use super::path::{Path, Query};
use super::writing::Writing;
use super::{ApiError, State};
use crate::sessions::LoadedSession;

/// A session in the list of its amplifier.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SessionLine {
    /// Id.
    pub id: String,
    /// The day it was measured, else the day it was opened.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// The same in words: "12 October 2025".
    pub on_words: String,
    /// Reason why the amplifier came again.
    pub occasion: Option<String>,
    /// Runs that stand.
    pub runs: usize,
    /// The word over all of its verdict.
    pub overall: Option<Overall>,
    /// The same, as shown.
    pub overall_word: String,
    /// Whether it is the one in hand: shown on the shelf and logged into.
    pub in_hand: bool,
}

impl TryFrom<retests::RetestRow> for SessionLine {
    type Error = StoreError;

    fn try_from(row: retests::RetestRow) -> Result<Self, StoreError> {
        let on = day_of(row.measured_on, &row.opened_at)?;
        Ok(Self {
            id: row.id,
            on,
            on_words: in_words(on),
            occasion: row.occasion,
            runs: row.runs,
            overall: row.overall,
            overall_word: Overall::word_of(row.overall).to_owned(),
            in_hand: row.in_hand,
        })
    }
}

/// The day a session was measured, else the day it was opened.
fn day_of(measured_on: Option<Date>, opened_at: &str) -> Result<Date, StoreError> {
    let opened = || {
        let at: jiff::Timestamp = opened_at.parse().map_err(|_| StoreError::Broken)?;
        Ok(jiff::tz::TimeZone::UTC.to_datetime(at).date())
    };
    measured_on.map_or_else(opened, Ok)
}

/// "12 October 2025".
fn in_words(on: Date) -> String {
    on.strftime("%-d %B %Y").to_string()
}

/// Sessions of an amplifier.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SessionList {
    /// The oldest first.
    pub items: Vec<SessionLine>,
}

fn lines(tx: &pukka_store::Connection, amplifier_id: &str) -> Result<Vec<SessionLine>, StoreError> {
    retests::list(tx, amplifier_id)?.into_iter().map(SessionLine::try_from).collect()
}

/// The sessions of an amplifier, the oldest first.
#[utoipa::path(get, operation_id = "listSessions", path = "/amplifiers/{id}/sessions", params(("id" = String, Path)),
    responses((status = 200, body = SessionList)))]
pub async fn list(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<SessionList>, ApiError> {
    let items = state.records(move |store| store.read(|tx| lines(tx, &id))).await?;
    Ok(Json(SessionList { items }))
}

/// A retest to open.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RetestToOpen {
    /// Reason why the amplifier came again: "after a repair".
    #[serde(default)]
    pub occasion: Option<String>,
}

/// Opens one more session on the bench and by the plan of the one in hand, and takes it in hand. Undo takes it back while nothing was
/// run in it.
#[utoipa::path(post, operation_id = "openRetest", path = "/amplifiers/{id}/sessions", params(("id" = String, Path)),
    request_body = RetestToOpen, responses((status = 201, body = SessionLine)))]
pub async fn open(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<RetestToOpen>,
) -> Result<Response, ApiError> {
    let occasion = body.value.occasion.map(|words| words.trim().to_owned()).filter(|words| !words.is_empty());
    let mut problems: Vec<Problem> = Vec::new();
    check_text(&mut problems, "occasion", occasion.as_deref().unwrap_or(""), false, 200);
    sound(problems)?;
    let (author, amplifier) = (writing.author(&body.raw), id.clone());
    let session_id = state.once(author, move |tx: &WriteTx, author: &Author| retests::open(tx, author, &amplifier, occasion)).await?;
    let all = state.records(move |store| store.read(|tx| lines(tx, &id))).await?;
    let line = all.into_iter().find(|line| line.id == session_id).ok_or(StoreError::Broken)?;
    Ok(created(&format!("sessions/{}/record", line.id), None, line))
}

/// The session to take in hand.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct InHand {
    /// Id of the session.
    pub session_id: String,
}

/// Takes a session of an amplifier in hand: the pages and the shelf show it, and runs are logged into it.
#[utoipa::path(put, operation_id = "takeInHand", path = "/amplifiers/{id}/session-in-hand", params(("id" = String, Path)),
    request_body = InHand, responses((status = 204)))]
pub async fn take_in_hand(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<InHand>,
) -> Result<StatusCode, ApiError> {
    let (author, session) = (writing.author(&body.raw), body.value.session_id);
    let work = move |tx: &WriteTx, author: &Author| {
        let own = retests::ids(tx, &id)?.contains(&session);
        if own { retests::take_in_hand(tx, author, &session) } else { Err(StoreError::NotFound { what: "session", id: session.clone() }) }
    };
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// The sessions to set against one another.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct ChangesAsked {
    /// Id of the earlier session.
    from: String,
    /// Id of the later one.
    to: String,
    /// Supply voltage that powers are brought to: 8 to 18, 14.4 when left out.
    #[serde(default)]
    #[param(minimum = 8, maximum = 18)]
    volts: Option<f64>,
}

/// What changed of an amplifier from one session to another, place by place, with what of it is outside both ±.
#[utoipa::path(get, operation_id = "getChanges", path = "/amplifiers/{id}/changes", params(("id" = String, Path), ChangesAsked),
    responses((status = 200, body = Changes)))]
pub async fn get_changes(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    Query(asked): Query<ChangesAsked>,
) -> Result<Json<Changes>, ApiError> {
    let mut problems = Vec::new();
    let volts = volts_of(asked.volts.unwrap_or(USUAL_SUPPLY_V), &mut problems);
    if asked.from == asked.to {
        problems.push(Problem::new("to", "Another session than the earlier one."));
    }
    sound(problems)?;
    let opened = state.records(move |store| store.read(|tx| retests::opened(tx, &id))).await?;
    let at = |wanted: &str| {
        let not_found = || StoreError::NotFound { what: "session", id: wanted.to_owned() };
        opened.iter().find(|(id, _)| id == wanted).map(|(_, at)| at).ok_or_else(not_found)
    };
    let (opened_from, opened_to) = (at(&asked.from)?, at(&asked.to)?);
    let (before, after) = (super::bench::session(&state, &asked.from).await?, super::bench::session(&state, &asked.to).await?);
    let days = [day_of(before.session.measured_on, opened_from)?, day_of(after.session.measured_on, opened_to)?];
    // Two of one day are told from one another by their occasion.
    let is_one_day = days[0] == days[1];
    let name = |on: Date, row: &LoadedSession| match row.session.occasion.as_ref().filter(|_| is_one_day) {
        Some(occasion) => format!("{}, {occasion}", in_words(on)),
        None => in_words(on),
    };
    let (of_before, of_after) = (name(days[0], &before), name(days[1], &after));
    let made = state.compute(move || changes(contender(&of_before, &before), contender(&of_after, &after), volts));
    Ok(Json(made.await?))
}

fn contender<'a>(of: &'a str, row: &'a LoadedSession) -> Contender<'a> {
    // One in which nothing was run has no word.
    let overall = row.verdict().overall.filter(|_| row.session.standing_runs().next().is_some());
    Contender { id: &row.id, of: Some(of), session: &row.session, checks: row.checks(), overall }
}
