//! What is in a file that is brought: bounded in size, in number and in names before anything of it is believed, and read an
//! amplifier at a time.

use std::collections::{BTreeMap, BTreeSet};
use std::fs::File;
use std::io::{BufReader, Read as _, Seek as _, SeekFrom, Write};
use std::path::Path;

use pukka_core::kernel::problem::{Problem, read_json};
use pukka_core::record::amplifier::PhotoWords;
use pukka_core::record::bench::BenchProfile;
use pukka_core::record::session::{Mode, SessionFile, is_hash};
use pukka_store::lives::Ramp;
use serde::de::DeserializeOwned;
use zip::ZipArchive;

use super::{
    Arriving, ArrivingPhoto, ArrivingTrace, BundleError, FORMAT, LEFT_OUT, LinkLine, MOST_FILES, MOST_JSON, MOST_RATIO, MOST_TRACE,
    MOST_UNPACKED, Manifest, PhotoLine, VERSION,
};
use crate::photo;

/// A file that is brought, opened.
#[derive(Debug)]
pub struct Bundle {
    zip: Option<ZipArchive<BufReader<File>>>,
    folders: Vec<Folder>,
    /// Bytes that may still be unpacked of it, whatever it says of its sizes.
    left: u64,
    most: u64,
    /// Names in it that mean nothing here.
    pub not_known: Vec<String>,
    /// Bench profiles in it.
    pub benches: Vec<BenchProfile>,
    /// Links of instruments in it.
    pub links: Vec<LinkLine>,
    /// Parts beside the amplifiers that cannot be read.
    pub left_out: Vec<Problem>,
}

/// An amplifier's folder: its files, by their place in the zip; of a single file, its bytes.
#[derive(Debug)]
struct Folder {
    name: String,
    files: BTreeMap<String, usize>,
    alone: Option<Vec<u8>>,
}

/// Opens a session file, or a zip of a shelf.
///
/// # Errors
/// [`BundleError`] when nothing of it can be taken; what is wrong with one amplifier stands with it.
pub fn open(path: &Path) -> Result<Bundle, BundleError> {
    let unreadable = |why: std::io::Error| BundleError::Damaged(why.to_string());
    let mut file = File::open(path).map_err(unreadable)?;
    let length = file.metadata().map_err(unreadable)?.len();
    let mut head = Vec::new();
    (&mut file).take(2).read_to_end(&mut head).map_err(unreadable)?;
    if head == b"PK" {
        return open_zip(file, length);
    }
    if length > MOST_JSON {
        return Err(too_large("The file", MOST_JSON));
    }
    let mut bytes = head;
    file.read_to_end(&mut bytes).map_err(unreadable)?;
    let text = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
    if text.iter().find(|byte| !byte.is_ascii_whitespace()) != Some(&b'{') {
        return Err(BundleError::OtherKind);
    }
    let folder = Folder { name: String::new(), files: BTreeMap::new(), alone: Some(bytes) };
    Ok(Bundle {
        zip: None,
        folders: vec![folder],
        left: 0,
        most: 0,
        not_known: Vec::new(),
        benches: Vec::new(),
        links: Vec::new(),
        left_out: Vec::new(),
    })
}

fn too_large(what: &str, most: u64) -> BundleError {
    BundleError::TooLarge { what: what.to_owned(), most_mb: most / 1024 / 1024 }
}

fn damaged(why: zip::result::ZipError) -> BundleError {
    BundleError::Damaged(why.to_string())
}

fn open_zip(file: File, length: u64) -> Result<Bundle, BundleError> {
    let directory = file.try_clone().map_err(|why| BundleError::Damaged(why.to_string()))?;
    let zip = ZipArchive::new(BufReader::new(file)).map_err(damaged)?;
    if let Some(name) = named_twice(directory, zip.central_directory_start()).map_err(|why| BundleError::Damaged(why.to_string()))? {
        return Err(BundleError::Twice(name));
    }
    let most = MOST_UNPACKED.max(length.saturating_mul(MOST_RATIO));
    let mut bundle = Bundle {
        zip: Some(zip),
        folders: Vec::new(),
        left: most,
        most,
        not_known: Vec::new(),
        benches: Vec::new(),
        links: Vec::new(),
        left_out: Vec::new(),
    };
    let mut names = bundle.names()?;
    let order = match names.remove("shelf.json") {
        Some(at) => bundle.manifest(at)?.folders,
        None => Vec::new(),
    };
    names.remove(LEFT_OUT);
    if let Some(at) = names.remove("benches.json") {
        let found: Option<Vec<BenchProfile>> = bundle.beside("benches.json", at)?;
        bundle.benches = found.unwrap_or_default();
    }
    if let Some(at) = names.remove("instruments.json") {
        let found: Option<Vec<LinkLine>> = bundle.beside("instruments.json", at)?;
        bundle.links = found.unwrap_or_default();
    }
    let mut folders = BTreeMap::<String, BTreeMap<String, usize>>::new();
    for (name, at) in names {
        match name.split_once('/') {
            Some((folder, rest)) => {
                folders.entry(folder.to_owned()).or_default().insert(rest.to_owned(), at);
            }
            None => bundle.not_known.push(name),
        }
    }
    // As they stood on the shelf; what the manifest does not name comes last.
    let mut in_order: Vec<(String, BTreeMap<String, usize>)> = order.iter().filter_map(|name| folders.remove_entry(name)).collect();
    in_order.extend(folders);
    for (name, files) in in_order {
        if files.contains_key("session.json") {
            bundle.folders.push(Folder { name, files, alone: None });
        } else {
            bundle.not_known.extend(files.into_keys().map(|file| format!("{name}/{file}")));
        }
    }
    let has_beside = !bundle.benches.is_empty() || !bundle.links.is_empty();
    if bundle.folders.is_empty() && !has_beside { Err(BundleError::Empty) } else { Ok(bundle) }
}

/// A name that stands twice in a zip's directory: readers differ in which of the two they show, and this one shows the last.
///
/// Ref: APPNOTE 6.3.10, 4.3.12: a header of 46 bytes, then the name, an extra field, a comment.
fn named_twice(file: File, start: u64) -> std::io::Result<Option<String>> {
    let mut read = BufReader::new(file);
    read.seek(SeekFrom::Start(start))?;
    let mut seen = BTreeSet::new();
    let mut header = [0; 46];
    while read.read_exact(&mut header).is_ok() && header.starts_with(b"PK\x01\x02") {
        let length = |at: usize| usize::from(u16::from_le_bytes([header[at], header[at + 1]]));
        let mut name = vec![0; length(28)];
        read.read_exact(&mut name)?;
        read.seek_relative((length(30) + length(32)) as i64)?;
        let name = String::from_utf8_lossy(&name).into_owned();
        if !seen.insert(name.clone()) {
            return Ok(Some(name));
        }
    }
    Ok(None)
}

impl Bundle {
    /// Number of amplifiers.
    #[must_use]
    pub const fn len(&self) -> usize {
        self.folders.len()
    }

    /// Whether it holds no amplifier.
    #[must_use]
    pub const fn is_empty(&self) -> bool {
        self.folders.is_empty()
    }

    /// Files of the zip by their names: none climbs, none is there twice.
    fn names(&mut self) -> Result<BTreeMap<String, usize>, BundleError> {
        let Some(zip) = &mut self.zip else { return Ok(BTreeMap::new()) };
        if zip.len() > MOST_FILES {
            return Err(BundleError::TooMany(zip.len()));
        }
        let (mut names, mut unpacked) = (BTreeMap::new(), 0u64);
        for at in 0..zip.len() {
            let file = zip.by_index_raw(at).map_err(damaged)?;
            let name = file.name().map_err(damaged)?.into_owned();
            if climbs(&name) {
                return Err(BundleError::Climbs(name));
            }
            if file.is_dir() || file.is_symlink() {
                continue;
            }
            unpacked = unpacked.saturating_add(file.size());
            if file.size() > most_of(&name) {
                return Err(too_large(&format!("“{name}”"), most_of(&name)));
            }
            names.insert(name, at);
        }
        if unpacked > self.most { Err(too_large("The zip", self.most)) } else { Ok(names) }
    }

    /// A file of the zip, in memory: what it says of its size is not believed.
    fn file(&mut self, name: &str, at: usize) -> Result<Vec<u8>, BundleError> {
        let Some(zip) = &mut self.zip else { return Err(BundleError::Empty) };
        let most = most_of(name);
        let mut content = Vec::new();
        let file = zip.by_index(at).map_err(damaged)?;
        file.take(most.min(self.left) + 1).read_to_end(&mut content).map_err(|why| BundleError::Damaged(format!("{name}: {why}")))?;
        let size = content.len() as u64;
        if size > most {
            return Err(too_large(&format!("“{name}”"), most));
        }
        self.left = self.left.checked_sub(size).ok_or_else(|| too_large("The zip", self.most))?;
        Ok(content)
    }

    fn manifest(&mut self, at: usize) -> Result<Manifest, BundleError> {
        let shelf = self.file("shelf.json", at)?;
        let manifest: Manifest = read_json(&shelf).map_err(|problem| BundleError::Damaged(format!("shelf.json: {}", problem.says)))?;
        if manifest.format != FORMAT || manifest.version != VERSION {
            return Err(BundleError::Damaged(format!("shelf.json says {} {}", manifest.format, manifest.version)));
        }
        Ok(manifest)
    }

    /// A part beside the amplifiers; what cannot be read of it is named.
    fn beside<T: DeserializeOwned>(&mut self, name: &str, at: usize) -> Result<Option<T>, BundleError> {
        let content = self.file(name, at)?;
        Ok(match read_json(&content) {
            Ok(value) => Some(value),
            Err(problem) => {
                self.left_out.push(Problem::new(name, format!("{} {}", problem.path, problem.says)));
                None
            }
        })
    }

    /// An amplifier, its photos still in the file.
    ///
    /// # Errors
    /// [`BundleError`] when the file is not what it said it is.
    pub fn amplifier(&mut self, i: usize) -> Result<Arriving, BundleError> {
        let Some(Folder { name, files, alone }) = self.folders.get(i) else { return Err(BundleError::Empty) };
        let folder = name.clone();
        if let Some(bytes) = alone {
            return Ok(Arriving { session: SessionFile::read(bytes), ..Arriving::bare(folder) });
        }
        let mut reading = Reading { bundle_files: files.clone(), left_out: Vec::new(), folder };
        let session = reading.bundle_files.remove("session.json").map_or_else(|| Ok(Vec::new()), |at| self.file("session.json", at))?;
        let settled = reading.part(self, "settled.json")?;
        let lines: Vec<PhotoLine> = reading.part(self, "photos.json")?.unwrap_or_default();
        let ramps = reading.ramps(self)?;
        let photos = reading.photos(lines);
        let traces = reading.traces();
        let Reading { bundle_files, left_out, folder } = reading;
        let not_known = bundle_files.into_keys().map(|name| format!("{folder}/{name}")).collect();
        Ok(Arriving { folder, session: SessionFile::read(&session), ramps, settled, photos, traces, left_out, not_known })
    }

    /// The bytes of a photo.
    ///
    /// # Errors
    /// [`BundleError`] when it cannot be unpacked.
    pub fn photo(&mut self, photo: &ArrivingPhoto) -> Result<Vec<u8>, BundleError> {
        self.file(&photo.name, photo.at)
    }

    /// Unpacks a captured wave to a place on the disk.
    ///
    /// # Errors
    /// [`BundleError`] when it cannot be unpacked, or is longer than it said.
    pub fn trace(&mut self, trace: &ArrivingTrace, to: &mut impl Write) -> Result<(), BundleError> {
        let Some(zip) = &mut self.zip else { return Err(BundleError::Empty) };
        let broke = |why: std::io::Error| BundleError::Damaged(format!("{}: {why}", trace.name));
        let most = MOST_TRACE.min(self.left);
        let size = std::io::copy(&mut zip.by_index(trace.at).map_err(damaged)?.take(most + 1), to).map_err(broke)?;
        self.left = self.left.checked_sub(size).filter(|_| size <= most).ok_or_else(|| too_large("The zip", self.most))?;
        Ok(())
    }
}

fn most_of(name: &str) -> u64 {
    if name.ends_with(".jpg") {
        photo::MOST_BYTES as u64
    } else if name.contains("/traces/") {
        MOST_TRACE
    } else {
        MOST_JSON
    }
}

/// A name that is no plain path below where the zip lies.
fn climbs(name: &str) -> bool {
    let odd = name.starts_with('/') || name.contains(['\\', ':', '\0']) || name.len() > 400;
    odd || name.split('/').any(|part| part == ".." || part == ".")
}

/// An amplifier's folder while it is read: what nobody asked for is left in it.
struct Reading {
    bundle_files: BTreeMap<String, usize>,
    left_out: Vec<Problem>,
    folder: String,
}

impl Reading {
    /// Takes one JSON file out of a folder; what cannot be read is named.
    fn part<T: DeserializeOwned>(&mut self, bundle: &mut Bundle, name: &str) -> Result<Option<T>, BundleError> {
        let Some(at) = self.bundle_files.remove(name) else { return Ok(None) };
        let content = bundle.file(name, at)?;
        Ok(match read_json(&content) {
            Ok(value) => Some(value),
            Err(problem) => {
                self.left_out.push(Problem::new(name, format!("{} {}", problem.path, problem.says)));
                None
            }
        })
    }

    fn ramps(&mut self, bundle: &mut Bundle) -> Result<Vec<Ramp>, BundleError> {
        let is_ramp = |name: &&String| name.starts_with("ramps/") && name.ends_with(".json");
        let names: Vec<String> = self.bundle_files.keys().filter(is_ramp).cloned().collect();
        let mut ramps: Vec<Ramp> = Vec::new();
        for name in names {
            let Some(ramp) = self.part::<Ramp>(bundle, &name)? else { continue };
            if Mode::ALL.iter().any(|mode| mode.word() == ramp.mode) {
                ramps.push(ramp);
            } else {
                self.left_out.push(Problem::new(name, format!("There is no mode “{}”.", ramp.mode)));
            }
        }
        Ok(ramps)
    }

    fn traces(&mut self) -> Vec<ArrivingTrace> {
        let hash = |name: &str| {
            let sha256 = name.strip_prefix("traces/")?.split('.').next()?;
            is_hash(sha256).then(|| sha256.to_ascii_lowercase())
        };
        let names: Vec<(String, String)> = self.bundle_files.keys().filter_map(|name| Some((name.clone(), hash(name)?))).collect();
        let take = |(name, sha256): (String, String)| Some(ArrivingTrace { sha256, at: self.bundle_files.remove(&name)?, name });
        names.into_iter().filter_map(take).collect()
    }

    fn photos(&mut self, lines: Vec<PhotoLine>) -> Vec<ArrivingPhoto> {
        let mut photos: Vec<ArrivingPhoto> = Vec::new();
        for line in lines {
            match self.bundle_files.remove(&line.file) {
                Some(at) => photos.push(ArrivingPhoto { words: line.words.sound(), name: line.file, at }),
                None => self.left_out.push(Problem::new(line.file, "photos.json names it, but it is not there.")),
            }
        }
        let is_photo = |name: &&String| name.starts_with("photos/") && name.ends_with(".jpg");
        let more: Vec<String> = self.bundle_files.keys().filter(is_photo).cloned().collect();
        for name in more {
            if let Some(at) = self.bundle_files.remove(&name) {
                photos.push(ArrivingPhoto { words: PhotoWords::default(), name, at });
            }
        }
        photos
    }
}
