//! Bench profiles: the bench as it stands now. A session keeps a copy, as it was.

use pukka_core::evidence::source_ohm::{Sag, sag_of};
use pukka_core::record::bench::BenchProfile;
use rusqlite::{Connection, OptionalExtension, Transaction};
use serde::{Deserialize, Serialize};

use crate::acts::{self, Change, Entity};
use crate::codec::{Kind, Table, stamps_of_change, stamps_of_new};
use crate::{Author, StoreError, new_id, runs, summaries};

pub(crate) const TABLE: Table = Table {
    name: "bench_profile",
    what: "bench",
    columns: &[("name", Kind::Text), ("supply", Kind::Json), ("loads", Kind::Json), ("meters", Kind::Json), ("leads", Kind::Json)],
};

/// A bench as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct BenchRow {
    /// Its id.
    pub id: String,
    /// Its revision.
    pub revision: i64,
    /// The record.
    pub profile: BenchProfile,
    /// Sessions on it.
    pub sessions: u32,
}

const COUNT: &str = "(SELECT count(*) FROM session s JOIN amplifier a ON a.id = s.amplifier_id
    WHERE s.bench_profile_id = bench_profile.id AND s.deleted_at IS NULL AND a.deleted_at IS NULL)";

/// Every bench, by name.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection) -> Result<Vec<BenchRow>, StoreError> {
    select(tx, "deleted_at IS NULL ORDER BY name, id", "")
}

/// The bench with this id.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none, or it was deleted.
pub fn get(tx: &Connection, id: &str) -> Result<BenchRow, StoreError> {
    let not_found = || StoreError::NotFound { what: TABLE.what, id: id.to_owned() };
    select(tx, "deleted_at IS NULL AND id = ?1", id)?.pop().ok_or_else(not_found)
}

fn select(tx: &Connection, condition: &str, id: &str) -> Result<Vec<BenchRow>, StoreError> {
    // The condition may not use the id; a bound value that is not used is no error this way.
    let sql = format!("SELECT id, revision, {COUNT}, {} FROM bench_profile WHERE (?1 = ?1) AND {condition}", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([id])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push(BenchRow { id: row.get(0)?, revision: row.get(1)?, sessions: row.get(2)?, profile: TABLE.record(row, 3)? });
    }
    Ok(found)
}

/// The bench last worked on, else the only one there is: a new session stands on it.
pub(crate) fn in_hand(tx: &Connection) -> Result<Option<BenchRow>, StoreError> {
    let id: Option<String> = tx
        .prepare_cached(
            "SELECT b.id FROM bench_profile b LEFT JOIN session s ON s.bench_profile_id = b.id WHERE b.deleted_at IS NULL
             ORDER BY max(coalesce(s.updated_at, ''), b.updated_at) DESC, b.id LIMIT 1",
        )?
        .query_row([], |row| row.get(0))
        .optional()?;
    id.map(|id| get(tx, &id)).transpose()
}

/// What past runs on a bench showed of its supply.
///
/// # Errors
/// [`StoreError`].
pub fn sags(tx: &Connection, id: &str) -> Result<Vec<Sag>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT s.id FROM session s JOIN amplifier a ON a.id = s.amplifier_id
         WHERE s.bench_profile_id = ? AND s.deleted_at IS NULL AND a.deleted_at IS NULL ORDER BY s.created_at DESC LIMIT 100",
    )?;
    let ids: Vec<String> = statement.query_map([id], |row| row.get(0))?.collect::<Result<_, _>>()?;
    let mut sags = Vec::new();
    for session_id in ids {
        sags.extend(runs::list(tx, &session_id)?.0.iter().filter(|run| run.valid).filter_map(sag_of));
    }
    Ok(sags)
}

/// Adds a bench.
///
/// # Errors
/// [`StoreError`].
pub fn create(tx: &Transaction, author: &Author, profile: &BenchProfile) -> Result<BenchRow, StoreError> {
    let id = new_id();
    TABLE.insert(tx, &stamps_of_new(&id, author), profile)?;
    acts::record(tx, author, &Change::of(Entity::Bench, &id, "", 1, format!("added the bench {}", profile.name)), None, Some(profile))?;
    get(tx, &id)
}

/// Changes a bench. Sessions on it in which nothing was run yet follow; the others keep it as it was.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn update(tx: &Transaction, author: &Author, id: &str, revision: i64, profile: &BenchProfile) -> Result<BenchRow, StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.profile;
    put(tx, author, id, revision + 1, profile)?;
    let change = Change::of(Entity::Bench, id, "", revision + 1, format!("changed the bench {}", before.name));
    acts::record(tx, author, &change, Some(&before), Some(profile))?;
    get(tx, id)
}

/// Deletes a bench; its sessions keep it as it was.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn delete(tx: &Transaction, author: &Author, id: &str, revision: i64) -> Result<(), StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.profile;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let change = Change::of(Entity::Bench, id, "", revision + 1, format!("deleted the bench {}", before.name));
    acts::record(tx, author, &change, Some(&before), None::<&BenchProfile>)
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, profile: &BenchProfile) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), profile)?;
    let bench = serde_json::to_string(&profile.bench()).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    let mut statement = tx.prepare_cached(
        "SELECT s.id, s.amplifier_id FROM session s JOIN amplifier a ON a.id = s.amplifier_id
         WHERE s.bench_profile_id = ? AND s.deleted_at IS NULL AND a.deleted_at IS NULL AND NOT EXISTS (SELECT 1 FROM run r WHERE r.session_id = s.id)",
    )?;
    let fresh: Vec<(String, String)> = statement.query_map([id], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<_, _>>()?;
    for (session_id, amplifier_id) in fresh {
        crate::arming::none_in(tx, &session_id)?;
        tx.prepare_cached("UPDATE session SET bench = ? WHERE id = ?")?.execute((&bench, &session_id))?;
        summaries::refresh(tx, &amplifier_id)?;
    }
    Ok(())
}
