//! What an amplifier is worth: clean watts for the money, against others of its kind. Never mixed with how honest its claims are.
//!
//! Ref: docs/method.md, "Compare and value".

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use crate::assess::loads::loads;
use crate::evidence::band::{Sample, band};
use crate::evidence::choose::Usable;
use crate::evidence::total;
use crate::kernel::wiring::{Relation, relation};
use crate::record::amplifier::Purpose;
use crate::record::claims::USUAL_SUPPLY_V;
use crate::record::session::Session;

/// Voltage that clean watts are brought to.
pub const VALUE_V: f64 = USUAL_SUPPLY_V;
/// Fewest comparable amplifiers that give a word.
pub const FEWEST: usize = 8;

/// Clean power that counts for value: at a claimed load not below the floor, brought to [`VALUE_V`].
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CleanPower {
    /// Watts, the lower end of a band.
    pub watts: f64,
    /// Its expanded uncertainty, watts.
    pub u_w: f64,
    /// "2 Ω".
    pub load: String,
    /// Nominal load, ohms.
    pub load_ohm: f64,
    /// Efficiency there, as read.
    pub efficiency_percent: Option<f64>,
}

/// Clean powers of a session at its claimed loads, the most first: none where no claimed load was run clean with its supply volts read.
pub(crate) fn clean_powers(session: &Session, usable: &[Usable]) -> Vec<CleanPower> {
    let claimed = |place| {
        let claims = session.claims.iter().filter(|claim| claim.used);
        let places = claims.filter_map(|claim| Some((claim.wiring?, claim.load_ohm?)));
        places.into_iter().any(|own| matches!(relation(own, place), Some(Relation::Same)))
    };
    let all = loads(session, usable).into_iter().filter_map(|load| {
        load.settled_w()?;
        if load.below_floor || !claimed((load.id.wiring, load.id.load_ohm)) {
            return None;
        }
        let sample = Sample::of(session, load.clean, &total(session, load.clean).ok()?);
        sample.end_v()?;
        let made = band(session, sample, VALUE_V);
        Some(CleanPower {
            watts: made.low_w,
            u_w: made.low_expanded_w,
            load: load.words(),
            load_ohm: load.id.load_ohm.get(),
            efficiency_percent: load.figures.efficiency.as_ref().map(|figure| figure.value),
        })
    });
    let mut powers: Vec<CleanPower> = all.collect();
    powers.sort_by(|a, b| b.watts.total_cmp(&a.watts));
    powers
}

/// An amplifier with its price in one currency.
#[derive(Debug, Clone, PartialEq)]
pub struct Buy {
    /// Purpose: only those of the same are comparable.
    pub purpose: Purpose,
    /// Outputs of its own.
    pub outputs: u32,
    /// Clean watts at [`VALUE_V`].
    pub watts: f64,
    /// Price, above nothing.
    pub price: f64,
}

impl Buy {
    /// Watts for a unit of money.
    #[must_use]
    pub fn value(&self) -> f64 {
        self.watts / self.price
    }

    /// Amplifiers of one kind are comparable: the purpose, and 1, 2 or 3, or 4 and more outputs.
    const fn kind(&self) -> (bool, u8) {
        let outputs = match self.outputs {
            0 | 1 => 1,
            2 | 3 => 2,
            _ => 4,
        };
        (matches!(self.purpose, Purpose::Subwoofer), outputs)
    }
}

/// Word for the money's worth.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ValueWord {
    /// Nine tenths of its kind give fewer watts for the money.
    Bargain,
    /// Seven tenths do.
    GoodValue,
    /// Three tenths do.
    Fair,
    /// A tenth does.
    Dear,
    /// Fewer do.
    VeryDear,
}

/// Least share of comparable ones that give fewer watts for the money, of each word.
const SHARES: [(f64, ValueWord); 4] =
    [(0.90, ValueWord::Bargain), (0.70, ValueWord::GoodValue), (0.30, ValueWord::Fair), (0.10, ValueWord::Dear)];

impl ValueWord {
    /// By the share of comparable ones that give fewer watts for the money.
    #[must_use]
    pub fn of_share(share: f64) -> Self {
        let reached = |least: f64| share >= least - 1e-9;
        SHARES.iter().find(|(least, _)| reached(*least)).map_or(Self::VeryDear, |(_, word)| *word)
    }

    /// As shown.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Bargain => "a bargain",
            Self::GoodValue => "good value",
            Self::Fair => "fair",
            Self::Dear => "dear",
            Self::VeryDear => "very dear",
        }
    }
}

/// Place of an amplifier among those of its kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ValueStanding {
    /// 1 gives most watts for the money.
    pub rank: usize,
    /// Amplifiers of its kind, itself among them.
    pub of: usize,
    /// Part of the others that give fewer watts for the money; nothing where it is alone.
    pub share: Option<f64>,
    /// The word; nothing under [`FEWEST`] comparable ones.
    pub word: Option<ValueWord>,
    /// "good value: third of 40 by watts for the money".
    pub says: String,
}

/// Standings of amplifiers among one another, in their order.
#[must_use]
pub fn standings(buys: &[Buy]) -> Vec<ValueStanding> {
    let mut kinds: HashMap<(bool, u8), Vec<f64>> = HashMap::new();
    for buy in buys {
        kinds.entry(buy.kind()).or_default().push(buy.value());
    }
    kinds.values_mut().for_each(|values| values.sort_by(f64::total_cmp));
    let standing = |buy: &Buy| {
        let values = kinds.get(&buy.kind()).map_or(&[][..], Vec::as_slice);
        let (value, of) = (buy.value(), values.len());
        let fewer = values.partition_point(|other| *other < value);
        let more = of - values.partition_point(|other| *other <= value);
        let share = (of > 1).then(|| fewer as f64 / (of - 1) as f64);
        let word = share.filter(|_| of >= FEWEST).map(ValueWord::of_share);
        let place =
            if of == 1 { "the only one of its kind".to_owned() } else { format!("{} of {of} by watts for the money", nth(more + 1)) };
        let says = word.map_or_else(|| place.clone(), |word| format!("{}: {place}", word.word()));
        ValueStanding { rank: more + 1, of, share, word, says }
    };
    buys.iter().map(standing).collect()
}

/// "first", "second", "third", then "4th".
fn nth(n: usize) -> String {
    let words = ["first", "second", "third"];
    if let Some(word) = n.checked_sub(1).and_then(|i| words.get(i)) {
        return (*word).to_owned();
    }
    let ending = match (n % 10, n % 100) {
        (_, 11..=13) => "th",
        (1, _) => "st",
        (2, _) => "nd",
        (3, _) => "rd",
        _ => "th",
    };
    format!("{n}{ending}")
}

/// A rate of exchange: on a day one unit of `currency` was worth `rate` units of the base.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Rate {
    /// Three letters, as in ISO 4217.
    pub currency: String,
    /// The day.
    #[schema(value_type = String, format = Date)]
    pub on: jiff::civil::Date,
    /// Units of the base for one of it.
    pub rate: f64,
}

/// What one unit of a currency is worth on a day: by the newest rate up to that day, else by the oldest after it. 1 of the base itself.
#[must_use]
pub fn rate_on(rates: &[Rate], base: &str, currency: &str, day: jiff::civil::Date) -> Option<f64> {
    if currency == base {
        return Some(1.0);
    }
    let own = || rates.iter().filter(|rate| rate.currency == currency);
    let before = own().filter(|rate| rate.on <= day).max_by_key(|rate| rate.on);
    before.or_else(|| own().min_by_key(|rate| rate.on)).map(|rate| rate.rate)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::assess::judge::judge;
    use crate::evidence::choose::usable;
    use crate::record::session::examples::mono_1100;

    fn buy(watts: f64, price: f64) -> Buy {
        Buy { purpose: Purpose::Subwoofer, outputs: 1, watts, price }
    }

    #[test]
    fn the_word_goes_by_the_share_that_gives_fewer_watts_for_the_money() {
        // Eleven of a kind, 100 W each: share k/10 of the others are dearer.
        let buys: Vec<Buy> = (1..=11).map(|n| buy(100.0, f64::from(n))).collect();
        let all = standings(&buys);
        let words: Vec<&str> = all.iter().map(|one| one.word.unwrap().word()).collect();
        assert_eq!(words[..4], ["a bargain", "a bargain", "good value", "good value"]);
        assert_eq!(words[4..], ["fair", "fair", "fair", "fair", "dear", "dear", "very dear"]);
        assert_eq!(all[2].says, "good value: third of 11 by watts for the money");
        assert_eq!((all[10].share, all[10].rank), (Some(0.0), 11));
    }

    #[test]
    fn few_comparable_ones_give_a_place_and_no_word() {
        let mut buys: Vec<Buy> = (1..=5).map(|n| buy(100.0, f64::from(n))).collect();
        buys.push(Buy { purpose: Purpose::FullRange, ..buy(1.0, 1.0) });
        buys.push(Buy { outputs: 4, ..buy(1.0, 1.0) });
        let all = standings(&buys);
        assert_eq!((all[2].word, all[2].says.as_str()), (None, "third of 5 by watts for the money"));
        assert_eq!((all[5].says.as_str(), all[6].share), ("the only one of its kind", None));
        // Two and three outputs are one kind, four and more another; two alike share a place.
        let pair = standings(&[Buy { outputs: 2, ..buy(10.0, 1.0) }, Buy { outputs: 3, ..buy(10.0, 1.0) }]);
        assert_eq!((pair[0].rank, pair[1].rank, pair[0].of), (1, 1, 2));
    }

    #[test]
    fn clean_power_is_brought_to_one_voltage_at_a_claimed_load() {
        let session = mono_1100();
        let checks = judge(&session).checks;
        let own = usable(&session, &checks);
        // 1068 W at 13.96 V, unregulated: 1068 · (14.4 / 13.96)² = 1136 W.
        let powers = clean_powers(&session, &own);
        let best = &powers[0];
        assert_eq!(
            powers.iter().map(|power| power.load_ohm).collect::<Vec<_>>(),
            [1.0, 2.0, 4.0],
            "each claimed load, the most watts first"
        );
        assert_eq!((best.watts.round(), best.load.as_str()), (1_136.0, "1\u{202f}Ω"));
        assert!((best.u_w / best.watts - 0.0229).abs() < 0.01, "{}", best.u_w);
        let mut claimed_less = session.clone();
        claimed_less.claims.retain(|claim| claim.load_ohm.is_none_or(|load| load.get() > 1.5));
        let own = usable(&claimed_less, &checks);
        assert_eq!(clean_powers(&claimed_less, &own)[0].load, "2\u{202f}Ω", "what was not claimed does not count");
    }

    #[test]
    fn rates_are_taken_by_their_days() {
        let rate = |on: &str, rate| Rate { currency: "EUR".into(), on: on.parse().unwrap(), rate };
        let rates = [rate("2025-01-01", 0.84), rate("2026-01-01", 0.87)];
        let on = |day: &str| rate_on(&rates, "GBP", "EUR", day.parse().unwrap());
        assert_eq!((on("2024-06-01"), on("2025-06-01"), on("2026-06-01")), (Some(0.84), Some(0.84), Some(0.87)));
        assert_eq!(rate_on(&rates, "GBP", "GBP", "2026-01-01".parse().unwrap()), Some(1.0));
        assert_eq!(rate_on(&rates, "GBP", "USD", "2026-01-01".parse().unwrap()), None);
    }
}
