//! What a rung will ask of the bench: output, draw, supply, peak amps, and how well each is known.

use serde::{Deserialize, Serialize};

use crate::evidence::rungs::Rung;
use crate::kernel::units::Volts;
use crate::kernel::wiring::same_load;
use crate::predict::known::{Prior, SourcedPoint, Where};
use crate::predict::model::{Amplifying, Drawing, LoadLine, Losses, Operating, Point, Supplying};
use crate::record::claims::Claim;
use crate::record::claims::sense::class_efficiency;

/// Where a prediction is from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Basis {
    /// The claims alone.
    Claim,
    /// One certified run, and the claims' ratio.
    OneRun,
    /// A load line through two runs or more.
    Fit,
    /// The same, past the loads it was fitted to.
    BeyondFit,
}

impl Basis {
    /// Under the figure.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Claim => "from the claims",
            Self::OneRun => "from one run",
            Self::Fit => "from the runs",
            Self::BeyondFit => "a guess past the runs",
        }
    }
}

/// Relative half-width of a band, by what it is from.
const FROM_CLAIMS: f64 = 0.20;
const FROM_ONE_RUN: f64 = 0.12;
const FROM_TWO_RUNS: f64 = 0.06;
/// Output resistance when nothing tells it, of the load.
const USUAL_OUT: f64 = 0.08;
/// Efficiency that no amplifier betters by much, and the efficiency and excess that together give the most draw.
const BEST_EFFICIENCY: f64 = 0.85;
const WORST_EFFICIENCY: f64 = 0.55;
const MOST_OVER_CLAIM: f64 = 1.3;

/// What to expect of a rung.
#[derive(Debug, Clone, PartialEq)]
pub struct Prediction {
    /// Where it is from.
    pub basis: Basis,
    /// Claims or runs it stands on.
    pub from: Vec<String>,
    /// Load it is for: measured when known.
    pub load_ohm: f64,
    /// Outputs driven.
    pub outputs: f64,
    /// The load line of one output, at `reference_v`.
    pub line: LoadLine,
    /// The supply voltage that line is for.
    pub reference_v: f64,
    /// Exponent it follows the supply by.
    pub exponent: f64,
    /// Output, draw and end voltage to expect.
    pub expected: Operating,
    /// Relative half-width of the output's band.
    pub relative: f64,
    /// Least draw.
    pub low_a: f64,
    /// Most draw: gates use this end.
    pub high_a: f64,
    /// Supply before the run; nothing when none is set.
    pub rest_v: Option<f64>,
    /// Source resistance, when it is known: without it there is no end voltage.
    pub source_ohm: Option<f64>,
    /// Start voltage that would end at the reference, before it is capped.
    pub start_v: Option<f64>,
    /// What start voltages are capped at.
    pub most_v: f64,
    /// √2·Vrms/R of one output.
    pub peak_a: f64,
    /// Losses it was reckoned with, once a run has told them.
    pub losses: Option<Losses>,
    /// Total of the claim that a claims-only draw band is from.
    pub claim_w: Option<f64>,
    /// What had to be assumed.
    pub assumptions: Vec<String>,
}

impl Prediction {
    /// Least output to expect.
    #[must_use]
    pub fn low_w(&self) -> f64 {
        self.expected.power_w * (1.0 - self.relative).max(0.0)
    }

    /// Most output to expect.
    #[must_use]
    pub fn high_w(&self) -> f64 {
        self.expected.power_w * (1.0 + self.relative)
    }

    /// Supply under load, when the source resistance is known.
    #[must_use]
    pub fn end_v(&self) -> Option<f64> {
        self.source_ohm.map(|_| self.expected.end_v)
    }

    /// Start voltage that ends at the reference, or as near as is allowed.
    #[must_use]
    pub fn start_for_reference(&self) -> Option<f64> {
        self.start_v.map(|start| start.min(self.most_v))
    }
}

struct Line {
    basis: Basis,
    line: LoadLine,
    from: Vec<String>,
    relative: f64,
    assumptions: Vec<String>,
}

/// What to expect of a rung; nothing where neither claims nor runs say anything of its wiring and setting.
#[must_use]
pub fn predict(known: &Prior, rung: &Rung) -> Option<Prediction> {
    let session = known.session();
    let at =
        Where { wiring: rung.id.wiring, setting: rung.id.setting.as_deref(), load_ohm: rung.id.load_ohm, tone_hz: rung.id.tone_hz.get() };
    let load_ohm = rung.set.load_measured_ohm.unwrap_or(rung.id.load_ohm).get();
    let (reference_v, exponent, outputs) = (known.reference_v(at), known.exponent(), f64::from(at.wiring.outputs()));
    let mut found = line(known, at)?;
    let losses = Losses::fit(&known.losses(at), known.idle_w());
    let drawing = losses.map_or(Drawing::Efficiency(class_efficiency(session.amplifier.class)), Drawing::Losses);
    let amplifier = Amplifying { line: found.line, outputs, load_ohm, reference_v, exponent, drawing };
    let rest_v = rung.set.rest_v.map(Volts::get);
    let supply = known.source.map(|source| Supplying { rest_v: rest_v.unwrap_or(reference_v), source_ohm: source.ohm });
    // Without a source resistance nothing can be said of the sag: the output stands as at the claim's voltage.
    let expected = supply.map_or_else(|| amplifier.at(reference_v), |supply| amplifier.on(supply));
    if supply.is_none() {
        found.assumptions.push("No source resistance is known: output and draw as at the claim's voltage.".to_owned());
    } else if rest_v.is_none() {
        found.assumptions.push("No rest voltage is set: the claim's voltage.".to_owned());
    }
    if exponent == 1.0 {
        found.relative += ((expected.end_v / reference_v).powi(2) - 1.0).abs() / 2.0;
        found.assumptions.push("Regulated or not is not known: halfway between, and a wider band.".to_owned());
    }
    let claim_w = known.claim_at(at).and_then(Claim::total_w).unwrap_or_else(|| found.line.output_w(load_ohm) * outputs);
    let (low_a, high_a) = match losses {
        None => {
            let volts = rest_v.unwrap_or(reference_v);
            (claim_w / (volts * BEST_EFFICIENCY), MOST_OVER_CLAIM * claim_w / (volts * WORST_EFFICIENCY))
        }
        Some(losses) => {
            let end = |scale: f64, bound: fn((f64, f64)) -> f64| {
                let line = LoadLine { open_v: found.line.open_v * scale.sqrt(), ..found.line };
                let squared_a2 = outputs * line.output_w(load_ohm) / load_ohm;
                let losses = Losses { idle_w: bound(losses.band(squared_a2)), per_a2_ohm: 0.0, ..losses };
                let scaled = Amplifying { line, drawing: Drawing::Losses(losses), ..amplifier };
                supply.map_or_else(|| scaled.at(reference_v), |supply| scaled.on(supply)).current_a
            };
            (end((1.0 - found.relative).max(0.0), |band| band.0), end(1.0 + found.relative, |band| band.1))
        }
    };
    Some(Prediction {
        basis: found.basis,
        from: found.from,
        load_ohm,
        outputs,
        line: found.line,
        reference_v,
        exponent,
        relative: found.relative,
        low_a,
        high_a,
        rest_v,
        source_ohm: known.source.map(|source| source.ohm),
        start_v: known.source.map(|source| reference_v + source.ohm * amplifier.at(reference_v).current_a),
        most_v: session.amplifier.max_supply_v.map_or(session.policy.unstated_max_supply_v.get(), Volts::get),
        peak_a: (2.0 * expected.power_w / outputs / load_ohm).sqrt(),
        claim_w: losses.is_none().then_some(claim_w),
        losses,
        expected,
        assumptions: found.assumptions,
    })
}

/// The load line by what is known: runs before claims, and the claims' ratio beside one run.
fn line(known: &Prior, at: Where) -> Option<Line> {
    let (claimed, run) = (known.claimed(at), known.run(at));
    let points = |list: &[SourcedPoint]| list.iter().map(|sourced| sourced.point).collect::<Vec<Point>>();
    let ids = |list: &[SourcedPoint]| list.iter().map(|sourced| sourced.id.clone()).collect::<Vec<String>>();
    let from_claims = LoadLine::fit(&points(&claimed));
    let usual = |point: Point| LoadLine::through(point, USUAL_OUT * point.load_ohm);
    let usual_says = || vec!["Nothing tells the output resistance: 8 % of the load.".to_owned()];
    match (run.as_slice(), claimed.as_slice()) {
        ([], []) => None,
        ([], claims) => {
            let (line, mut assumptions) = match from_claims {
                Some(line) => (line, Vec::new()),
                None => (usual(claims.first()?.point), usual_says()),
            };
            if beyond(claims, at.load_ohm.get()) > 0.0 {
                assumptions.push("Past the loads claimed: a guess.".to_owned());
            }
            Some(Line { basis: Basis::Claim, line, from: ids(claims), relative: FROM_CLAIMS, assumptions })
        }
        ([one], _) => {
            let (line, assumptions) = match from_claims {
                Some(claims) => {
                    let says = "The output resistance is from the claims' ratio.".to_owned();
                    (LoadLine::through(one.point, claims.out_ohm), vec![says])
                }
                None => (usual(one.point), usual_says()),
            };
            Some(Line { basis: Basis::OneRun, line, from: vec![one.id.clone()], relative: FROM_ONE_RUN, assumptions })
        }
        (runs, _) => {
            let points = points(runs);
            let line = LoadLine::fit(&points).unwrap_or_else(|| usual(points[0]));
            let octaves = beyond(runs, at.load_ohm.get());
            let least = runs.iter().map(|sourced| sourced.relative_u).fold(0.0, f64::max);
            let within = LoadLine::leave_one_out(&points).map_or(FROM_TWO_RUNS, |miss| miss.max(least));
            // A line through clean runs says less with every halving past them.
            let relative = if octaves > 0.0 { within.max(FROM_TWO_RUNS) * (1.0 + octaves) } else { within };
            let basis = if octaves > 0.0 { Basis::BeyondFit } else { Basis::Fit };
            let assumptions = if octaves > 0.0 { vec!["Past the loads that were run: a guess.".to_owned()] } else { Vec::new() };
            Some(Line { basis, line, from: ids(runs), relative, assumptions })
        }
    }
}

/// How many octaves a load lies past those known; 0 inside them.
fn beyond(known: &[SourcedPoint], load_ohm: f64) -> f64 {
    let loads = || known.iter().map(|sourced| sourced.nominal_ohm);
    let (least, most) = (loads().fold(f64::INFINITY, f64::min), loads().fold(0.0, f64::max));
    if same_load(load_ohm, least) || same_load(load_ohm, most) {
        return 0.0;
    }
    (least / load_ohm).log2().max((load_ohm / most).log2()).max(0.0)
}
