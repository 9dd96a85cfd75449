//! Saved views: a page's filters and order, by a name.

use rusqlite::OptionalExtension as _;

use crate::rows::codec::{stamps_of_change, stamps_of_new};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError, new_id};

pub use crate::rows::views::*;

/// Keeps a view. One of the same page by the same name is replaced.
///
/// # Errors
/// [`StoreError`].
pub fn save(tx: &WriteTx, author: &Author, view: &SavedView) -> Result<ViewRow, StoreError> {
    let known: Option<String> = tx
        .prepare_cached("SELECT id FROM saved_view WHERE page = ? AND name = ? AND deleted_at IS NULL")?
        .query_row((view.page.word(), &view.name), |row| row.get(0))
        .optional()?;
    let Some(id) = known else {
        let id = new_id();
        TABLE.insert(tx, &stamps_of_new(&id, author), view)?;
        journal::record(tx, author, &Change::of(Entity::View, &id, "", 1, format!("saved the view {}", view.name)), None, Some(view))?;
        return get(tx, &id);
    };
    let before = get(tx, &id)?;
    put(tx, author, &id, before.revision + 1, view)?;
    let change = Change::of(Entity::View, &id, "", before.revision + 1, format!("changed the view {}", view.name));
    journal::record(tx, author, &change, Some(&before.view), Some(view))?;
    get(tx, &id)
}

/// Deletes a view; undo brings it back.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none.
pub fn delete(tx: &WriteTx, author: &Author, id: &str) -> Result<(), StoreError> {
    let before = get(tx, id)?;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let change = Change::of(Entity::View, id, "", before.revision + 1, format!("deleted the view {}", before.view.name));
    journal::record(tx, author, &change, Some(&before.view), None::<&SavedView>)
}

pub(crate) fn put(tx: &WriteTx, author: &Author, id: &str, revision: i64, view: &SavedView) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), view)
}
