//! Settings and dates of the upkeep of this machine: a file beside the database, which no backup carries elsewhere.

use std::path::{Path, PathBuf};

use pukka_store::whole;
use serde::{Deserialize, Serialize};

use super::UpkeepError;

/// Settings and dates.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct UpkeepSettings {
    /// A second folder for dated copies, best on another disk.
    pub second_folder: Option<PathBuf>,
    /// Moment of the last whole check, and its complaints.
    pub checked_at: Option<String>,
    /// Complaints of it.
    pub complaints: Vec<String>,
    /// Trouble that the last copy into the second folder had.
    pub second_trouble: Option<String>,
    /// Trouble that the last copy had.
    pub trouble: Option<String>,
}

impl UpkeepSettings {
    fn path(folder: &Path) -> PathBuf {
        folder.join("upkeep.json")
    }

    /// Reads them; a file that is not there, or cannot be read, sets nothing.
    #[must_use]
    pub fn read(folder: &Path) -> Self {
        std::fs::read(Self::path(folder)).ok().and_then(|bytes| serde_json::from_slice(&bytes).ok()).unwrap_or_default()
    }

    /// Keeps them.
    ///
    /// # Errors
    /// [`UpkeepError`] when the file cannot be written.
    pub fn keep(&self, folder: &Path) -> Result<(), UpkeepError> {
        let place = Self::path(folder);
        let trouble = |why| UpkeepError::file(&place, why);
        let json = serde_json::to_vec_pretty(self).map_err(|why| trouble(why.into()))?;
        whole::write(&place, &json).map_err(trouble)
    }

    /// Changes them in place.
    ///
    /// # Errors
    /// [`UpkeepError`] when the file cannot be written.
    pub fn change(folder: &Path, change: impl FnOnce(&mut Self)) -> Result<Self, UpkeepError> {
        let mut settings = Self::read(folder);
        change(&mut settings);
        settings.keep(folder)?;
        Ok(settings)
    }
}
