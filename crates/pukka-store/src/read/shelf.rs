//! The shelf: a line an amplifier.

use pukka_core::RULES_VERSION;
use pukka_core::report::summary::Summary;
use rusqlite::Connection;

use crate::StoreError;
use crate::read::page::{After, LAST};
use crate::read::summaries;

/// A line of the shelf.
#[derive(Debug, Clone, PartialEq)]
pub struct ShelfRow {
    /// Its id.
    pub id: String,
    /// When it was last changed.
    pub updated_at: String,
    /// How it stands.
    pub summary: Summary,
}

/// Every amplifier on the shelf, the one last worked on first.
///
/// # Errors
/// [`StoreError`].
pub fn whole_shelf(tx: &Connection) -> Result<Vec<ShelfRow>, StoreError> {
    Ok(shelf(tx, None, usize::MAX)?.0)
}

/// A page of the shelf, the amplifier last worked on first, and where the next page begins. Reads summaries only.
///
/// # Errors
/// [`StoreError`].
pub fn shelf(tx: &Connection, after: Option<&After>, limit: usize) -> Result<(Vec<ShelfRow>, Option<After>), StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT a.id, max(a.updated_at, s.updated_at), iif(y.fresh AND y.rules_version = ?, y.body, NULL), s.id
         FROM amplifier a
         JOIN session s ON s.amplifier_id = a.id AND s.deleted_at IS NULL
         LEFT JOIN summary y ON y.session_id = s.id
         WHERE a.deleted_at IS NULL
           AND s.id = (SELECT n.id FROM session n WHERE n.amplifier_id = a.id AND n.deleted_at IS NULL ORDER BY n.created_at DESC, n.id DESC LIMIT 1)
           AND (max(a.updated_at, s.updated_at), a.id) < (?, ?)
         ORDER BY 2 DESC, a.id DESC LIMIT ?",
    )?;
    let (at, id) = after.map_or((LAST, ""), |after| (after.at.as_str(), after.id.as_str()));
    let mut rows = statement.query((RULES_VERSION, at, id, i64::try_from(limit).unwrap_or(i64::MAX)))?;
    let mut shelf = Vec::new();
    while let Some(row) = rows.next()? {
        let (body, session_id): (Option<String>, String) = (row.get(2)?, row.get(3)?);
        let summary = body.map_or_else(|| summaries::get(tx, &session_id), |body| summaries::parsed(&body))?;
        shelf.push(ShelfRow { id: row.get(0)?, updated_at: row.get(1)?, summary });
    }
    let next = shelf.last().filter(|_| shelf.len() == limit).map(|row| After { at: row.updated_at.clone(), id: row.id.clone() });
    Ok((shelf, next))
}
