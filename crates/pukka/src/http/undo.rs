//! Undo and redo: entries of their own that take back the last act of a tab, or do it again.

use axum::Json;
use axum::extract::State as Ask;
use pukka_store::{Author, StoreError, WriteTx, undo};
use serde::{Deserialize, Serialize};

use super::body::Body;
use super::path::Query;
use super::writing::Writing;
use super::{ApiError, State};

/// Tab and bench whose acts are asked for.
#[derive(Debug, Default, Serialize, Deserialize, utoipa::ToSchema, utoipa::IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub struct ActsOf {
    /// Only what was done at the bench to this amplifier: its claims and the amplifier itself stay as they are.
    pub bench_of: Option<String>,
}

/// The act that is to be taken back, or done again.
#[derive(Debug, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ActRequest {
    /// The act that was shown as the next; refused when another one is.
    pub act: Option<i64>,
    /// Only what was done at the bench to this amplifier.
    pub bench_of: Option<String>,
}

/// An act, or several that were done at once.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ActView {
    /// Number.
    pub act: i64,
    /// Time when it was done.
    pub at: String,
    /// "logged 1 Ω, certified".
    pub says: String,
    /// The amplifier it was done to.
    pub amplifier_id: String,
}

/// Next steps, the next one first.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ActsView {
    /// Acts that can be taken back.
    pub undo: Vec<ActView>,
    /// Acts that can be done again.
    pub redo: Vec<ActView>,
}

/// Act taken back, or done again.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct UndoneView {
    /// "logged 1 Ω, certified".
    pub says: String,
    /// The amplifier it was done to.
    pub amplifier_id: String,
    /// Whether that amplifier is on the shelf now.
    pub on_shelf: bool,
}

impl From<undo::ActRow> for ActView {
    fn from(undo::ActRow { act, at, says, amplifier_id }: undo::ActRow) -> Self {
        Self { act, at, says, amplifier_id }
    }
}

/// Acts that this tab can take back and do again.
#[utoipa::path(get, operation_id = "getActs", path = "/acts", params(ActsOf),
    responses((status = 200, body = ActsView)))]
pub async fn list(Ask(state): Ask<State>, writing: Writing, of: Query<ActsOf>) -> Result<Json<ActsView>, ApiError> {
    let tab = writing.tab().to_owned();
    let read = move |store: &pukka_store::Store| store.read(|tx| undo::next(tx, &tab, of.0.bench_of.as_deref()));
    let undo::Next { undo, redo } = state.records(read).await?;
    let shown = |rows: Vec<undo::ActRow>| rows.into_iter().map(ActView::from).collect();
    Ok(Json(ActsView { undo: shown(undo), redo: shown(redo) }))
}

/// Takes back the last act of this tab.
#[utoipa::path(post, operation_id = "undo", path = "/undos", request_body = ActRequest,
    responses((status = 200, body = UndoneView)))]
pub async fn undo(Ask(state): Ask<State>, writing: Writing, body: Body<ActRequest>) -> Result<Json<UndoneView>, ApiError> {
    turn(state, writing, body, undo::undo).await
}

/// Does again what this tab took back last.
#[utoipa::path(post, operation_id = "redo", path = "/redos", request_body = ActRequest,
    responses((status = 200, body = UndoneView)))]
pub async fn redo(Ask(state): Ask<State>, writing: Writing, body: Body<ActRequest>) -> Result<Json<UndoneView>, ApiError> {
    turn(state, writing, body, undo::redo).await
}

type Turn = fn(&WriteTx, &Author, &undo::ExpectedAct) -> Result<undo::Reversal, StoreError>;

async fn turn(state: State, writing: Writing, body: Body<ActRequest>, way: Turn) -> Result<Json<UndoneView>, ApiError> {
    let author = writing.author(&body.raw);
    let ActRequest { act, bench_of } = body.value;
    let work = move |tx: &WriteTx, author: &Author| way(tx, author, &undo::ExpectedAct { act, at_bench_of: bench_of });
    let undo::Reversal { says, amplifier_id, on_shelf } = state.once(author, work).await?;
    Ok(Json(UndoneView { says, amplifier_id, on_shelf }))
}
