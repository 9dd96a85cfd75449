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
    /// Name of this data folder's own folder there: another Pukka may copy to the same place.
    pub second_name: Option<String>,
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
    /// Place of the copies in the second folder.
    #[must_use]
    pub fn second_place(&self) -> Option<PathBuf> {
        Some(self.second_folder.as_ref()?.join(format!("pukka-{}", self.second_name.as_ref()?)))
    }

    /// Sets the second folder, with a name in it that no other has.
    pub fn set_second(&mut self, second: Option<PathBuf>) {
        self.second_name.get_or_insert_with(|| pukka_store::new_salt().chars().take(8).collect());
        self.second_folder = second;
    }

    fn path(folder: &Path) -> PathBuf {
        folder.join("upkeep.json")
    }

    /// Reads them; a file that is not there, or cannot be read, sets nothing.
    #[must_use]
    pub fn read(folder: &Path) -> Self {
        std::fs::read(Self::path(folder)).ok().and_then(|bytes| serde_json::from_slice(&bytes).ok()).unwrap_or_default()
    }

    /// Reads them, the second folder with a name in it: one that was set before there were names gets its own.
    ///
    /// # Errors
    /// [`UpkeepError`] when the file cannot be written.
    pub fn named(folder: &Path) -> Result<Self, UpkeepError> {
        let settings = Self::read(folder);
        if settings.second_folder.is_none() || settings.second_name.is_some() {
            return Ok(settings);
        }
        Self::change(folder, |settings| {
            let second = settings.second_folder.take();
            settings.set_second(second);
        })
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
