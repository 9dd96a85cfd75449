//! How each figure of a run was made, down to the readings it stands on.

use crate::evidence::band::{Band, Basis, Sample};
use crate::evidence::power::{OutputPower, PowerOf, Total, meter_of, total_of};
use crate::evidence::{total, uncertainty};
use crate::kernel::format;
use crate::kernel::units::{PowerDecibels, at_least};
use crate::kernel::working::{Figure, Working, source};
use crate::record::bench::Meter;
use crate::record::session::{Mode, OutputReading, Run, Session};

fn watts(value: f64) -> String {
    format::with_unit(&format::watts(value), "W")
}

fn load_note(run: &Run, working: Working) -> Working {
    match run.load_measured_ohm {
        Some(load) => working.with("R", "load, measured", load.get(), "Ω"),
        None => working.with("R", "load, nominal", run.load_nominal_ohm.get(), "Ω").assuming("Nominal load: none measured."),
    }
}

fn output_working(run: &Run, title: String, of: PowerOf, reading: f64) -> Working {
    match of {
        PowerOf::Watts => Working::new(title, "P, as read", source::AMPLIFIERS).with("P", "power as read", reading, "W"),
        PowerOf::VoltsRms => {
            load_note(run, Working::new(title, "P = V² / R", source::CIRCUITS).with("V", "output volts rms, as read", reading, "V"))
        }
        PowerOf::VoltsPeak => load_note(
            run,
            Working::new(title, "P = Vpk² / (2 · R)", source::CIRCUITS).with("Vpk", "output volts peak, as read", reading, "V"),
        )
        .assuming("An unclipped sine: its peak is √2 times its rms value."),
        PowerOf::VoltsPeakToPeak => load_note(
            run,
            Working::new(title, "P = Vpp² / (8 · R)", source::CIRCUITS).with("Vpp", "output volts peak to peak, as read", reading, "V"),
        )
        .assuming("An unclipped sine: its peak-to-peak value is 2·√2 times its rms value."),
    }
}

fn output_name(run: &Run, index: usize) -> String {
    run.outputs.get(index).and_then(|output| output.name.clone()).unwrap_or_else(|| (index + 1).to_string())
}

fn output_figure(run: &Run, index: usize, output: &OutputPower) -> Figure {
    let group = run.outputs.get(index).and_then(|reading| reading.group);
    let part = group.zip(run.wiring.groups()).and_then(|(group, groups)| Some(run.of_group(group, groups.get(group)?)));
    let working =
        output_working(part.as_ref().unwrap_or(run), format!("Power of output {}", output_name(run, index)), output.of, output.reading);
    Figure::watts(output.power_w, working).give_or_take(Some(2.0 * output.u_w))
}

/// Power of each metered output, when there are several.
pub(super) fn per_output(run: &Run, total: &Total) -> Vec<Figure> {
    if total.outputs.len() < 2 {
        return Vec::new();
    }
    total.outputs.iter().enumerate().map(|(i, output)| output_figure(run, i, output)).collect()
}

/// The sum over the groups of a mixed wiring, each with the working it has by itself.
fn groups_working(session: &Session, run: &Run, total: &Total) -> Working {
    let working = Working::new("Total power", "P = Σ Pg", source::METHOD);
    let each = run.parts().zip(&total.group_w).enumerate();
    each.fold(working, |working, (i, (part, power_w))| {
        let what = part.wiring.place_words(part.load_nominal_ohm);
        let working = working.with(&format!("P{}", i + 1), what, *power_w, "W");
        let own = total_of(session, &part, &part.outputs).ok().map(|own| total_figure(session, &part, &own).working);
        working.made_from(own)
    })
}

/// Total power of a run.
pub fn total_figure(session: &Session, run: &Run, total: &Total) -> Figure {
    let metered = total.outputs.len();
    let driven = metered + total.assumed_outputs;
    let mut working = match total.outputs.as_slice() {
        _ if !total.group_w.is_empty() => groups_working(session, run, total),
        [only] if total.assumed_outputs == 0 => output_working(run, "Total power".into(), only.of, only.reading),
        outputs => {
            let formula = if total.assumed_outputs == 0 { "P = Σ Pi" } else { "P = (Σ Pi / m) · n" };
            let mut working = Working::new("Total power", formula, source::METHOD);
            for (i, output) in outputs.iter().enumerate() {
                working = working.with(&format!("P{}", i + 1), format!("output {}", output_name(run, i)), output.power_w, "W");
                working = working.made_from([output_figure(run, i, output).working]);
            }
            working
        }
    };
    working = of_run(working, run);
    if total.assumed_outputs > 0 && total.group_w.is_empty() {
        working = working
            .with_text("m", "outputs metered", metered.to_string())
            .with_text("n", "outputs driven", driven.to_string())
            .assuming(format!("Assumed for {} of {driven} outputs, which were on dummy loads.", total.assumed_outputs));
    }
    if run.cut_short() {
        working = working.assuming("At least so much: the run was cut short.");
    } else if total.at_least {
        working = working.assuming("At least so much: every level step was inside the limit.");
    } else if !run.steps.is_empty() {
        working = working.assuming("Between the two level steps that straddle the limit, linear against the logarithm of the distortion.");
    }
    let beneath = [steps_working(session, run), cycles_working(session, run), uncertainty_working(session, run, total)];
    working = working.with_text("U", "expanded uncertainty, k = 2", watts(total.expanded_w())).made_from(beneath.into_iter().flatten());
    let figure = Figure::watts(total.total_w, working).give_or_take(Some(total.expanded_w()));
    if total.at_least { Figure { text: total.watts_shown(), ..figure } } else { figure }
}

fn steps_working(session: &Session, run: &Run) -> Option<Working> {
    if run.steps.is_empty() {
        return None;
    }
    let limit = run.limit_ratio.unwrap_or(session.policy.thd_limit_ratio).get();
    let formula = "P = P1 + (P2 − P1) · ln(L / D1) / ln(D2 / D1)";
    let working = Working::new("Level steps", formula, source::METHOD).with("L", "distortion limit", limit * 100.0, "%");
    Some(run.steps.iter().fold(working, |working, step| {
        let power = total_of(session, run, &step.outputs).map_or_else(|why| why.to_string(), |total| watts(total.total_w));
        let thd = step
            .thd_ratio
            .map_or_else(|| "distortion not read".into(), |thd| format!("{} % distortion", format::as_read(thd.get() * 100.0)));
        working.with_text(&format::with_unit(&format::as_read(step.level_db.get()), "dB"), thd, power)
    }))
}

fn cycles_working(session: &Session, run: &Run) -> Option<Working> {
    let cycles = run.cycles.as_ref().filter(|_| run.outputs.is_empty())?;
    let of = |end: &OutputReading| {
        total_of(session, run, std::slice::from_ref(end)).map_or_else(|why| why.to_string(), |total| watts(total.total_w))
    };
    let Some(last) = &cycles.last else {
        return Some(Working::new("A single cycle", "P", source::METHOD).with_text("P", "power of the cycle", of(&cycles.first)));
    };
    Some(
        Working::new(format!("{} counted cycles", cycles.count), "P = min(Pfirst, Plast)", source::METHOD)
            .with_text("Pfirst", "power of the first cycle", of(&cycles.first))
            .with_text("Plast", "power of the last cycle", of(last)),
    )
}

/// By which meter, and within what: "bench scope", "± 4.47 W".
fn limits(meter: Option<&Meter>, reading: f64, unit: &str, default: f64) -> (String, String) {
    let half = format::with_unit(&format::significant(uncertainty::half_width(meter, reading, default), 3), unit);
    let by = match meter {
        Some(meter) => meter.name.clone().unwrap_or_else(|| meter.id.clone()),
        None => format!("no meter given, ± {} %", format::as_read(default * 100.0)),
    };
    (by, format!("± {half}"))
}

fn uncertainty_working(session: &Session, run: &Run, total: &Total) -> Option<Working> {
    let readings: &[OutputReading] = &run.outputs;
    if readings.is_empty() {
        return None;
    }
    let volts = total.outputs.iter().any(|output| output.of != PowerOf::Watts);
    let formula =
        if volts { "u(P)/P = √((2·u(V)/V)² + (u(R)/R)²),  U = 2 · √(Σ u²)" } else { "u = a / √3,  U = 2 · √(Σ u²)" };
    let mut working = Working::new("Uncertainty of the total", formula, source::UNCERTAINTY);
    for (i, (output, reading)) in total.outputs.iter().zip(readings).enumerate() {
        let (meter, default) = meter_of(session, run, reading, output.of);
        let (by, within) = limits(meter, output.reading, output.of.unit(), default);
        let what = format!("output {}, read within a by: {by}", output_name(run, i));
        let u = format::with_unit(&format::significant(output.u_w, 3), "W");
        working = working.with_text(&format!("u{}", i + 1), what, format!("{u}, a {within}"));
    }
    if volts {
        let of_load = format::with_unit(&format::fixed(100.0 * uncertainty::load(session, run), 2), "%");
        working = working.with_text("u(R)/R", "load, standard uncertainty", of_load);
    }
    if total.outputs.len() > 1 {
        working = working.assuming("Outputs read by one meter add up; by separate meters they add in quadrature.");
    }
    if total.assumed_outputs > 0 {
        working = working.assuming("Outputs taken from others scale their uncertainty.");
    }
    Some(working)
}

/// Working of the draw from the supply, and of what is made of it.
pub(super) fn draw_working(total: &Total, title: &str, formula: &str) -> Working {
    let mut working = Working::new(title, formula, source::CIRCUITS);
    if let Some(volts) = total.end_v {
        working = working.with("V", "supply at the amplifier, under load", volts, "V");
    }
    if let Some(amps) = total.current_a {
        working = working.with("I", "supply current, same moment", amps, "A");
    }
    working
}

/// `made`, here and below, is how the total was made.
pub(super) fn heat_figure(total: &Total, heat_w: f64, made: &Working) -> Figure {
    let working = draw_working(total, "Heat in amplifier", "Pheat = V · I − P").with("P", "power out, in total", total.total_w, "W");
    Figure::watts(heat_w, working.made_from([made.clone()]))
}

pub(super) fn efficiency_figure(session: &Session, run: &Run, total: &Total, ratio: f64, made: &Working) -> Figure {
    let Some((volts, amps)) = total.read_v.zip(total.current_a) else {
        let working = Working::new("Efficiency", "η, as read", source::METHOD).with("η", "efficiency as read", ratio * 100.0, "%");
        return Figure::percent(ratio, of_run(working, run).assuming("Read off a meter, not computed from amps."));
    };
    let u = uncertainty::quadrature([
        total.relative_u(),
        total.end_relative_u.unwrap_or_else(|| uncertainty::supply_volts(session, volts.get())),
        uncertainty::amps(session, run, amps.get()),
    ]);
    let working = draw_working(total, "Efficiency", "η = 100 · P / (V · I)")
        .with("P", "power out, in total", total.total_w, "W")
        .with_text("U", "expanded uncertainty, k = 2", format::with_unit(&format::fixed(200.0 * u * ratio, 1), "points"))
        .made_from([made.clone()]);
    Figure::percent(ratio, working).give_or_take(Some(200.0 * u * ratio))
}

pub(super) fn sag_figure(run: &Run, total: &Total, sag_v: f64) -> Figure {
    let mut working = of_run(Working::new("Sag from rest", "sag = Vrest − Vend", source::METHOD), run);
    if let Some((rest, end)) = run.rest_v.zip(total.read_v) {
        working = working.with("Vrest", "supply before the run", rest.get(), "V").with("Vend", "supply under load", end, "V");
    }
    if run.charger_on == Some(true) {
        working = working.assuming("The charger was on: it lifts the start and holds back the sag.");
    }
    Figure::volts(sag_v, working)
}

pub(super) fn balance_figure(run: &Run, total: &Total, db: PowerDecibels) -> Figure {
    let mut working = of_run(Working::new("Channel balance", "10 · log10(Pmax / Pmin)", source::METHOD), run);
    for (i, output) in total.outputs.iter().enumerate() {
        working = working.with(&format!("P{}", i + 1), format!("output {}", output_name(run, i)), output.power_w, "W");
        working = working.made_from([output_figure(run, i, output).working]);
    }
    if db.get() < 0.5 {
        working = working.assuming("Under 0.5 dB nobody hears it.");
    }
    Figure::decibels(db, working)
}

pub(super) fn fade_figure(session: &Session, run: &Run, total: &Total, made: &Working) -> Option<Figure> {
    let hold = run.hold.as_ref()?;
    let held = total_of(session, run, &hold.outputs).ok()?;
    let db = PowerDecibels::of(held.total_w / total.total_w)?.get();
    let working = Working::new("Fade over the hold", "10 · log10(Phold / P)", source::METHOD)
        .with("Phold", "power after the hold", held.total_w, "W")
        .with("P", "power at once", total.total_w, "W")
        .with("t", "held for", hold.seconds, "s")
        .made_from([made.clone()]);
    Some(Figure::decibels(db, working))
}

pub(super) fn best_figure(session: &Session, run: &Run, total: &Total, best_w: f64) -> Figure {
    let working = Working::new("Better end of the counted cycles", "max(Pfirst, Plast)", source::METHOD)
        .with("P", "power of the run, its weaker end", total.total_w, "W")
        .assuming("More in the first than in the last is what the rail capacitors hold.")
        .made_from(cycles_working(session, run));
    Figure::watts(best_w, working)
}

/// Value of `P / C`.
pub fn percent_of_claim(power_w: f64, claim_w: f64, from: impl IntoIterator<Item = Working>) -> Figure {
    let working = Working::new("Percent of the claim, as read", "100 · P / C", source::METHOD)
        .with("P", "power as read", power_w, "W")
        .with("C", "power claimed, in total", claim_w, "W");
    Figure::percent(power_w / claim_w, working.made_from(from))
}

/// A bound of a power at a reference voltage; `from` is how the power as read was made.
pub fn band_figure(sample: Sample, band: &Band, reference_v: f64, upper: bool, from: impl IntoIterator<Item = Working>) -> Figure {
    let (bound, volts, exponent, u) = if upper {
        (band.high_w, band.high_v, band.high_exponent, band.high_expanded_w)
    } else {
        (band.low_w, band.low_v, band.low_exponent, band.low_expanded_w)
    };
    let title = format!("Power at {} V", format::as_read(reference_v));
    let mut working = Working::new(title, "P(Vref) = P · (Vref / V)^e", source::METHOD)
        .with("P", "power as read", sample.power_w, "W")
        .with("Vref", "voltage it is brought to", reference_v, "V");
    let meaning = if sample.supply.is_derived() {
        "supply under load, made from watts, amps and the efficiency read: P / (η · I)"
    } else if band.basis == Basis::Span {
        "supply under load, the end of its span that gives this"
    } else {
        "supply under load"
    };
    working = working.with("V", meaning, volts, "V");
    working = working.with("e", "exponent", exponent, "").with_text("U", "expanded uncertainty, k = 2", watts(u)).made_from(from);
    if let Some(measured) = sample.measured.filter(|_| band.basis == Basis::Measured) {
        let formula = "e = ln(P1 / P2) / ln(V1 / V2), from 0 to 2";
        let span = Working::new("The exponent", formula, source::METHOD)
            .with("V1", "highest supply of a certified run here", measured.high_v, "V")
            .with("V2", "lowest supply of a certified run here", measured.low_v, "V")
            .with("e", "exponent", measured.exponent, "");
        working = working.made_from([span]);
    }
    for assumption in band.basis.assumptions() {
        working = working.assuming(*assumption);
    }
    if matches!(band.basis, Basis::Between | Basis::Span) {
        working = working.assuming(if upper { "The upper end of the band." } else { "The lower end of the band." });
    }
    Figure::watts(bound, working).give_or_take(Some(u))
}

/// How the powers of runs were made, as far as they have one.
pub fn workings_of(session: &Session, runs: &[&Run]) -> Vec<Working> {
    runs.iter().filter_map(|run| Some(total_figure(session, run, &total(session, run).ok()?).working)).collect()
}

/// A power at a reference voltage: one figure, or the two ends of a band.
pub fn band_figures(sample: Sample, band: &Band, reference_v: f64, from: &[Working]) -> (Figure, Option<Figure>) {
    let end = |upper| band_figure(sample, band, reference_v, upper, from.iter().cloned());
    (end(false), (!at_least(band.low_w, band.high_w)).then(|| end(true)))
}

/// Burst against clean, in decibels.
pub fn headroom_figure(burst: (&Figure, f64), clean: (&Figure, f64), load: &str) -> Option<Figure> {
    let working = Working::new("Headroom", "10 · log10(Pdynamic / Pcertified)", source::METHOD)
        .with("Pdynamic", format!("burst at {load}"), burst.1, "W")
        .with("Pcertified", format!("certified at {load}"), clean.1, "W")
        .made_from([burst.0.working.clone(), clean.0.working.clone()]);
    Some(Figure::decibels(PowerDecibels::of(burst.1 / clean.1)?.get(), working))
}

/// Names the run that a working stands on.
fn of_run(working: Working, run: &Run) -> Working {
    let load = run.wiring.load_words(run.load_nominal_ohm);
    let minute = run.at.strftime("%Y-%m-%d %H:%M").to_string();
    let mode = if run.mode == Mode::Dynamic { "dynamic burst" } else { run.mode.word() };
    working.with_text("run", format!("{load}, {mode}, {}", run.wiring.words()), minute)
}
