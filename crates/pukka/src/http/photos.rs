//! Photos of an amplifier.

use axum::Json;
use axum::body::{Body as Raw, to_bytes};
use axum::extract::State as Ask;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use pukka_core::kernel::problem::Problem;
use pukka_core::record::amplifier::PhotoWords;
use pukka_store::photos::{self, MOST, PhotoRow};
use pukka_store::{Author, WriteTx, idempotency};
use serde::{Deserialize, Serialize};

use super::answer::{created, revised};
use super::body::sound;
use super::patch::Patch;
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};
use crate::photo::{MOST_BYTES, PhotoError, encode_anew};

/// A photo; its picture is at `/api/photos/{id}`.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PhotoView {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// Width.
    pub width_px: u32,
    /// Height.
    pub height_px: u32,
    /// Everything that is said of it.
    #[serde(flatten)]
    pub words: PhotoWords,
}

impl From<PhotoRow> for PhotoView {
    fn from(row: PhotoRow) -> Self {
        let (width_px, height_px) = (row.photo.width_px, row.photo.height_px);
        Self { id: row.id, revision: row.revision, width_px, height_px, words: row.photo.words }
    }
}

/// The photos of an amplifier.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Photos {
    /// In the order they were added.
    pub photos: Vec<PhotoView>,
}

/// The photos of an amplifier.
#[utoipa::path(get, operation_id = "listPhotos", path = "/amplifiers/{id}/photos", params(("id" = String, Path)),
    responses((status = 200, body = Photos)))]
pub async fn list(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<Photos>, ApiError> {
    let rows = state.records(move |store| store.read(|tx| photos::list(tx, &id))).await?;
    Ok(Json(Photos { photos: rows.into_iter().map(Into::into).collect() }))
}

/// Adds a photo: JPEG, PNG or WebP as the body. It is decoded and encoded again; where it was taken does not come along.
#[utoipa::path(post, operation_id = "addPhoto", path = "/amplifiers/{id}/photos", params(("id" = String, Path)),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = PhotoView)))]
pub async fn add(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Raw) -> Result<Response, ApiError> {
    let bytes = to_bytes(body, MOST_BYTES).await.map_err(|_| PhotoError::TooLarge)?;
    let author = writing.author(&bytes);
    let wanted = id.clone();
    let have = state.records(move |store| store.read(|tx| photos::list(tx, &wanted))).await?.len();
    if have >= MOST {
        return Err(ApiError::invalid(vec![Problem::new("photos", format!("{MOST} photos of one amplifier are the most that are kept."))]));
    }
    // One after another: a large picture takes hundreds of megabytes while it is decoded.
    let encoded = state.compute_long(move || encode_anew(&bytes)).await?;
    let encoded = encoded?;
    let work = move |store: &pukka_store::Store| {
        // The file lies in its place before a record names it.
        let photo = encoded.keep(store)?;
        store.write(move |tx| idempotency::once(tx, &author, |tx| photos::create(tx, &author, &id, &photo)))
    };
    let made = PhotoView::from(state.records(work).await?);
    Ok(created(&format!("photos/{}", made.id), Some(made.revision), made))
}

/// The picture of a photo.
#[utoipa::path(get, operation_id = "getPhoto", path = "/photos/{id}", params(("id" = String, Path)),
    responses((status = 200, content_type = "image/jpeg")))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<impl IntoResponse, ApiError> {
    let work = move |store: &pukka_store::Store| {
        let row = store.read(|tx| photos::get(tx, &id))?;
        store.files().photo(&row.photo.sha256)
    };
    let headers = [(header::CONTENT_TYPE, "image/jpeg"), (header::CACHE_CONTROL, "private, max-age=31536000, immutable")];
    Ok((headers, state.records(work).await?))
}

/// Says what a photo shows: a caption, marks on it, the run it was taken in, and whether the sheet shows it.
#[utoipa::path(patch, operation_id = "describePhoto", path = "/photos/{id}", params(("id" = String, Path)), request_body = PhotoWords,
    responses((status = 200, body = PhotoView)))]
pub async fn describe(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, patch: Patch) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(&patch.raw), writing.revision()?);
    patch.names_only(&["caption", "marks", "run_id", "on_sheet"])?;
    let wanted = id.clone();
    let known = state.records(move |store| store.read(|tx| photos::get(tx, &wanted))).await?;
    let mut words: PhotoWords = patch.onto(&known.photo.words)?;
    words.caption = words.caption.trim().to_owned();
    sound(words.check())?;
    let work = move |tx: &WriteTx, author: &Author| photos::describe(tx, author, &id, revision, words);
    let changed = PhotoView::from(state.once(author, work).await?);
    Ok(revised(changed.revision, changed))
}

/// Removes a photo; undo brings it back.
#[utoipa::path(delete, operation_id = "deletePhoto", path = "/photos/{id}", params(("id" = String, Path)),
    responses((status = 204)))]
pub async fn delete(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(b""), writing.revision()?);
    let work = move |tx: &WriteTx, author: &Author| photos::delete(tx, author, &id, revision);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}
