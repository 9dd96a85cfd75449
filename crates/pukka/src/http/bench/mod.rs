//! At the bench: the ladder, what is set for a rung, gates, runs.

pub mod gates;
pub mod incidents;
pub mod ladder;
pub mod marks;
pub mod record;
pub mod rest;
pub mod rungs;
pub mod runs;
pub mod session;
pub mod steps;

use std::sync::Arc;

use pukka_core::evidence::rungs::Rung;
use pukka_core::plan::ladder::find;
use pukka_core::record::session::Session;

use super::{ApiError, State};
use crate::sessions::LoadedSession;

/// The session with this id.
pub async fn session(state: &State, id: &str) -> Result<Arc<LoadedSession>, ApiError> {
    let (id, sessions) = (id.to_owned(), state.sessions.clone());
    state.records(move |store| sessions.get(store, &id)).await
}

/// The rung with this key, or 404.
pub fn rung(session: &Session, key: &str) -> Result<Rung, ApiError> {
    find(session, key).ok_or_else(|| ApiError::not_found("rung", key))
}
