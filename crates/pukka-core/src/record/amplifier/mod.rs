//! The device under test.

mod inside;
mod market;
mod photo;
mod record;
mod tour;

pub use inside::{Capacitors, Devices, Inside};
pub use market::{DatedPrice, PriceKind, Relation, RelationKind, is_currency};
pub use photo::{MarkShape, PhotoMark, PhotoWords};
pub use record::{
    Condition, Control, ControlKind, Loan, LoanEnd, LoanOutcome, MOST_TAGS, Size, State, Terminals, check_tag, controls_against,
    controls_left,
};
pub use tour::{PortLine, Tour};

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::{Amount, Amps, Kilograms, Ohms, PowerDecibels, Ratio, Volts};
use crate::kernel::wiring::Wiring;

/// Class of the output stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub enum Class {
    /// Class AB.
    AB,
    /// Class D.
    D,
    /// Class G or H: AB on rails that follow the signal.
    GH,
    /// Another, or unknown.
    #[serde(rename = "other")]
    Other,
}

impl Class {
    /// The efficiency that it does not pass: π/4 of a class B stage; of class D by rule of this bench.
    #[must_use]
    pub const fn ceiling(self) -> Option<f64> {
        match self {
            Self::AB => Some(0.785),
            Self::D => Some(0.95),
            Self::GH | Self::Other => None,
        }
    }

    /// "class AB".
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::AB => "class AB",
            Self::D => "class D",
            Self::GH => "class G/H",
            Self::Other => "class not known",
        }
    }
}

/// Purpose of the amplifier; it sets the tone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Purpose {
    /// Tested at 1 kHz.
    FullRange,
    /// Tested at 40 Hz.
    Subwoofer,
}

impl Purpose {
    /// The amplifier's own tone, hertz.
    #[must_use]
    pub const fn tone_hz(self) -> f64 {
        match self {
            Self::FullRange => 1_000.0,
            Self::Subwoofer => 40.0,
        }
    }
}

/// Whether the converter holds its rails as the supply sags.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SupplyType {
    /// Holds them.
    Regulated,
    /// Lets them follow the supply.
    Unregulated,
    /// Not known.
    Unknown,
}

/// Ownership of the amplifier, and what has to be disclosed about it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Provenance {
    /// Bought by the reviewer.
    Bought,
    /// Lent by a reader.
    Lent,
    /// Supplied by its maker.
    Supplied,
    /// The reviewer's own product.
    OwnProduct,
    /// Sold by the reviewer's shop.
    SoldByUs,
}

impl Provenance {
    /// Somebody else's.
    #[must_use]
    pub const fn is_borrowed(self) -> bool {
        matches!(self, Self::Lent | Self::Supplied)
    }

    /// A word or two beside the name.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Bought => "bought",
            Self::Lent => "on loan",
            Self::Supplied => "supplied by its maker",
            Self::OwnProduct => "our own product",
            Self::SoldByUs => "sold by us",
        }
    }

    /// The sentence an audience is owed.
    #[must_use]
    pub const fn disclosure(self) -> &'static str {
        match self {
            Self::Bought => "Bought for this review with our own money.",
            Self::Lent => "Lent by a reader; it goes back after the review.",
            Self::Supplied => "Supplied by its maker for this review.",
            Self::OwnProduct => "This is our own product.",
            Self::SoldByUs => "We sell this amplifier.",
        }
    }
}

/// Place of an output stage between its rails.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Topology {
    /// Half bridge.
    HalfBridge,
    /// Full bridge.
    FullBridge,
}

/// The lowest load the maker allows for one wiring.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Floor {
    /// For this wiring.
    pub wiring: Wiring,
    /// The lowest load.
    pub load_ohm: Ohms,
}

/// Cost.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Price {
    /// Amount.
    pub amount: Amount,
    /// Three letters, as in ISO 4217.
    pub currency: String,
    /// The day it cost that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub on: Option<jiff::civil::Date>,
}

/// The device under test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Amplifier {
    /// Maker.
    pub make: String,
    /// Model.
    pub model: String,
    /// Class of its output stage.
    pub class: Class,
    /// Purpose.
    pub purpose: Purpose,
    /// Whether its supply is regulated.
    pub supply_type: SupplyType,
    /// Number of channels.
    pub channels: u8,
    /// On-board supply fuses.
    #[serde(default, deserialize_with = "or_default")]
    pub fuses_a: Vec<Amps>,
    /// The external fuse its maker recommends.
    #[serde(default)]
    pub recommended_fuse_a: Option<Amps>,
    /// Fuses in the outputs: another thing, kept apart.
    #[serde(default, deserialize_with = "or_default")]
    pub output_fuses_a: Vec<Amps>,
    /// The most supply volts its maker allows.
    #[serde(default)]
    pub max_supply_v: Option<Volts>,
    /// Place of its output stage between its rails.
    #[serde(default)]
    pub topology: Option<Topology>,
    /// The lowest loads its maker allows.
    #[serde(default, deserialize_with = "or_default")]
    pub floors: Vec<Floor>,
    /// Cost.
    #[serde(default)]
    pub price: Option<Price>,
    /// Ownership.
    pub provenance: Provenance,
    /// Serial number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub serial: Option<String>,
    /// The year it was made.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub year: Option<u16>,
    /// Inputs.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub inputs: Vec<String>,
    /// Controls, with their ranges.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub controls: Vec<Control>,
    /// The largest conductors its terminals take.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub terminals: Option<Terminals>,
    /// Outer size.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size: Option<Size>,
    /// Weight.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weight_kg: Option<Kilograms>,
    /// Signal to noise, as its maker prints it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub signal_to_noise_db: Option<PowerDecibels>,
    /// Distortion as its maker prints it, apart from any claim.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub printed_thd_ratio: Option<Ratio>,
    /// Accessories that came with it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub accessories: Vec<String>,
    /// Accessories that should have come with it, and did not.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub accessories_missing: Vec<String>,
    /// Facts told while it is shown round.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tour: Option<Tour>,
    /// Points in favour of it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub likes: Vec<String>,
    /// Points to think about before buying it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub consider: Vec<String>,
    /// Other amplifiers it is kin to.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub relations: Vec<Relation>,
    /// Prices paid, listed and asked in shops.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub prices: Vec<DatedPrice>,
    /// In what state it came.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub condition: Option<Condition>,
    /// Lender, and the date when it goes back.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub loan: Option<Loan>,
    /// Findings with the lid off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inside: Option<Inside>,
    /// Notes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub notes: Option<String>,
    /// Words of one's own that the shelf can be filtered by.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// Put away: not on the shelf unless asked for, and counted all the same.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "std::ops::Not::not")]
    pub archived: bool,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Amplifier {
    /// Make and model.
    #[must_use]
    pub fn name(&self) -> String {
        format!("{} {}", self.make, self.model)
    }

    /// Sum of the fuses its supply current has to pass: on board, else the external one its maker recommends.
    #[must_use]
    pub fn supply_fuse_a(&self) -> Option<f64> {
        let on_board: f64 = self.fuses_a.iter().map(|fuse| fuse.get()).sum();
        if on_board > 0.0 { Some(on_board) } else { self.recommended_fuse_a.map(Amps::get) }
    }

    /// "3 × 35 A", "25 + 30 A", or nothing.
    #[must_use]
    pub fn fuse_words(&self) -> Option<String> {
        let fuses: Vec<f64> = self.fuses_a.iter().map(|fuse| fuse.get()).collect();
        match fuses.as_slice() {
            [] => self.recommended_fuse_a.map(|fuse| format!("{} A outside", fuse.get())),
            [one] => Some(format!("{one} A")),
            [first, rest @ ..] if rest.iter().all(|fuse| fuse == first) => Some(format!("{} × {first} A", fuses.len())),
            _ => Some(format!("{} A", fuses.iter().map(f64::to_string).collect::<Vec<_>>().join(" + "))),
        }
    }

    /// The line under the name: whose, class, fuses.
    #[must_use]
    pub fn subtitle(&self) -> String {
        let mut parts = vec![self.provenance.words().to_owned(), self.class.words().to_owned()];
        parts.push(self.fuse_words().map_or("no fuses noted".to_owned(), |fuses| format!("fused {fuses}")));
        parts.join(" · ")
    }

    /// Problems with the record, beyond what its types refuse.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "make", &self.make, true, 80);
        check_text(&mut problems, "model", &self.model, true, 80);
        if !(1..=16).contains(&self.channels) {
            problems.push(Problem::new("channels", "An amplifier has 1 to 16 channels."));
        }
        for (path, fuses) in [("fuses_a", &self.fuses_a), ("output_fuses_a", &self.output_fuses_a)] {
            if fuses.len() > 16 {
                problems.push(Problem::new(path, "More than 16 fuses."));
            }
            for (i, fuse) in fuses.iter().enumerate() {
                check_fuse(&mut problems, &format!("{path}[{i}]"), *fuse);
            }
        }
        if let Some(fuse) = self.recommended_fuse_a {
            check_fuse(&mut problems, "recommended_fuse_a", fuse);
        }
        if let Some(volts) = self.max_supply_v
            && !(6.0..=60.0).contains(&volts.get())
        {
            problems.push(Problem::new("max_supply_v", "A maximum supply voltage is between 6 and 60 V."));
        }
        for (i, floor) in self.floors.iter().enumerate() {
            floor.wiring.check(self.channels, &format!("floors[{i}].wiring"), &mut problems);
            check_load(&mut problems, &format!("floors[{i}].load_ohm"), floor.load_ohm);
            if self.floors[..i].iter().any(|other| other.wiring == floor.wiring) {
                problems.push(Problem::new(format!("floors[{i}].wiring"), "There is a floor for this wiring already."));
            }
        }
        if let Some(price) = &self.price
            && !is_currency(&price.currency)
        {
            problems.push(Problem::new("price.currency", "A currency is three capital letters: GBP, EUR."));
        }
        self.check_record(&mut problems);
        problems
    }
}

fn check_fuse(problems: &mut Vec<Problem>, path: &str, fuse: Amps) {
    if !(0.5..=1_000.0).contains(&fuse.get()) {
        problems.push(Problem::new(path, format!("{} A is not a fuse: 0.5 to 1000 A.", fuse.get())));
    }
}

/// A load that a bench can have: 0.05 to 64 Ω.
pub fn check_load(problems: &mut Vec<Problem>, path: &str, load: Ohms) {
    if !(0.05..=64.0).contains(&load.get()) {
        problems.push(Problem::new(path, format!("{} Ω is not a load for an amplifier's output: 0.05 to 64 Ω.", load.get())));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn fuses_on_board_count_before_the_one_outside() {
        let mut amplifier = mono_1100().amplifier;
        amplifier.recommended_fuse_a = Some(Amps::new(150.0).unwrap());
        assert_eq!(amplifier.supply_fuse_a(), Some(105.0));
        assert_eq!(amplifier.fuse_words().as_deref(), Some("3 × 35 A"));
        amplifier.fuses_a = vec![Amps::new(25.0).unwrap(), Amps::new(30.0).unwrap()];
        assert_eq!(amplifier.fuse_words().as_deref(), Some("25 + 30 A"));
        amplifier.fuses_a.clear();
        assert_eq!(amplifier.supply_fuse_a(), Some(150.0));
        assert_eq!(amplifier.subtitle(), "on loan · class D · fused 150 A outside");
    }

    #[test]
    fn nonsense_is_named_where_it_stands() {
        let mut amplifier = mono_1100().amplifier;
        assert!(amplifier.check().is_empty());
        amplifier.make = String::new();
        amplifier.channels = 0;
        amplifier.fuses_a[1] = Amps::new(0.0).unwrap();
        amplifier.floors.push(amplifier.floors[0]);
        amplifier.price.as_mut().unwrap().currency = "pounds".into();
        let paths: Vec<_> = amplifier.check().into_iter().map(|p| p.path).collect();
        assert_eq!(paths, ["make", "channels", "fuses_a[1]", "floors[1].wiring", "price.currency"]);
    }
}
