//! Session files out and in: one amplifier as JSON, the shelf as a zip; what a file would do is said before it is done.

use axum::Json;
use axum::body::{Body as Raw, to_bytes};
use axum::extract::State as Ask;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use pukka_core::kernel::problem::Problem;
use pukka_core::record::session::Audience;
use pukka_store::photos::{self, Photo};
use pukka_store::transfer::{self, Arrival};
use pukka_store::{Author, Store, StoreError, amplifiers};
use serde::{Deserialize, Serialize};

use super::path::{Path, Query};
use super::writing::Writing;
use super::{ApiError, State};
use crate::bundle::{self, Arriving, Bundle, BundleError, BundledPhoto, Folder, MOST_BYTES};
use crate::photo::as_it_is_or_anew;
use crate::sheet::runs_as_formula;

/// Effect of a file on the shelf.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum What {
    /// Adds an amplifier.
    Added,
    /// Brings something to one that is there.
    Changed,
    /// There, just so.
    Same,
    /// Cannot be taken.
    Refused,
}

/// An amplifier of a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ArrivalView {
    /// Make and model; its folder when the session cannot be read.
    pub name: String,
    /// Effect.
    pub what: What,
    /// Content, a line each.
    pub brings: Vec<String>,
    /// Problems, and where.
    pub problems: Vec<Problem>,
    /// Keys that this version does not know: kept, and not computed with.
    pub unknown: Vec<String>,
    /// Texts that a spreadsheet would run: kept as text, and made inert in CSV.
    pub inert: Vec<String>,
}

/// Effect of a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ImportView {
    /// An entry an amplifier.
    pub entries: Vec<ArrivalView>,
    /// Files in it that mean nothing here, and are left out.
    pub not_known: Vec<String>,
}

/// Entries that are left out.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Skipping {
    /// Their places in the preview, set apart by commas.
    #[serde(default)]
    skip: String,
}

/// Result of an import.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ImportResult {
    /// Outcome of each entry, in the order of the preview.
    pub entries: Vec<ArrivalView>,
    /// The amplifier to go to when there is just one.
    pub amplifier_id: Option<String>,
}

impl From<BundleError> for ApiError {
    fn from(error: BundleError) -> Self {
        let (status, code) = match error {
            BundleError::OtherKind => (StatusCode::UNSUPPORTED_MEDIA_TYPE, "not-a-session-file"),
            BundleError::TooLarge { .. } | BundleError::TooMany(_) => (StatusCode::PAYLOAD_TOO_LARGE, "too-large"),
            BundleError::Damaged(_) | BundleError::Empty => (StatusCode::UNPROCESSABLE_ENTITY, "damaged-file"),
            BundleError::Climbs(_) | BundleError::Twice(_) => (StatusCode::UNPROCESSABLE_ENTITY, "names-that-climb"),
        };
        Self::new(status, code, error.to_string())
    }
}

fn attachment(kind: &'static str, name: &str, bytes: Vec<u8>) -> Response {
    let headers = [(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\""))];
    (headers, bytes).into_response()
}

/// Audience of a file.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct FileFor {
    /// `full`: everything. `shared`: nothing private.
    #[serde(default)]
    #[param(inline)]
    kind: Audience,
}

/// The newest session of an amplifier as an open session file.
#[utoipa::path(get, operation_id = "getSessionFile", path = "/amplifiers/{id}/file", params(("id" = String, Path), FileFor),
    responses((status = 200, body = pukka_core::record::session::Session, content_type = "application/json")))]
pub async fn file(Ask(state): Ask<State>, Path(id): Path<String>, Query(FileFor { kind }): Query<FileFor>) -> Result<Response, ApiError> {
    let session = state.records(move |store| store.read(|tx| transfer::session_file(tx, &id))).await?.for_audience(kind);
    let unreadable = |why| StoreError::Unreadable { what: "session", why };
    let bytes = session.to_file().and_then(|file| serde_json::to_vec_pretty(&file)).map_err(unreadable)?;
    Ok(attachment("application/json", &format!("{}.pukka.json", crate::slug(&session.amplifier.name())), bytes))
}

/// The whole shelf as a zip, with photos and ramps.
#[utoipa::path(get, operation_id = "getShelfFile", path = "/shelf.zip", params(FileFor),
    responses((status = 200, body = Vec<u8>, content_type = "application/zip")))]
pub async fn shelf(Ask(state): Ask<State>, Query(FileFor { kind }): Query<FileFor>) -> Result<Response, ApiError> {
    let at = state.clock.now();
    let folders = state.records(folders).await?;
    let folders: Vec<Folder> =
        folders.into_iter().map(|folder| Folder { outgoing: folder.outgoing.for_audience(kind), ..folder }).collect();
    let zip = tokio::task::spawn_blocking(move || bundle::write(&folders, &at.to_string())).await.map_err(|_| StoreError::Broken)?;
    let zip = zip.map_err(|problem| ApiError::new(StatusCode::INTERNAL_SERVER_ERROR, "not-written", problem.says))?;
    Ok(attachment("application/zip", &format!("pukka-shelf-{}.zip", at.strftime("%Y-%m-%d")), zip))
}

fn folders(store: &Store) -> Result<Vec<Folder>, StoreError> {
    let shelf = store.read(amplifiers::whole_shelf)?;
    // The shelf shows the newest first; a file is read from the oldest on.
    shelf.into_iter().rev().map(|row| folder(store, &row.id)).collect()
}

fn folder(store: &Store, amplifier_id: &str) -> Result<Folder, StoreError> {
    let (outgoing, rows) = store.read(|tx| Ok((transfer::outgoing(tx, amplifier_id)?, photos::list(tx, amplifier_id)?)))?;
    let photos = rows.into_iter().map(|row| {
        let bytes = store.files().photo(&row.photo.sha256)?;
        Ok(BundledPhoto { caption: row.photo.caption, bytes })
    });
    Ok(Folder { outgoing, photos: photos.collect::<Result<_, StoreError>>()? })
}

async fn bundle_of(body: Raw) -> Result<Bundle, ApiError> {
    let bytes = to_bytes(body, MOST_BYTES).await.map_err(|_| {
        let most = MOST_BYTES / 1024 / 1024;
        ApiError::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", format!("A file of more than {most} MB is not read."))
    })?;
    Ok(tokio::task::spawn_blocking(move || bundle::read(&bytes)).await.map_err(|_| StoreError::Broken)??)
}

/// Says what a session file, or a zip of a shelf, would do. Nothing is done.
#[utoipa::path(post, operation_id = "previewImport", path = "/imports/previews",
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportView)))]
pub async fn preview(Ask(state): Ask<State>, body: Raw) -> Result<Json<ImportView>, ApiError> {
    let bundle = bundle_of(body).await?;
    let work = move |store: &Store| {
        let entries = bundle.amplifiers.iter().map(|one| store.read(|tx| entry(tx, one))).collect::<Result<_, _>>()?;
        Ok(ImportView { entries, not_known: bundle.not_known })
    };
    Ok(Json(state.records(work).await?))
}

fn entry(tx: &pukka_store::Connection, one: &Arriving) -> Result<ArrivalView, StoreError> {
    let Ok(read) = &one.session else {
        let problems = one.session.as_ref().err().cloned().unwrap_or_default();
        return Ok(ArrivalView { problems, ..blank(&one.folder, What::Refused) });
    };
    let mut view = ArrivalView {
        unknown: read.unknown.clone(),
        inert: spreadsheet_texts(&read.session),
        problems: one.left_out.clone(),
        ..blank(&read.session.amplifier.name(), What::Added)
    };
    match transfer::arrival(tx, &read.session)? {
        Arrival::New { namesake } => {
            let counted = |n: usize, what: &str| (n > 0).then(|| format!("{n} {what}{}", if n == 1 { "" } else { "s" }));
            let counts = [
                counted(read.session.claims.len(), "claim"),
                counted(read.session.runs.len(), "run"),
                counted(one.photos.len(), "photo"),
                counted(one.ramps.len(), "ramp"),
                one.settled.as_ref().map(|_| "a settled verdict".to_owned()),
                namesake.then(|| "another of this name is on the shelf: it comes to stand beside it".to_owned()),
            ];
            view.brings = counts.into_iter().flatten().collect();
        }
        Arrival::Same { .. } => view.what = What::Same,
        Arrival::Changed { merge, .. } if merge.refused.is_empty() => {
            view.what = What::Changed;
            view.brings = merge.says();
        }
        Arrival::Changed { merge, .. } => {
            view.what = What::Refused;
            view.problems.extend(merge.refused);
        }
    }
    Ok(view)
}

fn blank(name: &str, what: What) -> ArrivalView {
    ArrivalView { name: name.to_owned(), what, brings: Vec::new(), problems: Vec::new(), unknown: Vec::new(), inert: Vec::new() }
}

/// Texts that a spreadsheet would run as a formula.
fn spreadsheet_texts(session: &pukka_core::record::session::Session) -> Vec<String> {
    let mut places: Vec<String> = Vec::new();
    let mut look = |place: &str, text: Option<&str>| places.extend(text.filter(|text| runs_as_formula(text)).map(|_| place.to_owned()));
    let amplifier = &session.amplifier;
    look("amplifier.make", Some(&amplifier.make));
    look("amplifier.model", Some(&amplifier.model));
    for (i, run) in session.runs.iter().enumerate() {
        look(&format!("runs[{i}].note"), run.note.as_deref());
        look(&format!("runs[{i}].setting"), run.setting.as_deref());
    }
    places
}

/// Takes a session file, or a zip of a shelf, in. One undo takes it back; the same file twice is taken once.
#[utoipa::path(post, operation_id = "importFile", path = "/imports", params(Skipping),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportResult)))]
pub async fn import(
    Ask(state): Ask<State>,
    Query(skipping): Query<Skipping>,
    writing: Writing,
    body: Raw,
) -> Result<Json<ImportResult>, ApiError> {
    let skip: Vec<usize> = skipping.skip.split(',').filter_map(|place| place.trim().parse().ok()).collect();
    let bundle = bundle_of(body).await?;
    // No key: a file that comes twice changes nothing the second time.
    let author = Author { key: None, ..writing.author(b"") }.at_once();
    let under_way = state.importing.begin();
    let work = move |store: &Store| {
        let (mut entries, mut ids) = (Vec::new(), Vec::new());
        for (i, one) in bundle.amplifiers.iter().enumerate() {
            let view = store.read(|tx| entry(tx, one))?;
            under_way.is_at(i, bundle.amplifiers.len(), &view.name);
            if view.what != What::Refused && !skip.contains(&i) {
                ids.push(take_in(store, &author, one)?);
                entries.push(view);
            }
        }
        Ok(ImportResult { entries, amplifier_id: ids.pop().filter(|_| ids.is_empty()) })
    };
    Ok(Json(state.records(work).await?))
}

/// Takes an amplifier in, all of it or nothing: its photos are staged as files first, then one write keeps every row.
fn take_in(store: &Store, author: &Author, one: &Arriving) -> Result<String, StoreError> {
    let Some(incoming) = one.incoming() else { return Err(StoreError::Broken) };
    let mut staged = Vec::new();
    for photo in one.photos.iter().take(photos::MOST) {
        // One that is no picture is left out: the readings are what matters.
        let Ok(kept) = as_it_is_or_anew(&photo.bytes) else { continue };
        staged.push(Photo {
            sha256: store.files().keep_photo(&kept.jpeg)?,
            width_px: kept.width_px,
            height_px: kept.height_px,
            bytes: kept.jpeg.len() as u64,
            caption: photo.caption.clone(),
        });
    }
    let by = author.clone();
    store.write(move |tx| {
        let amplifier_id = transfer::take_in(tx, &by, &incoming)?;
        photos::create_missing(tx, &by, &amplifier_id, &staged)?;
        Ok(amplifier_id)
    })
}
