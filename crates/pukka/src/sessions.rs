//! Sessions as they were loaded, with what was computed of them: as long as a session is not changed it need not be checked nor
//! judged again.

use std::collections::HashMap;
use std::ops::Deref;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use pukka_core::record::session::{Run, Session};
use pukka_core::report::sheet::{Sheet, sheet_with};
use pukka_core::report::view::{VerdictView, view};
use pukka_store::runs::NextSession;
use pukka_store::sessions::KnownSession;
use pukka_store::{Store, StoreError};

use crate::publish::shown;

/// A session, and what was computed of it so far.
#[derive(Debug)]
pub struct LoadedSession {
    row: Arc<KnownSession>,
    verdict: OnceLock<VerdictView>,
    sheet: OnceLock<Sheet>,
    shown: OnceLock<(Session, Sheet)>,
}

impl LoadedSession {
    /// The session with one more run.
    pub fn with_run(&self, run: &Run) -> NextSession {
        NextSession::of(&self.row, run)
    }

    /// The verdict as people read it. Computes the first time it is asked.
    pub fn verdict(&self) -> &VerdictView {
        self.verdict.get_or_init(|| {
            let verdict = view(&self.row.session);
            self.row.note_checks(&verdict.checks);
            verdict
        })
    }

    /// The result sheet. Computes the first time it is asked.
    pub fn sheet(&self) -> &Sheet {
        self.sheet.get_or_init(|| sheet_with(&self.row.session, self.verdict().clone()))
    }

    /// The session as it may be shown, and its sheet. Computes the first time it is asked.
    pub fn shown(&self) -> &(Session, Sheet) {
        self.shown.get_or_init(|| shown(&self.row.session))
    }
}

impl Deref for LoadedSession {
    type Target = KnownSession;

    fn deref(&self) -> &KnownSession {
        &self.row
    }
}

/// More are rarely open at once, in all tabs together.
const MOST_KEPT: usize = 16;

/// The sessions that were asked for last.
#[derive(Debug, Clone, Default)]
pub struct Sessions {
    kept: Arc<Mutex<HashMap<String, Arc<LoadedSession>>>>,
}

impl Sessions {
    /// The session with this id, as the records are now. Blocks.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub fn get(&self, store: &Store, id: &str) -> Result<Arc<LoadedSession>, StoreError> {
        let row = store.session(id)?;
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        // The records hand out the very same row as long as nothing of it was changed.
        if let Some(known) = kept.get(id).filter(|known| Arc::ptr_eq(&known.row, &row)) {
            return Ok(Arc::clone(known));
        }
        let full = kept.len() >= MOST_KEPT && !kept.contains_key(id);
        let mut outworn = if full { std::mem::take(&mut *kept) } else { HashMap::new() };
        let loaded = Arc::new(LoadedSession { row, verdict: OnceLock::new(), sheet: OnceLock::new(), shown: OnceLock::new() });
        outworn.extend(kept.insert(id.to_owned(), Arc::clone(&loaded)).map(|old| (id.to_owned(), old)));
        drop(kept);
        let_go(outworn);
        Ok(loaded)
    }
}

/// Lets go of sessions and of what was computed of them, aside: whoever asks for the next one need not wait for it.
fn let_go(outworn: HashMap<String, Arc<LoadedSession>>) {
    match tokio::runtime::Handle::try_current() {
        Ok(runtime) if !outworn.is_empty() => drop(runtime.spawn_blocking(move || drop(outworn))),
        _ => {}
    }
}
