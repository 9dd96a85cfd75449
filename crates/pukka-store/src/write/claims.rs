//! Claim lines of an amplifier.

use pukka_core::record::amplifier::Amplifier;
use pukka_core::record::claims::Claim;
use pukka_core::record::claims::paste::{Fact, same_claim};

use crate::rows::{amplifiers, arming};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::rows::claims::*;

/// Adds a claim line behind the others.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn create(tx: &WriteTx, author: &Author, amplifier_id: &str, claim: &Claim) -> Result<ClaimRow, StoreError> {
    amplifiers::TABLE.revision(tx, amplifier_id)?;
    arming::none_of(tx, amplifier_id)?;
    let id = insert_bare(tx, author, amplifier_id, claim)?;
    journal::record(tx, author, &Change::of(Entity::Claim, &id, amplifier_id, 1, "added a claim".into()), None, Some(claim))?;
    tx.touched(amplifier_id);
    Ok(get(tx, &id)?.0)
}

/// Adds claim lines that were approved, but none that stands there already from the same source, and puts the facts into the
/// amplifier's record: one undo takes it all back.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn approve(tx: &WriteTx, author: &Author, amplifier_id: &str, claims: &[Claim], facts: &[Fact]) -> Result<Vec<ClaimRow>, StoreError> {
    let author = author.at_once();
    let row = amplifiers::get(tx, amplifier_id)?;
    let mut amplifier: Amplifier = row.amplifier.clone();
    facts.iter().for_each(|fact| fact.put(&mut amplifier));
    if amplifier != row.amplifier {
        crate::write::amplifiers::update(tx, &author, amplifier_id, row.revision, &amplifier)?;
    }
    let mut there: Vec<Claim> = list(tx, amplifier_id)?.into_iter().map(|row| row.claim).collect();
    let mut added = Vec::new();
    for claim in claims {
        if !there.iter().any(|other| other.source == claim.source && same_claim(other, claim)) {
            there.push(claim.clone());
            added.push(create(tx, &author, amplifier_id, claim)?);
        }
    }
    Ok(added)
}

/// Changes a claim line.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn update(tx: &WriteTx, author: &Author, id: &str, revision: i64, claim: &Claim) -> Result<ClaimRow, StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let (before, amplifier_id) = get(tx, id)?;
    arming::none_of(tx, &amplifier_id)?;
    put(tx, author, id, revision + 1, claim)?;
    let change = Change::of(Entity::Claim, id, &amplifier_id, revision + 1, "changed a claim".into());
    journal::record(tx, author, &change, Some(&before.claim), Some(claim))?;
    tx.touched(&amplifier_id);
    Ok(get(tx, id)?.0)
}

/// Marks one of several claims of one thing as the one the verdict uses; one undo takes it back.
///
/// # Errors
/// [`StoreError::NotFound`] when one of them is not there, or is another amplifier's.
pub fn choose(tx: &WriteTx, author: &Author, id: &str, instead_of: &[String]) -> Result<(), StoreError> {
    let author = author.at_once();
    let (_, amplifier_id) = get(tx, id)?;
    for (line, used) in instead_of.iter().map(|other| (other.as_str(), false)).chain([(id, true)]) {
        let (row, owner) = get(tx, line)?;
        if owner != amplifier_id {
            return Err(StoreError::NotFound { what: TABLE.what, id: line.to_owned() });
        }
        if row.claim.used != used {
            update(tx, &author, line, row.revision, &Claim { used, ..row.claim })?;
        }
    }
    Ok(())
}

/// Removes a claim line; undo brings it back.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn delete(tx: &WriteTx, author: &Author, id: &str, revision: i64) -> Result<(), StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let (before, amplifier_id) = get(tx, id)?;
    arming::none_of(tx, &amplifier_id)?;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let change = Change::of(Entity::Claim, id, &amplifier_id, revision + 1, "removed a claim".into());
    journal::record(tx, author, &change, Some(&before.claim), None::<&Claim>)?;
    tx.touched(&amplifier_id);
    Ok(())
}
