//! The verdict of a session, with its charts; settling it; and which reading is wrong.

use std::sync::Arc;

use axum::Json;
use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::assess::Overall;
use pukka_core::assess::wrong::{Suspicion, suspicion};
use pukka_core::record::session::Session;
use pukka_core::report::view::VerdictView;
use pukka_store::settled::{self, SettledRow};
use pukka_store::{Author, Store, WriteTx};
use serde::{Deserialize, Serialize};

use super::answer::created_at;
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};
use crate::draw::{self, PlacedChart};
use crate::sessions::LoadedSession;

/// The verdict with its charts, drawn.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DrawnVerdict {
    /// The verdict.
    pub view: VerdictView,
    /// The bars of each claim, in the order of its rows.
    pub bars: Vec<String>,
    /// Efficiency against load; nothing without a run that has one.
    pub efficiency: Option<PlacedChart>,
    /// The supply, run by run; nothing without a run that has both voltages.
    pub sags: Option<PlacedChart>,
    /// The verdict that was settled.
    pub settled: Option<SettledView>,
}

/// A settled verdict, and what has changed since.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SettledView {
    /// Time of it.
    pub at: String,
    /// Name of the person.
    pub who: String,
    /// By which version of the rules.
    pub rules_version: u32,
    /// The word over all, then.
    pub overall_word: String,
    /// The paragraph, then.
    pub sentence: String,
    /// Changes since; nothing when it stands.
    pub changes: Vec<String>,
}

impl SettledView {
    fn of(row: SettledRow, now: &Session) -> Self {
        let changes = row.settled.changes(now);
        let (rules_version, judgement) = (row.settled.rules_version, row.settled.judgement);
        let (overall_word, sentence) = (Overall::word_of(judgement.overall).into(), judgement.sentence);
        Self { at: row.at, who: row.who, rules_version, overall_word, sentence, changes }
    }
}

/// The verdict of a session.
#[utoipa::path(get, operation_id = "getVerdict", path = "/sessions/{id}/verdict", params(("id" = String, Path)),
    responses((status = 200, body = DrawnVerdict)))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<DrawnVerdict>, ApiError> {
    let look = |store: &Store, row: &Arc<LoadedSession>| Ok(drawn(row, store.read(|tx| settled::newest(tx, &row.id))?));
    state.with_session(&id, look).await.map(Json)
}

fn drawn(row: &LoadedSession, settled: Option<SettledRow>) -> DrawnVerdict {
    let view = row.verdict().clone();
    DrawnVerdict {
        bars: view.rows.iter().map(|row| draw::bars::bars(row, draw::bars::SCREEN).into_string()).collect(),
        efficiency: draw::efficiency::efficiency(&view.loads),
        sags: draw::sags::sags(&view.sags),
        settled: settled.map(|kept| SettledView::of(kept, &row.session)),
        view,
    }
}

/// Settles the verdict as it stands: a dated snapshot. Undo takes it back.
#[utoipa::path(post, operation_id = "settleVerdict", path = "/sessions/{id}/settled", params(("id" = String, Path)),
    responses((status = 201)))]
pub async fn settle(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<Response, ApiError> {
    let (author, at) = (writing.author(b""), format!("sessions/{id}/verdict"));
    let work = move |tx: &WriteTx, author: &Author| settled::settle(tx, author, &id);
    state.once(author, work).await?;
    Ok(created_at(&at))
}

/// The reading that is wrong, where checks fired that say one must be.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SuspicionBody {
    /// Result of leaving out readings one by one; nothing where no check asks.
    pub suspicion: Option<Suspicion>,
}

/// The reading that is wrong: each of the runs that checks name is left out in turn, and the rest asked whether it agrees.
#[utoipa::path(get, operation_id = "getSuspicion", path = "/sessions/{id}/suspicion", params(("id" = String, Path)),
    responses((status = 200, body = SuspicionBody)))]
pub async fn suspect(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<SuspicionBody>, ApiError> {
    let look = |_: &Store, row: &Arc<LoadedSession>| Ok(SuspicionBody { suspicion: suspicion(&row.session, row.checks()) });
    state.with_session(&id, look).await.map(Json)
}
