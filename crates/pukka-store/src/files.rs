//! Files beside the database, named by the hash of what is in them: written to a temporary file, synced, renamed.

use std::fs;
use std::path::{Path, PathBuf};

use sha2::{Digest, Sha256};

use crate::{StoreError, whole};

/// Folder of the photos.
#[derive(Debug)]
pub struct Files {
    photos: PathBuf,
}

impl Files {
    /// Files of a data folder.
    #[must_use]
    pub fn in_folder(folder: &Path) -> Self {
        Self { photos: folder.join("photos") }
    }

    /// Keeps the bytes of a photo and returns their hash. The same bytes twice are one file.
    ///
    /// # Errors
    /// [`StoreError::DiskFull`] or [`StoreError::Folder`] when they cannot be written.
    pub fn keep_photo(&self, bytes: &[u8]) -> Result<String, StoreError> {
        let sha256 = Self::hash(bytes);
        let path = self.photo_path(&sha256)?;
        if !path.exists() {
            self.write(&path, bytes).map_err(|why| StoreError::at(&self.photos, why))?;
        }
        Ok(sha256)
    }

    /// The hash that a file is named by.
    #[must_use]
    pub fn hash(bytes: &[u8]) -> String {
        Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect()
    }

    /// The bytes of a photo.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when its file is gone.
    pub fn photo(&self, sha256: &str) -> Result<Vec<u8>, StoreError> {
        let path = self.photo_path(sha256)?;
        fs::read(path).map_err(|why| match why.kind() {
            std::io::ErrorKind::NotFound => StoreError::NotFound { what: "photo file", id: sha256.to_owned() },
            _ => StoreError::at(&self.photos, why),
        })
    }

    /// No path is made of anything but a hash.
    fn photo_path(&self, sha256: &str) -> Result<PathBuf, StoreError> {
        let is_hash = sha256.len() == 64 && sha256.bytes().all(|byte| byte.is_ascii_hexdigit());
        if is_hash { Ok(self.photos.join(format!("{sha256}.jpg"))) } else { Err(StoreError::Broken) }
    }

    fn write(&self, path: &Path, bytes: &[u8]) -> std::io::Result<()> {
        whole::own_folder(&self.photos)?;
        whole::write(path, bytes)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_bytes_are_one_file_and_no_path_comes_from_outside() {
        let folder = tempfile::tempdir().unwrap();
        let files = Files::in_folder(folder.path());
        let one = files.keep_photo(b"a picture").unwrap();
        assert_eq!(files.keep_photo(b"a picture").unwrap(), one);
        assert_eq!(files.photo(&one).unwrap(), b"a picture");
        assert_eq!(fs::read_dir(folder.path().join("photos")).unwrap().count(), 1, "and nothing half-written beside it");
        assert!(matches!(files.photo("../pukka.sqlite"), Err(StoreError::Broken)));
        assert!(matches!(files.photo(&"0".repeat(64)), Err(StoreError::NotFound { .. })));
    }
}
