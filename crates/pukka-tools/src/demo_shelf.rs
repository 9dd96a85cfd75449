//! The older part of the demo's shelf, measured on the stand-in bench: every power, volt and amp in it was read there.
//!
//! Each amplifier is one of the stand-in's characters, made larger or smaller; what its maker claims is that power at 14.4 V times a
//! factor of the table below, rounded as makers do.

use anyhow::Context;
use pukka_core::kernel::units::Level;
use pukka_core::live::{Ending, Method, RampResult, Round, Rules};
use pukka_core::record::session::{Mode, Policy, Session};
use pukka_sim::bench::Bench;
use pukka_sim::character::{Character, Stage, find};
use pukka_sim::drive::{self, Driven};
use pukka_sim::supply::SupplyKind;
use serde_json::{Value, json};

use crate::root;

/// One amplifier of the table.
struct Made {
    make: &'static str,
    model: &'static str,
    /// The stand-in's amplifier that it is a larger or smaller one of.
    like: &'static str,
    /// Times its rail volts.
    scale: f64,
    /// Loads, from the highest; the last is the lowest that is rated.
    loads: &'static [f64],
    /// Claims over what it makes.
    claims: f64,
    price: (f64, &'static str),
    on: &'static str,
}

const fn made(
    (make, model): (&'static str, &'static str),
    like: &'static str,
    scale: f64,
    loads: &'static [f64],
    claims: f64,
    price: (f64, &'static str),
    on: &'static str,
) -> Made {
    Made { make, model, like, scale, loads, claims, price, on }
}

const MADE: [Made; 26] = [
    made(("Tolland & Pike", "Mono 300"), "honest", 0.74, &[4.0, 2.0], 0.97, (89.0, "GBP"), "2024-02-10"),
    made(("Tolland & Pike", "Mono 700"), "honest", 1.10, &[4.0, 2.0], 0.98, (159.0, "GBP"), "2024-05-18"),
    made(("Tolland & Pike", "Duo 120"), "regulated", 0.92, &[4.0], 0.99, (119.0, "GBP"), "2024-09-07"),
    made(("Tolland & Pike", "Four 70"), "weak-channel", 1.05, &[4.0, 2.0], 1.08, (149.0, "GBP"), "2025-01-25"),
    made(("Tolland & Pike", "Mono 900"), "headroom", 1.02, &[4.0, 2.0], 0.95, (199.0, "GBP"), "2025-11-08"),
    made(("Hartsedge", "One-Twenty"), "regulated", 1.18, &[4.0], 1.0, (189.0, "GBP"), "2024-03-16"),
    made(("Hartsedge", "Four-Sixty"), "regulated", 0.98, &[4.0], 0.97, (169.0, "GBP"), "2024-10-19"),
    made(("Hartsedge", "Six-Hundred"), "headroom", 0.86, &[4.0, 2.0], 0.93, (179.0, "GBP"), "2025-04-12"),
    made(("Hartsedge", "Eight-Hundred"), "headroom", 1.08, &[4.0, 2.0], 0.96, (249.0, "GBP"), "2026-02-21"),
    made(("Quillmoor", "Mono 500"), "honest", 0.96, &[4.0, 2.0], 1.02, (109.0, "GBP"), "2024-04-06"),
    made(("Quillmoor", "Mono 500"), "honest", 0.94, &[4.0, 2.0], 1.05, (105.0, "GBP"), "2025-06-14"),
    made(("Quillmoor", "Two-Twenty"), "regulated", 1.08, &[4.0], 1.04, (129.0, "GBP"), "2025-03-01"),
    made(("Quillmoor", "Four-Forty"), "weak-channel", 0.92, &[4.0], 1.1, (119.0, "GBP"), "2025-08-30"),
    made(("Copley Strand", "S300"), "weak-supply", 0.82, &[4.0, 2.0], 1.3, (79.0, "EUR"), "2024-01-13"),
    made(("Copley Strand", "S900"), "weak-supply", 1.2, &[4.0, 2.0], 1.45, (129.0, "EUR"), "2024-08-03"),
    made(("Copley Strand", "Quad 90"), "weak-channel", 1.1, &[4.0], 1.35, (99.0, "EUR"), "2025-05-17"),
    made(("Copley Strand", "S700"), "protective", 1.02, &[4.0, 2.0], 1.28, (109.0, "EUR"), "2026-01-31"),
    made(("Brackwater", "Loft 80"), "honest", 0.62, &[4.0, 2.0], 1.55, (69.0, "EUR"), "2024-06-22"),
    made(("Brackwater", "Loft 220"), "honest", 0.98, &[4.0, 2.0], 1.7, (99.0, "EUR"), "2025-02-15"),
    made(("Brackwater", "60.2"), "regulated", 0.72, &[4.0], 1.4, (75.0, "EUR"), "2025-09-20"),
    made(("Brackwater", "60.4"), "weak-channel", 0.78, &[4.0], 1.6, (95.0, "EUR"), "2026-03-28"),
    made(("Fennway", "Slim 60.2"), "regulated", 0.8, &[4.0], 1.12, (99.0, "EUR"), "2024-07-13"),
    made(("Fennway", "Slim 60.4"), "weak-channel", 0.84, &[4.0], 1.15, (119.0, "EUR"), "2025-07-05"),
    made(("Fennway", "Bass 400"), "generous", 0.9, &[4.0, 2.0], 0.9, (139.0, "EUR"), "2025-10-11"),
    made(("Fennway", "Bass 650"), "generous", 1.1, &[4.0, 2.0], 0.88, (189.0, "EUR"), "2026-05-09"),
    // The same under another name.
    made(("Brackwater", "Sub 400"), "generous", 0.9, &[4.0, 2.0], 1.35, (109.0, "EUR"), "2026-04-18"),
];

/// The Mono 700 came back after a year and a half; by then its converter had aged.
const AGED: (&str, f64, &str) = ("Mono 700", 6.0, "2025-12-06");
const TONE_HZ: f64 = 40.0;
const ROUND_MS: u64 = 100;

/// Measures all of them, and writes the file of the demo.
pub fn write() -> anyhow::Result<()> {
    let mut sessions = Vec::new();
    for (n, made) in (0u64..).zip(&MADE) {
        let mut session = session(made, 40 + n, 1.0, made.on)?;
        if made.model == AGED.0 {
            let mut again = session.clone();
            let fresh = self::session(made, 90, AGED.1, AGED.2)?;
            for key in ["runs", "measured_on"] {
                again[key] = fresh[key].clone();
            }
            (again["id"], again["occasion"]) = (json!("demo-mono-700-again"), json!("to look for drift"));
            (session["id"], session["same_amplifier_as"]) = (json!("demo-mono-700"), again["id"].clone());
            sessions.push(again);
        }
        sessions.push(session);
    }
    for session in &sessions {
        let text = serde_json::to_vec(session)?;
        Session::read(&text).map_err(|problems| anyhow::anyhow!("{}: {problems:?}", session["amplifier"]["model"]))?;
    }
    let path = root().join("crates/pukka/demo-earlier/shelf.json");
    std::fs::write(&path, serde_json::to_string_pretty(&sessions)? + "\n").with_context(|| path.display().to_string())?;
    println!("{}: {} sessions", path.display(), sessions.len());
    Ok(())
}

fn character(made: &Made, aged: f64) -> anyhow::Result<&'static Character> {
    let like = find(made.like).with_context(|| format!("no stand-in amplifier “{}”", made.like))?;
    let scaled = Character {
        ratio: like.ratio * made.scale,
        regulated_v: like.regulated_v.map(|volts| volts * made.scale),
        converter_ohm: like.converter_ohm * aged,
        fuse_a: 400.0,
        protects_a: None,
        dies_a: None,
        ..like.clone()
    };
    // The bench holds its amplifier for good; this program ends with it.
    Ok(Box::leak(Box::new(scaled)))
}

fn session(made: &Made, seed: u64, aged: f64, on: &str) -> anyhow::Result<Value> {
    let character = character(made, aged)?;
    let outputs = character.outputs.len();
    let mut bench = Bench::with(seed, character, SupplyKind::bank(), made.loads[0]);
    bench.generator.hz = TONE_HZ;
    bench.advance(500);
    let (mut runs, mut claims) = (Vec::new(), Vec::new());
    let wiring = if outputs == 1 { json!({ "kind": "mono" }) } else { json!({ "kind": "channels", "driven": outputs }) };
    let start: jiff::civil::Date = on.parse()?;
    let start = start.at(9, 30, 0, 0).in_tz("UTC")?.timestamp();
    let mut rungs = Vec::new();
    for load_ohm in made.loads {
        bench.load_ohm = *load_ohm;
        rungs.push(
            json!({ "wiring": wiring, "setting": null, "load_ohm": load_ohm, "tone_hz": TONE_HZ, "modes": ["certified", "clipping"] }),
        );
        for mode in [Mode::Certified, Mode::Clipping] {
            let rest_v = bench.reads_supply_v();
            let driven = drive(&mut bench, mode, made)?;
            let best = driven.best.as_ref().context("nothing was clean")?;
            let minutes = i64::try_from(runs.len())? * 6;
            runs.push(run(
                best,
                mode,
                &wiring,
                (*load_ohm, bench.true_load_ohm()),
                rest_v,
                start + jiff::SignedDuration::from_mins(minutes),
            ));
            runs.last_mut().context("just made")?["id"] = json!(format!("r{}", runs.len()));
            if mode == Mode::Certified {
                let per_output = best.total_w() / outputs as f64;
                let at = best.supply_v.filter(|_| character.regulated_v.is_none()).map_or(1.0, |volts| (14.4 / volts).powi(2));
                claims.push(claim(claims.len(), &wiring, *load_ohm, rounded(per_output * at * made.claims)));
            }
            // It rests, and the bank recovers.
            bench.advance(120_000);
        }
    }
    Ok(json!({
        "format": "pukka-session", "version": 1,
        "amplifier": amplifier(made, character, &wiring, runs.iter().filter_map(|run| run["current_a"].as_f64()).fold(0.0, f64::max)),
        "claims": claims, "bench": ferry_lane()?, "runs": runs, "measured_on": on, "plan": { "rungs": rungs },
        "idle": { "current_a": character.idle_a, "supply_v": 14.5 }
    }))
}

fn ferry_lane() -> anyhow::Result<Value> {
    let path = root().join("crates/pukka/demo/ferry-lane-bench.json");
    let text = std::fs::read_to_string(&path).with_context(|| path.display().to_string())?;
    let mut bench: Value = serde_json::from_str(&text)?;
    if let Some(fields) = bench.as_object_mut() {
        fields.remove("name");
    }
    Ok(bench)
}

/// As makers round: to 5 W below 100 W, else to 10.
fn rounded(watts: f64) -> f64 {
    let step = if watts < 100.0 { 5.0 } else { 10.0 };
    (watts / step).round() * step
}

fn claim(n: usize, wiring: &Value, load_ohm: f64, power_w: f64) -> Value {
    json!({ "id": format!("c{}", n + 1), "source": "manual", "wiring": wiring, "setting": null, "load_ohm": load_ohm, "power_w": power_w,
        "per": "output", "kind": "rms", "supply_v": 14.4, "thd_limit_ratio": 0.01, "tone_hz": null, "used": true })
}

fn amplifier(made: &Made, character: &Character, wiring: &Value, most_a: f64) -> Value {
    let class = if character.stage == Stage::AB { "AB" } else { "D" };
    let outputs = character.outputs.len();
    let purpose = if outputs == 1 { "subwoofer" } else { "full-range" };
    let supply = if character.regulated_v.is_some() { "regulated" } else { "unregulated" };
    // Fuses as makers choose them: the next pair of a common size over what it draws.
    let fuse = [15.0, 20.0, 25.0, 30.0, 35.0, 40.0].into_iter().find(|amps| 2.0 * amps >= most_a).unwrap_or(40.0);
    let fuses = if most_a > 80.0 { vec![40.0; 3] } else { vec![fuse; 2] };
    let relations = match (made.make, made.model) {
        ("Brackwater", "Sub 400") => json!([{ "kind": "look-alike", "name": "Fennway Bass 400" }]),
        _ => json!([]),
    };
    let (amount, currency) = made.price;
    json!({
        "make": made.make, "model": made.model, "class": class, "purpose": purpose, "supply_type": supply, "channels": outputs,
        "fuses_a": fuses, "max_supply_v": 16.0, "floors": [{ "wiring": wiring, "load_ohm": made.loads.last() }],
        "price": { "amount": amount, "currency": currency, "on": made.on }, "provenance": "bought", "relations": relations
    })
}

fn run(best: &Round, mode: Mode, wiring: &Value, (nominal, measured): (f64, f64), rest_v: f64, at: jiff::Timestamp) -> Value {
    let digits = |value: f64, decimals: i32| (value * 10f64.powi(decimals)).round() / 10f64.powi(decimals);
    let outputs: Vec<Value> = best.power_w.iter().map(|watts| json!({ "power_w": digits(*watts, 1) })).collect();
    let mut run = json!({
        "at": at, "wiring": wiring, "setting": null, "load_nominal_ohm": nominal, "load_measured_ohm": digits(measured, 2), "mode": mode,
        "tone_hz": TONE_HZ, "outputs": outputs, "rest_v": digits(rest_v, 2), "end_v": best.supply_v.map(|volts| digits(volts, 2)),
        "current_a": best.supply_a.map(|amps| digits(amps, 1)), "charger_on": false, "valid": true
    });
    run["method"] = json!("ramp");
    run["limit_ratio"] = json!(if mode == Mode::Certified { 0.01 } else { 0.03 });
    run["thd_ratio"] = json!(best.thd_ratio.map(|thd| digits(thd, 4)));
    run
}

/// Drives a run as the program does, on the bench's own time.
fn drive(bench: &mut Bench, mode: Mode, made: &Made) -> anyhow::Result<RampResult> {
    let most = Level::new(10.0).unwrap_or(Level::FULL);
    let rules = Rules::new(&Policy::default(), mode, Method::Ramp, most, 150, TONE_HZ);
    let read = |bench: &Bench, t_ms, level| drive::round(bench, t_ms, level, false);
    let Driven { ended, found, .. } =
        drive::drive_by(bench, rules, ROUND_MS, read).with_context(|| format!("{} {} never ended", made.make, made.model))?;
    anyhow::ensure!(matches!(ended, Ending::Done | Ending::Top), "{} {}, {}: {}", made.make, made.model, mode.word(), ended.says());
    Ok(found)
}
