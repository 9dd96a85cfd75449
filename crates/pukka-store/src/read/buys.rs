//! Every amplifier on the shelf as a buy: read out of an index over the summaries, so that thousands take milliseconds.

use pukka_core::RULES_VERSION;
use pukka_core::record::amplifier::{Class, Purpose};
use pukka_core::report::summary::{Summary, Tone};
use rusqlite::Connection;
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::StoreError;
use crate::read::summaries;
use crate::rows::amplifiers::IN_HAND;

/// An amplifier with its clean watts and its price, as far as they are known.
#[derive(Debug, Clone, PartialEq)]
pub struct BuyRow {
    /// Id of the amplifier.
    pub id: String,
    /// Make and model.
    pub name: String,
    /// Class.
    pub class: Class,
    /// Purpose.
    pub purpose: Purpose,
    /// Outputs.
    pub outputs: u32,
    /// The line of its state, as the shelf shows it.
    pub state: String,
    /// Way in which that line is set.
    pub tone: Tone,
    /// Clean watts at the voltage of value.
    pub clean_w: Option<f64>,
    /// Their expanded uncertainty.
    pub clean_u_w: Option<f64>,
    /// Load they were made into.
    pub load: Option<String>,
    /// Efficiency there, percent.
    pub efficiency_percent: Option<f64>,
    /// Watts of the headline claim.
    pub headline_w: Option<f64>,
    /// Price, in its own currency.
    pub price: Option<f64>,
    /// That currency.
    pub currency: Option<String>,
    /// The day it cost that.
    pub price_on: Option<String>,
    /// Text that a search looks through.
    pub words: String,
}

impl BuyRow {
    /// Of a summary that is not in the index yet.
    fn of(id: String, summary: Summary) -> Self {
        let clean = summary.clean;
        Self {
            id,
            class: summary.class,
            purpose: summary.purpose,
            tone: summary.tone,
            name: summary.name,
            outputs: summary.outputs,
            state: summary.state,
            clean_w: clean.as_ref().map(|clean| clean.watts),
            clean_u_w: clean.as_ref().map(|clean| clean.u_w),
            efficiency_percent: clean.as_ref().and_then(|clean| clean.efficiency_percent),
            load: clean.map(|clean| clean.load),
            headline_w: summary.headline_w,
            price: summary.price_amount,
            currency: summary.price_currency,
            price_on: summary.price_on.map(|on| on.to_string()),
            words: summary.search,
        }
    }
}

/// A value by its word in files.
fn of_word<T: DeserializeOwned>(word: String) -> Result<T, StoreError> {
    serde_json::from_value(Value::String(word)).map_err(|why| StoreError::Unreadable { what: "summary", why })
}

/// Every amplifier on the shelf, by name. A summary that a write has just left outdated is made for the answer.
///
/// # Errors
/// [`StoreError`].
pub fn buys(tx: &Connection) -> Result<Vec<BuyRow>, StoreError> {
    let mut statement = tx.prepare_cached(&format!(
        "SELECT a.id, y.name, y.class, y.purpose, y.outputs, y.verdict_word, y.tone, y.value_w, y.value_u_w, y.value_load,
                y.value_percent, y.headline_w, y.price, y.currency, y.price_on, y.words, s.id, y.fresh AND y.rules_version = ?
         FROM amplifier a
         JOIN session s ON s.amplifier_id = a.id AND s.deleted_at IS NULL
         LEFT JOIN summary y INDEXED BY summary_value ON y.session_id = s.id
         WHERE a.deleted_at IS NULL
           AND s.id = ({IN_HAND})"
    ))?;
    let mut rows = statement.query([RULES_VERSION])?;
    let mut buys = Vec::new();
    while let Some(row) = rows.next()? {
        if row.get::<_, Option<bool>>(17)? != Some(true) {
            let session_id: String = row.get(16)?;
            buys.push(BuyRow::of(row.get(0)?, summaries::get(tx, &session_id)?));
            continue;
        }
        buys.push(BuyRow {
            id: row.get(0)?,
            name: row.get(1)?,
            class: of_word(row.get(2)?)?,
            purpose: of_word(row.get(3)?)?,
            outputs: row.get(4)?,
            state: row.get(5)?,
            tone: of_word(row.get(6)?)?,
            clean_w: row.get(7)?,
            clean_u_w: row.get(8)?,
            load: row.get(9)?,
            efficiency_percent: row.get(10)?,
            headline_w: row.get(11)?,
            price: row.get(12)?,
            currency: row.get(13)?,
            price_on: row.get(14)?,
            words: row.get(15)?,
        });
    }
    buys.sort_by(|a, b| a.name.cmp(&b.name).then_with(|| a.id.cmp(&b.id)));
    Ok(buys)
}
