//! What every page has to know of the program that serves it.

use axum::Json;
use axum::extract::State as Ask;
use serde::{Deserialize, Serialize};

use super::State;

/// The program.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AboutView {
    /// Listens beyond this machine: anyone on its network can read and write, and drive the bench.
    pub on_network: bool,
    /// The records are damaged: they are read, and nothing is saved.
    pub is_read_only: bool,
}

/// Tells about the program.
#[utoipa::path(get, operation_id = "getAbout", path = "/about", responses((status = 200, body = AboutView)))]
pub async fn get(Ask(state): Ask<State>) -> Json<AboutView> {
    Json(AboutView { on_network: state.reach.on_network, is_read_only: state.store.damage().is_some() })
}
