//! Rates of exchange, as the user keeps them.

use pukka_core::report::value::Rate;
use rusqlite::{Connection, OptionalExtension};

use crate::write::WriteTx;
use crate::{Author, StoreError};

/// Base and rates. Revision 0: none were ever given.
#[derive(Debug, Clone, PartialEq)]
pub struct MoneyRow {
    /// Revision.
    pub revision: i64,
    /// Currency that all prices are brought to: three letters.
    pub base: String,
    /// Rates, each with its day.
    pub rates: Vec<Rate>,
}

/// The rates there are; without any, the base is the currency that most prices on the shelf are in.
///
/// # Errors
/// [`StoreError`].
pub fn get(tx: &Connection) -> Result<MoneyRow, StoreError> {
    let row: Option<(i64, String, String)> = tx
        .prepare_cached("SELECT revision, base, rates FROM money WHERE id = 1")?
        .query_row([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))
        .optional()?;
    let Some((revision, base, rates)) = row else {
        let usual: Option<String> = tx
            .prepare_cached(
                "SELECT json_extract(price, '$.currency') AS currency FROM amplifier WHERE deleted_at IS NULL AND currency IS NOT NULL
             GROUP BY currency ORDER BY count(*) DESC, currency LIMIT 1",
            )?
            .query_row([], |row| row.get(0))
            .optional()?;
        return Ok(MoneyRow { revision: 0, base: usual.unwrap_or_else(|| "EUR".into()), rates: Vec::new() });
    };
    let rates = serde_json::from_str(&rates).map_err(|why| StoreError::Unreadable { what: "table of rates", why })?;
    Ok(MoneyRow { revision, base, rates })
}

/// Sets them all.
///
/// # Errors
/// [`StoreError::Conflict`] when they were changed since `revision`.
pub fn set(tx: &WriteTx, author: &Author, revision: i64, base: &str, rates: &[Rate]) -> Result<MoneyRow, StoreError> {
    let have = get(tx)?.revision;
    if have != revision {
        return Err(StoreError::Conflict { what: "table of rates", wanted: revision, have });
    }
    let text = serde_json::to_string(rates).map_err(|why| StoreError::Unreadable { what: "table of rates", why })?;
    tx.prepare_cached(
        "INSERT INTO money (id, revision, updated_at, who, base, rates) VALUES (1, ?1, ?2, ?3, ?4, ?5)
         ON CONFLICT (id) DO UPDATE SET revision = ?1, updated_at = ?2, who = ?3, base = ?4, rates = ?5",
    )?
    .execute((revision + 1, author.at.to_string(), &author.who, base, text))?;
    get(tx)
}
