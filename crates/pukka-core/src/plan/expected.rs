//! What to expect of a rung, for people: every figure with its working.

use serde::{Deserialize, Serialize};

use crate::assess::checks::blade_fuse;
use crate::kernel::format;
use crate::kernel::units::{at_least, more_than};
use crate::kernel::working::{Figure, Working, source};
use crate::plan::gates::Look;
use crate::predict::known::Prior;
use crate::predict::model::Draw;
use crate::predict::prediction::{Basis, GroupShare, Prediction};
use crate::record::bench::inventory::Build;
use crate::record::bench::leads::drop_and_heat;
use crate::record::session::{Mode, Session};

/// Distance from the claim's voltage within which a supply counts as in its window.
const WINDOW_V: f64 = 0.3;
/// Time that a tone stands on the loads in one run.
pub const TONE_S: f64 = 10.0;

/// Build of a rung's loads, and the power they take.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoadBank {
    /// Group of a mixed wiring that it is for.
    pub group: Option<String>,
    /// Build of each output's load.
    pub words: String,
    /// Ohms.
    pub ohm: Figure,
    /// Most watts in one of its resistors.
    pub hottest_w: Figure,
    /// Power that the build takes continuously, an output.
    pub continuous_w: Option<Figure>,
    /// Power that the build takes for ten seconds, an output.
    pub ten_second_w: Option<Figure>,
    /// Seconds of rest that its heat asks for between runs; 0 when it takes the power continuously.
    pub rest_s: f64,
    /// In words: "cool for 24 s".
    pub says: String,
    /// Past what they take continuously.
    pub warm: bool,
}

/// A lead at the most draw.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LeadLoad {
    /// Name.
    pub name: String,
    /// Volts it drops.
    pub drop_v: Figure,
    /// Watts it turns to heat.
    pub heat_w: Figure,
}

/// Figures to expect of a rung.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Expectation {
    /// Output, in total, with its ±.
    pub power: Figure,
    /// Least and most output, as shown: "352 to 528 W".
    pub power_band: String,
    /// Source.
    pub basis: Basis,
    /// Likewise, in words.
    pub basis_words: String,
    /// Least draw.
    pub low_a: Figure,
    /// Most draw.
    pub high_a: Figure,
    /// Supply fuses.
    pub fuses_a: Option<Figure>,
    /// Whether the most draw is past them.
    pub past_fuses: bool,
    /// Most draw over the fuses.
    pub fuse_ratio: Option<Figure>,
    /// Behaviour of a blade fuse at that.
    pub fuse_says: Option<String>,
    /// Supply under load.
    pub end_v: Option<Figure>,
    /// Consequence for the claim's voltage.
    pub end_says: String,
    /// Ends below the window of the claim.
    pub below_window: bool,
    /// Start voltage that ends at the claim's, or as near as is allowed.
    pub start_v: Option<Figure>,
    /// Peak amps of one output.
    pub peak_a: Figure,
    /// The most that an output was seen to survive.
    pub proven_a: Option<Figure>,
    /// Heat that the loads have to take.
    pub load_w: Figure,
    /// Builds of the loads, one a group of a mixed wiring; none when this bench cannot make them, or its resistors are not
    /// entered.
    pub load_banks: Vec<LoadBank>,
    /// Cost of the leads at the most draw.
    pub leads: Vec<LeadLoad>,
}

/// Turns a look at a rung into figures.
#[must_use]
pub fn expected(known: &Prior, look: &Look) -> Option<Expectation> {
    let (session, p) = (known.session(), look.prediction.as_ref()?);
    let ratio = look.fuse_ratio(session);
    let end_v = end(p);
    Some(Expectation {
        power: power(p),
        power_band: format!("{} to {}", format::watts(p.low_w()), format::with_unit(&format::watts(p.high_w()), "W")),
        basis: p.basis,
        basis_words: basis_words(p),
        low_a: draw(p, false),
        high_a: draw(p, true),
        past_fuses: ratio.is_some_and(|ratio| more_than(ratio, 1.0)),
        fuses_a: fuses(session),
        fuse_says: ratio.map(|ratio| blade_fuse(ratio).to_owned()),
        fuse_ratio: ratio.map(|ratio| Figure {
            text: format::fixed(100.0 * ratio, 0),
            ..Figure::percent(
                ratio,
                Working::new("Most draw over the supply fuses", "100 · I / fuses", source::METHOD)
                    .with_text("I", "most draw", amps(p.high_a))
                    .with("fuses", "supply fuses, together", session.amplifier.supply_fuse_a().unwrap_or(0.0), "A"),
            )
        }),
        below_window: p.end_v().is_some_and(|end| more_than(p.reference_v - WINDOW_V, end)),
        end_says: end_says(p),
        end_v,
        start_v: start(p),
        peak_a: peak(p),
        proven_a: known.proven_peak_a.map(|peak| {
            Figure::amps(
                peak,
                Working::new("Most peak amps it came through", "√(2 · P / R)", source::CIRCUITS)
                    .assuming("Of one output, in the hardest run so far."),
            )
        }),
        load_w: Figure::watts(
            p.expected.power_w,
            Working::new("Power into loads", "P", source::METHOD)
                .with_text("P", "output to expect", watts(p.expected.power_w))
                .assuming("All of the output becomes heat in the loads."),
        ),
        load_banks: look.banks(Mode::Certified).map(|(group, build)| load_bank(p, group, build)).collect(),
        leads: session
            .bench
            .leads
            .iter()
            .map(|lead| {
                let (drop_v, heat_w) = drop_and_heat(lead, p.high_a);
                LeadLoad { name: lead.name.clone(), drop_v, heat_w }
            })
            .collect(),
    })
}

fn watts(value: f64) -> String {
    format::with_unit(&format::watts(value), "W")
}

fn amps(value: f64) -> String {
    format::with_unit(&format::amps(value), "A")
}

fn volts(value: f64) -> String {
    format::with_unit(&format::volts(value), "V")
}

fn assuming(working: Working, p: &Prediction) -> Working {
    p.assumptions.iter().fold(working, |working, says| working.assuming(says.clone()))
}

fn basis_words(p: &Prediction) -> String {
    let plus_minus = format!("± {}{}%", format::fixed(100.0 * p.relative, 0), format::THIN);
    match (p.basis, p.claim_w) {
        (Basis::Claim, Some(claim)) => format!("from the claim, {} {plus_minus}", watts(claim)),
        (basis, _) => format!("{}, {plus_minus}", basis.words()),
    }
}

fn power(p: &Prediction) -> Figure {
    let from = if p.basis == Basis::Claim { "claims" } else { "certified runs" };
    let working = Working::new("Output to expect", "P = n · Voc² · R / (R + Rout)² · (V / Vref)^e", source::METHOD)
        .with("n", "outputs driven", p.outputs, "")
        .with_text("Voc", format!("open volts of one output at Vref, from the {from}"), volts(p.line.open_v))
        .with_text("Rout", "output resistance", format::with_unit(&format::ohms(p.line.out_ohm), "Ω"))
        .with("R", "load", p.load_ohm, "Ω")
        .with_text("V", "supply under load", volts(p.expected.end_v))
        .with("Vref", "voltage of the claim", p.reference_v, "V")
        .with("e", "exponent", p.exponent, "")
        .with_text("±", "half-width of the band", format::with_unit(&format::fixed(100.0 * p.relative, 1), "%"));
    let u = p.relative * p.expected.power_w;
    Figure::watts(p.expected.power_w, assuming(working, p)).give_or_take_text(Some(format::watts(u)))
}

fn draw(p: &Prediction, most: bool) -> Figure {
    let title = if most { "Highest expected draw" } else { "Lowest expected draw" };
    let value = if most { p.high_a } else { p.low_a };
    let percent = |ratio: f64| format::with_unit(&format::percent(ratio), "%");
    let working = match p.draw {
        Draw::Losses(losses) => {
            let formula = if most { "I = (P + idle + k · Σ Iout² + miss) / V" } else { "I = (P + idle + k · Σ Iout² − miss) / V" };
            Working::new(title, formula, source::METHOD)
                .with_text("idle", "losses without a tone", watts(losses.idle_w))
                .with_text("k", "losses for each A² of output", format::with_unit(&format::ohms(losses.per_a2_ohm), "Ω"))
                .with_text("miss", "worst of the runs against the fit", watts(losses.residual_w))
                .assuming("Losses fitted to the steady runs of this wiring and its equivalents.")
        }
        Draw::Efficiency { ratio, load_ohm, halvings, .. } => {
            let formula =
                if most { "I = P / (V · (η · 0.94^h − 0.06 · |h| − 0.05))" } else { "I = 0.9 · P / (V · η · 0.94^h)" };
            Working::new(title, formula, source::METHOD)
                .with_text("η", format!("efficiency at {}", format::with_unit(&format::ohms(load_ohm), "Ω")), percent(ratio))
                .with_text("h", "halvings from there to this load", format::fixed(halvings, 2))
        }
        Draw::Class { low, high, .. } => {
            let formula = if most { "I = 1.15 · P / (V · η)" } else { "I = P / (V · η)" };
            Working::new(title, formula, source::METHOD)
                .with_text("η", "efficiency of its class", percent(if most { low } else { high }))
                .assuming("No run has told its draw yet.")
        }
    };
    let working =
        working.with_text("P", "output to expect", watts(p.expected.power_w)).with_text("V", "supply under load", volts(p.expected.end_v));
    let working =
        if p.duty < 1.0 { working.with_text("duty", "part of the time the burst is on: the mean", percent(p.duty)) } else { working };
    Figure::amps(value, working)
}

fn fuses(session: &Session) -> Option<Figure> {
    let fuses = session.amplifier.supply_fuse_a()?;
    let parts = session.amplifier.fuse_words().unwrap_or_default();
    let working = Working::new("Supply fuses", "Σ fuses", source::METHOD).with_text("fuses", "as noted", parts);
    Some(Figure { text: format::as_read(fuses), ..Figure::amps(fuses, working) })
}

fn supply_working(p: &Prediction, title: &str, formula: &str) -> Working {
    let working = Working::new(title, formula, source::CIRCUITS)
        .with_text("Rs", "source resistance", format::with_unit(&format::fixed(p.source_ohm.unwrap_or(0.0) * 1e3, 1), "mΩ"))
        .with_text("I", "expected draw", amps(p.expected.current_a));
    match p.draw {
        Draw::Losses(_) | Draw::Efficiency { .. } => working,
        Draw::Class { .. } => {
            let efficiency = p.expected.power_w / (p.expected.current_a * p.expected.end_v);
            let shown = format::with_unit(&format::fixed(100.0 * efficiency, 0), "%");
            working.assuming(format!("The draw is by the efficiency usual for its class, {shown}."))
        }
    }
}

fn end(p: &Prediction) -> Option<Figure> {
    let end = p.end_v()?;
    let working = supply_working(p, "Supply under load, to expect", "V = Vrest − Rs · I, with P and I at V");
    Some(Figure::volts(end, assuming(working.with("Vrest", "supply at rest", p.rest_v.unwrap_or(p.reference_v), "V"), p)))
}

fn start(p: &Prediction) -> Option<Figure> {
    let start = p.start_for_reference()?;
    let mut working = Working::new("Start voltage that ends at the claim's", "Vref + Rs · I(Vref), capped", source::CIRCUITS)
        .with("Vref", "voltage of the claim", p.reference_v, "V")
        .with_text("Rs", "source resistance", format::with_unit(&format::fixed(p.source_ohm? * 1e3, 1), "mΩ"))
        .with("cap", "most that is allowed at its terminals", p.most_v, "V");
    if more_than(p.start_v?, p.most_v) {
        working = working.assuming("Capped: it will end below the claim's voltage.");
    }
    Some(Figure::volts(start, working))
}

fn end_says(p: &Prediction) -> String {
    let Some(end) = p.end_v() else {
        return "no source resistance known yet".into();
    };
    if at_least(WINDOW_V, (end - p.reference_v).abs()) {
        return "in the claim's window".into();
    }
    if end > p.reference_v {
        return format!("above the claim's {}", volts(p.reference_v));
    }
    match (p.start_for_reference(), p.start_v) {
        (Some(start), Some(wanted)) if more_than(wanted, p.most_v) => {
            format!("capped: start at {}, end below {}", volts(start), volts(p.reference_v))
        }
        (Some(start), _) => format!("start at {} to end at {}", volts(start), volts(p.reference_v)),
        _ => "below the claim's window".into(),
    }
}

fn peak(p: &Prediction) -> Figure {
    // The group whose output it is.
    let peak = |group: &&GroupShare| group.output_w(p.expected.power_w) / group.load_ohm;
    let hardest = p.groups.iter().max_by(|a, b| peak(a).total_cmp(&peak(b)));
    let (output_w, load_ohm) = hardest.map_or((0.0, p.load_ohm), |group| (group.output_w(p.expected.power_w), group.load_ohm));
    Figure::amps(
        p.peak_a,
        Working::new("Peak amps of one output", "√2 · Vrms / R", source::CIRCUITS)
            .with_text("Vrms", "output volts to expect, √(P · R)", volts((output_w * load_ohm).sqrt()))
            .with("R", "load", load_ohm, "Ω"),
    )
}

/// Seconds of rest that the heat of a run asks for; below 0 when the build takes it continuously, nothing when that is not known.
pub(super) fn cooling_s(output_w: f64, build: &Build) -> Option<f64> {
    build.continuous_w.as_ref().map(|most| TONE_S * (output_w / most.value - 1.0))
}

fn load_bank(p: &Prediction, group: &GroupShare, build: &Build) -> LoadBank {
    let output_w = group.output_w(p.high_w());
    let share = build.shares.first();
    let (ratio, label) = (share.map_or(1.0, |share| share.ratio.value / 100.0), share.map_or("", |share| share.label.as_str()));
    let rest_s = cooling_s(output_w, build).map_or(0.0, |rest| rest.max(0.0));
    let warm = rest_s > 0.0;
    let says = match (&build.continuous_w, &build.ten_second_w) {
        (None, None) => "its resistors' ratings are not entered".to_owned(),
        (_, Some(most)) if more_than(output_w, most.value) => "past its ten-second rating".to_owned(),
        _ if warm => {
            format!("past its lasting rating: {} s of tone, then cool for {} s", format::fixed(TONE_S, 0), format::fixed(rest_s.ceil(), 0))
        }
        _ => "carries it for a long time".to_owned(),
    };
    LoadBank {
        group: (p.groups.len() > 1)
            .then(|| format!("{} into {}", group.wiring.words(), format::with_unit(&format::ohms(group.nominal_ohm), "Ω"))),
        words: build.words.clone(),
        ohm: build.ohm.clone(),
        hottest_w: Figure::watts(
            output_w * ratio,
            Working::new("Most watts in one resistor", "share · P", source::CIRCUITS)
                .with_text("share", format!("of the {label} resistor"), format::with_unit(&format::percent(ratio), "%"))
                .with_text("P", "most output into one load", watts(output_w)),
        ),
        continuous_w: build.continuous_w.clone(),
        ten_second_w: build.ten_second_w.clone(),
        rest_s,
        says,
        warm,
    }
}
