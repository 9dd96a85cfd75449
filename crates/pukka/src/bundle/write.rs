//! A shelf as a zip.

use std::io::{Cursor, Write as _};

use pukka_core::kernel::problem::Problem;
use pukka_store::transfer::Outgoing;
use serde::Serialize;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use super::{BundledPhoto, FORMAT, Manifest, PhotoLine, VERSION};

/// An amplifier to be written.
#[derive(Debug)]
pub struct Folder {
    /// Session, ramps, settled verdict.
    pub outgoing: Outgoing,
    /// Photos.
    pub photos: Vec<BundledPhoto>,
}

/// Writes a shelf. The same shelf at the same moment gives the same bytes.
///
/// # Errors
/// When something cannot be written as JSON, or the zip not be made.
pub fn write(folders: &[Folder], exported_at: &str) -> Result<Vec<u8>, Problem> {
    let names = names(folders);
    let mut zip = Zip(ZipWriter::new(Cursor::new(Vec::new())));
    let manifest = Manifest { format: FORMAT.into(), version: VERSION, exported_at: exported_at.into(), folders: names.clone() };
    zip.json("shelf.json", &manifest)?;
    for (name, folder) in names.iter().zip(folders) {
        zip.json(&format!("{name}/session.json"), &folder.outgoing.file.to_file().map_err(trouble)?)?;
        if let Some(settled) = &folder.outgoing.settled {
            zip.json(&format!("{name}/settled.json"), settled)?;
        }
        for (i, ramp) in folder.outgoing.ramps.iter().enumerate() {
            zip.json(&format!("{name}/ramps/{:03}.json", i + 1), ramp)?;
        }
        let mut lines = Vec::new();
        for (i, photo) in folder.photos.iter().enumerate() {
            let file = format!("photos/{:02}.jpg", i + 1);
            zip.file(&format!("{name}/{file}"), &photo.bytes, CompressionMethod::Stored)?;
            lines.push(PhotoLine { file, caption: photo.caption.clone() });
        }
        if !lines.is_empty() {
            zip.json(&format!("{name}/photos.json"), &lines)?;
        }
    }
    zip.0.finish().map(Cursor::into_inner).map_err(trouble)
}

fn trouble(why: impl std::fmt::Display) -> Problem {
    Problem::new("", format!("The file cannot be written: {why}"))
}

struct Zip(ZipWriter<Cursor<Vec<u8>>>);

impl Zip {
    fn json(&mut self, name: &str, value: &impl Serialize) -> Result<(), Problem> {
        let bytes = serde_json::to_vec_pretty(value).map_err(trouble)?;
        self.file(name, &bytes, CompressionMethod::Deflated)
    }

    fn file(&mut self, name: &str, bytes: &[u8], how: CompressionMethod) -> Result<(), Problem> {
        // Without a date of its own: the moment stands in shelf.json.
        let options = SimpleFileOptions::default().compression_method(how).last_modified_time(zip::DateTime::default());
        self.0.start_file(name, options).map_err(trouble)?;
        self.0.write_all(bytes).map_err(trouble)
    }
}

/// A folder name an amplifier: its name in plain letters, numbered where two are alike.
fn names(folders: &[Folder]) -> Vec<String> {
    let mut names: Vec<String> = Vec::with_capacity(folders.len());
    let mut seen = std::collections::BTreeMap::<String, usize>::new();
    for folder in folders {
        let plain = crate::slug(&folder.outgoing.file.amplifier.name());
        let count = seen.entry(plain.clone()).or_default();
        *count += 1;
        names.push(if *count == 1 { plain } else { format!("{plain}--{count}") });
    }
    names
}
