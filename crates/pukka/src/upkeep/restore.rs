//! A backup put back. All of it is checked before anything is replaced, and what was there is kept beside it.

use std::fs::{self, File};
use std::io::{Read, Write as _};
use std::path::{Path, PathBuf};

use pukka_store::upkeep::{FolderLock, verify_database};
use pukka_store::whole::{self, Part, sync_folder};
use pukka_store::{Kept, StoreError};
use zip::ZipArchive;

use super::{DATABASE, Entry, MANIFEST, Manifest, UpkeepError, database_files, hashed};

/// A backup that was put back.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Restored {
    /// Content.
    pub manifest: Manifest,
    /// Folder with what was there before; nothing when there was nothing.
    pub before: Option<PathBuf>,
}

/// A backup, as it lies on the disk.
enum Source {
    Zip(Box<ZipArchive<File>>),
    /// A dated copy: its database, and the folder of its files.
    Dated(PathBuf, PathBuf),
}

impl Source {
    fn open(file: &Path) -> Result<(Self, Manifest), UpkeepError> {
        let trouble = |why| UpkeepError::file(file, why);
        if file.extension().is_some_and(|end| end == "json") {
            let manifest = Manifest::read(&fs::read(file).map_err(trouble)?)?;
            let place = file.parent().map(Path::to_owned).unwrap_or_default();
            return Ok((Self::Dated(file.with_extension("sqlite"), place), manifest));
        }
        let mut zip = ZipArchive::new(File::open(file).map_err(trouble)?).map_err(|why| UpkeepError::Damaged(why.to_string()))?;
        let mut json = Vec::new();
        zip.by_name(MANIFEST).map_err(|_| UpkeepError::OtherKind)?.take(64 << 20).read_to_end(&mut json).map_err(trouble)?;
        let manifest = Manifest::read(&json)?;
        Ok((Self::Zip(Box::new(zip)), manifest))
    }

    /// Writes one of its files to a place, and checks it against the manifest.
    fn unpack(&mut self, name: &str, entry: &Entry, to: &Path) -> Result<(), UpkeepError> {
        match self {
            Self::Zip(zip) => {
                let from = zip.by_name(name).map_err(|_| UpkeepError::Damaged(format!("{name} is missing")))?;
                checked(from, name, entry, to)
            }
            Self::Dated(database, place) => {
                let from = if name == DATABASE { database.clone() } else { place.join(name) };
                let file = File::open(&from).map_err(|why| UpkeepError::Damaged(format!("{} cannot be read: {why}", from.display())))?;
                checked(file, name, entry, to)
            }
        }
    }
}

fn checked(from: impl Read, name: &str, entry: &Entry, to: &Path) -> Result<(), UpkeepError> {
    let trouble = |why| UpkeepError::file(to, why);
    let mut file = whole::new_file(to).map_err(trouble)?;
    let unreadable = |why| UpkeepError::Damaged(format!("{name} cannot be read: {why}"));
    // No more is read than was promised, whatever a zip unpacks to.
    let read = hashed(from.take(entry.bytes + 1), unreadable, |block| file.write_all(block).map_err(trouble))?;
    file.sync_all().map_err(trouble)?;
    let is_whole = read.bytes == entry.bytes && read.sha256.eq_ignore_ascii_case(&entry.sha256);
    if is_whole { Ok(()) } else { Err(UpkeepError::Damaged(format!("{name} is not what was written"))) }
}

/// Puts a backup back into a data folder. The program must not run there. Hashes, every page of the database and its version are
/// checked first; what was in the folder is moved into `before-restore-…` beside it.
///
/// # Errors
/// [`UpkeepError`] when the backup is not whole, the folder in use, or a file cannot be written. The folder is as it was then.
pub fn restore(file: &Path, folder: &Path, now: jiff::Timestamp) -> Result<Restored, UpkeepError> {
    let (mut source, manifest) = Source::open(file)?;
    let mut lock = FolderLock::take(folder)?;
    let fresh = Part::beside(&folder.join("restore"));
    let trouble = |path: &Path| {
        let path = path.to_owned();
        move |why| UpkeepError::file(&path, why)
    };
    for kept in Kept::ALL {
        fs::create_dir_all(fresh.path().join(kept.folder())).map_err(trouble(fresh.path()))?;
    }
    source.unpack(DATABASE, &manifest.database, &fresh.path().join(DATABASE))?;
    for (kept, entry) in manifest.files() {
        source.unpack(&kept.name(&entry.sha256), entry, &kept.path(fresh.path(), &entry.sha256)?)?;
    }
    verify_database(&fresh.path().join(DATABASE)).map_err(|why| match why {
        StoreError::Damaged { says, .. } => UpkeepError::Damaged(format!("its database: {says}")),
        other => other.into(),
    })?;
    for kept in Kept::ALL {
        let files = fresh.path().join(kept.folder());
        sync_folder(&files).map_err(trouble(&files))?;
    }
    sync_folder(fresh.path()).map_err(trouble(fresh.path()))?;
    if folder.join(DATABASE).is_file() {
        lock.hold(folder, &folder.join(DATABASE))?;
    }
    let before = replace(folder, fresh.path(), now)?;
    Ok(Restored { manifest, before })
}

/// Moves what is there aside, and the new in its place; moves it back when that fails.
fn replace(folder: &Path, fresh: &Path, now: jiff::Timestamp) -> Result<Option<PathBuf>, UpkeepError> {
    let aside = folder.join(format!("before-restore-{}", now.strftime("%Y-%m-%dT%H%M%SZ")));
    let files = Kept::ALL.map(|kept| folder.join(kept.folder()));
    let old: Vec<PathBuf> = database_files(folder).into_iter().chain(files).filter(|path| path.exists()).collect();
    let renamed = |from: &Path, to: &Path| fs::rename(from, to).map_err(|why| UpkeepError::file(from, why));
    if !old.is_empty() {
        fs::create_dir(&aside).map_err(|why| UpkeepError::file(&aside, why))?;
    }
    let mut moved: Vec<(PathBuf, PathBuf)> = Vec::new();
    let mut go = || -> Result<(), UpkeepError> {
        // Files first, the database last: cut off in between, the folder is one without records, which is not taken for a new shelf.
        for from in old.iter().rev() {
            let to = aside.join(from.file_name().unwrap_or_default());
            renamed(from, &to)?;
            moved.push((from.clone(), to));
        }
        for name in Kept::ALL.map(Kept::folder).into_iter().chain([DATABASE]) {
            let to = folder.join(name);
            renamed(&fresh.join(name), &to)?;
            moved.push((fresh.join(name), to));
        }
        sync_folder(folder).map_err(|why| UpkeepError::file(folder, why))
    };
    if let Err(why) = go() {
        for (from, to) in moved.iter().rev() {
            // What cannot be moved back stays where it is: nothing is ever deleted.
            let _ = fs::rename(to, from);
        }
        let _ = fs::remove_dir(&aside);
        return Err(why);
    }
    Ok((!old.is_empty()).then_some(aside))
}
