//! Where the instruments are: one row a task.

use pukka_core::instruments::Role;
use rusqlite::{Connection, Transaction};

use crate::{Author, StoreError};

/// A link as it is set up.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LinkRow {
    /// Task of the instrument.
    pub role: Role,
    /// Host and port.
    pub address: String,
    /// Profile, as TOML.
    pub profile: String,
    /// Matching meter of the bench.
    pub meter: Option<String>,
}

/// Every link that is set up.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection) -> Result<Vec<LinkRow>, StoreError> {
    let mut statement = tx.prepare_cached("SELECT role, address, profile, meter FROM instrument_link ORDER BY role")?;
    let rows = statement.query_map([], |row| Ok((row.get::<_, String>(0)?, row.get(1)?, row.get(2)?, row.get(3)?)))?;
    let mut links = Vec::new();
    for row in rows {
        let (role, address, profile, meter) = row?;
        links.extend(Role::parse(&role).map(|role| LinkRow { role, address, profile, meter }));
    }
    Ok(links)
}

/// Sets a link up, or again.
///
/// # Errors
/// [`StoreError`].
pub fn save(tx: &Transaction, author: &Author, link: &LinkRow) -> Result<(), StoreError> {
    tx.prepare_cached(
        "INSERT INTO instrument_link (role, at, who, address, profile, meter) VALUES (?1, ?2, ?3, ?4, ?5, ?6)
         ON CONFLICT (role) DO UPDATE SET at = ?2, who = ?3, address = ?4, profile = ?5, meter = ?6",
    )?
    .execute((link.role.word(), author.at.to_string(), &author.who, &link.address, &link.profile, &link.meter))?;
    Ok(())
}

/// Takes a link away.
///
/// # Errors
/// [`StoreError`].
pub fn remove(tx: &Transaction, role: Role) -> Result<(), StoreError> {
    tx.execute("DELETE FROM instrument_link WHERE role = ?", [role.word()])?;
    Ok(())
}
