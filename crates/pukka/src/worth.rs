//! Clean watts against price, over the whole shelf: prices brought to one currency on one day, places among those of a kind.

use jiff::civil::Date;
use pukka_core::kernel::format;
use pukka_core::record::amplifier::{Class, Purpose};
use pukka_core::report::summary::{Tone, folded};
use pukka_core::report::value::{Buy, ValueStanding, rate_on, standings};
use pukka_store::amplifiers::BuyRow;
use pukka_store::money::MoneyRow;
use serde::{Deserialize, Serialize};

/// Rivals claim so many times a power at the most, and that part of it at the least.
const RIVAL: f64 = 1.2;

/// What is looked for. An empty list asks for nothing.
#[derive(Debug, Clone, Default)]
pub struct Wanted {
    /// Words that all stand in what a search looks through.
    pub words: Vec<String>,
    /// Classes.
    pub classes: Vec<Class>,
    /// Purposes.
    pub purposes: Vec<Purpose>,
    /// Number of outputs.
    pub outputs: Option<u32>,
    /// The day of the newest run is this one or later.
    pub tested_from: Option<Date>,
    /// The day of the newest run is this one or earlier.
    pub tested_until: Option<Date>,
    /// Claims about this many watts: within a fifth.
    pub claim_near_w: Option<f64>,
    /// Lowest price, in the base currency.
    pub price_least: Option<f64>,
    /// Highest price, in the base currency.
    pub price_most: Option<f64>,
}

impl Wanted {
    fn wants(&self, row: &BuyRow, price: Option<f64>) -> bool {
        fn among<T: PartialEq>(list: &[T], one: &T) -> bool {
            list.is_empty() || list.contains(one)
        }
        among(&self.classes, &row.class)
            && among(&self.purposes, &row.purpose)
            && self.outputs.is_none_or(|outputs| outputs == row.outputs)
            && self.tested_from.is_none_or(|from| row.tested_on.is_some_and(|on| on >= from))
            && self.tested_until.is_none_or(|until| row.tested_on.is_some_and(|on| on <= until))
            && self.claim_near_w.is_none_or(|near| row.headline_w.is_some_and(|claim| (claim / near).ln().abs() <= RIVAL.ln()))
            && self.words.iter().all(|word| row.words.contains(&folded(word)))
            && self.price_least.is_none_or(|least| price.is_some_and(|price| price >= least))
            && self.price_most.is_none_or(|most| price.is_some_and(|price| price <= most))
    }
}

/// An amplifier as a buy.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct WorthRow {
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
    /// The line of its state: how its claims came out.
    pub state: String,
    /// Way in which that line is set.
    pub tone: Tone,
    /// Whether nothing of it was run: it stands there by its claims alone.
    pub claims_only: bool,
    /// The day of its newest run.
    #[schema(value_type = Option<String>, format = Date)]
    pub tested_on: Option<Date>,
    /// Clean watts at 14.4 V; nothing where it was not tested at a claimed load with its supply volts.
    pub clean_w: Option<f64>,
    /// The same, as shown.
    pub clean: Option<String>,
    /// Their ±, as shown.
    pub plus_minus: Option<String>,
    /// Load they were made into.
    pub load: Option<String>,
    /// Efficiency there, percent, as shown.
    pub efficiency: Option<String>,
    /// Watts of the headline claim.
    pub headline_w: Option<f64>,
    /// Price in the base currency.
    pub price: Option<f64>,
    /// Price as it was paid, as shown.
    pub price_words: Option<String>,
    /// Price of a clean watt, as shown.
    pub per_watt: Option<String>,
    /// Price of a claimed watt, as shown.
    pub per_claimed_watt: Option<String>,
    /// Price of a clean watt in the base currency.
    pub per_watt_price: Option<f64>,
    /// Place among those of its kind.
    pub standing: Option<ValueStanding>,
}

/// Clean watts against price.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Worth {
    /// Currency that prices are brought to.
    pub currency: String,
    /// Day whose rates brought them there.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// Amplifiers, by name.
    pub rows: Vec<WorthRow>,
    /// Currencies without a rate: amplifiers with prices in them have no value.
    pub no_rate_for: Vec<String>,
}

/// Every amplifier that is looked for, each with its place among all of its kind on the shelf, by the rates of a day.
#[must_use]
pub fn worth(rows: Vec<BuyRow>, money: &MoneyRow, wanted: &Wanted, on: Date) -> Worth {
    let price_of = |row: &BuyRow| Some(row.price? * rate_on(&money.rates, &money.base, row.currency.as_deref()?, on)?);
    let mut no_rate_for: Vec<String> =
        rows.iter().filter(|row| row.price.is_some() && price_of(row).is_none()).filter_map(|row| row.currency.clone()).collect();
    no_rate_for.sort_unstable();
    no_rate_for.dedup();
    let prices: Vec<Option<f64>> = rows.iter().map(price_of).collect();
    let buy = |(row, price): (&BuyRow, &Option<f64>)| {
        let (watts, price) =
            (row.clean.as_ref().map(|clean| clean.watts).filter(|watts| *watts > 0.0)?, price.filter(|price| *price > 0.0)?);
        Some(Buy { purpose: row.purpose, outputs: row.outputs, watts, price })
    };
    let buys: Vec<Option<Buy>> = rows.iter().zip(&prices).map(buy).collect();
    let mut places = standings(&buys.iter().flatten().cloned().collect::<Vec<_>>()).into_iter();
    let placed = rows.into_iter().zip(prices).zip(buys).map(|((row, price), buy)| (row, price, buy.and_then(|_| places.next())));
    let shown = placed.filter(|(row, price, _)| wanted.wants(row, *price));
    let rows = shown.map(|(row, price, standing)| line(row, price, standing, &money.base)).collect();
    Worth { currency: money.base.clone(), on, rows, no_rate_for }
}

fn line(row: BuyRow, price: Option<f64>, standing: Option<ValueStanding>, base: &str) -> WorthRow {
    let per = |watts: Option<f64>| Some(price? / watts.filter(|watts| *watts > 0.0)?);
    let clean_w = row.clean.as_ref().map(|clean| clean.watts);
    let (per_watt_price, per_claimed) = (per(clean_w), per(row.headline_w));
    let each = |price: Option<f64>| price.map(|price| format::money(price, base, 2));
    let price_words = row.price.zip(row.currency.as_ref()).map(|(amount, currency)| format::price(amount, currency));
    WorthRow {
        clean: clean_w.map(format::watts),
        plus_minus: row.clean.as_ref().map(|clean| format::plus_minus(clean.watts, clean.u_w)),
        efficiency: row.clean.as_ref().and_then(|clean| clean.efficiency_percent).map(|percent| format::fixed(percent, 1)),
        claims_only: row.claims_only,
        tested_on: row.tested_on,
        id: row.id,
        name: row.name,
        class: row.class,
        purpose: row.purpose,
        outputs: row.outputs,
        state: row.state,
        tone: row.tone,
        clean_w,
        load: row.clean.map(|clean| clean.load),
        headline_w: row.headline_w,
        price,
        price_words,
        per_watt: each(per_watt_price),
        per_claimed_watt: each(per_claimed),
        per_watt_price,
        standing,
    }
}

#[cfg(test)]
mod tests {
    use pukka_core::report::value::{CleanPower, Rate};

    use super::*;

    fn row(name: &str, watts: Option<f64>, price: f64, currency: &str) -> BuyRow {
        BuyRow {
            id: name.into(),
            name: name.into(),
            class: Class::D,
            purpose: Purpose::Subwoofer,
            outputs: 1,
            state: "verdict: pukka".into(),
            tone: Tone::Proved,
            clean: watts.map(|watts| CleanPower { watts, u_w: 9.0, load: "2 Ω".into(), load_ohm: 2.0, efficiency_percent: Some(71.0) }),
            headline_w: Some(500.0),
            price: Some(price),
            currency: Some(currency.into()),
            tested_on: Some("2026-03-01".parse().unwrap()),
            claims_only: watts.is_none(),
            words: folded(name),
        }
    }

    fn money() -> MoneyRow {
        MoneyRow {
            revision: 1,
            base: "GBP".into(),
            rates: vec![Rate { currency: "EUR".into(), on: "2026-01-01".parse().unwrap(), rate: 0.8 }],
        }
    }

    #[test]
    fn prices_are_brought_to_one_currency_and_those_without_a_rate_have_no_value() {
        let rows = vec![
            row("Fennway", Some(400.0), 100.0, "EUR"),
            row("Hartsedge", Some(400.0), 90.0, "GBP"),
            row("Quillmoor", Some(1.0), 9.0, "USD"),
        ];
        let all = worth(rows, &money(), &Wanted::default(), "2026-11-29".parse().unwrap());
        let says: Vec<_> = all.rows.iter().map(|row| row.standing.as_ref().map(|standing| standing.says.clone())).collect();
        assert_eq!(all.rows[0].price, Some(80.0));
        assert_eq!(says, [Some("first of 2 by watts for the money".into()), Some("second of 2 by watts for the money".into()), None]);
        assert_eq!((all.no_rate_for, all.rows[0].price_words.as_deref()), (vec!["USD".to_owned()], Some("€100")));
        assert_eq!((all.rows[1].per_watt.as_deref(), all.rows[1].per_claimed_watt.as_deref()), (Some("£0.23"), Some("£0.18")));
    }

    #[test]
    fn a_place_is_among_all_of_a_kind_whatever_is_looked_for() {
        let rows: Vec<BuyRow> = (1..=9).map(|n| row(&format!("Mono {n}"), Some(100.0), f64::from(n) * 10.0, "GBP")).collect();
        let asked = Wanted { words: vec!["MONO".into(), "9".into()], price_most: Some(200.0), ..Wanted::default() };
        let found = worth(rows.clone(), &money(), &asked, "2026-11-29".parse().unwrap());
        assert_eq!(found.rows.len(), 1);
        assert_eq!(found.rows[0].standing.as_ref().unwrap().says, "very dear: 9th of 9 by watts for the money");
        let rivals =
            |near| worth(rows.clone(), &money(), &Wanted { claim_near_w: Some(near), ..Wanted::default() }, "2026-11-29".parse().unwrap());
        assert_eq!((rivals(590.0).rows.len(), rivals(610.0).rows.len()), (9, 0), "all claim 500 W: rivals are within a fifth");
        let tested =
            |from: &str, until: &str| Wanted { tested_from: from.parse().ok(), tested_until: until.parse().ok(), ..Wanted::default() };
        let found = |wanted: &Wanted| worth(rows.clone(), &money(), wanted, "2026-11-29".parse().unwrap()).rows.len();
        assert_eq!(
            (found(&tested("2026-03-01", "2026-03-01")), found(&tested("2026-03-02", "")), found(&tested("", "2026-02-28"))),
            (9, 0, 0)
        );
        assert_eq!(found(&Wanted { outputs: Some(2), ..Wanted::default() }), 0);
        let none = Wanted { classes: vec![Class::AB], ..Wanted::default() };
        assert_eq!(worth(rows, &money(), &none, "2026-11-29".parse().unwrap()).rows, []);
    }
}
