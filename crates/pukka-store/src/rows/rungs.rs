//! What was set for the rungs of a session.

use pukka_core::record::session::PlannedRung;
use rusqlite::{Connection, Transaction};

use crate::rows::codec::{Kind, Table, stamps_of_change, stamps_of_new, text};
use crate::{Author, StoreError, new_id};

pub(crate) const TABLE: Table = Table {
    name: "rung",
    what: "rung",
    columns: &[
        ("wiring", Kind::Json),
        ("setting", Kind::Text),
        ("load_ohm", Kind::Real),
        ("tone_hz", Kind::Real),
        ("load_measured_ohm", Kind::Real),
        ("group_loads_measured_ohm", Kind::Json),
        ("rest_v", Kind::Real),
        ("charger_on", Kind::Bool),
        ("bank", Kind::Text),
        ("extra_drive_db", Kind::Real),
        ("modes", Kind::Json),
        ("bursts", Kind::Json),
        ("made_of", Kind::Text),
    ],
};

/// Rungs of a session with their revisions, in the order they were set.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, session_id: &str) -> Result<Vec<(PlannedRung, i64)>, StoreError> {
    Ok(rows(tx, session_id)?.into_iter().map(|(_, revision, rung)| (rung, revision)).collect())
}

pub(crate) fn rows(tx: &Connection, session_id: &str) -> Result<Vec<(String, i64, PlannedRung)>, StoreError> {
    let sql =
        format!("SELECT id, revision, {} FROM rung WHERE session_id = ? AND deleted_at IS NULL ORDER BY created_at, id", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut found = statement.query([session_id])?;
    let mut rungs = Vec::new();
    while let Some(row) = found.next()? {
        rungs.push((row.get(0)?, row.get(1)?, TABLE.record(row, 2)?));
    }
    Ok(rungs)
}

/// The revision of a rung as it was set; 0 when nobody set it yet.
pub(crate) fn revision_of(tx: &Connection, session_id: &str, like: &PlannedRung) -> Result<i64, StoreError> {
    Ok(rows(tx, session_id)?.into_iter().find(|(_, _, rung)| same(rung, like)).map_or(0, |(_, revision, _)| revision))
}

pub(crate) fn same(a: &PlannedRung, b: &PlannedRung) -> bool {
    a.wiring == b.wiring
        && a.setting == b.setting
        && pukka_core::kernel::wiring::same_load(a.load_ohm.get(), b.load_ohm.get())
        && (a.tone_hz == b.tone_hz || a.tone_hz.is_none() || b.tone_hz.is_none())
}

pub(crate) fn insert(tx: &Transaction, author: &Author, session_id: &str, rung: &PlannedRung) -> Result<String, StoreError> {
    let id = new_id();
    let mut beside = stamps_of_new(&id, author);
    beside.push(("session_id", text(session_id)));
    TABLE.insert(tx, &beside, rung)?;
    Ok(id)
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, rung: &PlannedRung) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), rung)
}
