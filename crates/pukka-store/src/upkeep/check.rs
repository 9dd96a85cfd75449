//! A check of a data folder: pages, references, files, records, summaries.

use std::collections::BTreeSet;
use std::fs::{self, File};
use std::path::Path;

use rusqlite::Connection;
use serde::{Deserialize, Serialize};

use super::copy::{database_in, named};
use crate::health;
use crate::lock::FolderLock;
use crate::read::{session, summaries};
use crate::{Files, Kept, StoreError, migrations};

/// Kind of finding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum FindingCode {
    /// Pages of the database are damaged.
    Damaged,
    /// An index does not agree with its table.
    Index,
    /// A record refers to one that is not there.
    Reference,
    /// The file of a photo or a trace is missing.
    FileMissing,
    /// The file of a photo or a trace is not what was kept.
    FileChanged,
    /// A file that no record names.
    Orphan,
    /// A file that was not written to its end.
    HalfWritten,
    /// A session that cannot be read.
    Unreadable,
    /// A line of the shelf that does not say what the session says.
    Summary,
}

/// A finding.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Finding {
    /// Kind.
    pub code: FindingCode,
    /// Place and fact.
    pub says: String,
    /// Action to take.
    pub advice: String,
    /// Whether it was mended.
    pub mended: bool,
}

/// Result of a check.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CheckReport {
    /// Sessions that were read.
    pub sessions: usize,
    /// Photos that were read.
    pub photos: usize,
    /// Traces that were read.
    pub traces: usize,
    /// Findings.
    pub findings: Vec<Finding>,
}

impl CheckReport {
    /// Whether nothing is left to do.
    #[must_use]
    pub fn is_sound(&self) -> bool {
        self.findings.iter().all(|finding| finding.mended)
    }
}

/// Checks a data folder. With `repair` it mends what loses nothing: indexes are made again, half-written files removed, lines of the
/// shelf made again. Without it nothing is changed, and the program may run meanwhile.
///
/// # Errors
/// [`StoreError`] when the folder cannot be read at all, or, to be repaired, is in use.
pub fn check(folder: &Path, repair: bool) -> Result<CheckReport, StoreError> {
    let path = database_in(folder)?;
    let _lock = if repair {
        let mut lock = FolderLock::take(folder)?;
        lock.hold(folder, &path)?;
        Some(lock)
    } else {
        None
    };
    let connection = if repair { Connection::open(&path)? } else { health::read_only(&path)? };
    let unreadable = |why: StoreError| match why {
        StoreError::Sqlite(why) if health::is_damage(&why) => {
            StoreError::Damaged { folder: folder.display().to_string(), says: why.to_string() }
        }
        other => other,
    };
    match health::version(&connection).map_err(unreadable)? {
        version if version > migrations::latest() => return Err(StoreError::Newer),
        version if version < migrations::latest() => {
            let says = format!("its records are of version {version}; start Pukka once, which brings them to {}", migrations::latest());
            return Err(StoreError::Damaged { folder: folder.display().to_string(), says });
        }
        _ => {}
    }
    let mut checking =
        Checking { connection: &connection, folder, repair, report: CheckReport { sessions: 0, photos: 0, traces: 0, findings: vec![] } };
    checking.pages().map_err(unreadable)?;
    checking.references().map_err(unreadable)?;
    checking.files()?;
    checking.sessions().map_err(unreadable)?;
    Ok(checking.report)
}

fn names_in(folder: &Path) -> Vec<String> {
    let entries = fs::read_dir(folder).into_iter().flatten();
    let mut names: Vec<String> = entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect();
    names.sort();
    names
}

struct Checking<'a> {
    connection: &'a Connection,
    folder: &'a Path,
    repair: bool,
    report: CheckReport,
}

impl Checking<'_> {
    fn found(&mut self, code: FindingCode, says: String, advice: &str, mended: bool) {
        self.report.findings.push(Finding { code, says, advice: advice.into(), mended });
    }

    fn pages(&mut self) -> Result<(), StoreError> {
        let said = health::complaints(self.connection, "integrity_check")?;
        let is_index = |line: &String| line.contains("missing from index") || line.contains("entries in index");
        if said.is_empty() {
            return Ok(());
        }
        if said.iter().all(is_index) {
            let mended = self.repair && self.connection.execute_batch("REINDEX").is_ok();
            let mended = mended && health::complaints(self.connection, "integrity_check")?.is_empty();
            for line in said {
                self.found(FindingCode::Index, line, "pukka check --repair makes the indexes again; no record is lost.", mended);
            }
            return Ok(());
        }
        for line in said {
            self.found(
                FindingCode::Damaged,
                line,
                "Restore a backup. Until then the records open read-only, and what can be read can be exported.",
                false,
            );
        }
        Ok(())
    }

    fn references(&mut self) -> Result<(), StoreError> {
        let connection = self.connection;
        let mut statement = connection.prepare("SELECT \"table\", rowid, parent FROM pragma_foreign_key_check LIMIT 100")?;
        let lines: Vec<String> = statement
            .query_map([], |row| {
                let (table, rowid, parent): (String, Option<i64>, String) = (row.get(0)?, row.get(1)?, row.get(2)?);
                Ok(format!("Row {} of {table} refers to a {parent} that is not there.", rowid.unwrap_or_default()))
            })?
            .collect::<Result<_, _>>()?;
        for line in lines {
            self.found(FindingCode::Reference, line, "Restore a backup; what can be read can be exported before.", false);
        }
        Ok(())
    }

    fn files(&mut self) -> Result<(), StoreError> {
        let named: BTreeSet<(Kept, String)> = named(self.connection)?.into_iter().collect();
        for (kept, sha256) in &named {
            let name = kept.name(sha256);
            match kept {
                Kept::Photo => self.report.photos += 1,
                Kept::Trace => self.report.traces += 1,
            }
            let hash = kept.path(self.folder, sha256).and_then(|path| {
                let read = File::open(&path).and_then(Files::hash_of);
                read.map_err(|why| StoreError::at(&path, why))
            });
            let what = match kept {
                Kept::Photo => "photo",
                Kept::Trace => "trace",
            };
            match hash {
                Ok(hash) if hash == *sha256 => {}
                Ok(_) => self.found(
                    FindingCode::FileChanged,
                    format!("{name} is not what was kept: its content has another hash."),
                    &format!("Restore the {what} from a backup, or remove it and add it again."),
                    false,
                ),
                Err(why) => self.found(
                    FindingCode::FileMissing,
                    format!("{name} cannot be read: {why}"),
                    &format!("Restore the {what} from a backup, or remove it."),
                    false,
                ),
            }
        }
        let root = self.folder;
        self.half_written(root, "");
        for kept in Kept::ALL {
            let folder = self.folder.join(kept.folder());
            self.half_written(&folder, &format!("{}/", kept.folder()));
            for name in names_in(&folder) {
                let is_named = name.strip_suffix(kept.ending()).is_some_and(|sha256| named.contains(&(kept, sha256.to_owned())));
                if !name.ends_with(".part") && !is_named {
                    let says = format!("No record names {}/{name}.", kept.folder());
                    self.found(FindingCode::Orphan, says, "It does no harm. Delete it by hand if nothing else needs it.", false);
                }
            }
        }
        Ok(())
    }

    fn half_written(&mut self, folder: &Path, shown: &str) {
        for name in names_in(folder).into_iter().filter(|name| name.ends_with(".part")) {
            let path = folder.join(&name);
            let removed = || if path.is_dir() { fs::remove_dir_all(&path) } else { fs::remove_file(&path) };
            let mended = self.repair && removed().is_ok();
            let says = format!("{shown}{name} was not written to its end; no record names it.");
            self.found(FindingCode::HalfWritten, says, "pukka check --repair removes it.", mended);
        }
    }

    fn sessions(&mut self) -> Result<(), StoreError> {
        let connection = self.connection;
        let mut statement = connection.prepare(
            "SELECT s.id, y.body FROM session s JOIN amplifier a ON a.id = s.amplifier_id
             LEFT JOIN summary y ON y.session_id = s.id AND y.fresh AND y.rules_version = ?
             WHERE s.deleted_at IS NULL AND a.deleted_at IS NULL ORDER BY s.id",
        )?;
        let rows: Vec<(String, Option<String>)> =
            statement.query_map([pukka_core::RULES_VERSION], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<_, _>>()?;
        for (id, kept) in rows {
            self.report.sessions += 1;
            let row = match session::load(self.connection, &id) {
                Ok(row) => row,
                Err(why) => {
                    let says = format!("Session {id} cannot be read: {why}");
                    self.found(FindingCode::Unreadable, says, "Restore a backup; other sessions can be read and exported.", false);
                    continue;
                }
            };
            let Some(kept) = kept else { continue };
            let now = summaries::made(self.connection, &row)?;
            if summaries::parsed(&kept).is_ok_and(|kept| kept == now) {
                continue;
            }
            let mended = self.repair && summaries::keep(self.connection, &row).is_ok();
            let says = format!("The shelf's line of {} does not say what its session says.", row.session.amplifier.name());
            self.found(FindingCode::Summary, says, "pukka check --repair makes it again.", mended);
        }
        Ok(())
    }
}
