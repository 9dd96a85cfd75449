//! A file or folder that is not whole yet: gone again unless it is finished.

use std::path::{Path, PathBuf};

use super::UpkeepError;

/// Removed when dropped, unless it was put in its place.
pub struct Part {
    path: PathBuf,
    is_done: bool,
}

impl Part {
    /// A name beside `of` that nobody else has.
    pub fn beside(of: &Path) -> Self {
        let name = of.file_name().unwrap_or_default().to_string_lossy();
        Self { path: of.with_file_name(format!("{name}.{}.part", pukka_store::new_id())), is_done: false }
    }

    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Puts it in its place.
    pub fn finish(mut self, place: &Path) -> Result<(), UpkeepError> {
        std::fs::rename(&self.path, place).map_err(|why| UpkeepError::file(place, why))?;
        self.is_done = true;
        match place.parent().filter(|parent| !parent.as_os_str().is_empty()) {
            Some(parent) => super::sync_folder(parent),
            None => Ok(()),
        }
    }
}

impl Drop for Part {
    fn drop(&mut self) {
        if self.is_done {
            return;
        }
        // What cannot be removed is named as a part, and a check says so.
        let _ = if self.path.is_dir() { std::fs::remove_dir_all(&self.path) } else { std::fs::remove_file(&self.path) };
    }
}
