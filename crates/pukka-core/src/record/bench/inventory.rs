//! Loads from an inventory: what series and parallel of a few resistors make, what each of them takes, and the limit of the set.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::kernel::units::{Ohms, SLACK};
use crate::kernel::wiring::{Wiring, same_load};
use crate::kernel::working::{Figure, Working, source};
use crate::record::bench::network::{self, Catalogue, Construction, Network, Reach};
use crate::record::bench::{Bench, LoadResistor};

/// Number of builds listed by nearness, and by fewest parts.
const LISTED: usize = 12;
const SIMPLEST: usize = 4;
/// Below this, leads and contacts count.
const FOUR_WIRES_OHM: f64 = 1.0;

/// Resistors joined in series or in parallel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub enum Tree {
    /// One, by its kind's place in the inventory.
    Resistor(usize),
    /// An after another.
    Series(Vec<Tree>),
    /// Side by side.
    Parallel(Vec<Tree>),
    /// A step of a load box, by its ohms.
    Step(f64),
}

/// A resistor's part in a build.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Share {
    /// Kind's place in the inventory, from 0.
    pub kind: usize,
    /// As it is called: "8 Ω".
    pub label: String,
    /// Number of resistors of the build that take this share each.
    pub count: usize,
    /// Part of the output's power in each of them.
    pub ratio: Figure,
}

/// A load that can be made, for each output alike.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Build {
    /// Ohms at the terminals.
    pub ohm: Figure,
    /// Distance from the load wanted, of it.
    pub off: Figure,
    /// Resistors for each output.
    pub parts: usize,
    /// Way of joining them, in words.
    pub words: String,
    /// Each resistor's share of an output's power.
    pub shares: Vec<Share>,
    /// The most an output may put into it continuously; nothing when a rating is not known.
    pub continuous_w: Option<Figure>,
    /// The most an output may put into it for ten seconds.
    pub ten_second_w: Option<Figure>,
    /// Way of joining them, for drawing.
    #[schema(ignore)]
    pub tree: Tree,
}

/// Loads that an inventory makes for a wanted load.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoadChoices {
    /// The load wanted, ohms.
    pub wanted_ohm: f64,
    /// Outputs that all get one at once.
    pub outputs: u8,
    /// Whether it can be made: within 2 %, by the resistors' true or by their nominal ohms.
    pub made: bool,
    /// The ones of the fewest parts that count as it.
    pub simplest: Vec<Build>,
    /// The nearest first; of equally near ones the one with fewest parts.
    pub builds: Vec<Build>,
    /// The nearest below it, where it cannot be made.
    pub below: Option<Build>,
    /// The nearest above it, where it cannot be made.
    pub above: Option<Build>,
    /// Number of networks looked at.
    pub looked_at: usize,
    /// Resistors an output that were looked at: 6, or fewer where that would be too many networks.
    pub most_parts: usize,
    /// Points to mind about it.
    pub mind: Vec<String>,
}

/// A network that is remembered: how far off, how many parts.
#[derive(Clone, Copy)]
struct Near {
    off: f64,
    network: Network,
}

impl Near {
    fn before(&self, other: &Self) -> bool {
        let tie = (self.off - other.off).abs() <= SLACK;
        if tie { self.network.parts < other.network.parts } else { self.off < other.off }
    }

    fn is_again(&self, other: &Self) -> bool {
        self.network.handful == other.network.handful && (self.off - other.off).abs() <= SLACK
    }
}

/// Stock that a bench makes loads of.
#[derive(Debug, Clone, Copy)]
pub struct Stock<'a> {
    /// Resistors.
    pub loads: &'a [LoadResistor],
    /// The steps of its load box.
    pub steps: &'a [Ohms],
}

impl<'a> From<&'a Bench> for Stock<'a> {
    fn from(bench: &'a Bench) -> Self {
        Self { loads: &bench.loads, steps: &bench.step_box_ohm }
    }
}

impl<'a> From<&'a Vec<LoadResistor>> for Stock<'a> {
    fn from(loads: &'a Vec<LoadResistor>) -> Self {
        Self { loads, steps: &[] }
    }
}

impl<'a, const N: usize> From<&'a [LoadResistor; N]> for Stock<'a> {
    fn from(loads: &'a [LoadResistor; N]) -> Self {
        Self { loads, steps: &[] }
    }
}

impl<'a> From<&'a [LoadResistor]> for Stock<'a> {
    fn from(loads: &'a [LoadResistor]) -> Self {
        Self { loads, steps: &[] }
    }
}

/// Loads that a bench makes of `wanted_ohm` for every output of `wiring` at once, each output alike.
#[must_use]
pub fn find<'a>(stock_of: impl Into<Stock<'a>>, wiring: Wiring, wanted_ohm: f64) -> LoadChoices {
    let Stock { loads, steps } = stock_of.into();
    let outputs = wiring.outputs();
    let (ohms, at_most) = stock(loads, outputs, LoadResistor::ohm);
    let (mut nearest, mut below, mut above): (Vec<Near>, Option<Near>, Option<Near>) = (Vec::new(), None, None);
    let (mut looked_at, mut worst) = (0, f64::INFINITY);
    // Compared as ratios here; a logarithm for each of a million networks would cost more than making them.
    let kept = network::every(&ohms, &at_most, Reach::FULL, |network| {
        looked_at += 1;
        let ratio = network.ohm / wanted_ohm;
        let off = if ratio >= 1.0 { ratio - 1.0 } else { 1.0 / ratio - 1.0 };
        let near = Near { off, network };
        let side = if ratio < 1.0 { &mut below } else { &mut above };
        if side.is_none_or(|best| near.before(&best)) {
            *side = Some(near);
        }
        if off <= worst && !nearest.iter().any(|other| near.is_again(other)) {
            let at = nearest.partition_point(|other| !near.before(other));
            nearest.insert(at, near);
            nearest.truncate(LISTED);
            if nearest.len() == LISTED {
                worst = nearest[LISTED - 1].off + SLACK;
            }
        }
    });
    let build = |near: &Near| build(loads, &kept, near.network, wanted_ohm);
    let steps: Vec<Build> = steps.iter().map(|step| step_build(*step, wanted_ohm)).collect();
    let by_nearness = |a: &Build, b: &Build| a.off.value.abs().total_cmp(&b.off.value.abs());
    let mut builds: Vec<Build> = steps.iter().cloned().chain(nearest.iter().map(build)).collect();
    builds.sort_by(by_nearness);
    builds.truncate(LISTED);
    let nearest_step = |below: bool| steps.iter().filter(move |step| (step.ohm.value < wanted_ohm) == below).cloned();
    let mut plainest: Vec<Build> = steps.iter().filter(|step| same_load(step.ohm.value, wanted_ohm)).cloned().collect();
    simplest(loads, wiring, wanted_ohm, |build| {
        plainest.push(build);
        plainest.len() == SIMPLEST
    });
    let made = !plainest.is_empty() || builds.iter().any(|build| same_load(build.ohm.value, wanted_ohm));
    let mut mind = Vec::new();
    if wanted_ohm < FOUR_WIRES_OHM + SLACK {
        mind.push("At 1 Ω and below leads and contacts count: measure it with four wires, at the amplifier's terminals.".to_owned());
    }
    if kept.largest < network::MOST_PARTS && kept.largest < at_most.iter().sum() {
        mind.push(format!(
            "So many kinds make too many loads to try: only builds of up to {} resistors an output were looked at.",
            kept.largest
        ));
    }
    LoadChoices {
        wanted_ohm,
        outputs,
        made,
        below: below.as_ref().map(build).into_iter().chain(nearest_step(true)).min_by(by_nearness).filter(|_| !made),
        above: above.as_ref().map(build).into_iter().chain(nearest_step(false)).min_by(by_nearness).filter(|_| !made),
        simplest: plainest,
        builds,
        looked_at,
        most_parts: kept.largest,
        mind,
    }
}

/// Every load that can be made for all outputs at once, ascending, each with the fewest parts it takes.
#[must_use]
pub fn every_load(loads: &[LoadResistor], wiring: Wiring) -> Vec<(f64, usize)> {
    let (ohms, at_most) = stock(loads, wiring.outputs(), LoadResistor::ohm);
    let mut found = Vec::new();
    network::every(&ohms, &at_most, Reach::FULL, |network| found.push((network.ohm, network.parts)));
    found.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut distinct: Vec<(f64, usize)> = Vec::new();
    for (ohm, parts) in found {
        match distinct.last_mut() {
            Some(last) if (ohm - last.0).abs() <= SLACK * ohm => last.1 = last.1.min(parts),
            _ => distinct.push((ohm, parts)),
        }
    }
    distinct
}

/// Ohms of each kind, and how many of it each output may have.
fn stock(loads: &[LoadResistor], outputs: u8, ohm: fn(&LoadResistor) -> f64) -> (Vec<f64>, Vec<usize>) {
    let each = |load: &LoadResistor| (load.count as usize / usize::from(outputs.max(1))).min(network::MOST_PARTS);
    loads.iter().take(network::MOST_KINDS).map(|load| (ohm(load), each(load))).unzip()
}

/// Networks looked at for a rung: this is done for every rung each time a ladder is shown.
const QUICKLY: usize = 200_000;

/// Builds whose nominal ohms are those wanted, the fewest parts first, until `enough` says so. A resistor stands for its
/// nominal ohms here, as the load of a rung does.
fn simplest(loads: &[LoadResistor], wiring: Wiring, nominal_ohm: f64, mut enough: impl FnMut(Build) -> bool) {
    let (ohms, at_most) = stock(loads, wiring.outputs(), |load| load.nominal_ohm.get());
    for parts in 1..=network::MOST_PARTS {
        let mut fitting = Vec::new();
        let kept = network::every(&ohms, &at_most, Reach { parts, networks: QUICKLY }, |network| {
            if network.parts == parts && same_load(network.ohm, nominal_ohm) {
                fitting.push(network);
            }
        });
        let off = |network: &Network| (network.ohm - nominal_ohm).abs();
        fitting.sort_by(|a, b| off(a).total_cmp(&off(b)).then(a.handful.cmp(&b.handful)));
        fitting.dedup_by(|a, b| a.handful == b.handful && (a.ohm - b.ohm).abs() <= SLACK * b.ohm);
        if fitting.into_iter().any(|network| enough(build(loads, &kept, network, nominal_ohm))) || kept.largest < parts {
            return;
        }
    }
}

/// The way a rung's load is made: as `named`, else the one of fewest parts that takes `need_w` an output for ten seconds,
/// else the one of fewest parts.
#[must_use]
pub fn way<'a>(stock_of: impl Into<Stock<'a>>, wiring: Wiring, nominal_ohm: f64, need_w: f64, named: Option<&str>) -> Option<Build> {
    let Stock { loads, steps } = stock_of.into();
    let step = steps.iter().find(|step| same_load(step.get(), nominal_ohm)).map(|step| step_build(*step, nominal_ohm));
    if let Some(step) = step.as_ref().filter(|step| named.is_some_and(|named| step.words == named)) {
        return Some(step.clone());
    }
    let (mut first, mut found): (Option<Build>, Option<Build>) = (None, None);
    simplest(loads, wiring, nominal_ohm, |build| {
        let bears = build.ten_second_w.as_ref().is_none_or(|most| most.value >= need_w);
        if named.map_or(bears, |named| build.words == named) {
            found = Some(build);
            return true;
        }
        first.get_or_insert(build);
        false
    });
    found.or(step).or(first)
}

/// A step of a load box as a build: what it takes is not known.
fn step_build(step: Ohms, wanted_ohm: f64) -> Build {
    let words = format!("step box, {}", format::with_unit(&format::ohms(step.get()), "Ω"));
    let working = Working::new("Load at the terminals", "the step of the box", source::METHOD)
        .with_text("build", "how they are joined", words.clone())
        .assuming("Leads and contacts are not in it.");
    Build {
        off: off(step.get(), wanted_ohm),
        ohm: Figure::ohms(step.get(), working),
        parts: 1,
        words,
        shares: Vec::new(),
        continuous_w: None,
        ten_second_w: None,
        tree: Tree::Step(step.get()),
    }
}

fn off(true_ohm: f64, wanted_ohm: f64) -> Figure {
    Figure::percent(
        true_ohm / wanted_ohm - 1.0,
        Working::new("Off the load wanted", "100 · (R / Rwanted − 1)", source::METHOD)
            .with_text("R", "load at the terminals", format::with_unit(&format::ohms(true_ohm), "Ω"))
            .with("Rwanted", "load wanted", wanted_ohm, "Ω"),
    )
}

fn tree(kept: &Catalogue, made: Construction) -> Tree {
    match made {
        Construction::Resistor(kind) => Tree::Resistor(kind),
        Construction::Joined { series, a, b } => {
            let mut parts = Vec::new();
            for at in [a, b] {
                let Some((_, made)) = kept.get(at) else { continue };
                match (series, tree(kept, made)) {
                    (true, Tree::Series(inner)) | (false, Tree::Parallel(inner)) => parts.extend(inner),
                    (_, other) => parts.push(other),
                }
            }
            if series { Tree::Series(parts) } else { Tree::Parallel(parts) }
        }
    }
}

impl Tree {
    fn ohm(&self, loads: &[LoadResistor], of: fn(&LoadResistor) -> f64) -> f64 {
        match self {
            Self::Resistor(kind) => loads.get(*kind).map_or(f64::NAN, of),
            Self::Series(parts) => parts.iter().map(|part| part.ohm(loads, of)).sum(),
            Self::Parallel(parts) => 1.0 / parts.iter().map(|part| 1.0 / part.ohm(loads, of)).sum::<f64>(),
            Self::Step(ohm) => *ohm,
        }
    }

    fn true_ohm(&self, loads: &[LoadResistor]) -> f64 {
        self.ohm(loads, LoadResistor::ohm)
    }

    /// Each resistor's share of the power in it: by ohms in series, by their inverse in parallel.
    fn shares(&self, loads: &[LoadResistor], whole: f64, into: &mut Vec<(usize, f64)>) {
        match self {
            Self::Resistor(kind) => into.push((*kind, whole)),
            Self::Step(_) => {}
            Self::Series(parts) => {
                let sum = self.true_ohm(loads);
                for part in parts {
                    part.shares(loads, whole * part.true_ohm(loads) / sum, into);
                }
            }
            Self::Parallel(parts) => {
                let together = self.true_ohm(loads);
                for part in parts {
                    part.shares(loads, whole * together / part.true_ohm(loads), into);
                }
            }
        }
    }

    /// Way of joining them: "2 × 8 Ω in parallel", "4 Ω + (2 × 8 Ω in parallel)".
    fn words(&self, loads: &[LoadResistor], inside: bool) -> String {
        let (parts, with, alike) = match self {
            Self::Resistor(kind) => return label(loads, *kind),
            Self::Step(ohm) => return format::with_unit(&format::ohms(*ohm), "Ω"),
            Self::Series(parts) => (parts, " + ", "in series"),
            Self::Parallel(parts) => (parts, " with ", "in parallel"),
        };
        let mut named: Vec<(String, usize)> = Vec::new();
        for part in parts {
            let words = part.words(loads, true);
            match named.iter_mut().find(|(known, _)| *known == words) {
                Some((_, n)) => *n += 1,
                None => named.push((words, 1)),
            }
        }
        let times = |(words, n): &(String, usize)| if *n == 1 { words.clone() } else { format!("{n} × {words}") };
        let text = match named.as_slice() {
            [one] => format!("{} {alike}", times(one)),
            many => {
                let joined = many.iter().map(times).collect::<Vec<_>>().join(with);
                if matches!(self, Self::Parallel(_)) { format!("{joined} {alike}") } else { joined }
            }
        };
        if inside { format!("({text})") } else { text }
    }
}

fn label(loads: &[LoadResistor], kind: usize) -> String {
    loads.get(kind).map_or_else(String::new, |load| format::with_unit(&format::ohms(load.nominal_ohm.get()), "Ω"))
}

fn build(loads: &[LoadResistor], kept: &Catalogue, network: Network, wanted_ohm: f64) -> Build {
    let tree = tree(kept, network.made);
    let (words, true_ohm) = (tree.words(loads, false), tree.true_ohm(loads));
    let mut flat = Vec::new();
    tree.shares(loads, 1.0, &mut flat);
    let joined = || Working::new("Load at the terminals", "Σ R in series, 1 / Σ (1/R) in parallel", source::CIRCUITS);
    let mut working = joined().with_text("build", "how they are joined", words.clone());
    let mut kinds: Vec<usize> = flat.iter().map(|(kind, _)| *kind).collect();
    kinds.sort_unstable();
    kinds.dedup();
    for load in kinds.iter().filter_map(|kind| loads.get(*kind)) {
        working = match load.measured_ohm {
            Some(measured) => working.with(
                "R",
                format!("{} measured", format::with_unit(&format::ohms(load.nominal_ohm.get()), "Ω")),
                measured.get(),
                "Ω",
            ),
            None => working.with("R", "nominal", load.nominal_ohm.get(), "Ω").assuming("Nominal resistors: not all were measured."),
        };
    }
    working = working.assuming("Leads and contacts are not in it.");
    let most = |rating: fn(&LoadResistor) -> Option<f64>, title: &str| {
        let limits: Option<Vec<f64>> = flat.iter().map(|(kind, share)| Some(rating(loads.get(*kind)?)? / share)).collect();
        limits.and_then(|limits| limits.into_iter().min_by(f64::total_cmp)).map(|watts| {
            Figure::watts(
                watts,
                Working::new(title, "least of rating / share over its resistors", source::CIRCUITS)
                    .with_text("build", "how they are joined", words.clone())
                    .assuming("In free air, from cold, each resistor as its maker rates it."),
            )
        })
    };
    Build {
        off: off(true_ohm, wanted_ohm),
        ohm: Figure::ohms(true_ohm, working),
        parts: network.parts,
        shares: shares(loads, flat.clone()),
        continuous_w: most(|load| load.continuous_w.map(|w| w.get()), "Continuous rating per output"),
        ten_second_w: most(|load| load.ten_second_w.map(|w| w.get()), "Most an output may give it for ten seconds"),
        words,
        tree,
    }
}

fn shares(loads: &[LoadResistor], mut flat: Vec<(usize, f64)>) -> Vec<Share> {
    flat.sort_by(|a, b| b.1.total_cmp(&a.1).then_with(|| a.0.cmp(&b.0)));
    flat.chunk_by(|a, b| a.0 == b.0 && (a.1 - b.1).abs() <= SLACK)
        .map(|same| {
            let (kind, ratio) = same[0];
            Share {
                kind,
                label: label(loads, kind),
                count: same.len(),
                ratio: Figure::percent(
                    ratio,
                    Working::new("Share of an output's power", "R / Σ R in series, Rtogether / R in parallel", source::CIRCUITS).with(
                        "R",
                        "this resistor",
                        loads.get(kind).map_or(f64::NAN, LoadResistor::ohm),
                        "Ω",
                    ),
                ),
            }
        })
        .collect()
}
