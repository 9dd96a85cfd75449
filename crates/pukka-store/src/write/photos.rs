//! Photos of an amplifier: the record here, the file beside the database under the hash of what is in it.

use pukka_core::record::amplifier::PhotoWords;

use crate::rows::codec::{stamps_of_new, text};
use crate::rows::{amplifiers, sessions};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError, new_id};

pub use crate::rows::photos::*;

/// Adds a photo whose file is already in its place.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn create(tx: &WriteTx, author: &Author, amplifier_id: &str, photo: &Photo) -> Result<PhotoRow, StoreError> {
    amplifiers::TABLE.revision(tx, amplifier_id)?;
    let id = new_id();
    let mut beside = stamps_of_new(&id, author);
    beside.push(("amplifier_id", text(amplifier_id)));
    TABLE.insert(tx, &beside, photo)?;
    journal::record(tx, author, &Change::of(Entity::Photo, &id, amplifier_id, 1, "added a photo".into()), None, Some(photo))?;
    touch(tx, author, amplifier_id)?;
    get(tx, &id)
}

/// Adds those photos that an amplifier has not yet, as far as there is room for them.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn create_missing(tx: &WriteTx, author: &Author, amplifier_id: &str, photos: &[Photo]) -> Result<(), StoreError> {
    let mut known: Vec<String> = list(tx, amplifier_id)?.into_iter().map(|row| row.photo.sha256).collect();
    for photo in photos {
        if known.len() < MOST && !known.contains(&photo.sha256) {
            create(tx, author, amplifier_id, photo)?;
            known.push(photo.sha256.clone());
        }
    }
    Ok(())
}

/// Changes what is said of a photo.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn describe(tx: &WriteTx, author: &Author, id: &str, revision: i64, words: PhotoWords) -> Result<PhotoRow, StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.photo;
    let named = words.caption != before.words.caption;
    let after = Photo { words, ..before.clone() };
    put(tx, author, id, revision + 1, &after)?;
    let amplifier_id = amplifier_of(tx, id)?;
    let says = if named { "named a photo" } else { "changed what is said of a photo" };
    let change = Change::of(Entity::Photo, id, &amplifier_id, revision + 1, says.into());
    journal::record(tx, author, &change, Some(&before), Some(&after))?;
    get(tx, id)
}

/// Removes a photo; undo brings it back.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn delete(tx: &WriteTx, author: &Author, id: &str, revision: i64) -> Result<(), StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.photo;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let amplifier_id = amplifier_of(tx, id)?;
    let change = Change::of(Entity::Photo, id, &amplifier_id, revision + 1, "removed a photo".into());
    journal::record(tx, author, &change, Some(&before), None::<&Photo>)
}

fn touch(tx: &WriteTx, author: &Author, amplifier_id: &str) -> Result<(), StoreError> {
    let session_id = amplifiers::get(tx, amplifier_id)?.session_id;
    sessions::touch(tx, author, &session_id)
}
