//! Backups: their dates, a copy now, a second folder, everything as one file.

use std::path::{Path as File, PathBuf};

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::kernel::problem::Problem;
use pukka_store::Store;
use serde::{Deserialize, Serialize};

use super::body::Body;
use super::download::Download;
use super::writing::Writing;
use super::{ApiError, State};
use crate::upkeep::{self, Copy, UpkeepError, UpkeepSettings};

/// A dated copy.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CopyView {
    /// Moment of it.
    pub at: String,
    /// Amplifiers in it.
    pub amplifiers: usize,
    /// Photos in it.
    pub photos: usize,
    /// Length of its database.
    pub bytes: u64,
    /// File that `pukka restore` takes.
    pub file: String,
}

impl From<Copy> for CopyView {
    fn from(copy: Copy) -> Self {
        let Copy { at, path, manifest } = copy;
        Self {
            at: at.to_string(),
            amplifiers: manifest.amplifiers,
            photos: manifest.photos.len(),
            bytes: manifest.database.bytes,
            file: path.display().to_string(),
        }
    }
}

/// Upkeep of the records.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct UpkeepView {
    /// Folder of the data.
    pub folder: String,
    /// Dated copies, the newest first.
    pub copies: Vec<CopyView>,
    /// Trouble of the last copy.
    pub trouble: Option<String>,
    /// Second folder of copies.
    pub second_folder: Option<String>,
    /// Moment of the newest copy there.
    pub second_at: Option<String>,
    /// Trouble of the last copy there.
    pub second_trouble: Option<String>,
    /// Moment of the last whole check.
    pub checked_at: Option<String>,
    /// Findings of it.
    pub complaints: Vec<String>,
    /// Damage that was found at the start: the records are only read.
    pub damage: Vec<String>,
    /// Whether the second folder can be set from here: not over a network.
    pub can_set: bool,
}

/// Settings of the upkeep.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct UpkeepChange {
    /// Second folder of copies, from the root; nothing for none.
    second_folder: Option<String>,
}

impl From<UpkeepError> for ApiError {
    fn from(error: UpkeepError) -> Self {
        match error {
            UpkeepError::Store(error) => error.into(),
            error => {
                tracing::error!(%error, "the upkeep failed");
                Self::new(StatusCode::INTERNAL_SERVER_ERROR, "upkeep-failed", error.to_string())
            }
        }
    }
}

impl State {
    async fn upkeep(&self) -> Result<UpkeepView, ApiError> {
        let can_set = !self.reach.on_network;
        self.records(move |store| Ok(view(store, can_set))).await
    }
}

fn view(store: &Store, can_set: bool) -> UpkeepView {
    let folder = store.folder();
    let settings = UpkeepSettings::read(folder);
    let second_at = settings.second_place().as_deref().and_then(upkeep::newest_in);
    UpkeepView {
        folder: folder.display().to_string(),
        copies: upkeep::copies(folder).into_iter().map(Into::into).collect(),
        trouble: settings.trouble,
        second_at: second_at.map(|at| at.to_string()),
        second_folder: settings.second_folder.map(|folder| folder.display().to_string()),
        second_trouble: settings.second_trouble,
        checked_at: settings.checked_at,
        complaints: settings.complaints,
        damage: store.damage().unwrap_or_default().to_vec(),
        can_set,
    }
}

/// Tells about backups.
#[utoipa::path(get, operation_id = "getUpkeep", path = "/upkeep", responses((status = 200, body = UpkeepView)))]
pub async fn get(Ask(state): Ask<State>) -> Result<Json<UpkeepView>, ApiError> {
    Ok(Json(state.upkeep().await?))
}

/// Makes a dated copy now. Where the records are as they were at the last one, that one stays the newest.
#[utoipa::path(post, operation_id = "copyNow", path = "/upkeep/copies", responses((status = 200, body = UpkeepView)))]
pub async fn copy(Ask(state): Ask<State>, _writing: Writing) -> Result<Json<UpkeepView>, ApiError> {
    let (store, now) = (std::sync::Arc::clone(&state.store), state.clock.now());
    let made = state.compute_long(move || upkeep::copy_now(store.folder(), now)).await?;
    made?;
    Ok(Json(state.upkeep().await?))
}

/// Sets the second folder, and makes a copy into it.
#[utoipa::path(put, operation_id = "setUpkeep", path = "/upkeep", request_body = UpkeepChange,
    responses((status = 200, body = UpkeepView)))]
pub async fn set(Ask(state): Ask<State>, _writing: Writing, body: Body<UpkeepChange>) -> Result<Json<UpkeepView>, ApiError> {
    if state.reach.on_network {
        let says = "A folder of this machine is chosen at this machine only: start Pukka without a network address, and set it.";
        return Err(ApiError::new(StatusCode::FORBIDDEN, "not-over-a-network", says));
    }
    let second = body.value.second_folder.map(|text| text.trim().to_owned()).filter(|text| !text.is_empty()).map(PathBuf::from);
    let store = std::sync::Arc::clone(&state.store);
    let now = state.clock.now();
    let done = state.compute_long(move || set_second(store.folder(), second, now)).await?;
    done?;
    Ok(Json(state.upkeep().await?))
}

fn set_second(folder: &File, second: Option<PathBuf>, now: jiff::Timestamp) -> Result<(), ApiError> {
    let refused = |says: String| Err(ApiError::invalid(vec![Problem::new("second_folder", says)]));
    if let Some(second) = &second {
        if !second.is_absolute() {
            return refused("Name the folder from the root, such as /media/copies or D:\\copies.".into());
        }
        // By its nearest parent that is there: the folder itself may be new.
        let there = second.ancestors().find_map(|parent| parent.canonicalize().ok());
        if let (Ok(own), Some(there)) = (folder.canonicalize(), there)
            && there.starts_with(own)
        {
            return refused("This folder is inside the data folder: copies there go with it. Name another, best on another disk.".into());
        }
        if let Err(why) = upkeep::try_folder(second) {
            return refused(format!("{} cannot be written to: {why}", second.display()));
        }
    }
    UpkeepSettings::change(folder, |settings| {
        settings.set_second(second);
        settings.second_trouble = None;
    })?;
    upkeep::copy_now(folder, now)?;
    Ok(())
}

/// Everything as one file, which `pukka restore` takes.
#[utoipa::path(get, operation_id = "getBackup", path = "/backup.zip",
    responses((status = 200, body = Vec<u8>, content_type = "application/zip")))]
pub async fn backup(Ask(state): Ask<State>) -> Result<Response, ApiError> {
    let (store, now) = (std::sync::Arc::clone(&state.store), state.clock.now());
    let made = state.compute_long(move || {
        let download = Download::beside(store.folder(), "backup");
        upkeep::backup(store.folder(), download.path(), &now.to_string()).map(|_| download)
    });
    let download = made.await??;
    let name = format!("pukka-backup-{}.zip", now.strftime("%Y-%m-%dT%H%M"));
    Ok(download.response("application/zip", &name)?)
}
