//! What is in a file that is brought: bounded in size, in number and in names before anything of it is believed.

use std::collections::BTreeMap;
use std::io::{Cursor, Read as _};

use pukka_core::kernel::problem::{Problem, read_json};
use pukka_core::record::session::{Mode, SessionFile};
use pukka_store::lives::Ramp;
use serde::de::DeserializeOwned;
use zip::ZipArchive;

use super::{Arriving, Bundle, BundleError, BundledPhoto, FORMAT, MOST_FILES, MOST_JSON, MOST_UNPACKED, Manifest, PhotoLine, VERSION};
use crate::photo;

/// Reads a session file, or a zip of a shelf.
///
/// # Errors
/// [`BundleError`] when nothing of it can be taken; what is wrong with one amplifier stands with it.
pub fn read(bytes: &[u8]) -> Result<Bundle, BundleError> {
    if bytes.starts_with(b"PK") {
        return read_zip(bytes);
    }
    let text = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    if text.iter().find(|byte| !byte.is_ascii_whitespace()) != Some(&b'{') {
        return Err(BundleError::OtherKind);
    }
    if bytes.len() as u64 > MOST_JSON {
        return Err(too_large("The file", MOST_JSON));
    }
    let alone = Arriving {
        folder: String::new(),
        session: SessionFile::read(bytes),
        ramps: Vec::new(),
        settled: None,
        photos: Vec::new(),
        left_out: Vec::new(),
    };
    Ok(Bundle { amplifiers: vec![alone], not_known: Vec::new() })
}

fn too_large(what: &str, most: u64) -> BundleError {
    BundleError::TooLarge { what: what.to_owned(), most_mb: most / 1024 / 1024 }
}

/// Files of a zip by their names.
type Files = BTreeMap<String, Vec<u8>>;

fn read_zip(bytes: &[u8]) -> Result<Bundle, BundleError> {
    let mut files = unpack(bytes)?;
    let mut not_known = Vec::new();
    if let Some(shelf) = files.remove("shelf.json") {
        let manifest: Manifest = read_json(&shelf).map_err(|problem| BundleError::Damaged(format!("shelf.json: {}", problem.says)))?;
        if manifest.format != FORMAT || manifest.version != VERSION {
            return Err(BundleError::Damaged(format!("shelf.json says {} {}", manifest.format, manifest.version)));
        }
    }
    let mut folders = BTreeMap::<String, Files>::new();
    for (name, content) in files {
        match name.split_once('/') {
            Some((folder, rest)) => {
                folders.entry(folder.to_owned()).or_default().insert(rest.to_owned(), content);
            }
            None => not_known.push(name),
        }
    }
    let mut amplifiers = Vec::new();
    for (folder, mut files) in folders {
        match files.remove("session.json") {
            Some(session) => amplifiers.push(arriving(folder, &session, files, &mut not_known)),
            None => not_known.extend(files.into_keys().map(|name| format!("{folder}/{name}"))),
        }
    }
    if amplifiers.is_empty() { Err(BundleError::Empty) } else { Ok(Bundle { amplifiers, not_known }) }
}

/// Every file of a zip, in memory: what it says of its sizes is not believed.
fn unpack(bytes: &[u8]) -> Result<Files, BundleError> {
    let damaged = |why: zip::result::ZipError| BundleError::Damaged(why.to_string());
    let mut zip = ZipArchive::new(Cursor::new(bytes)).map_err(damaged)?;
    if zip.len() > MOST_FILES {
        return Err(BundleError::TooMany(zip.len()));
    }
    let (mut files, mut left) = (Files::new(), MOST_UNPACKED);
    for i in 0..zip.len() {
        let file = zip.by_index(i).map_err(damaged)?;
        let name = file.name().map_err(damaged)?.into_owned();
        if climbs(&name) {
            return Err(BundleError::Climbs(name));
        }
        if file.is_dir() || file.is_symlink() {
            continue;
        }
        let picture = name.ends_with(".jpg");
        let most = if picture { photo::MOST_BYTES as u64 } else { MOST_JSON };
        let mut content = Vec::new();
        file.take(most.min(left) + 1).read_to_end(&mut content).map_err(|why| BundleError::Damaged(format!("{name}: {why}")))?;
        let size = content.len() as u64;
        if size > most {
            return Err(too_large(&format!("“{name}”"), most));
        }
        left = left.checked_sub(size).ok_or_else(|| too_large("The zip", MOST_UNPACKED))?;
        if files.insert(name.clone(), content).is_some() {
            return Err(BundleError::Twice(name));
        }
    }
    Ok(files)
}

/// A name that is no plain path below where the zip lies.
fn climbs(name: &str) -> bool {
    let odd = name.starts_with('/') || name.contains(['\\', ':', '\0']) || name.len() > 400;
    odd || name.split('/').any(|part| part == ".." || part == ".")
}

fn arriving(folder: String, session: &[u8], mut files: Files, not_known: &mut Vec<String>) -> Arriving {
    let mut left_out = Vec::new();
    let settled = part(&mut files, "settled.json", &mut left_out);
    let lines: Vec<PhotoLine> = part(&mut files, "photos.json", &mut left_out).unwrap_or_default();
    let ramps = files.keys().filter(|name| name.starts_with("ramps/") && name.ends_with(".json")).cloned().collect::<Vec<_>>();
    let mut ramps: Vec<Ramp> = ramps.iter().filter_map(|name| part(&mut files, name, &mut left_out)).collect();
    ramps.retain(|ramp| {
        let known = Mode::ALL.iter().any(|mode| mode.word() == ramp.mode);
        if !known {
            left_out.push(Problem::new("ramps", format!("There is no mode “{}”.", ramp.mode)));
        }
        known
    });
    let mut photos: Vec<BundledPhoto> = Vec::new();
    for line in lines {
        match files.remove(&line.file) {
            Some(bytes) => photos.push(BundledPhoto { caption: line.caption.chars().take(200).collect(), bytes }),
            None => left_out.push(Problem::new(line.file, "photos.json names it, but it is not there.")),
        }
    }
    let more: Vec<String> = files.keys().filter(|name| name.starts_with("photos/") && name.ends_with(".jpg")).cloned().collect();
    photos.extend(more.iter().filter_map(|name| files.remove(name)).map(|bytes| BundledPhoto { caption: String::new(), bytes }));
    not_known.extend(files.into_keys().map(|name| format!("{folder}/{name}")));
    Arriving { session: SessionFile::read(session), folder, ramps, settled, photos, left_out }
}

/// Takes one JSON file out of a folder; what cannot be read is named.
fn part<T: DeserializeOwned>(files: &mut Files, name: &str, left_out: &mut Vec<Problem>) -> Option<T> {
    let content = files.remove(name)?;
    match read_json(&content) {
        Ok(value) => Some(value),
        Err(problem) => {
            left_out.push(Problem::new(name, format!("{} {}", problem.path, problem.says)));
            None
        }
    }
}
