//! What the parts inside say beside the watts: energy in the rail capacitors against what a burst takes, capacitance and device amps
//! for each watt.

use serde::{Deserialize, Serialize};

use crate::evidence::total::total;
use crate::kernel::format;
use crate::kernel::wiring::Wiring;
use crate::kernel::working::{Figure, Working, source};
use crate::record::amplifier::Inside;
use crate::record::claims::Claim;
use crate::record::session::{Mode, Run, Session};

/// A standard burst: 20 ms, and two whole cycles at least.
const BURST_S: f64 = 0.02;
const BURST_CYCLES: f64 = 2.0;

/// Figures of the parts inside; each only where its numbers are known.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct InsideFigures {
    /// Energy in the rail capacitors, joules.
    pub stored: Option<Figure>,
    /// Energy that goes into the loads during one standard burst, joules.
    pub burst: Option<Figure>,
    /// Stored energy over that of a burst.
    pub bursts_stored: Option<Figure>,
    /// Rail capacitance for each watt, µF.
    pub uf_a_watt: Option<Figure>,
    /// Rated amps of the output devices for each watt.
    pub device_a_a_watt: Option<Figure>,
}

/// A power that the parts are held against, and where it is from.
struct Power {
    total_w: f64,
    output_w: f64,
    load_ohm: f64,
    tone_hz: f64,
    bridged: bool,
    words: String,
    measured: bool,
}

/// Figures of the parts inside a session's amplifier.
#[must_use]
pub fn inside_figures(session: &Session) -> InsideFigures {
    let (Some(inside), Some(clean)) = (&session.amplifier.inside, power(session)) else { return InsideFigures::default() };
    let uf = inside.rail_uf();
    let stored = uf.map(|uf| stored(uf, &clean));
    let burst = burst(session, &clean);
    InsideFigures {
        bursts_stored: stored.as_ref().map(|stored| {
            let working = Working::new("Bursts that the rails hold", "E / Eburst", source::METHOD)
                .with_text("E", "energy in the rail capacitors", stored.words())
                .with_text("Eburst", "energy of one burst", burst.words())
                .made_from([stored.working.clone(), burst.working.clone()]);
            Figure::significant(stored.value / burst.value, "×", working)
        }),
        uf_a_watt: uf.map(|uf| each_watt("Rail capacitance for each watt", "C", "rail capacitors", uf, "µF", &clean)),
        device_a_a_watt: device_amps(inside)
            .map(|amps| each_watt("Device amps for each watt", "I", "output devices, rated", amps, "A", &clean)),
        stored,
        burst: Some(burst),
    }
}

/// The most clean power that was measured; before any run, the headline claim.
fn power(session: &Session) -> Option<Power> {
    let clean = session.standing_runs().filter(|run| run.is_certified() && !run.ungated);
    let best = clean.filter_map(|run| Some((run, total(session, run).ok()?.total_w))).max_by(|a, b| a.1.total_cmp(&b.1));
    let measured = best.and_then(|(run, total_w)| of_run(run, total_w));
    measured.or_else(|| of_claim(session, session.headline()?))
}

fn of_run(run: &Run, total_w: f64) -> Option<Power> {
    let outputs = f64::from(run.wiring.outputs());
    (run.wiring.groups().is_none() && total_w > 0.0).then(|| Power {
        total_w,
        output_w: total_w / outputs,
        load_ohm: run.load().get(),
        tone_hz: run.tone_hz.get(),
        bridged: matches!(run.wiring, Wiring::Bridged { .. }),
        words: format!("clean, into {}", run.wiring.place_words(run.load_nominal_ohm)),
        measured: true,
    })
}

fn of_claim(session: &Session, claim: &Claim) -> Option<Power> {
    let (wiring, load) = claim.place()?;
    let total_w = claim.total_w().filter(|watts| *watts > 0.0 && wiring.groups().is_none())?;
    Some(Power {
        total_w,
        output_w: total_w / f64::from(wiring.outputs()),
        load_ohm: load.get(),
        tone_hz: claim.tone_hz.map_or_else(|| session.amplifier.purpose.tone_hz(), crate::kernel::units::Hertz::get),
        bridged: matches!(wiring, Wiring::Bridged { .. }),
        words: format!("claimed, into {}", wiring.place_words(load)),
        measured: false,
    })
}

impl Power {
    /// Peak of the output: what each rail has to hold at least; of a bridged pair each channel swings half.
    fn peak_v(&self) -> f64 {
        (2.0 * self.output_w * self.load_ohm).sqrt() / if self.bridged { 2.0 } else { 1.0 }
    }

    fn assumed(&self, working: Working) -> Working {
        if self.measured { working } else { working.assuming("Nothing was run clean yet: the claim stands in.") }
    }
}

fn stored(uf: f64, clean: &Power) -> Figure {
    let volts = clean.peak_v();
    let working = Working::new("Energy in the rail capacitors", "E = ½ · C · V²", source::CIRCUITS)
        .with("C", "rail capacitors, all together", uf, "µF")
        .with_text("V", format!("peak of one output, {}", clean.words), format::with_unit(&format::fixed(volts, 1), "V"))
        .assuming("The rails stand at the peak of that output: the least they have to hold.");
    Figure::significant(0.5 * uf * 1e-6 * volts * volts, "J", clean.assumed(working))
}

/// Energy of one standard burst, at the best burst that was run into that load, else at the clean power.
fn burst(session: &Session, clean: &Power) -> Figure {
    let bursts = session.standing_runs().filter(|run| run.mode == Mode::Dynamic && run.load().get() == clean.load_ohm);
    let best = bursts.filter_map(|run| Some(total(session, run).ok()?.total_w)).max_by(f64::total_cmp);
    let (power_w, words) = best.map_or((clean.total_w, clean.words.clone()), |watts| (watts, "in bursts, into that load".into()));
    let seconds = BURST_S.max(BURST_CYCLES / clean.tone_hz);
    let working = Working::new("Energy of one burst", "E = P · t", source::CIRCUITS)
        .with_text("P", words, format::with_unit(&format::watts(power_w), "W"))
        .with_text("t", "20 ms, two whole cycles at least", format::with_unit(&format::as_read(seconds * 1e3), "ms"));
    Figure::significant(power_w * seconds, "J", clean.assumed(working))
}

fn each_watt(title: &str, symbol: &str, what: &str, amount: f64, unit: &str, clean: &Power) -> Figure {
    let working = Working::new(title, &format!("{symbol} / P"), source::METHOD).with(symbol, what, amount, unit).with_text(
        "P",
        clean.words.clone(),
        format::with_unit(&format::watts(clean.total_w), "W"),
    );
    Figure::significant(amount / clean.total_w, &format!("{unit}/W"), clean.assumed(working))
}

/// Rated amps of all output devices together; nothing where no rating was noted.
fn device_amps(inside: &Inside) -> Option<f64> {
    let rated = inside.devices.iter().filter_map(|row| Some(row.rated_a?.get() * f64::from(row.count)));
    let (rows, amps) = rated.fold((0, 0.0), |(rows, sum), amps| (rows + 1, sum + amps));
    (rows > 0).then_some(amps)
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::record::session::examples::mono_1100;

    fn with_parts() -> Session {
        let mut session = mono_1100();
        session.amplifier.inside = serde_json::from_value(json!({
            "capacitors": [{ "uf": 3300.0, "rated_v": 63.0, "count": 4, "place": "rails" }, { "uf": 4700.0, "rated_v": 16.0, "count": 2, "place": "supply" }],
            "devices": [{ "part": "FL-60", "count": 4, "rated_a": 60.0, "place": "outputs" }]
        }))
        .unwrap();
        session
    }

    #[test]
    fn worked_by_hand() {
        let session = with_parts();
        let run = session.runs.iter().find(|run| run.is_certified() && run.load_nominal_ohm.get() == 1.0).unwrap();
        let load = run.load().get();
        let found = inside_figures(&session);
        // 4 × 3300 µF at √(2 · 1068 · R): only what stands in the rails counts
        let volts_squared = 2.0 * 1_068.0 * load;
        let stored = 0.5 * 13_200e-6 * volts_squared;
        assert!((found.stored.as_ref().unwrap().value - stored).abs() < 1e-9, "{found:?}");
        // 40 Hz: two cycles are 50 ms
        assert!((found.burst.as_ref().unwrap().value - 1_279.0 * 0.05).abs() < 1e-9, "{found:?}");
        assert!((found.bursts_stored.unwrap().value - stored / 63.95).abs() < 1e-9);
        assert!((found.uf_a_watt.unwrap().value - 13_200.0 / 1_068.0).abs() < 1e-9);
        assert!((found.device_a_a_watt.unwrap().value - 240.0 / 1_068.0).abs() < 1e-9);
    }

    #[test]
    fn before_a_run_the_claim_stands_in_and_nothing_is_made_of_nothing() {
        let mut session = with_parts();
        session.runs.clear();
        let found = inside_figures(&session);
        assert!(found.uf_a_watt.unwrap().working.assumptions[0].contains("claim stands in"));
        session.claims.clear();
        assert_eq!(inside_figures(&session), InsideFigures::default());
        let mut bare = mono_1100();
        bare.amplifier.inside = serde_json::from_value(json!({ "board": "FL 12" })).unwrap();
        let found = inside_figures(&bare);
        assert!(found.stored.is_none() && found.uf_a_watt.is_none() && found.burst.is_some());
    }
}
