//! What a rung will ask of the bench: output, draw, supply, peak amps, and how well each is known.

use serde::{Deserialize, Serialize};

use crate::evidence::rungs::Rung;
use crate::kernel::format;
use crate::kernel::units::{Ohms, Volts};
use crate::kernel::wiring::{Wiring, same_load};
use crate::predict::draw::draw;
use crate::predict::known::{Prior, SourcedPoint, Where};
use crate::predict::model::{Amplifying, Draw, LoadLine, Operating, Point, Supplying};
use crate::record::claims::Claim;
use crate::record::session::Mode;

/// Source of a prediction.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Basis {
    /// The claims alone.
    Claim,
    /// A certified run, and the claims' ratio.
    OneRun,
    /// A load line through two runs or more.
    Fit,
    /// Likewise, past the loads it was fitted to.
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

/// A load of a wiring, and its part of the power.
#[derive(Debug, Clone, PartialEq)]
pub struct GroupShare {
    /// Part of the total.
    pub part: f64,
    /// Wiring.
    pub wiring: Wiring,
    /// Load: measured when known.
    pub load_ohm: f64,
    /// Nominal load.
    pub nominal_ohm: f64,
}

impl GroupShare {
    /// Watts of one of its outputs, of so many in total.
    #[must_use]
    pub fn output_w(&self, total_w: f64) -> f64 {
        self.part * total_w / f64::from(self.wiring.outputs().max(1))
    }

    fn peak_a(&self, total_w: f64) -> f64 {
        (2.0 * self.output_w(total_w) / self.load_ohm).sqrt()
    }
}

fn groups(known: &Prior, rung: &Rung, at: Where) -> Vec<GroupShare> {
    let measured = rung.set.load_measured_ohm.into_iter().chain(rung.set.group_loads_measured_ohm.iter().copied());
    let measured: Vec<f64> = measured.map(Ohms::get).collect();
    let each = at.wiring.places(at.load_ohm).zip(known.group_shares(at)).enumerate();
    each.map(|(i, ((wiring, load), part))| GroupShare {
        part,
        wiring,
        load_ohm: measured.get(i).copied().unwrap_or(load.get()),
        nominal_ohm: load.get(),
    })
    .collect()
}

/// Figures to expect of a rung.
#[derive(Debug, Clone, PartialEq)]
pub struct Prediction {
    /// Source.
    pub basis: Basis,
    /// The mode it is for.
    pub mode: Mode,
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
    /// Cap on start voltages.
    pub most_v: f64,
    /// √2·Vrms/R of one output, of the hardest group where the wiring is mixed.
    pub peak_a: f64,
    /// Places with one load each: the wiring itself, or the groups of a mixed one.
    pub groups: Vec<GroupShare>,
    /// Relation of its draw to its output.
    pub draw: Draw,
    /// The part of the time that the tone is on: draw and heat are means.
    pub duty: f64,
    /// Total of the claim there.
    pub claim_w: Option<f64>,
    /// Assumptions.
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

/// Expectation of a rung, clean; nothing where neither claims nor runs say anything of its wiring and setting.
#[must_use]
pub fn predict(known: &Prior, rung: &Rung) -> Option<Prediction> {
    predict_mode(known, rung, Mode::Certified)
}

/// Expectation of a rung in a mode: clipping and bursts are the clean power times what they gave more at the nearest load.
#[must_use]
pub fn predict_mode(known: &Prior, rung: &Rung, mode: Mode) -> Option<Prediction> {
    let session = known.session();
    let at =
        Where { wiring: rung.id.wiring, setting: rung.id.setting.as_deref(), load_ohm: rung.id.load_ohm, tone_hz: rung.id.tone_hz.get() };
    let load_ohm = rung.set.load_measured_ohm.unwrap_or(rung.id.load_ohm).get();
    let (reference_v, exponent, outputs) = (known.reference_v(at), known.exponent(), f64::from(at.wiring.outputs()));
    let mut found = line(known, at)?;
    if mode != Mode::Certified {
        let measured = known.ratio_to_certified(at, mode);
        let ratio = measured.unwrap_or(USUALLY_MORE);
        found.line.open_v *= ratio.sqrt();
        let shown = format::fixed(ratio, 2);
        let from = if measured.is_some() { "as at the nearest load that was run so" } else { "as is usual" };
        found.assumptions.push(format!("{shown} × the clean power, {from}."));
    }
    let duty = if mode == Mode::Dynamic { burst_duty(at.tone_hz) } else { 1.0 };
    let draw = draw(known, at, mode);
    let amplifier = Amplifying { line: found.line, outputs, load_ohm, reference_v, exponent, draw, duty };
    let rest_v = rung.set.rest_v.map(Volts::get);
    let supply = known.source.map(|source| Supplying { rest_v: rest_v.unwrap_or(reference_v), source_ohm: source.ohm });
    // Without a source resistance nothing can be said of the sag: the output stands as at the claim's voltage.
    let expected = supply.map_or_else(|| amplifier.at(reference_v), |supply| amplifier.on(supply));
    if supply.is_none() {
        found.assumptions.push("No source resistance is known: output and draw as at the claim's voltage.".to_owned());
    } else if rest_v.is_none() {
        found.assumptions.push("No rest voltage is set: the claim's voltage.".to_owned());
    }
    if duty < 1.0 {
        let shown = format::percent(duty);
        found.assumptions.push(format!("A burst is on for {shown} % of the time: draw and heat are means."));
    }
    if exponent == 1.0 {
        found.relative += ((expected.end_v / reference_v).powi(2) - 1.0).abs() / 2.0;
        found.assumptions.push("Regulated or not is not known: halfway between, and a wider band.".to_owned());
    }
    let groups = groups(known, rung, at);
    let (least_w, most_w) = draw.band_w(expected.power_w, expected.power_w / load_ohm);
    Some(Prediction {
        basis: found.basis,
        mode,
        from: found.from,
        load_ohm,
        outputs,
        line: found.line,
        reference_v,
        exponent,
        relative: found.relative,
        low_a: duty * least_w / expected.end_v,
        high_a: duty * most_w / expected.end_v,
        rest_v,
        source_ohm: known.source.map(|source| source.ohm),
        start_v: known.source.map(|source| reference_v + source.ohm * amplifier.at(reference_v).current_a),
        most_v: session.amplifier.max_supply_v.map_or(session.policy.unstated_max_supply_v.get(), Volts::get),
        peak_a: groups.iter().map(|group| group.peak_a(expected.power_w)).fold(0.0, f64::max),
        groups,
        claim_w: known.claim_at(at).and_then(Claim::total_w),
        draw,
        duty,
        expected,
        assumptions: found.assumptions,
    })
}

/// Clipping and bursts over the clean power, where no run says.
const USUALLY_MORE: f64 = 1.25;

/// The part of the time that a standard burst is on: 20 ms in every 500 ms; below 100 Hz, two whole cycles.
///
/// Ref: IHF-A-202, standard burst.
#[must_use]
pub fn burst_duty(tone_hz: f64) -> f64 {
    let on_s = if tone_hz < 100.0 { 2.0 / tone_hz } else { 0.020 };
    (on_s / 0.500).min(1.0)
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

/// Number of octaves that a load lies past those known; 0 inside them.
fn beyond(known: &[SourcedPoint], load_ohm: f64) -> f64 {
    let loads = || known.iter().map(|sourced| sourced.nominal_ohm);
    let (least, most) = (loads().fold(f64::INFINITY, f64::min), loads().fold(0.0, f64::max));
    if same_load(load_ohm, least) || same_load(load_ohm, most) {
        return 0.0;
    }
    (least / load_ohm).log2().max((load_ohm / most).log2()).max(0.0)
}
