//! Every amplifier on the shelf as a buy: read out of an index over the summaries, so that thousands take milliseconds.

use jiff::civil::Date;
use pukka_core::RULES_VERSION;
use pukka_core::record::amplifier::{Class, Purpose};
use pukka_core::report::summary::{Stage, Summary, Tone};
use pukka_core::report::value::CleanPower;
use rusqlite::{Connection, Row};
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::StoreError;
use crate::read::summaries;

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
    /// Clean power that counts for value: the most at a claimed load, or that at the load that was asked for.
    pub clean: Option<CleanPower>,
    /// Watts of the headline claim.
    pub headline_w: Option<f64>,
    /// Price, in its own currency.
    pub price: Option<f64>,
    /// That currency.
    pub currency: Option<String>,
    /// The day of its newest run.
    pub tested_on: Option<Date>,
    /// Whether nothing of it was run: it stands there by its claims alone.
    pub claims_only: bool,
    /// Text that a search looks through.
    pub words: String,
}

impl BuyRow {
    /// Of a summary that is not in the index yet.
    fn of(id: String, summary: Summary, load_ohm: Option<f64>) -> Self {
        Self {
            id,
            class: summary.class,
            purpose: summary.purpose,
            tone: summary.tone,
            name: summary.name,
            outputs: summary.outputs,
            state: summary.state,
            clean: at_load(summary.powers, load_ohm),
            headline_w: summary.headline_w,
            price: summary.price_amount,
            currency: summary.price_currency,
            tested_on: summary.tested_on,
            claims_only: is_claims_only(summary.stage),
            words: summary.search,
        }
    }
}

const fn is_claims_only(stage: Stage) -> bool {
    matches!(stage, Stage::NoClaims | Stage::NotRun)
}

/// The first of some powers, which come the most first; at one load alone where one is asked for.
fn at_load(powers: Vec<CleanPower>, load_ohm: Option<f64>) -> Option<CleanPower> {
    powers.into_iter().find(|power| load_ohm.is_none_or(|load| (power.load_ohm - load).abs() < 1e-9))
}

/// A value by its word in files.
fn of_word<T: DeserializeOwned>(word: String) -> Result<T, StoreError> {
    serde_json::from_value(Value::String(word)).map_err(|why| StoreError::Unreadable { what: "summary", why })
}

/// Every amplifier on the shelf, by name, with its clean power at one nominal load where one is asked for. A summary that a write has
/// just left outdated is made for the answer.
///
/// # Errors
/// [`StoreError`].
pub fn buys(tx: &Connection, load_ohm: Option<f64>) -> Result<Vec<BuyRow>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT a.id, s.id, y.fresh AND y.rules_version = ?1, y.name, y.class, y.purpose, y.outputs, y.verdict_word, y.tone, y.value_w,
                y.value_u_w, y.value_load, y.value_load_ohm, y.value_percent, y.headline_w, y.price, y.currency,
                y.tested_on, y.stage, y.words, iif(?2 IS NULL, NULL, y.powers)
         FROM amplifier a INDEXED BY amplifier_shelf
         JOIN session s INDEXED BY session_shelf ON s.id = a.session_in_hand
         LEFT JOIN summary y INDEXED BY summary_value ON y.session_id = s.id
         WHERE a.deleted_at IS NULL",
    )?;
    let mut rows = statement.query((RULES_VERSION, load_ohm))?;
    let mut buys = Vec::new();
    while let Some(row) = rows.next()? {
        let id = row.get(0)?;
        if row.get::<_, Option<bool>>(2)? == Some(true) {
            buys.push(of_row(id, row, load_ohm)?);
        } else {
            let session_id: String = row.get(1)?;
            buys.push(BuyRow::of(id, summaries::get(tx, &session_id)?, load_ohm));
        }
    }
    buys.sort_by(|a, b| a.name.cmp(&b.name).then_with(|| a.id.cmp(&b.id)));
    Ok(buys)
}

fn day(text: Option<String>) -> Result<Option<Date>, StoreError> {
    text.map(|text| text.parse()).transpose().map_err(|_| StoreError::Broken)
}

fn of_row(id: String, row: &Row, load_ohm: Option<f64>) -> Result<BuyRow, StoreError> {
    let most = || {
        let Some(watts) = row.get(9)? else { return Ok(None) };
        Ok::<_, StoreError>(Some(CleanPower {
            watts,
            u_w: row.get(10)?,
            load: row.get(11)?,
            load_ohm: row.get(12)?,
            efficiency_percent: row.get(13)?,
        }))
    };
    let at_one = |powers: String| {
        let powers = serde_json::from_str(&powers).map_err(|why| StoreError::Unreadable { what: "summary", why })?;
        Ok::<_, StoreError>(at_load(powers, load_ohm))
    };
    Ok(BuyRow {
        id,
        name: row.get(3)?,
        class: of_word(row.get(4)?)?,
        purpose: of_word(row.get(5)?)?,
        outputs: row.get(6)?,
        state: row.get(7)?,
        tone: of_word(row.get(8)?)?,
        clean: row.get::<_, Option<String>>(20)?.map_or_else(most, at_one)?,
        headline_w: row.get(14)?,
        price: row.get(15)?,
        currency: row.get(16)?,
        tested_on: day(row.get(17)?)?,
        claims_only: is_claims_only(of_word(row.get(18)?)?),
        words: row.get(19)?,
    })
}
