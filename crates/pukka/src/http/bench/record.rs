//! The record of a session beside its readings: when it was measured, claps before the camera, listening, sealed guesses, and what the
//! parts inside say.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::evidence::inside::{InsideFigures, inside_figures};
use pukka_core::kernel::problem::{Problem, check_text, under};
use pukka_core::record::session::{Clap, Guess, Guesses, Listening, PostMortem, Session, read_guesses};
use pukka_core::report::guesses::{GuessScores, scores};
use pukka_store::sessions::{self, About};
use pukka_store::{Author, Files, StoreError, WriteTx};
use serde::{Deserialize, Serialize};

use super::super::answer::{created, revised};
use super::super::body::{Body, no_unknown_keys, sound};
use super::super::patch::Patch;
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// Facts of a session that are written down by hand.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SessionRecord {
    /// The day it was measured.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = Date)]
    pub measured_on: Option<jiff::civil::Date>,
    /// Reason why the amplifier came to the bench again: of a retest.
    #[serde(default)]
    pub occasion: Option<String>,
    /// Source of its footage.
    #[serde(default)]
    pub footage_from: Option<String>,
    /// Claps before the camera, in order.
    #[serde(default)]
    pub claps: Vec<Clap>,
    /// Listening notes.
    #[serde(default)]
    pub listening: Option<Listening>,
    /// Findings after a death.
    #[serde(default)]
    pub post_mortem: Option<PostMortem>,
}

impl SessionRecord {
    fn of(session: &Session) -> Self {
        let Session { measured_on, occasion, footage_from, claps, listening, post_mortem, .. } = session.clone();
        Self { measured_on, occasion, footage_from, claps, listening, post_mortem }
    }

    fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "occasion", self.occasion.as_deref().unwrap_or(""), false, 200);
        check_text(&mut problems, "footage_from", self.footage_from.as_deref().unwrap_or(""), false, 200);
        if self.claps.len() > MOST_CLAPS {
            problems.push(Problem::new("claps", format!("More than {MOST_CLAPS} claps.")));
        }
        for (i, clap) in self.claps.iter().enumerate() {
            check_text(&mut problems, &format!("claps[{i}].clip"), clap.clip.as_deref().unwrap_or(""), false, 120);
        }
        problems.extend(under("post_mortem", self.post_mortem.as_ref().map(PostMortem::check).unwrap_or_default()));
        problems.extend(under("listening", self.listening.as_ref().map(Listening::check).unwrap_or_default()));
        problems
    }
}

/// More clips than that are no one session.
const MOST_CLAPS: usize = 200;

/// Guesses of the clean watts at the headline claim.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GuessesView {
    /// SHA-256 that was shown when they were sealed.
    pub sha256: String,
    /// Time when they were sealed.
    #[schema(value_type = String, format = DateTime)]
    pub sealed_at: jiff::Timestamp,
    /// Number of them.
    pub count: usize,
    /// Whether they can be opened: they are sealed, and their list is here.
    pub can_open: bool,
    /// The salt, once they were opened.
    pub salt: Option<String>,
    /// Opened guesses, the nearest first.
    pub scores: GuessScores,
}

impl GuessesView {
    fn of(session: &Session, view: &pukka_core::report::view::VerdictView) -> Option<Self> {
        let guesses = session.guesses.as_ref()?;
        Some(Self {
            sha256: guesses.sha256.clone(),
            sealed_at: guesses.sealed_at,
            count: guesses.list.len(),
            can_open: guesses.sealed && !guesses.list.is_empty(),
            salt: guesses.salt.clone().filter(|_| !guesses.sealed),
            scores: scores(session, view),
        })
    }
}

/// The record of a session, with what is computed beside it.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SessionRecordView {
    /// Revision of the session.
    pub revision: i64,
    /// Facts written down.
    pub record: SessionRecord,
    /// Guesses.
    pub guesses: Option<GuessesView>,
    /// Whether guesses can still be sealed: nothing was run yet.
    pub can_seal: bool,
    /// Figures of the parts inside.
    pub inside: InsideFigures,
}

/// A clap before the camera.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClapNow {
    /// Name of the clip it opens.
    #[serde(default)]
    pub clip: Option<String>,
}

/// A list of guesses, pasted.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GuessesToSeal {
    /// One a line: a name, the watts, and `yes` where the guesser agreed to be named.
    pub text: String,
}

/// The record of a session.
#[utoipa::path(get, operation_id = "getSessionRecord", path = "/sessions/{id}/record", params(("id" = String, Path)),
    responses((status = 200, body = SessionRecordView)))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Response, ApiError> {
    let row = super::session(&state, &id).await?;
    let made = state.compute(move || SessionRecordView {
        revision: row.revision,
        record: SessionRecord::of(&row.session),
        guesses: row.session.guesses.is_some().then(|| GuessesView::of(&row.session, row.verdict())).flatten(),
        can_seal: row.session.runs.is_empty(),
        inside: inside_figures(&row.session),
    });
    let made = made.await?;
    Ok(revised(made.revision, made))
}

/// Changes a part of it.
#[utoipa::path(patch, operation_id = "patchSessionRecord", path = "/sessions/{id}/record", params(("id" = String, Path)),
    responses((status = 204)))]
pub async fn patch(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, patch: Patch) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(&patch.raw), writing.revision()?);
    let row = super::session(&state, &id).await?;
    let record: SessionRecord = patch.onto(&SessionRecord::of(&row.session))?;
    sound(record.check())?;
    let listening = [&record.listening, &row.session.listening].map(|own| own.as_ref().map(|listening| &listening.extra));
    let post_mortem = [&record.post_mortem, &row.session.post_mortem].map(|own| own.as_ref().map(|found| &found.extra));
    for [own, known] in [listening, post_mortem] {
        if let Some(own) = own.filter(|own| known != Some(own)) {
            no_unknown_keys(own)?;
        }
    }
    let work = move |tx: &WriteTx, author: &Author| {
        sessions::change_about(tx, author, &id, Some(revision), "changed the record of the session", |_, about| {
            let SessionRecord { measured_on, occasion, footage_from, claps, listening, post_mortem } = record;
            *about = About { measured_on, occasion, footage_from, claps, listening, post_mortem, ..about.clone() };
            Ok(())
        })
    };
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Notes that a camera starts now: chapters and subtitles count from here.
#[utoipa::path(post, operation_id = "clap", path = "/sessions/{id}/claps", params(("id" = String, Path)), request_body = ClapNow,
    responses((status = 201, body = Clap)))]
pub async fn clap(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Body<ClapNow>) -> Result<Response, ApiError> {
    let (author, at) = (writing.author(&body.raw), writing.at());
    let clap = Clap { at, clip: body.value.clip.map(|name| name.trim().to_owned()).filter(|name| !name.is_empty()) };
    let row = super::session(&state, &id).await?;
    let mut record = SessionRecord::of(&row.session);
    record.claps.push(clap.clone());
    sound(record.check())?;
    let (session, kept) = (id.clone(), clap.clone());
    let work = move |tx: &WriteTx, author: &Author| {
        sessions::change_about(tx, author, &session, None, "noted that the camera started", |_, about| {
            about.claps.push(kept);
            about.claps.sort_by_key(|clap| clap.at);
            Ok(())
        })
    };
    state.once(author, work).await?;
    Ok(created(&format!("sessions/{id}/record"), None, clap))
}

/// Seals a list of guesses before the first run, and answers with the hash to show.
#[utoipa::path(post, operation_id = "sealGuesses", path = "/sessions/{id}/guesses", params(("id" = String, Path)), request_body = GuessesToSeal,
    responses((status = 201, body = GuessesView)))]
pub async fn seal(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<GuessesToSeal>,
) -> Result<Response, ApiError> {
    let (author, sealed_at) = (writing.author(&body.raw), writing.at());
    let list = read_guesses(&body.value.text).map_err(ApiError::invalid)?;
    let guesses = sealed(list, sealed_at);
    sound(guesses.check())?;
    let (session, kept) = (id.clone(), guesses.clone());
    let work = move |tx: &WriteTx, author: &Author| {
        sessions::change_about(tx, author, &session, None, "sealed guesses", |row, about| {
            let says = if !row.session.runs.is_empty() {
                "Something was run already: a guess after that is none."
            } else if about.guesses.is_some() {
                "Guesses are sealed already. Undo takes them back."
            } else {
                about.guesses = Some(kept);
                return Ok(());
            };
            Err(StoreError::Refused { says: says.into() })
        })
    };
    state.once(author, work).await?;
    let row = super::session(&state, &id).await?;
    let view = state.compute(move || GuessesView::of(&row.session, row.verdict())).await?;
    Ok(created(&format!("sessions/{id}/record"), None, view))
}

/// The salt makes a short list as hard to guess as a long one.
fn sealed(list: Vec<Guess>, sealed_at: jiff::Timestamp) -> Guesses {
    let salt = pukka_store::new_salt();
    Guesses { sha256: Files::hash(Guesses::sealed_text(&salt, &list).as_bytes()), sealed_at, salt: Some(salt), list, sealed: true }
}

/// Opens the sealed guesses: from here on they may be shown.
#[utoipa::path(post, operation_id = "openGuesses", path = "/sessions/{id}/guesses/opening", params(("id" = String, Path)),
    responses((status = 200, body = Option<GuessesView>)))]
pub async fn open(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<Json<Option<GuessesView>>, ApiError> {
    let author = writing.author(b"");
    let session = id.clone();
    let work = move |tx: &WriteTx, author: &Author| {
        sessions::change_about(tx, author, &session, None, "opened the guesses", |_, about| match &mut about.guesses {
            Some(guesses) if guesses.sealed && !guesses.list.is_empty() => {
                guesses.sealed = false;
                Ok(())
            }
            _ => Err(StoreError::Refused { says: "There are no sealed guesses here to open.".into() }),
        })
    };
    state.once(author, work).await?;
    let row = super::session(&state, &id).await?;
    Ok(Json(state.compute(move || GuessesView::of(&row.session, row.verdict())).await?))
}
