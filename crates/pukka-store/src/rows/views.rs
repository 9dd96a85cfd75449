//! Saved views: a page's filters and order, by a name.

use rusqlite::{Connection, Row};
use serde::{Deserialize, Serialize};

use crate::StoreError;
use crate::rows::codec::{Kind, Table};

pub(crate) const TABLE: Table = Table {
    name: "saved_view",
    what: "view",
    columns: &[("page", Kind::Text), ("name", Kind::Text), ("query", Kind::Text), ("on_site", Kind::Bool)],
};

/// A page whose filters can be saved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum ViewPage {
    /// The list of all amplifiers.
    Shelf,
    /// Clean watts against price, and amplifiers side by side.
    Compare,
}

impl ViewPage {
    /// The word in the database.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Shelf => "shelf",
            Self::Compare => "compare",
        }
    }
}

/// Filters and order of a page, as its address has them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct SavedView {
    /// The page.
    pub page: ViewPage,
    /// Name given to it.
    pub name: String,
    /// The query of its address: `class=D&sort=clean`.
    pub query: String,
    /// Whether a comparison goes on the web site by this name.
    #[serde(default)]
    pub on_site: bool,
}

/// A view as it is kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ViewRow {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The record.
    pub view: SavedView,
}

fn of_row(row: &Row) -> Result<ViewRow, StoreError> {
    Ok(ViewRow { id: row.get(0)?, revision: row.get(1)?, view: TABLE.record(row, 2)? })
}

/// Every view, by name.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection) -> Result<Vec<ViewRow>, StoreError> {
    let sql = format!("SELECT id, revision, {} FROM saved_view WHERE deleted_at IS NULL ORDER BY name, id", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push(of_row(row)?);
    }
    Ok(found)
}

/// The view with this id.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none, or it was deleted.
pub fn get(tx: &Connection, id: &str) -> Result<ViewRow, StoreError> {
    let sql = format!("SELECT id, revision, {} FROM saved_view WHERE id = ? AND deleted_at IS NULL", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([id])?;
    of_row(rows.next()?.ok_or_else(|| StoreError::NotFound { what: TABLE.what, id: id.to_owned() })?)
}
