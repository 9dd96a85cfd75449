//! Sessions as they were loaded, with what was computed of them: as long as nothing is written they need not be loaded, nor checked,
//! nor judged anew.

use std::collections::HashMap;
use std::ops::Deref;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use pukka_core::assess::checks::check_session;
use pukka_core::evidence::check::Check;
use pukka_core::report::view::{VerdictView, view};
use pukka_store::sessions::{SessionRow, load};
use pukka_store::{Store, StoreError};

/// A session, and what was computed of it so far.
#[derive(Debug)]
pub struct LoadedSession {
    row: SessionRow,
    checks: OnceLock<Vec<Check>>,
    verdict: OnceLock<VerdictView>,
}

impl LoadedSession {
    /// Every check that fired. Computes the first time it is asked.
    pub fn checks(&self) -> &[Check] {
        self.checks.get_or_init(|| check_session(&self.row.session))
    }

    /// The verdict as people read it. Computes the first time it is asked.
    pub fn verdict(&self) -> &VerdictView {
        self.verdict.get_or_init(|| view(&self.row.session))
    }
}

impl Deref for LoadedSession {
    type Target = SessionRow;

    fn deref(&self) -> &SessionRow {
        &self.row
    }
}

/// More are rarely open at once, in all tabs together.
const MOST_KEPT: usize = 16;

/// A session with the count of writes it was read at.
type Kept = (u64, Arc<LoadedSession>);

/// The sessions that were asked for last.
#[derive(Debug, Clone, Default)]
pub struct Sessions {
    kept: Arc<Mutex<HashMap<String, Kept>>>,
}

impl Sessions {
    /// The session with this id, as the records are now. Blocks.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub fn get(&self, store: &Store, id: &str) -> Result<Arc<LoadedSession>, StoreError> {
        // The count is taken before the records are read: a write in between makes what was read look older than it is, never newer.
        let now = store.writes();
        let known = self.kept.lock().unwrap_or_else(PoisonError::into_inner).get(id).cloned();
        if let Some((_, loaded)) = known.filter(|(at, _)| *at == now) {
            return Ok(loaded);
        }
        let row = store.read(|tx| load(tx, id))?;
        let loaded = Arc::new(LoadedSession { row, checks: OnceLock::new(), verdict: OnceLock::new() });
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        kept.retain(|_, (at, _)| *at == now);
        if kept.len() >= MOST_KEPT {
            kept.clear();
        }
        kept.insert(id.to_owned(), (now, Arc::clone(&loaded)));
        Ok(loaded)
    }
}
