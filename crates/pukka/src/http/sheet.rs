//! The result sheet of a session: as data, as one HTML page that needs nothing else, and as CSV.

use std::sync::Arc;

use axum::Json;
use axum::extract::State as Ask;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use pukka_core::record::session::EvidenceKind;
use pukka_core::report::sheet::Sheet;
use pukka_store::{Store, photos, settled};

use super::path::Path;
use super::{ApiError, State};
use crate::sessions::LoadedSession;
use crate::sheet::{Heading, captured, chosen, csv, page};

/// The page may stand in a frame of the program's own, and nothing in it may run or be fetched.
const POLICY: &str = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:; base-uri 'none'; form-action 'none'; frame-ancestors 'self'";

/// The session, and the day its verdict was settled, if it stands as it was.
pub(super) async fn session(state: &State, id: String) -> Result<(Arc<LoadedSession>, Option<String>), ApiError> {
    let look = |store: &Store, row: &Arc<LoadedSession>| {
        let settled = store.read(|tx| settled::newest(tx, &row.id))?;
        Ok((Arc::clone(row), settled.and_then(|kept| kept.stands_since(&row.session).map(str::to_owned))))
    };
    state.with_session(&id, look).await
}

/// The session, and what its sheet says beside it.
pub(super) async fn with_heading(state: &State, id: String) -> Result<(Arc<LoadedSession>, Heading), ApiError> {
    let (row, settled_on) = session(state, id).await?;
    let (store, of, amplifier_id) = (Arc::clone(&state.store), Arc::clone(&row), row.amplifier_id.clone());
    let rows = state.records(move |store| store.read(|tx| photos::list(tx, &amplifier_id))).await?;
    let wanted: Vec<_> = rows.into_iter().map(|row| row.photo).filter(|photo| photo.words.on_sheet).collect();
    // Pictures are decoded where nothing quick has to wait for them; a sheet without any waits for nothing.
    let has_traces = of.session.standing_runs().any(|run| run.evidence.iter().any(|own| own.kind == EvidenceKind::Trace));
    let (photos, traces) = if wanted.is_empty() && !has_traces {
        (Vec::new(), Vec::new())
    } else {
        let made = move || (chosen(store.files(), wanted, &of.session), captured(store.files(), &of.session));
        state.compute_long(made).await?
    };
    let made_on = state.clock.now().strftime("%Y-%m-%d").to_string();
    Ok((row, Heading { made_on, settled_on, photos, traces }))
}

/// The result sheet of a session, as data: every figure with its working, every note.
#[utoipa::path(get, operation_id = "getSheet", path = "/sessions/{id}/sheet", params(("id" = String, Path)),
    responses((status = 200, body = Sheet)))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Response, ApiError> {
    // Written off the async threads as well: it is a megabyte for some hundred runs.
    state.with_session(&id, |_, row| Ok(Json(row.sheet()).into_response())).await
}

/// The result sheet as one HTML page: no script, nothing fetched, its faces in it.
#[utoipa::path(get, operation_id = "getSheetPage", path = "/sessions/{id}/sheet.html", params(("id" = String, Path)),
    responses((status = 200, body = String, content_type = "text/html")))]
pub async fn html(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Response, ApiError> {
    let (row, heading) = with_heading(&state, id).await?;
    let headers = [(header::CONTENT_TYPE, "text/html; charset=utf-8"), (header::CONTENT_SECURITY_POLICY, POLICY)];
    let made = state.compute(move || page(row.sheet(), &heading)).await?;
    Ok((headers, made).into_response())
}

/// The runs of a session as CSV. Ref: RFC 4180.
#[utoipa::path(get, operation_id = "getSheetCsv", path = "/sessions/{id}/sheet.csv", params(("id" = String, Path)),
    responses((status = 200, body = String, content_type = "text/csv")))]
pub async fn csv_file(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Response, ApiError> {
    let (row, _) = session(&state, id).await?;
    let session = &row.session;
    let text = csv(session).map_err(|_| pukka_store::StoreError::Broken)?;
    let headers = [
        (header::CONTENT_TYPE, "text/csv; charset=utf-8".to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{}.csv\"", crate::slug(&session.amplifier.name()))),
    ];
    Ok((headers, text).into_response())
}
