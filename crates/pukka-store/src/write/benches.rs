//! Bench profiles: the bench as it stands now. A session keeps a copy, as it was.

use pukka_core::record::bench::BenchProfile;

use crate::rows::arming;
use crate::rows::codec::{stamps_of_change, stamps_of_new};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError, new_id};

pub use crate::read::sags::sags;
pub use crate::rows::benches::*;

/// Adds a bench.
///
/// # Errors
/// [`StoreError`].
pub fn create(tx: &WriteTx, author: &Author, profile: &BenchProfile) -> Result<BenchRow, StoreError> {
    let id = new_id();
    TABLE.insert(tx, &stamps_of_new(&id, author), profile)?;
    journal::record(tx, author, &Change::of(Entity::Bench, &id, "", 1, format!("added the bench {}", profile.name)), None, Some(profile))?;
    get(tx, &id)
}

/// Changes a bench. Sessions on it in which nothing was run yet follow; the others keep it as it was.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn update(tx: &WriteTx, author: &Author, id: &str, revision: i64, profile: &BenchProfile) -> Result<BenchRow, StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.profile;
    put(tx, author, id, revision + 1, profile)?;
    let change = Change::of(Entity::Bench, id, "", revision + 1, format!("changed the bench {}", before.name));
    journal::record(tx, author, &change, Some(&before), Some(profile))?;
    get(tx, id)
}

/// Deletes a bench; its sessions keep it as it was.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn delete(tx: &WriteTx, author: &Author, id: &str, revision: i64) -> Result<(), StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.profile;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let change = Change::of(Entity::Bench, id, "", revision + 1, format!("deleted the bench {}", before.name));
    journal::record(tx, author, &change, Some(&before), None::<&BenchProfile>)
}

pub(crate) fn put(tx: &WriteTx, author: &Author, id: &str, revision: i64, profile: &BenchProfile) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), profile)?;
    let bench = serde_json::to_string(&profile.bench()).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    let mut statement = tx.prepare_cached(
        "SELECT s.id, s.amplifier_id FROM session s JOIN amplifier a ON a.id = s.amplifier_id
         WHERE s.bench_profile_id = ? AND s.deleted_at IS NULL AND a.deleted_at IS NULL AND NOT EXISTS (SELECT 1 FROM run r WHERE r.session_id = s.id)",
    )?;
    let fresh: Vec<(String, String)> = statement.query_map([id], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<_, _>>()?;
    for (session_id, amplifier_id) in fresh {
        arming::none_in(tx, &session_id)?;
        tx.prepare_cached("UPDATE session SET bench = ? WHERE id = ?")?.execute((&bench, &session_id))?;
        tx.touched(&amplifier_id);
    }
    Ok(())
}
