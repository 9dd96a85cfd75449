//! Amplifiers side by side at one voltage, and what each is worth for its money.

use axum::Json;
use axum::extract::State as Ask;
use axum::response::Response;
use jiff::civil::Date;
use pukka_core::kernel::problem::Problem;
use pukka_core::record::amplifier::is_currency;
use pukka_core::record::claims::USUAL_SUPPLY_V;
use pukka_core::report::compare::{Comparison, Contender, MOST, Per, compare};
use pukka_core::report::value::Rate;
use pukka_store::{Author, WriteTx, amplifiers, money};
use serde::{Deserialize, Serialize};

use super::answer::revised;
use super::body::{Body, sound};
use super::path::{Path, Query};
use super::publish::{drawn, signature, style};
use super::shelf::{found_words, words_of};
use super::writing::Writing;
use super::{ApiError, State};
use crate::cards::{Shape, Theme, compare_card};
use crate::worth::{Wanted, Worth, worth};

/// What to put side by side.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct CompareAsked {
    /// Ids of amplifiers, separated by commas: 8 at the most.
    ids: String,
    /// Supply voltage that powers are brought to: 8 to 18, 14.4 when left out.
    #[serde(default)]
    #[param(minimum = 8, maximum = 18)]
    volts: Option<f64>,
    /// Power of all outputs, or of one.
    #[serde(default)]
    #[param(inline)]
    per: Per,
}

/// A supply voltage that powers can be brought to.
pub fn volts_of(volts: f64, problems: &mut Vec<Problem>) -> f64 {
    if !(8.0..=18.0).contains(&volts) {
        problems.push(Problem::new("volts", "Between 8 and 18 V."));
    }
    volts
}

/// Amplifiers side by side at one supply voltage, with a sentence for each load that says whether a difference is outside both ±.
#[utoipa::path(get, operation_id = "getComparison", path = "/comparison", params(CompareAsked), responses((status = 200, body = Comparison)))]
pub async fn comparison(Ask(state): Ask<State>, Query(asked): Query<CompareAsked>) -> Result<Json<Comparison>, ApiError> {
    made(&state, asked).await.map(Json)
}

async fn made(state: &State, asked: CompareAsked) -> Result<Comparison, ApiError> {
    let mut ids: Vec<String> = asked.ids.split(',').map(str::trim).filter(|id| !id.is_empty()).map(str::to_owned).collect();
    let mut seen = std::collections::HashSet::new();
    ids.retain(|id| seen.insert(id.clone()));
    let mut problems = Vec::new();
    let volts = volts_of(asked.volts.unwrap_or(USUAL_SUPPLY_V), &mut problems);
    if ids.len() > MOST {
        problems.push(Problem::new("ids", format!("{MOST} amplifiers stand side by side at the most, not {}.", ids.len())));
    }
    sound(problems)?;
    let wanted = ids.clone();
    let find = move |store: &pukka_store::Store| {
        store.read(|tx| wanted.iter().map(|id| Ok(amplifiers::get(tx, id)?.session_id)).collect::<Result<Vec<_>, _>>())
    };
    let mut rows = Vec::new();
    for session_id in state.records(find).await? {
        rows.push(super::bench::session(state, &session_id).await?);
    }
    let made = state.compute(move || {
        let all: Vec<Contender> = ids
            .iter()
            .zip(&rows)
            .map(|(id, row)| Contender { id, of: None, session: &row.session, checks: row.checks(), overall: row.verdict().overall })
            .collect();
        compare(&all, volts, asked.per)
    });
    made.await
}

/// What to put side by side on a card, and its looks.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct CompareCardAsked {
    /// Ids of amplifiers, separated by commas: 8 at the most.
    ids: String,
    /// Supply voltage that powers are brought to: 8 to 18, 14.4 when left out.
    #[serde(default)]
    #[param(minimum = 8, maximum = 18)]
    volts: Option<f64>,
    /// Power of all outputs, or of one.
    #[serde(default)]
    #[param(inline)]
    per: Per,
    /// Shape.
    #[serde(default)]
    #[param(inline)]
    shape: Shape,
    /// Theme.
    #[serde(default)]
    #[param(inline)]
    theme: Theme,
    /// Length of the shorter side, pixels: 1080 or 2160; 1080 when left out.
    #[serde(default)]
    #[param(minimum = 1080, maximum = 2160)]
    lines: Option<u32>,
}

/// Amplifiers side by side as a card: `compare.svg` or `compare.png`.
#[utoipa::path(get, operation_id = "getComparisonCard", path = "/comparison/cards/{file}", params(("file" = String, Path), CompareCardAsked),
    responses((status = 200, content((Vec<u8> = "image/png"), (String = "image/svg+xml")))))]
pub async fn card(Ask(state): Ask<State>, Path(file): Path<String>, Query(asked): Query<CompareCardAsked>) -> Result<Response, ApiError> {
    let CompareCardAsked { ids, volts, per, shape, theme, lines } = asked;
    let style = style(shape, theme, lines)?;
    let by = signature(&state).await?;
    let comparison = made(&state, CompareAsked { ids, volts, per }).await?;
    let drawing = state.compute(move || {
        let (name, ending) = file.rsplit_once('.').unwrap_or((file.as_str(), ""));
        let card = compare_card(&comparison, &by, style).filter(|card| card.name == name);
        drawn(&card.ok_or_else(|| ApiError::not_found("card", &file))?, ending, &file)
    });
    drawing.await?
}

/// What is looked for. Several values of one kind are separated by commas; any of them is found.
#[derive(Debug, Clone, Default, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct WorthAsked {
    /// Words that all stand in the name, the state or what is said under the name.
    #[serde(default)]
    #[param(inline)]
    find: Option<String>,
    /// Classes: `AB`, `D`, `GH`, `other`.
    #[serde(default)]
    #[param(inline)]
    class: Option<String>,
    /// Purposes: `full-range`, `subwoofer`.
    #[serde(default)]
    #[param(inline)]
    purpose: Option<String>,
    /// Number of outputs.
    #[serde(default)]
    #[param(minimum = 1, maximum = 16)]
    outputs: Option<u32>,
    /// Nominal load, ohms: clean watts, and places among the others, are those at this claimed load; at the load with most of them when
    /// left out.
    #[serde(default)]
    #[param(minimum = 0.1, maximum = 64)]
    load: Option<f64>,
    /// First day of the newest run.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    tested_from: Option<Date>,
    /// Last day of the newest run.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    tested_until: Option<Date>,
    /// Rivals of a claim of so many watts: within a fifth.
    #[serde(default)]
    #[param(minimum = 1)]
    claim_near: Option<f64>,
    /// Lowest price, in the base currency.
    #[serde(default)]
    #[param(minimum = 0)]
    price_least: Option<f64>,
    /// Highest price, in the base currency.
    #[serde(default)]
    #[param(minimum = 0)]
    price_most: Option<f64>,
    /// Day whose rates bring prices to the base; today when left out.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    on: Option<Date>,
}

impl WorthAsked {
    fn wanted(&self) -> Result<Wanted, ApiError> {
        let mut problems = Vec::new();
        let wanted = Wanted {
            words: found_words(self.find.as_ref(), &mut problems),
            classes: words_of("class", self.class.as_ref(), &mut problems),
            purposes: words_of("purpose", self.purpose.as_ref(), &mut problems),
            outputs: self.outputs,
            tested_from: self.tested_from,
            tested_until: self.tested_until,
            claim_near_w: self.claim_near,
            price_least: self.price_least,
            price_most: self.price_most,
        };
        if self.load.is_some_and(|load| !(0.1..=64.0).contains(&load)) {
            problems.push(Problem::new("load", "Between 0.1 and 64 Ω."));
        }
        if self.claim_near.is_some_and(|near| !(1.0..=1e6).contains(&near)) {
            problems.push(Problem::new("claim_near", "Between 1 W and 1 MW."));
        }
        sound(problems).map(|()| wanted)
    }
}

/// Every tested amplifier with its clean watts at 14.4 V against its price, and its place among those of its kind.
#[utoipa::path(get, operation_id = "getWorth", path = "/worth", params(WorthAsked), responses((status = 200, body = Worth)))]
pub async fn get_worth(Ask(state): Ask<State>, Query(asked): Query<WorthAsked>) -> Result<Json<Worth>, ApiError> {
    let wanted = asked.wanted()?;
    let on = asked.on.unwrap_or_else(|| jiff::tz::TimeZone::UTC.to_datetime(state.clock.now()).date());
    let load = asked.load;
    let (rows, money) = state.records(move |store| store.read(|tx| Ok((amplifiers::buys(tx, load)?, money::get(tx)?)))).await?;
    Ok(Json(state.compute(move || worth(rows, &money, &wanted, on)).await?))
}

/// Rates of exchange.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct MoneyView {
    /// Revision; 0 while none were ever given.
    pub revision: i64,
    /// Currency that all prices are brought to.
    pub base: String,
    /// Rates, each with its day.
    pub rates: Vec<Rate>,
}

/// Rates to keep.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MoneyToKeep {
    /// Currency that all prices are brought to: three capital letters.
    pub base: String,
    /// Rates, each with its day.
    pub rates: Vec<Rate>,
}

const MOST_RATES: usize = 1_000;

impl MoneyToKeep {
    fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        let letters = "A currency is three capital letters: GBP, EUR.";
        if !is_currency(&self.base) {
            problems.push(Problem::new("base", letters));
        }
        if self.rates.len() > MOST_RATES {
            problems.push(Problem::new("rates", format!("More than {MOST_RATES} rates.")));
        }
        for (i, rate) in self.rates.iter().enumerate() {
            if !is_currency(&rate.currency) {
                problems.push(Problem::new(format!("rates[{i}].currency"), letters));
            } else if rate.currency == self.base {
                problems.push(Problem::new(format!("rates[{i}].currency"), "The base needs no rate: one is one."));
            }
            if !(rate.rate.is_finite() && rate.rate > 0.0) {
                problems.push(Problem::new(format!("rates[{i}].rate"), "More than 0: units of the base for one of it."));
            }
        }
        problems
    }
}

/// The rates of exchange that are kept. Nothing is fetched.
#[utoipa::path(get, operation_id = "getMoney", path = "/money", responses((status = 200, body = MoneyView)))]
pub async fn get_money(Ask(state): Ask<State>) -> Result<Response, ApiError> {
    let money::MoneyRow { revision, base, rates } = state.records(|store| store.read(money::get)).await?;
    Ok(revised(revision, MoneyView { revision, base, rates }))
}

/// Keeps rates of exchange in place of those before.
#[utoipa::path(put, operation_id = "setMoney", path = "/money", request_body = MoneyToKeep, responses((status = 200, body = MoneyView)))]
pub async fn set_money(Ask(state): Ask<State>, writing: Writing, body: Body<MoneyToKeep>) -> Result<Response, ApiError> {
    sound(body.value.check())?;
    let (author, revision, MoneyToKeep { base, rates }) = (writing.author(&body.raw), writing.revision()?, body.value);
    let work = move |tx: &WriteTx, author: &Author| money::set(tx, author, revision, &base, &rates).map(|row| row.revision);
    state.once(author, work).await?;
    get_money(Ask(state)).await
}
