//! Files beside the database, named by the hash of what is in them: written to a temporary file, synced, renamed.

use std::fs::{self, File};
use std::io::Read;
use std::path::{Path, PathBuf};

use pukka_core::record::session::is_hash;
use sha2::{Digest, Sha256};

use crate::whole::Part;
use crate::{StoreError, whole};

/// Kind of file that is kept beside the database.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Kept {
    /// A photo, encoded anew.
    Photo,
    /// A captured wave, as it came.
    Trace,
}

impl Kept {
    /// Every kind.
    pub const ALL: [Self; 2] = [Self::Photo, Self::Trace];

    /// The folder of its files.
    #[must_use]
    pub const fn folder(self) -> &'static str {
        match self {
            Self::Photo => "photos",
            Self::Trace => "traces",
        }
    }

    /// Ending of their names, with its dot.
    #[must_use]
    pub const fn ending(self) -> &'static str {
        match self {
            Self::Photo => ".jpg",
            Self::Trace => "",
        }
    }

    /// Name in sentences.
    #[must_use]
    pub const fn what(self) -> &'static str {
        match self {
            Self::Photo => "photo file",
            Self::Trace => "trace file",
        }
    }

    /// Name of a file in a data folder: "photos/<sha256>.jpg".
    #[must_use]
    pub fn name(self, sha256: &str) -> String {
        format!("{}/{sha256}{}", self.folder(), self.ending())
    }

    /// Path of a file in a data folder.
    ///
    /// # Errors
    /// [`StoreError::Broken`] where its name is no hash: no path is made of anything else.
    pub fn path(self, folder: &Path, sha256: &str) -> Result<PathBuf, StoreError> {
        if is_hash(sha256) { Ok(folder.join(self.name(sha256))) } else { Err(StoreError::Broken) }
    }
}

/// Files of a data folder.
#[derive(Debug)]
pub struct Files {
    folder: PathBuf,
}

impl Files {
    /// Files of a data folder.
    #[must_use]
    pub fn in_folder(folder: &Path) -> Self {
        Self { folder: folder.to_owned() }
    }

    /// Keeps the bytes of a photo and returns their hash. The same bytes twice are one file.
    ///
    /// # Errors
    /// [`StoreError::DiskFull`] or [`StoreError::Folder`] when they cannot be written.
    pub fn keep_photo(&self, bytes: &[u8]) -> Result<String, StoreError> {
        let sha256 = Self::hash(bytes);
        let path = Kept::Photo.path(&self.folder, &sha256)?;
        if !path.exists() {
            let written = whole::own_folder(&self.folder.join(Kept::Photo.folder())).and_then(|()| whole::write(&path, bytes));
            written.map_err(|why| StoreError::at(&path, why))?;
        }
        Ok(sha256)
    }

    /// Keeps a recording that lies in the data folder under another name, and returns its hash. The same recording twice is one file.
    ///
    /// # Errors
    /// [`StoreError::DiskFull`] or [`StoreError::Folder`] when it cannot be read, or not be put in its place.
    pub fn keep_trace(&self, part: Part) -> Result<String, StoreError> {
        let sha256 = Self::hash_of_part(&part)?;
        self.keep_part(part, &sha256)?;
        Ok(sha256)
    }

    /// Keeps a recording that should have this hash, and says whether it does: another one is thrown away.
    ///
    /// # Errors
    /// Those of [`Self::keep_trace`].
    pub fn keep_named_trace(&self, part: Part, sha256: &str) -> Result<bool, StoreError> {
        let is_it = Self::hash_of_part(&part)? == sha256;
        if is_it {
            self.keep_part(part, sha256)?;
        }
        Ok(is_it)
    }

    fn hash_of_part(part: &Part) -> Result<String, StoreError> {
        let trouble = |why| StoreError::at(part.path(), why);
        let file = File::open(part.path()).map_err(trouble)?;
        file.sync_all().map_err(trouble)?;
        Self::hash_of(file).map_err(trouble)
    }

    fn keep_part(&self, part: Part, sha256: &str) -> Result<(), StoreError> {
        let path = Kept::Trace.path(&self.folder, sha256)?;
        if !path.exists() {
            let kept = whole::own_folder(&self.folder.join(Kept::Trace.folder())).and_then(|()| part.finish(&path));
            kept.map_err(|why| StoreError::at(&path, why))?;
        }
        Ok(())
    }

    /// The hash that a file is named by.
    #[must_use]
    pub fn hash(bytes: &[u8]) -> String {
        hexadecimal(&Sha256::digest(bytes))
    }

    /// Likewise, of what is read to its end.
    ///
    /// # Errors
    /// The system's.
    pub fn hash_of(mut from: impl Read) -> std::io::Result<String> {
        let (mut hash, mut block) = (Sha256::new(), vec![0; 256 * 1024]);
        loop {
            match from.read(&mut block)? {
                0 => return Ok(hexadecimal(&hash.finalize())),
                n => hash.update(&block[..n]),
            }
        }
    }

    /// The bytes of a photo.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when its file is gone.
    pub fn photo(&self, sha256: &str) -> Result<Vec<u8>, StoreError> {
        let path = self.path(Kept::Photo, sha256)?;
        fs::read(&path).map_err(|why| StoreError::at(&path, why))
    }

    /// Path of a file that is there.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when it is gone.
    pub fn path(&self, kept: Kept, sha256: &str) -> Result<PathBuf, StoreError> {
        let path = kept.path(&self.folder, sha256)?;
        if path.is_file() { Ok(path) } else { Err(StoreError::NotFound { what: kept.what(), id: sha256.to_owned() }) }
    }
}

fn hexadecimal(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
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

    #[test]
    fn a_recording_is_moved_into_its_place_once() {
        let folder = tempfile::tempdir().unwrap();
        let files = Files::in_folder(folder.path());
        let arrived = || {
            let part = Part::beside(&folder.path().join("upload"));
            fs::write(part.path(), b"a wave").unwrap();
            part
        };
        let one = files.keep_trace(arrived()).unwrap();
        assert_eq!((files.keep_trace(arrived()).unwrap(), one.as_str()), (one.clone(), Files::hash(b"a wave").as_str()));
        assert_eq!(fs::read(files.path(Kept::Trace, &one).unwrap()).unwrap(), b"a wave");
        assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1, "the second one is gone, not half there");
        assert!(!files.keep_named_trace(arrived(), &Files::hash(b"another wave")).unwrap());
        let count = |folder: &Path| fs::read_dir(folder).unwrap().count();
        assert_eq!((count(folder.path()), count(&folder.path().join("traces"))), (1, 1), "and one under a wrong name is thrown away");
        assert!(matches!(files.path(Kept::Photo, &one), Err(StoreError::NotFound { .. })));
    }
}
