//! Files that are written whole or not at all, and that only their owner may read.

use std::fs::{self, DirBuilder, File, OpenOptions};
use std::io::Write as _;
use std::path::{Path, PathBuf};

/// Opens files that only their owner may read.
pub(crate) fn private() -> OpenOptions {
    let mut options = OpenOptions::new();
    options.write(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options
}

/// A new file that only its owner may read.
///
/// # Errors
/// The system's, also when the file is there already.
pub fn new_file(path: &Path) -> std::io::Result<File> {
    private().create_new(true).open(path)
}

/// Makes a folder that only its owner may look into; one that is there stays as it is.
///
/// # Errors
/// The system's.
pub fn folder(path: &Path) -> std::io::Result<()> {
    let mut builder = DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
    builder.create(path)
}

/// Likewise, of a folder of our own: one that is there becomes so.
pub(crate) fn own_folder(path: &Path) -> std::io::Result<()> {
    folder(path)?;
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        // A folder of somebody else's may be written to and cannot be changed: it is used as it is.
        let _ = fs::set_permissions(path, fs::Permissions::from_mode(0o700));
    }
    Ok(())
}

/// Makes what was renamed in a folder survive a power cut.
///
/// # Errors
/// The system's.
pub fn sync_folder(path: &Path) -> std::io::Result<()> {
    // Only where folders can be opened as files.
    if cfg!(unix) { File::open(path)?.sync_all() } else { Ok(()) }
}

/// Writes a file beside its place, and puts it there once all of it is on the disk.
///
/// # Errors
/// The system's; nothing half-written stays behind.
pub fn write(place: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let part = Part::beside(place);
    let mut file = new_file(part.path())?;
    file.write_all(bytes)?;
    file.sync_all()?;
    part.finish(place)
}

/// The name of a file or folder that is not whole yet: what is under it is gone once this is dropped, unless it was put in its place.
#[derive(Debug)]
pub struct Part {
    path: PathBuf,
    is_done: bool,
}

impl Part {
    /// A name beside `of` that nobody else has.
    #[must_use]
    pub fn beside(of: &Path) -> Self {
        let name = of.file_name().unwrap_or_default().to_string_lossy();
        Self { path: of.with_file_name(format!("{name}.{}.part", crate::new_id())), is_done: false }
    }

    /// Its path.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Puts it in its place.
    ///
    /// # Errors
    /// The system's.
    pub fn finish(mut self, place: &Path) -> std::io::Result<()> {
        fs::rename(&self.path, place)?;
        self.is_done = true;
        match place.parent().filter(|parent| !parent.as_os_str().is_empty()) {
            Some(parent) => sync_folder(parent),
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
        let _ = if self.path.is_dir() { fs::remove_dir_all(&self.path) } else { fs::remove_file(&self.path) };
    }
}
