//! What it costs, and what it is like: prices with their days, and other amplifiers it is kin to.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::Amount;

/// Kind of price.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PriceKind {
    /// Paid.
    Paid,
    /// The maker's.
    List,
    /// Price that shops ask.
    Street,
}

/// A price on a day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DatedPrice {
    /// Format.
    pub kind: PriceKind,
    /// Amount.
    pub amount: Amount,
    /// Three letters, as in ISO 4217.
    pub currency: String,
    /// The day it cost that.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = Date)]
    pub on: Option<jiff::civil::Date>,
}

/// Kinship of another amplifier to this one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum RelationKind {
    /// The same under another name.
    LookAlike,
    /// Of the same line.
    Sister,
    /// The version before it.
    Earlier,
}

/// Another amplifier that this one is kin to. Its figures are another's, and never mixed with ours.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Relation {
    /// Kinship.
    pub kind: RelationKind,
    /// Name.
    pub name: String,
    /// Id on this shelf, when it stands there.
    #[serde(default)]
    pub amplifier_id: Option<String>,
    /// Figures of another's test, in words.
    #[serde(default)]
    pub figures: Option<String>,
    /// Source of the figures.
    #[serde(default)]
    pub source: Option<String>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// Three capital letters.
#[must_use]
pub fn is_currency(text: &str) -> bool {
    text.len() == 3 && text.bytes().all(|b| b.is_ascii_uppercase())
}

pub(super) fn check_market(problems: &mut Vec<Problem>, prices: &[DatedPrice], relations: &[Relation]) {
    for (i, price) in prices.iter().enumerate() {
        if !is_currency(&price.currency) {
            problems.push(Problem::new(format!("prices[{i}].currency"), "A currency is three capital letters: GBP, EUR."));
        }
    }
    for (i, relation) in relations.iter().enumerate() {
        check_text(problems, &format!("relations[{i}].name"), &relation.name, true, 160);
        for (name, text) in [("amplifier_id", &relation.amplifier_id), ("figures", &relation.figures), ("source", &relation.source)] {
            check_text(problems, &format!("relations[{i}].{name}"), text.as_deref().unwrap_or(""), false, 1_000);
        }
        if relation.figures.is_some() && relation.source.as_deref().is_none_or(|source| source.trim().is_empty()) {
            problems.push(Problem::new(format!("relations[{i}].source"), "Say whose figures these are."));
        }
    }
}
