//! Level steps: the rows typed for a place become one run.

use std::sync::Arc;

use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::evidence::entry::{About, Readings};
use pukka_core::plan::ladder::Place;
use pukka_core::plan::run_line::run_at;
use pukka_core::record::session::Mode;
use pukka_store::{new_id, runs, steps};
use serde::{Deserialize, Serialize};

use super::super::body::Body;
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};
use super::runs::{LoggedRun, not_doubted};

/// The rows to finish.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StepsToFinish {
    /// Key of the rung.
    pub rung: String,
    /// Mode of the run.
    pub mode: Mode,
    /// Happened already, past a gate.
    #[serde(default)]
    pub happened: bool,
    /// Refuse it, with the doubts, when there is a stop or a doubt about what was read.
    #[serde(default)]
    pub unless_doubted: bool,
}

/// Makes a run of the level steps typed for a place.
#[utoipa::path(post, operation_id = "finishSteps", path = "/sessions/{id}/steps", params(("id" = String, Path)), request_body = StepsToFinish,
    responses((status = 201, body = LoggedRun)))]
pub async fn finish(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<StepsToFinish>,
) -> Result<Response, ApiError> {
    let at_session = id.clone();
    let StepsToFinish { rung: key, mode, happened, unless_doubted } = body.value;
    let row = super::session(&state, &id).await?;
    let rung = super::rung(&row.session, &key)?;
    let run = run_at(&row.session, &rung, mode, Readings::default(), new_id(), writing.at(), Some(writing.who().to_owned()));
    if unless_doubted {
        let (id, place) = (id.clone(), Place { rung: key, mode });
        let rows = state.records(move |store| store.read(|tx| steps::list(tx, &id, &place))).await?;
        let (row, stepped) = (Arc::clone(&row), runs::of_steps(&run, rows));
        state.compute(move || not_doubted(&row.session, &stepped)).await??;
    }
    let work = move |tx: &pukka_store::WriteTx, author: &pukka_store::Author| {
        let runs::LoggedRun { id, ungated, next } = runs::log_steps(tx, author, &id, &run, happened)?;
        Ok(LoggedRun { about: About::Run, id: Some(id), next, ungated })
    };
    Ok(state.once(writing.author(&body.raw), work).await?.created(&at_session))
}
