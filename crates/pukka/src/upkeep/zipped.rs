//! A backup in one file.

use std::fs::File;
use std::io::{BufWriter, Seek, Write};
use std::path::Path;

use pukka_store::upkeep::copy_database;
use pukka_store::whole::{self, Part};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use super::{DATABASE, MANIFEST, Manifest, UpkeepError, entry_of};

/// A backup that was made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Backup {
    /// Content.
    pub manifest: Manifest,
    /// Length of the file.
    pub bytes: u64,
}

/// Backs a data folder up into a new file. The program may run meanwhile. A photo that cannot be read is named, and the rest goes on.
///
/// # Errors
/// [`UpkeepError`] when the records cannot be read, the file exists, or it cannot be written.
pub fn backup(folder: &Path, to: &Path, made_at: &str) -> Result<Backup, UpkeepError> {
    if to.exists() {
        return Err(UpkeepError::Exists(to.display().to_string()));
    }
    let part = Part::beside(to);
    let trouble = |why| UpkeepError::file(part.path(), why);
    let file = whole::new_file(part.path()).map_err(trouble)?;
    let mut out = BufWriter::new(file);
    let manifest = write(folder, &mut out, to, made_at)?;
    let file = out.into_inner().map_err(|why| trouble(why.into_error()))?;
    file.sync_all().map_err(trouble)?;
    let bytes = file.metadata().map_err(trouble)?.len();
    part.finish(to).map_err(|why| UpkeepError::file(to, why))?;
    Ok(Backup { manifest, bytes })
}

fn write(folder: &Path, out: impl Write + Seek, to: &Path, made_at: &str) -> Result<Manifest, UpkeepError> {
    let trouble = |why: zip::result::ZipError| UpkeepError::file(to, why.into());
    let copy = Part::beside(to);
    let copied = copy_database(folder, copy.path())?;
    let mut manifest = Manifest::new(made_at.to_owned(), copied.schema, copied.amplifiers, entry_of(copy.path())?);
    let mut zip = ZipWriter::new(out);
    let deflated = SimpleFileOptions::default().large_file(true).unix_permissions(0o600);
    let stored = deflated.compression_method(CompressionMethod::Stored);
    zip.start_file(DATABASE, deflated).map_err(trouble)?;
    let mut database = File::open(copy.path()).map_err(|why| UpkeepError::file(copy.path(), why))?;
    std::io::copy(&mut database, &mut zip).map_err(|why| UpkeepError::file(to, why))?;
    for (kept, sha256) in copied.files {
        // Looked at before it is written: a zip takes nothing back.
        let path = kept.path(folder, &sha256)?;
        let entry = entry_of(&path).ok().filter(|entry| entry.sha256 == sha256);
        if entry.is_some() {
            zip.start_file(kept.name(&sha256), stored).map_err(trouble)?;
            let copied = File::open(&path).and_then(|mut file| std::io::copy(&mut file, &mut zip));
            copied.map_err(|why| UpkeepError::file(to, why))?;
        }
        manifest.note(kept, sha256, entry);
    }
    zip.start_file(MANIFEST, deflated).map_err(trouble)?;
    let json = serde_json::to_vec_pretty(&manifest).map_err(|why| UpkeepError::file(to, why.into()))?;
    zip.write_all(&json).map_err(|why| UpkeepError::file(to, why))?;
    zip.finish().map_err(trouble)?.flush().map_err(|why| UpkeepError::file(to, why))?;
    Ok(manifest)
}
