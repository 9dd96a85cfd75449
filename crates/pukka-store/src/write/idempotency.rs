//! A write that is sent twice is done once.

use jiff::{SignedDuration, Timestamp};
use rusqlite::{Connection, OptionalExtension};
use serde::Serialize;
use serde::de::DeserializeOwned;
use sha2::{Digest, Sha256};

use crate::write::WriteTx;
use crate::{Author, StoreError};

/// Hash of a request, by which a key that is used for another one is told apart.
#[must_use]
pub fn fingerprint(parts: &[&[u8]]) -> String {
    let mut hash = Sha256::new();
    for part in parts {
        hash.update((part.len() as u64).to_le_bytes());
        hash.update(part);
    }
    hash.finalize().iter().map(|byte| format!("{byte:02x}")).collect()
}

/// Does `work`, or answers what it answered before when the key was seen.
///
/// # Errors
/// [`StoreError::KeyReused`] when the key came with another request; else what `work` says.
pub fn once<T: Serialize + DeserializeOwned>(
    tx: &WriteTx,
    author: &Author,
    work: impl FnOnce(&WriteTx) -> Result<T, StoreError>,
) -> Result<T, StoreError> {
    let Some((key, sha256)) = &author.key else {
        return work(tx);
    };
    if let Some((seen, response)) = find(tx, key)? {
        if response == GIVEN_UP {
            return Err(StoreError::GivenUp);
        }
        if seen != *sha256 {
            return Err(StoreError::KeyReused);
        }
        return serde_json::from_str(&response).map_err(|why| StoreError::Unreadable { what: "answer", why });
    }
    let value = work(tx)?;
    let response = serde_json::to_string(&value).map_err(|why| StoreError::Unreadable { what: "answer", why })?;
    keep(tx, author, key, sha256, &response)?;
    Ok(value)
}

/// Drops the keys of writes that are older than anything still on its way.
pub(crate) fn prune(tx: &Connection, now: Timestamp) -> Result<(), StoreError> {
    let oldest = now.checked_sub(KEPT).unwrap_or(Timestamp::MIN);
    tx.prepare_cached("DELETE FROM idempotency WHERE at < ?")?.execute([oldest.to_string()])?;
    Ok(())
}

/// Time that the key of a write is kept: 30 days.
const KEPT: SignedDuration = SignedDuration::from_hours(30 * 24);

/// No answer is empty: JSON has at least two characters.
const GIVEN_UP: &str = "";

/// The answer that was given under a key. When there is none the key is given up: a request that is still on its way under it
/// will not be done, so that what is said from here on stays true.
///
/// # Errors
/// [`StoreError`].
pub fn answer_or_give_up(tx: &WriteTx, author: &Author, key: &str) -> Result<Option<String>, StoreError> {
    match find(tx, key)? {
        Some((_, response)) => Ok(Some(response).filter(|response| response != GIVEN_UP)),
        None => {
            keep(tx, author, key, "", GIVEN_UP)?;
            Ok(None)
        }
    }
}

fn keep(tx: &WriteTx, author: &Author, key: &str, sha256: &str, response: &str) -> Result<(), StoreError> {
    tx.prepare_cached("INSERT INTO idempotency (key, at, request_sha256, response) VALUES (?, ?, ?, ?)")?.execute((
        key,
        author.at.to_string(),
        sha256,
        response,
    ))?;
    Ok(())
}

fn find(tx: &Connection, key: &str) -> Result<Option<(String, String)>, StoreError> {
    Ok(tx
        .prepare_cached("SELECT request_sha256, response FROM idempotency WHERE key = ?")?
        .query_row([key], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?)
}
