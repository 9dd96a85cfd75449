//! A write transaction: SQL, the sessions that are known, the amplifiers it touched and the tab it came from.

use std::cell::RefCell;
use std::collections::BTreeSet;
use std::ops::Deref;
use std::sync::Arc;

use rusqlite::Transaction;

use crate::StoreError;
use crate::read::session::{KnownSession, SessionCache, SessionRow};
use crate::read::summaries;

/// A write: all of it is kept, or nothing.
#[derive(Debug)]
pub struct WriteTx<'c> {
    tx: Transaction<'c>,
    cache: &'c SessionCache,
    touched: RefCell<BTreeSet<String>>,
    tab: RefCell<Option<String>>,
}

/// Traces that a write leaves behind it.
#[derive(Debug, Default)]
pub(crate) struct Committed {
    /// Amplifiers whose summaries are to be made.
    pub(crate) touched: BTreeSet<String>,
    /// The tab whose act it was; nothing when no act was written down.
    pub(crate) tab: Option<String>,
}

impl<'c> WriteTx<'c> {
    pub(crate) fn new(tx: Transaction<'c>, cache: &'c SessionCache) -> Self {
        Self { tx, cache, touched: RefCell::default(), tab: RefCell::default() }
    }

    /// The session with this id, whole, as this write sees it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub fn session(&self, id: &str) -> Result<Arc<KnownSession>, StoreError> {
        self.cache.get(&self.tx, id)
    }

    /// Keeps a session as it is after this write, so that nobody has to load it.
    pub(crate) fn know(&self, row: SessionRow) -> Result<Arc<KnownSession>, StoreError> {
        self.cache.put(&self.tx, row)
    }

    /// Notes that an amplifier's line on the shelf has to be made again.
    pub(crate) fn touched(&self, amplifier_id: &str) {
        self.touched.borrow_mut().insert(amplifier_id.to_owned());
    }

    /// Notes whose act is written down.
    pub(crate) fn acted(&self, tab: &str) {
        self.tab.replace(Some(tab.to_owned()));
    }

    /// Commits.
    pub(crate) fn commit(self) -> Result<Committed, StoreError> {
        let touched = self.touched.into_inner();
        for amplifier_id in &touched {
            summaries::outdate(&self.tx, amplifier_id)?;
        }
        self.tx.commit()?;
        Ok(Committed { touched, tab: self.tab.into_inner() })
    }
}

impl<'c> Deref for WriteTx<'c> {
    type Target = Transaction<'c>;

    fn deref(&self) -> &Transaction<'c> {
        &self.tx
    }
}
