//! Dated copies, made by themselves: beside the records, and in a second folder where one is set.

use std::fs::{self, File};
use std::io::Write as _;
use std::path::{Path, PathBuf};

use jiff::{SignedDuration, Timestamp};
use pukka_store::Kept;
use pukka_store::upkeep::copy_database;
use pukka_store::whole::{self, Part};

use super::thinning::kept;
use super::{Entry, Manifest, UpkeepError, UpkeepSettings, entry_of, hashed};

/// Time between two copies that are made by themselves.
const EVERY: SignedDuration = SignedDuration::from_hours(20);

/// A dated copy.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Copy {
    /// Moment of it.
    pub at: Timestamp,
    /// Its manifest, which `pukka restore` takes.
    pub path: PathBuf,
    /// Content.
    pub manifest: Manifest,
}

/// Folder of the copies beside the records.
fn own(folder: &Path) -> PathBuf {
    folder.join("backups")
}

/// Copies in a folder of copies, the newest first. What is not whole is not among them.
fn listed(place: &Path) -> Vec<Copy> {
    let Ok(entries) = fs::read_dir(place) else { return Vec::new() };
    let mut found: Vec<Copy> = entries
        .filter_map(|entry| {
            let path = entry.ok()?.path();
            (path.extension()? == "json").then_some(())?;
            let manifest = Manifest::read(&fs::read(&path).ok()?).ok()?;
            path.with_extension("sqlite").is_file().then_some(())?;
            Some(Copy { at: manifest.made_at.parse().ok()?, path, manifest })
        })
        .collect();
    found.sort_by_key(|copy| std::cmp::Reverse(copy.at));
    found
}

/// Copies beside the records, the newest first.
#[must_use]
pub fn copies(folder: &Path) -> Vec<Copy> {
    listed(&own(folder))
}

/// Makes a copy if the last one is a day old and the records are others since; says whether it did.
///
/// # Errors
/// [`UpkeepError`] when it cannot be made.
pub fn copy_when_due(folder: &Path, now: Timestamp) -> Result<bool, UpkeepError> {
    // A clock that was set back leaves copies of the future, which say nothing.
    let is_due = copies(folder).iter().map(|copy| copy.at).find(|at| *at <= now).is_none_or(|at| now.duration_since(at) >= EVERY);
    Ok(is_due && copy_now(folder, now)?.is_some())
}

/// Makes a copy, in the second folder too where one is set, and lets those go that are no longer kept. Nothing where the records are
/// as they were at the last one.
///
/// # Errors
/// [`UpkeepError`] when the copy beside the records cannot be made. Trouble with the second folder is kept in the settings.
pub fn copy_now(folder: &Path, now: Timestamp) -> Result<Option<Copy>, UpkeepError> {
    // One at a time: the button may be pressed while a copy is made by itself.
    static ONE: std::sync::Mutex<()> = std::sync::Mutex::new(());
    let _one = ONE.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
    let made = copy_into(folder, &own(folder), now);
    let second =
        UpkeepSettings::named(folder)?.second_place().map(|second| copy_into(folder, &second, now).err().map(|why| why.to_string()));
    UpkeepSettings::change(folder, |settings| {
        settings.trouble = made.as_ref().err().map(ToString::to_string);
        settings.second_trouble = second.flatten();
    })?;
    made
}

/// Whether copies can be written into a folder.
///
/// # Errors
/// The system's reason why not.
pub fn try_folder(place: &Path) -> std::io::Result<()> {
    whole::folder(place)?;
    let part = Part::beside(&place.join("try"));
    whole::new_file(part.path()).map(drop)
}

/// Moment of the newest copy in a folder of copies.
#[must_use]
pub fn newest_in(place: &Path) -> Option<Timestamp> {
    listed(place).first().map(|copy| copy.at)
}

/// A name that no copy has: one in the same second would put its database under the other's manifest.
fn free_name(place: &Path, now: Timestamp) -> String {
    let moment = now.strftime("%Y-%m-%dT%H%M%SZ").to_string();
    let numbered = (2..).map(|n| format!("{moment}-{n}"));
    let is_free = |name: &String| !place.join(format!("{name}.sqlite")).exists();
    std::iter::once(moment.clone()).chain(numbered).find(is_free).unwrap_or(moment)
}

fn copy_into(folder: &Path, place: &Path, now: Timestamp) -> Result<Option<Copy>, UpkeepError> {
    let trouble = |why| UpkeepError::file(place, why);
    whole::folder(place).map_err(trouble)?;
    for kept in Kept::ALL {
        whole::folder(&place.join(kept.folder())).map_err(trouble)?;
    }
    let name = free_name(place, now);
    let database = place.join(format!("{name}.sqlite"));
    let part = Part::beside(&database);
    let copied = copy_database(folder, part.path())?;
    let mut manifest = Manifest::new(now.to_string(), copied.schema, copied.amplifiers, entry_of(part.path())?);
    let before = listed(place);
    if before.first().is_some_and(|last| last.manifest.database.sha256 == manifest.database.sha256 && last.manifest.missing.is_empty()) {
        return Ok(None);
    }
    for (kept, sha256) in copied.files {
        let entry = copy_file(folder, place, kept, &sha256)?;
        manifest.note(kept, sha256, entry);
    }
    part.finish(&database).map_err(trouble)?;
    // Last: a copy without its manifest is none.
    let path = place.join(format!("{name}.json"));
    let json = serde_json::to_vec_pretty(&manifest).map_err(|why| trouble(why.into()))?;
    whole::write(&path, &json).map_err(trouble)?;
    thin(place);
    Ok(Some(Copy { at: now, path, manifest }))
}

/// Copies a file once for all copies; nothing when it cannot be read, or is not what was kept.
fn copy_file(folder: &Path, place: &Path, kept: Kept, sha256: &str) -> Result<Option<Entry>, UpkeepError> {
    let to = kept.path(place, sha256)?;
    if let Ok(meta) = fs::metadata(&to) {
        return Ok(Some(Entry { sha256: sha256.to_owned(), bytes: meta.len() }));
    }
    let Ok(from) = File::open(kept.path(folder, sha256)?) else { return Ok(None) };
    let trouble = |why| UpkeepError::file(&to, why);
    let part = Part::beside(&to);
    let mut file = whole::new_file(part.path()).map_err(trouble)?;
    let copied = hashed(from, |_| None, |block| file.write_all(block).map_err(|why| Some(trouble(why))));
    let entry = match copied {
        Ok(entry) if entry.sha256 == sha256 => entry,
        Ok(_) | Err(None) => return Ok(None),
        Err(Some(why)) => return Err(why),
    };
    file.sync_all().and_then(|()| part.finish(&to)).map_err(trouble)?;
    Ok(Some(entry))
}

/// Lets copies go that are no longer kept, and files that none of the others names.
fn thin(place: &Path) {
    let all = listed(place);
    let keep = kept(&all.iter().map(|copy| copy.at).collect::<Vec<_>>());
    let (stay, go): (Vec<Copy>, Vec<Copy>) = all.into_iter().partition(|copy| keep.contains(&copy.at));
    if go.is_empty() {
        return;
    }
    for copy in go {
        // The manifest first: without it the rest is no copy.
        let _ = fs::remove_file(&copy.path);
    }
    // Databases without a manifest: of copies that went, or that were cut off.
    for entry in fs::read_dir(place).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.extension().is_some_and(|end| end == "sqlite") && !path.with_extension("json").exists() {
            let _ = fs::remove_file(path);
        }
    }
    let named: std::collections::BTreeSet<String> =
        stay.iter().flat_map(|copy| copy.manifest.files()).map(|(kept, entry)| kept.name(&entry.sha256)).collect();
    for kept in Kept::ALL {
        for entry in fs::read_dir(place.join(kept.folder())).into_iter().flatten().flatten() {
            let name = entry.file_name().to_string_lossy().into_owned();
            // What is being written has no name of its own yet.
            if !name.ends_with(".part") && !named.contains(&format!("{}/{name}", kept.folder())) {
                let _ = fs::remove_file(entry.path());
            }
        }
    }
}
