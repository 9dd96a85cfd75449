//! Session files out: one amplifier as JSON, the shelf as a zip that is written to the disk an amplifier at a time.

use std::io::BufWriter;

use axum::extract::State as Ask;
use axum::http::{HeaderValue, header};
use axum::response::{IntoResponse, Response};
use pukka_core::kernel::problem::Problem;
use pukka_core::record::session::Audience;
use pukka_store::{Store, StoreError, amplifiers, benches, links, photos, transfer, whole};
use serde::Deserialize;

use super::body::sound;
use super::download::Download;
use super::path::{Path, Query};
use super::{ApiError, State};
use crate::bundle::{LinkLine, OutgoingPhoto, ShelfWriter};
use crate::captures;

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

/// The session in hand of an amplifier as an open session file.
#[utoipa::path(get, operation_id = "getSessionFile", path = "/amplifiers/{id}/file", params(("id" = String, Path), FileFor),
    responses((status = 200, body = pukka_core::record::session::Session, content_type = "application/json")))]
pub async fn file(Ask(state): Ask<State>, Path(id): Path<String>, Query(FileFor { kind }): Query<FileFor>) -> Result<Response, ApiError> {
    let session = state.records(move |store| store.read(|tx| transfer::session_file(tx, &id))).await?.for_audience(kind);
    let unreadable = |why| StoreError::Unreadable { what: "session", why };
    let bytes = session.to_file().and_then(|file| serde_json::to_vec_pretty(&file)).map_err(unreadable)?;
    Ok(attachment("application/json", &format!("{}.pukka.json", crate::slug(&session.amplifier.name())), bytes))
}

/// Audience and choice of a shelf file.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct ShelfFileAsked {
    /// `full`: everything. `shared`: nothing private.
    #[serde(default)]
    #[param(inline)]
    kind: Audience,
    /// Ids of amplifiers, separated by commas: 200 at the most. All of the shelf when left out.
    #[serde(default)]
    ids: Option<String>,
}

const MOST_IDS: usize = 200;

/// The whole shelf as a zip: sessions, settled verdicts, ramps and photos; bench profiles and links of instruments, too, in a full
/// one. A photo that cannot be read is named in the zip, and counted in `X-Pukka-Left-Out`.
#[utoipa::path(get, operation_id = "getShelfFile", path = "/shelf.zip", params(ShelfFileAsked),
    responses((status = 200, body = Vec<u8>, content_type = "application/zip")))]
pub async fn shelf(Ask(state): Ask<State>, Query(ShelfFileAsked { kind, ids }): Query<ShelfFileAsked>) -> Result<Response, ApiError> {
    let only = ids.map(|ids| ids.split(',').map(|id| id.trim().to_owned()).filter(|id| !id.is_empty()).collect::<Vec<_>>());
    let problem = match only.as_ref().map(Vec::len) {
        Some(0) => Some("No amplifier is named.".to_owned()),
        Some(many) if many > MOST_IDS => {
            Some(format!("{MOST_IDS} amplifiers at the most, not {many}: leave this out for the whole shelf."))
        }
        _ => None,
    };
    sound(problem.map(|says| Problem::new("ids", says)).into_iter().collect())?;
    let at = state.clock.now();
    let store = std::sync::Arc::clone(&state.store);
    let made = state.compute_long(move || export(&store, kind, only.as_deref(), &at.to_string()));
    let (download, left_out) = made.await??;
    let name = format!("pukka-shelf-{}.zip", at.strftime("%Y-%m-%d"));
    let mut response = download.response("application/zip", &name)?;
    response.headers_mut().insert("x-pukka-left-out", HeaderValue::from(left_out));
    Ok(response)
}

fn export(store: &Store, kind: Audience, only: Option<&[String]>, at: &str) -> Result<(Download, usize), StoreError> {
    let download = Download::beside(store.folder(), "export");
    let trouble = |why| StoreError::at(download.path(), why);
    let mut zip = ShelfWriter::new(BufWriter::new(whole::new_file(download.path()).map_err(trouble)?), at);
    // The shelf shows the newest first; a file is read from the oldest on.
    let ids: Vec<String> = match only {
        Some(only) => only.to_vec(),
        None => store.read(amplifiers::whole_shelf)?.into_iter().rev().map(|row| row.id).collect(),
    };
    for id in ids {
        let (sessions, rows) = store.read(|tx| Ok((transfer::outgoing_all(tx, &id)?, transfer::outgoing_photos(tx, &id)?)))?;
        // Photos are the amplifier's: they go with the first of its sessions.
        let mut rows = Some(rows);
        for outgoing in sessions {
            let photos = rows.take().into_iter().flatten().map(|row| photo(store, &row));
            let mut outgoing = outgoing.for_audience(kind);
            let traces = captures::outgoing(store.files(), &mut outgoing.file, kind == Audience::Shared);
            zip.add(&outgoing, photos, traces).map_err(trouble)?;
        }
    }
    if kind == Audience::Full && only.is_none() {
        let (benches, links) = store.read(|tx| Ok((benches::list(tx)?, links::list(tx)?)))?;
        let benches: Vec<_> = benches.into_iter().map(|row| row.profile).collect();
        let line =
            |row: links::LinkRow| LinkLine { role: row.role.word().into(), address: row.address, profile: row.profile, meter: row.meter };
        zip.beside(&benches, &links.into_iter().map(line).collect::<Vec<_>>()).map_err(trouble)?;
    }
    let (out, left_out) = zip.finish().map_err(trouble)?;
    out.into_inner().map_err(|why| trouble(why.into_error()))?;
    Ok((download, left_out))
}

fn photo(store: &Store, photo: &photos::Photo) -> OutgoingPhoto {
    let bytes = store.files().photo(&photo.sha256).map_err(|why| why.to_string()).and_then(|bytes| {
        let is_whole = pukka_store::Files::hash(&bytes) == photo.sha256;
        if is_whole { Ok(bytes) } else { Err("The file is damaged: it is not what was kept.".to_owned()) }
    });
    (photo.words.clone(), bytes)
}
