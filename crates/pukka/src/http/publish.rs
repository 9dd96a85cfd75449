//! What goes out of a session: cards as SVG and PNG, words, everything as a zip. Nothing private is in any of it.

use std::sync::Arc;

use axum::Json;
use axum::extract::State as Ask;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use pukka_core::kernel::problem::Problem;
use pukka_core::report::publish::{standing, texts};
use serde::{Deserialize, Serialize};

use super::download::Download;
use super::path::{Path, Query};
use super::sheet::{session, with_heading};
use super::{ApiError, State};
use crate::cards::{Card, Shape, Signature, Style, Subject, Theme, cards, outlined, png};
use crate::publish;
use crate::sessions::LoadedSession;

/// Looks of the cards.
#[derive(Debug, Clone, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Looks {
    /// Shape.
    #[serde(default)]
    #[param(inline)]
    shape: Shape,
    /// Theme.
    #[serde(default)]
    #[param(inline)]
    theme: Theme,
    /// Length of the shorter side, pixels: 1080 or 2160; 1080 when left out.
    #[serde(default)]
    #[param(minimum = 1080, maximum = 2160)]
    lines: Option<u32>,
    /// Hash of the drawing that is meant. Nothing depends on it: a page that has an older one asks by another address.
    #[serde(default)]
    #[param(inline)]
    #[allow(dead_code, reason = "it is there to tell one address from another")]
    drawing: Option<String>,
}

impl Looks {
    fn style(&self) -> Result<Style, ApiError> {
        style(self.shape, self.theme, self.lines)
    }
}

/// A style of 1080 or 2160 lines.
pub(super) fn style(shape: Shape, theme: Theme, lines: Option<u32>) -> Result<Style, ApiError> {
    match lines.unwrap_or(1_080) {
        lines @ (1_080 | 2_160) => Ok(Style { shape, theme, lines }),
        other => Err(ApiError::invalid(vec![Problem::new("lines", format!("A card has 1080 or 2160 lines, not {other}."))])),
    }
}

/// A card, without its drawing.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CardView {
    /// Name of its file, without an ending.
    pub name: String,
    /// Title in a list.
    pub title: String,
    /// Words for who cannot see it.
    pub alt: String,
    /// Hash of its drawing: another when anything on it changed.
    pub drawing: String,
}

/// What goes out.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Publication {
    /// Cards in this shape.
    pub cards: Vec<CardView>,
    /// Ideas for a title.
    pub titles: Vec<String>,
    /// Description, plain.
    pub description: String,
    /// Description as Markdown.
    pub markdown: String,
    /// Chapters.
    pub chapters: String,
    /// Comment to pin.
    pub pinned: String,
    /// That it is not the last word, in a sentence; nothing when it is.
    pub standing: Option<String>,
}

/// What goes out of a session: its cards by their names, and its words.
#[utoipa::path(get, operation_id = "getPublication", path = "/sessions/{id}/publication", params(("id" = String, Path), Looks),
    responses((status = 200, body = Publication)))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>, Query(looks): Query<Looks>) -> Result<Json<Publication>, ApiError> {
    let style = looks.style()?;
    let (row, locked_on) = session(&state, id).await?;
    let by = signature(&state).await?;
    Ok(Json(state.compute(move || made(&row, locked_on.is_some(), &by, style)).await?))
}

/// The reviewer's name and mark.
pub(super) async fn signature(state: &State) -> Result<Signature, ApiError> {
    let row = state.records(|store| store.read(pukka_store::signature::get)).await?;
    Ok(Signature { name: row.name, mark: row.mark })
}

fn made(row: &LoadedSession, is_locked: bool, by: &Signature, style: Style) -> Publication {
    let (session, sheet) = row.shown();
    let cards = cards(Subject { session, sheet, is_locked, by }, style);
    let words = texts(session, sheet, is_locked);
    Publication {
        cards: cards
            .into_iter()
            .map(|card| CardView {
                drawing: pukka_store::Files::hash(card.svg.as_bytes()).chars().take(16).collect(),
                name: card.name,
                title: card.title,
                alt: card.alt,
            })
            .collect(),
        titles: words.titles,
        description: words.description,
        markdown: words.markdown,
        chapters: words.chapters,
        pinned: words.pinned,
        standing: standing(&sheet.view, is_locked),
    }
}

/// A card as SVG or PNG, by the ending of its name.
#[utoipa::path(get, operation_id = "getCard", path = "/sessions/{id}/cards/{file}", params(("id" = String, Path), ("file" = String, Path), Looks),
    responses((status = 200, content((Vec<u8> = "image/png"), (String = "image/svg+xml")))))]
pub async fn card(
    Ask(state): Ask<State>,
    Path((id, file)): Path<(String, String)>,
    Query(looks): Query<Looks>,
) -> Result<Response, ApiError> {
    let style = looks.style()?;
    let (row, locked_on) = session(&state, id).await?;
    let by = signature(&state).await?;
    let found = state.compute(move || {
        let (session, sheet) = row.shown();
        let (name, ending) = file.rsplit_once('.').unwrap_or((file.as_str(), ""));
        let subject = Subject { session, sheet, is_locked: locked_on.is_some(), by: &by };
        let card = cards(subject, style).into_iter().find(|card| card.name == name);
        let card = card.ok_or_else(|| ApiError::not_found("card", &file))?;
        drawn(&card, ending, &file)
    });
    found.await?
}

/// A card as the ending of its name asks for it.
pub(super) fn drawn(card: &Card, ending: &str, file: &str) -> Result<Response, ApiError> {
    let (kind, bytes) = match ending {
        "svg" => ("image/svg+xml", outlined(card).map_err(|why| not_made(&why))?.into_bytes()),
        "png" => ("image/png", png(&card.svg).map_err(|why| not_made(&why))?),
        _ => return Err(ApiError::not_found("card", file)),
    };
    Ok(([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, "no-cache")], bytes).into_response())
}

pub(super) fn not_made(why: &anyhow::Error) -> ApiError {
    tracing::error!(%why, "a card could not be made");
    ApiError::new(StatusCode::INTERNAL_SERVER_ERROR, "not-made", "The card could not be made.")
}

/// Everything of a session as a zip, names in order.
#[utoipa::path(get, operation_id = "getPublicationFile", path = "/sessions/{id}/publication.zip", params(("id" = String, Path), Looks),
    responses((status = 200, body = Vec<u8>, content_type = "application/zip")))]
pub async fn zipped(Ask(state): Ask<State>, Path(id): Path<String>, Query(looks): Query<Looks>) -> Result<Response, ApiError> {
    let style = looks.style()?;
    let (row, heading) = with_heading(&state, id).await?;
    let by = signature(&state).await?;
    let store = Arc::clone(&state.store);
    let name = format!("{}.zip", crate::slug(&row.session.amplifier.name()));
    let made = state.compute_long(move || {
        let files = publish::files(row.shown(), &heading, &by, style).map_err(|why| not_made(&why))?;
        let download = Download::beside(store.folder(), "publication");
        download.zip(files.into_iter().map(|file| Ok((file.name, file.bytes))))?;
        Ok::<_, ApiError>(download)
    });
    Ok(made.await??.response("application/zip", &name)?)
}
