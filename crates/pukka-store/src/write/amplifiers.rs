//! Amplifiers: each with a session of its own from the start.

use pukka_core::record::amplifier::Amplifier;

use crate::rows::{arming, benches, sessions};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::read::buys::{BuyRow, buys};
pub use crate::read::shelf::{ShelfAfter, ShelfOrder, ShelfPage, ShelfQuery, ShelfRow, shelf, tags, whole_shelf};
pub use crate::rows::amplifiers::*;

/// Adds an amplifier and opens a session for it.
///
/// # Errors
/// [`StoreError`].
pub fn create(tx: &WriteTx, author: &Author, amplifier: &Amplifier) -> Result<AmplifierRow, StoreError> {
    let id = insert_bare(tx, author, amplifier)?;
    let mut session = pukka_core::record::session::Session::new(amplifier.clone());
    // A house rule is set for good: the next session keeps it.
    session.policy.never_below_floor = sessions::house_rule(tx)?;
    let profile = benches::in_hand(tx)?;
    if let Some(profile) = &profile {
        session.bench = profile.profile.bench();
    }
    sessions::create(tx, author, &id, &session, profile.as_ref().map(|profile| profile.id.as_str()))?;
    journal::record(tx, author, &Change::of(Entity::Amplifier, &id, &id, 1, format!("added {}", amplifier.name())), None, Some(amplifier))?;
    tx.touched(&id);
    get(tx, &id)
}

/// Changes an amplifier.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn update(tx: &WriteTx, author: &Author, id: &str, revision: i64, amplifier: &Amplifier) -> Result<AmplifierRow, StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    arming::none_of(tx, id)?;
    let before = get(tx, id)?.amplifier;
    put(tx, author, id, revision + 1, amplifier)?;
    let change = Change::of(Entity::Amplifier, id, id, revision + 1, format!("changed {}", before.name()));
    journal::record(tx, author, &change, Some(&before), Some(amplifier))?;
    tx.touched(id);
    get(tx, id)
}

/// Changes several amplifiers at once, each in the same way: undo takes all of it back at once. Those that are as wanted stay untouched.
/// Answers how many changed.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier: none is changed then.
pub fn change_each(tx: &WriteTx, author: &Author, ids: &[String], change: impl Fn(&mut Amplifier)) -> Result<usize, StoreError> {
    let author = author.at_once();
    let mut changed = 0;
    for id in ids {
        let row = get(tx, id)?;
        let mut wanted = row.amplifier.clone();
        change(&mut wanted);
        if wanted != row.amplifier {
            update(tx, &author, id, row.revision, &wanted)?;
            changed += 1;
        }
    }
    Ok(changed)
}

/// Deletes an amplifier: it leaves the shelf with all that goes with it, and undo brings it back.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn delete(tx: &WriteTx, author: &Author, id: &str, revision: i64) -> Result<(), StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.amplifier;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let change = Change::of(Entity::Amplifier, id, id, revision + 1, format!("deleted {}", before.name()));
    journal::record(tx, author, &change, Some(&before), None::<&Amplifier>)
}
