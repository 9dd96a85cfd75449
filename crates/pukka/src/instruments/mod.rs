//! Links to instruments: lines over TCP or a serial port, one task a link, each with a state that a person can read.
//!
//! - [`wire`]: the connection; [`link`]: its task; [`proof`]: how it is known that a level is down.

mod link;
mod proof;
mod wire;

use std::collections::BTreeMap;
use std::sync::{Arc, PoisonError, RwLock};

use pukka_core::instruments::{Profile, Role};
use pukka_store::links::LinkRow;

pub use link::{Link, LinkFault, LinkState};
pub use proof::is_off;
pub use wire::{is_serial, take_away};

/// Called whenever the generator's level is known to be down.
pub type OnZero = Arc<dyn Fn() + Send + Sync>;

/// The links there are.
#[derive(Clone)]
pub struct Links {
    links: Arc<RwLock<BTreeMap<Role, Link>>>,
    on_zero: OnZero,
}

impl Links {
    /// None yet.
    #[must_use]
    pub fn new(on_zero: OnZero) -> Self {
        Self { links: Arc::new(RwLock::new(BTreeMap::new())), on_zero }
    }

    /// Opens a link, in place of the one that did this task before. A row that does not read is left out.
    pub fn open(&self, row: &LinkRow) {
        let Ok(profile) = Profile::read(&row.profile, row.role) else {
            tracing::warn!(role = row.role.word(), "a stored profile does not read: the link stays closed");
            return;
        };
        let link = Link::open(row.role, row.address.clone(), profile, row.meter.clone(), Arc::clone(&self.on_zero));
        self.links.write().unwrap_or_else(PoisonError::into_inner).insert(row.role, link);
    }

    /// Closes a link.
    pub fn close(&self, role: Role) {
        self.links.write().unwrap_or_else(PoisonError::into_inner).remove(&role);
    }

    /// The link that does a task.
    #[must_use]
    pub fn get(&self, role: Role) -> Option<Link> {
        self.links.read().unwrap_or_else(PoisonError::into_inner).get(&role).cloned()
    }
}
