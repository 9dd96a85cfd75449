//! What a text says about the amplifier beside its watts: fuses, size, weight, the supply it takes, what it is said to distort.

use std::ops::Range;

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::kernel::units::{Amps, Kilograms, Millimetres, Ohms, PowerDecibels, Ratio, Volts};
use crate::kernel::wiring::Wiring;
use crate::record::amplifier::{Amplifier, Floor, Size};

use super::figures::number;
use super::words::{self, patterns};

patterns! {
    /// `fuse: 2 x 30 a`, `fuses 30 a x 2`, `fuse 40 a`.
    FUSES = r"\b(?:[a-z-]+\s+){0,2}?(?:fuses?|fusing|fuse rating|sicherung\w*|fusibles?|fusivel|fusiveis)\b[^\d;,.]{0,24}?(?:(\d{1,2})\s*x\s*)?(\d{1,3}(?:\.\d)?)\s*-?\s*(?:a|amps?|amperes?|ampere)\b(?:\s*x\s*(\d{1,2})\b)?";
    /// `2 x 30 a fuses`, `40 amp fuse`.
    FUSES_BEHIND = r"\b(?:(\d{1,2})\s*x\s*)?(\d{1,3}(?:\.\d)?)\s*-?\s*(?:a|amps?|amperes?|ampere)\s*(?:x\s*(\d{1,2})\s*)?(?:atc\s*|ato\s*|blade\s*|mini\s*)?(?:fuses?|sicherung\w*|fusibles?|fusivel|fusiveis)\b";
    /// A fuse that is not on the board.
    OUTSIDE = r"\b(?:external|recommended|in-?line|inline|battery|main|power wire|extern\w*|empfohlen\w*|recomendado|externo)\b";
    /// A fuse in the outputs.
    OF_OUTPUTS = r"\b(?:output|speaker|ausgangs?\w*|salida|saida)\b";
    /// Length, width and height.
    SIZE = r#"\b(\d+(?:\.\d+)?)\s*(mm|cm|in(?:ch(?:es)?)?\.?|"|zoll|pulgadas|polegadas)?\s*(?:\(?[lwhdbt]\)?)?\s*x\s*(\d+(?:\.\d+)?)\s*(?:mm|cm|in(?:ch(?:es)?)?\.?|"|zoll)?\s*(?:\(?[lwhdbt]\)?)?\s*x\s*(\d+(?:\.\d+)?)\s*(?:\(?[lwhdbt]\)?)?\s*(mm|cm|in(?:ch(?:es)?)?\b\.?|"|zoll|pulgadas|polegadas)"#;
    /// A weight.
    WEIGHT = r"(?:\b(?:net\s*)?(?:weight|weighs|gewicht|peso)\b\D{0,12})?\b(\d+(?:\.\d+)?)\s*(kg|kilos?|g|grams?|lbs?|pounds?|libras?)\b\.?";
    /// A supply range.
    SUPPLY_RANGE = r"\b(?:(?:operating|supply|input|battery|working|power|max\w*)\s*)*(?:voltage|supply|battery|betriebsspannung|versorgungsspannung|spannung|voltaje|tension|tensao|alimentacion|alimentacao)\b[^\d;]{0,30}?(\d+(?:\.\d+)?)\s*(?:vdc|v)?\s*(?:-|–|to|bis|a|ate|hasta|\.\.\.?)\s*(\d+(?:\.\d+)?)\s*(?:vdc|volts?|v)\b";
    /// Most that it takes.
    SUPPLY_MOST = r"\b(?:max\w*\.?\s*(?:\w+\s+)?(?:supply|voltage|battery|betriebsspannung|spannung|tension|tensao|voltaje)|(?:supply|voltage)\s*\(?max\w*\)?)\b[^\d;]{0,20}?(\d+(?:\.\d+)?)\s*(?:vdc|volts?|v)\b";
    /// Noise, as far as it stands below the signal.
    NOISE = r"\b(?:s/n(?:\s*ratio)?|snr|signal[- ]?(?:to[- ]?)?noise(?:[- ]ratio)?|gerauschspannungsabstand|signal-?rausch\w*|storabstand|relacion senal\W*ruido|relacao sinal\W*ruido|senal/ruido|sinal/ruido)\b[^\d;]{0,20}?(\d+(?:\.\d+)?)\s*db(?:\s*\(?a\)?)?";
    /// Distortion stated apart from any claim.
    DISTORTION = r"\b(?:thd(?:\s*\+\s*n)?|total harmonic distortion|distortion|klirrfaktor|distorsion(?: armonica)?|distorcao(?: harmonica)?|dht)\b[^\d;,]{0,20}?(\d+(?:\.\d+)?)\s*%";
    /// The lowest load it allows.
    LEAST_LOAD = r"\b(?:(?:bridged?|stereo|mono|gebruckt|puente|ponte)\s+)?(?:stable\s*(?:down\s*)?(?:to|at|into)?|min(?:imum)?\.?\s*(?:speaker\s*)?(?:load|impedance)|mindestimpedanz|minimale?\s*(?:last|impedanz)|impedancia minima|carga minima|stabil\s*(?:bis|an)?|estable\s*(?:a|hasta)?|estavel\s*(?:a|em|ate)?)\b[^\d;,]{0,24}?(\d+(?:\.\d+)?)\s*-?\s*(?:ohms?|ohmios?)\b(?:\s*\(?(?:bridged?|stereo|mono|gebruckt|puente|ponte)\b)?";
    /// `1 ohm stable`.
    LEAST_LOAD_BEHIND = r"\b(\d+(?:\.\d+)?)\s*-?\s*(?:ohms?|ohmios?)\s*-?\s*(?:stable|stabil|estable|estavel)\b(?:\s*(?:in\s*)?\(?(?:bridged?|stereo|mono)\b)?";
    /// Output watts on the line: its distortion is the claim's limit then.
    WATTS_THERE = r"\d\s*(?:kw|w)\b|\d\s*x\s*\d";
}

/// A thing that a text says of the amplifier itself.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "field", content = "value", rename_all = "snake_case")]
pub enum Fact {
    /// On-board supply fuses.
    FusesA(Vec<Amps>),
    /// The fuse outside that its maker recommends.
    RecommendedFuseA(Amps),
    /// The most supply volts.
    MaxSupplyV(Volts),
    /// Outer size.
    Size(Size),
    /// Weight.
    WeightKg(Kilograms),
    /// Signal to noise, as printed.
    SignalToNoiseDb(PowerDecibels),
    /// Distortion as printed, apart from any claim.
    PrintedThdRatio(Ratio),
    /// The lowest load for a wiring.
    Floor(Floor),
}

/// A fact that was read, with its words.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PastedFact {
    /// Kind and amount.
    pub fact: Fact,
    /// In a few words: "fuses 2 × 30 A".
    pub words: String,
    /// Value in the record, when it is another.
    #[serde(default)]
    pub now: Option<String>,
    /// The text it came from.
    pub text: String,
}

impl Fact {
    /// "fuses 2 × 30 A".
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Self::FusesA(fuses) => format!("fuses on board {}", fuse_words(fuses)),
            Self::RecommendedFuseA(fuse) => format!("fuse outside, recommended {}", unit(fuse.get(), "A")),
            Self::MaxSupplyV(volts) => format!("supply at most {}", unit(volts.get(), "V")),
            Self::Size(size) => {
                format!("size {} × {} × {}", figure(size.length_mm.get()), figure(size.width_mm.get()), unit(size.height_mm.get(), "mm"))
            }
            Self::WeightKg(weight) => format!("weight {}", unit(weight.get(), "kg")),
            Self::SignalToNoiseDb(noise) => format!("signal to noise {}", unit(noise.get(), "dB")),
            Self::PrintedThdRatio(thd) => format!("distortion as printed {}", unit((thd.get() * 1e7).round() / 1e5, "%")),
            Self::Floor(floor) => format!("lowest load {}, {}", unit(floor.load_ohm.get(), "Ω"), floor.wiring.words()),
        }
    }

    /// Value in the record of the same thing.
    fn recorded(&self, amplifier: &Amplifier) -> Option<Self> {
        match self {
            Self::FusesA(_) => (!amplifier.fuses_a.is_empty()).then(|| Self::FusesA(amplifier.fuses_a.clone())),
            Self::RecommendedFuseA(_) => amplifier.recommended_fuse_a.map(Self::RecommendedFuseA),
            Self::MaxSupplyV(_) => amplifier.max_supply_v.map(Self::MaxSupplyV),
            Self::Size(_) => amplifier.size.map(Self::Size),
            Self::WeightKg(_) => amplifier.weight_kg.map(Self::WeightKg),
            Self::SignalToNoiseDb(_) => amplifier.signal_to_noise_db.map(Self::SignalToNoiseDb),
            Self::PrintedThdRatio(_) => amplifier.printed_thd_ratio.map(Self::PrintedThdRatio),
            Self::Floor(floor) => amplifier.floors.iter().find(|other| other.wiring == floor.wiring).copied().map(Self::Floor),
        }
    }

    /// Puts it into the record.
    pub fn put(&self, amplifier: &mut Amplifier) {
        match self {
            Self::FusesA(fuses) => amplifier.fuses_a.clone_from(fuses),
            Self::RecommendedFuseA(fuse) => amplifier.recommended_fuse_a = Some(*fuse),
            Self::MaxSupplyV(volts) => amplifier.max_supply_v = Some(*volts),
            Self::Size(size) => amplifier.size = Some(*size),
            Self::WeightKg(weight) => amplifier.weight_kg = Some(*weight),
            Self::SignalToNoiseDb(noise) => amplifier.signal_to_noise_db = Some(*noise),
            Self::PrintedThdRatio(thd) => amplifier.printed_thd_ratio = Some(*thd),
            Self::Floor(floor) => {
                amplifier.floors.retain(|other| other.wiring != floor.wiring);
                amplifier.floors.push(*floor);
            }
        }
    }
}

impl PastedFact {
    /// Holds it against the record: false when the record says the same already.
    pub fn against(&mut self, amplifier: &Amplifier) -> bool {
        let recorded = self.fact.recorded(amplifier);
        let news = recorded.as_ref() != Some(&self.fact);
        self.now = recorded.filter(|_| news).map(|fact| fact.words());
        news
    }
}

fn figure(value: f64) -> String {
    format::as_read(value)
}

fn unit(value: f64, unit: &str) -> String {
    format::with_unit(&figure(value), unit)
}

fn fuse_words(fuses: &[Amps]) -> String {
    match fuses {
        [first, rest @ ..] if !rest.is_empty() && rest.iter().all(|fuse| fuse == first) => {
            format!("{} × {}", fuses.len(), unit(first.get(), "A"))
        }
        _ => format!("{} A", fuses.iter().map(|fuse| figure(fuse.get())).collect::<Vec<_>>().join(" + ")),
    }
}

/// Takes the facts out of a plain line: where they stood only blanks are left.
pub fn take(text: &mut String, channels: Option<u8>) -> Vec<Fact> {
    let mut found = Vec::new();
    // Whether the distortion is a claim's limit shows in the line as it came.
    let of_a_claim = words::WATTS.is_match(text) || (WATTS_THERE.is_match(text) && words::OHMS.is_match(text));
    for pattern in [&FUSES, &FUSES_BEHIND] {
        let mut blank = Vec::new();
        for hit in pattern.captures_iter(text) {
            let Some(fact) = fuses(&hit, &text[..place(&hit).end]) else { continue };
            found.push(fact);
            blank.push(place(&hit));
        }
        wipe(text, &blank);
    }
    take_one(text, &SIZE, &mut found, size);
    take_one(text, &NOISE, &mut found, |hit| PowerDecibels::new(number(&hit[1])?).ok().map(Fact::SignalToNoiseDb));
    take_one(text, &SUPPLY_RANGE, &mut found, |hit| most_supply(number(&hit[2])?));
    take_one(text, &SUPPLY_MOST, &mut found, |hit| most_supply(number(&hit[1])?));
    for pattern in [&LEAST_LOAD, &LEAST_LOAD_BEHIND] {
        take_one(text, pattern, &mut found, |hit| least_load(hit, channels));
    }
    take_one(text, &WEIGHT, &mut found, weight);
    if !of_a_claim {
        take_one(text, &DISTORTION, &mut found, |hit| Ratio::new((number(&hit[1])? * 1e7).round() / 1e9).ok().map(Fact::PrintedThdRatio));
    }
    found
}

fn place(hit: &regex::Captures) -> Range<usize> {
    hit.get(0).map_or(0..0, |whole| whole.range())
}

fn wipe(text: &mut String, places: &[Range<usize>]) {
    for place in places {
        text.replace_range(place.clone(), &" ".repeat(place.len()));
    }
}

fn take_one(text: &mut String, pattern: &regex::Regex, found: &mut Vec<Fact>, fact: impl Fn(&regex::Captures) -> Option<Fact>) {
    let taken = pattern.captures(text).and_then(|hit| Some((place(&hit), fact(&hit)?)));
    if let Some((place, fact)) = taken {
        found.push(fact);
        wipe(text, &[place]);
    }
}

fn fuses(hit: &regex::Captures, before: &str) -> Option<Fact> {
    let whole = &hit[0];
    if OF_OUTPUTS.is_match(whole) {
        return None;
    }
    let count = [1, 3].iter().find_map(|n| hit.get(*n)).and_then(|n| n.as_str().parse::<usize>().ok()).unwrap_or(1);
    let amps = Amps::new(number(&hit[2])?).ok().filter(|amps| (0.5..=1_000.0).contains(&amps.get()))?;
    if !(1..=16).contains(&count) {
        return None;
    }
    let near: String = before.chars().rev().take(whole.chars().count() + 14).collect::<Vec<_>>().into_iter().rev().collect();
    Some(if OUTSIDE.is_match(&near) && count == 1 { Fact::RecommendedFuseA(amps) } else { Fact::FusesA(vec![amps; count]) })
}

fn size(hit: &regex::Captures) -> Option<Fact> {
    let scale = match &hit[5] {
        "mm" => 1.0,
        "cm" => 10.0,
        _ => 25.4,
    };
    let side = |n: usize| Millimetres::new(((number(&hit[n])? * scale) * 10.0).round() / 10.0).ok();
    Some(Fact::Size(Size { length_mm: side(1)?, width_mm: side(3)?, height_mm: side(4)? }))
}

fn weight(hit: &regex::Captures) -> Option<Fact> {
    let grams = match &hit[2] {
        unit if unit.starts_with("kg") || unit.starts_with("kilo") => 1_000.0,
        unit if unit.starts_with("lb") || unit.starts_with("pound") || unit.starts_with("libra") => 453.592_37,
        _ => 1.0,
    };
    let kilograms = (number(&hit[1])? * grams).round() / 1_000.0;
    (kilograms >= 0.05).then(|| Kilograms::new(kilograms).ok()).flatten().map(Fact::WeightKg)
}

fn most_supply(volts: f64) -> Option<Fact> {
    (9.0..=60.0).contains(&volts).then(|| Volts::new(volts).ok()).flatten().map(Fact::MaxSupplyV)
}

fn least_load(hit: &regex::Captures, channels: Option<u8>) -> Option<Fact> {
    let load_ohm = Ohms::new(number(&hit[1])?).ok().filter(|ohm| (0.1..=16.0).contains(&ohm.get()))?;
    let several = channels.filter(|n| *n > 1);
    let wiring = match several {
        Some(n) if words::BRIDGED.is_match(&hit[0]) || words::MONO.is_match(&hit[0]) => Wiring::Bridged { pairs: n / 2 },
        Some(driven) => Wiring::Channels { driven },
        None => Wiring::Mono,
    };
    Some(Fact::Floor(Floor { wiring, load_ohm }))
}
