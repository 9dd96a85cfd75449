//! The verdict of a session, with its charts.

use axum::Json;
use axum::extract::{Path, State as Ask};
use pukka_core::verdict::view::{VerdictView, view};
use serde::{Deserialize, Serialize};

use super::bench;
use super::error::ProblemBody;
use super::{ApiError, State};
use crate::draw::{self, PlacedChart};

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
}

/// The verdict of a session.
#[utoipa::path(get, operation_id = "getVerdict", path = "/sessions/{id}/verdict", params(("id" = String, Path)),
    responses((status = 200, body = DrawnVerdict), (status = 404, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<DrawnVerdict>, ApiError> {
    Ok(Json(drawn(&bench::session(&state, &id).await?.session)))
}

pub(super) fn drawn(session: &pukka_core::session::Session) -> DrawnVerdict {
    let view = view(session);
    DrawnVerdict {
        bars: view.rows.iter().map(draw::bars::bars).collect(),
        efficiency: draw::efficiency::efficiency(&view.loads),
        sags: draw::sags::sags(&view.sags),
        view,
    }
}
