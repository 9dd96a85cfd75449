//! Recordings that are kept: opened, their levels and their lows and highs made once, and what of them may be shown to others.

use std::collections::VecDeque;
use std::fs::File;
use std::io::Seek as _;
use std::ops::ControlFlow;
use std::path::Path;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use pukka_capture::{CaptureError, Form, bare, open};
use pukka_core::record::session::Session;
use pukka_core::traces::levels::{Levels, levels};
use pukka_core::traces::look::{Peaks, peaks};
use pukka_core::traces::{Recording, Source, SourceError};
use pukka_store::{Files, Kept, StoreError};
use thiserror::Error;

use crate::bundle::OutgoingTrace;

/// Reason why a recording cannot be looked at.
#[derive(Debug, Error)]
pub enum CaptureTrouble {
    /// It is no recording, or a damaged one.
    #[error(transparent)]
    Unreadable(#[from] CaptureError),
    /// Its samples cannot be had.
    #[error(transparent)]
    Samples(#[from] SourceError),
    /// Its file is not there.
    #[error(transparent)]
    Store(#[from] StoreError),
}

/// What is known of a recording after its first pass.
#[derive(Debug)]
pub struct Known {
    /// Format.
    pub recording: Recording,
    /// Form of its file.
    pub form: Form,
    /// Length of its file.
    pub bytes: u64,
    /// Levels that stretches are cut by.
    pub levels: Levels,
    /// Lows and highs for the screen.
    pub peaks: Peaks,
}

/// How far a recording is read, and whether to stop.
#[derive(Debug, Default)]
pub struct Reading {
    done: AtomicU64,
    of: AtomicU64,
    stop: AtomicBool,
}

impl Reading {
    /// Part that is read, 0 to 1.
    #[must_use]
    pub fn part(&self) -> f64 {
        let of = self.of.load(Ordering::Relaxed);
        if of == 0 { 0.0 } else { self.done.load(Ordering::Relaxed) as f64 / of as f64 }
    }

    /// Ends it: whoever asked has left.
    pub fn stop(&self) {
        self.stop.store(true, Ordering::Relaxed);
    }

    fn is_at(&self, frames: u64) -> ControlFlow<()> {
        self.done.store(frames, Ordering::Relaxed);
        if self.stop.load(Ordering::Relaxed) { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    }
}

/// Ends a reading when it is dropped before its end: with the request of whoever asked.
#[derive(Debug)]
pub struct Asked(pub Arc<Reading>);

impl Drop for Asked {
    fn drop(&mut self) {
        self.0.stop();
    }
}

/// Recordings that stay known.
const MOST_KNOWN: usize = 3;

/// Recordings by their hashes, the one looked at last first.
type Latest = VecDeque<(String, Arc<Known>)>;

/// Recordings that were looked at last.
#[derive(Debug, Clone, Default)]
pub struct Captures {
    known: Arc<Mutex<Latest>>,
    reading: Arc<Mutex<Option<Arc<Reading>>>>,
}

impl Captures {
    /// Opens a recording that is kept. It is passed over once; after that it is known.
    ///
    /// # Errors
    /// [`CaptureTrouble`].
    pub fn open(&self, files: &Files, sha256: &str, reading: &Arc<Reading>) -> Result<(Box<dyn Source>, Arc<Known>), CaptureTrouble> {
        let path = files.path(Kept::Trace, sha256)?;
        let mut source = open(&path)?;
        let known = self.locked().iter().find(|(known, _)| known == sha256).map(|(_, known)| Arc::clone(known));
        let known = match known {
            Some(known) => known,
            None => {
                self.reads(reading);
                let made = Arc::new(first_pass(source.as_mut(), &path, reading)?);
                let mut all = self.locked();
                all.push_front((sha256.to_owned(), Arc::clone(&made)));
                all.truncate(MOST_KNOWN);
                made
            }
        };
        Ok((source, known))
    }

    /// Says that this reading has begun.
    pub fn reads(&self, reading: &Arc<Reading>) {
        *self.reading.lock().unwrap_or_else(PoisonError::into_inner) = Some(Arc::clone(reading));
    }

    /// How far the reading is that began last, 0 to 1.
    #[must_use]
    pub fn part(&self) -> f64 {
        self.reading.lock().unwrap_or_else(PoisonError::into_inner).as_ref().map_or(1.0, |reading| reading.part())
    }

    fn locked(&self) -> std::sync::MutexGuard<'_, Latest> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// Reads a recording through: every sample of it is a number, or it is refused with the place.
///
/// # Errors
/// [`CaptureTrouble`].
pub fn first_pass(source: &mut dyn Source, path: &Path, reading: &Reading) -> Result<Known, CaptureTrouble> {
    let recording = source.recording();
    reading.of.store(2 * recording.frames, Ordering::Relaxed);
    let levels = levels(source, &mut |frames| reading.is_at(frames))?;
    let peaks = peaks(source, &mut |frames| reading.is_at(recording.frames + frames))?;
    let bytes = std::fs::metadata(path).map_err(|why| StoreError::at(path, why))?.len();
    Ok(Known { recording, form: Form::of(path)?, bytes, levels, peaks })
}

/// Recordings of a session for a file: their own, or for others without what their recorder wrote beside the samples. Those go by
/// another hash, which the session then names.
pub fn outgoing(files: &Files, session: &mut Session, is_shared: bool) -> Vec<OutgoingTrace> {
    let mut all = Vec::new();
    for i in 0..session.traces.len() {
        let sha256 = session.traces[i].sha256.clone();
        match outgoing_file(files, &sha256, is_shared) {
            Ok((hash, ending, file)) => {
                rename(session, &sha256, &hash);
                all.push((hash, ending, Ok(file)));
            }
            Err(why) => all.push((sha256, "missing", Err(why))),
        }
    }
    all
}

/// The hash, the ending and the bytes of a recording: as it is kept, or bare.
fn outgoing_file(files: &Files, sha256: &str, is_shared: bool) -> Result<(String, &'static str, File), String> {
    let path = files.path(Kept::Trace, sha256).map_err(|why| why.to_string())?;
    let form = Form::of(&path).map_err(|why| why.to_string())?;
    let mut file = if is_shared { tempfile::tempfile() } else { File::open(&path) }.map_err(|why| why.to_string())?;
    if is_shared {
        bare(&path, &mut file).map_err(|why| why.to_string())?;
        file.rewind().map_err(|why| why.to_string())?;
    }
    let hash = Files::hash_of(&mut file).map_err(|why| why.to_string())?;
    if !is_shared && hash != sha256 {
        return Err("The file is damaged: it is not what was kept.".into());
    }
    file.rewind().map_err(|why| why.to_string())?;
    Ok((hash, form.ending(), file))
}

/// Puts another hash in the place of one, wherever the session names it.
fn rename(session: &mut Session, from: &str, to: &str) {
    session.traces.iter_mut().filter(|trace| trace.sha256 == from).for_each(|trace| to.clone_into(&mut trace.sha256));
    for own in session.runs.iter_mut().flat_map(|run| &mut run.evidence) {
        if own.sha256.as_deref() == Some(from) {
            own.sha256 = Some(to.to_owned());
        }
    }
}
