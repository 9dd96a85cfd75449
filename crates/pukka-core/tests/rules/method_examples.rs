//! The worked examples of docs/method.md, read from the document: the program has to give the same figures, to half of the last
//! digit printed.

use std::collections::{BTreeMap, BTreeSet};

use pukka_core::assess::at_volts::VoltageRow;
use pukka_core::assess::{Outcome, RunVerdict, judge};
use pukka_core::evidence::band::MeasuredExponent;
use pukka_core::evidence::figures;
use pukka_core::evidence::inside::inside_figures;
use pukka_core::evidence::source_ohm::{self, Sag};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::predict::model::{LoadLine, Point};
use pukka_core::record::bench::leads::{awg_mm2, drop_and_heat};
use pukka_core::record::claims::sense::ceiling_w;
use pukka_core::record::session::examples::{claim, mono_1100};
use pukka_core::record::session::gain::{drive_db, driven_volts, target_volts};
use pukka_core::record::session::{Mode, Repeats, Run, Session};
use pukka_core::report::view::view;
use pukka_core::traces::distortion::Tools;
use pukka_core::traces::ramp::certified;
use pukka_core::traces::report::LevelPoint;
use pukka_core::traces::{ChannelSetting, Memory, TraceSettings, read};
use serde_json::{Value, json};

/// The numbers of an example, by name.
struct Given<'a>(&'a BTreeMap<String, f64>);

impl Given<'_> {
    fn get(&self, name: &str) -> f64 {
        *self.0.get(name).unwrap_or_else(|| panic!("the example gives no {name}"))
    }

    fn has(&self, name: &str) -> bool {
        self.0.contains_key(name)
    }
}

type Results = Vec<(&'static str, f64)>;

/// A session of one amplifier without meters of its own, its runs as given.
fn session(runs: Vec<Value>) -> Session {
    let mut session = mono_1100();
    session.bench.meters.clear();
    session.runs = runs.into_iter().enumerate().map(|(i, run)| made(i, run)).collect();
    let channels = session.runs.iter().map(|run| run.wiring.outputs()).max().unwrap_or(1);
    session.amplifier.channels = channels.max(1);
    session
}

fn made(index: usize, change: Value) -> Run {
    let mut run = json!({ "id": format!("r{index}"), "at": format!("2026-11-20T10:{index:02}:00Z"), "wiring": { "kind": "mono" },
        "load_nominal_ohm": 4.0, "mode": "certified", "tone_hz": 40.0 });
    for (key, value) in change.as_object().unwrap() {
        run[key] = value.clone();
    }
    serde_json::from_value(run).unwrap()
}

fn first(session: &Session) -> RunVerdict {
    judge(session).runs.into_iter().next().unwrap()
}

fn watts(power_w: f64) -> Value {
    json!([{ "power_w": power_w }])
}

fn meter(id: &str, quantity: &str, ratio: f64) -> Value {
    json!({ "id": id, "quantity": quantity, "reading_ratio": ratio })
}

fn with_meters(mut session: Session, meters: Value) -> Session {
    session.bench.meters = serde_json::from_value(meters).unwrap();
    session
}

fn one_output(g: &Given, reading: &str) -> Results {
    let session = session(vec![json!({ "load_measured_ohm": g.get("load_ohm"), "outputs": [{ reading: g.get(reading) }] })]);
    vec![("power_w", first(&session).total_w.unwrap())]
}

fn two_outputs(g: &Given, driven: u8, meters: [Option<&str>; 2]) -> Session {
    let output = |n: usize| json!({ "power_w": g.get(&format!("power_{n}_w")), "meter": meters[n - 1] });
    session(vec![json!({ "wiring": { "kind": "channels", "driven": driven }, "outputs": [output(1), output(2)] })])
}

/// Two channels by their watts, and a bridged pair by its volts.
fn two_groups(g: &Given) -> Session {
    let group = |wiring: Value| json!({ "wiring": wiring, "load_ohm": 4.0 });
    let groups = [group(json!({ "kind": "channels", "driven": 2 })), group(json!({ "kind": "bridged", "pairs": 1 }))];
    let channel = |n: usize| json!({ "group": 0, "power_w": g.get(&format!("power_{n}_w")) });
    session(vec![json!({
        "wiring": { "kind": "mixed", "groups": groups }, "group_loads_measured_ohm": [4.0, g.get("load_ohm")],
        "outputs": [channel(1), channel(2), { "group": 1, "volts_rms": g.get("volts_rms") }],
    })])
}

/// A sine cut at 1, band-limited by its series, as the kernel measures it.
fn clipped_sine(c: f64) -> Results {
    use std::f64::consts::{PI, TAU};
    let theta = c.asin();
    let coefficient = |n: f64| {
        let inside = if n < 2.0 {
            theta - (2.0 * theta).sin() / 2.0
        } else {
            ((n - 1.0) * theta).sin() / (n - 1.0) - ((n + 1.0) * theta).sin() / (n + 1.0)
        };
        (2.0 / PI * inside + 4.0 * c / PI * (n * theta).cos() / n) / c
    };
    let series: Vec<(f64, f64)> = (0..192).map(|i| f64::from(2 * i + 1)).map(|n| (n, coefficient(n))).collect();
    let at = |i: u32| series.iter().map(|(n, b)| b * (n * TAU * f64::from(i) / 768.0).sin()).sum::<f64>();
    let samples: Vec<f64> = (0..7_680).map(at).collect();
    let found = pukka_core::traces::distortion::tone(&mut Tools::default(), &samples, 768_000.0, 1_000.0).unwrap();
    vec![
        ("fundamental_over_limit", found.sine.amplitude()),
        ("rms_over_limit", found.rms),
        ("thd_ratio", found.thd_ratio.unwrap()),
        ("past_onset_db", found.past_onset_db.unwrap()),
    ]
}

fn ramp_crossing(g: &Given) -> Results {
    let point =
        |at_s: f64, power: f64, thd: f64| LevelPoint { at_s, rms: (power * 4.0).sqrt(), power_w: Some(power), thd_n_ratio: Some(thd) };
    let (low, high) = (g.get("distortion_below_ratio"), g.get("distortion_above_ratio"));
    let above = g.get("power_above_w");
    let points = [point(0.0, g.get("power_below_w"), low), point(0.01, above, high), point(0.02, above, high), point(0.03, above, high)];
    vec![("power_w", certified(&points, g.get("limit_ratio")).unwrap().power_w.unwrap())]
}

/// A burst of 1 kHz in silence, its cycles ever lower.
fn drooping_burst(g: &Given) -> Results {
    let (first, last, cycles) = (g.get("first_peak_v"), g.get("last_peak_v"), g.get("cycles"));
    let at = |n: usize| {
        let turns = n as f64 / 96.0 - 50.0;
        let peak = first + (last - first) * turns.floor() / (cycles - 1.0);
        if (0.0..cycles).contains(&turns) { peak * (std::f64::consts::TAU * turns).sin() } else { 0.0 }
    };
    let samples: Vec<f64> = (0..12_000).map(at).collect();
    let mut source = Memory::new(96_000.0, vec![samples], None, None).unwrap();
    let report = read(&mut source, &TraceSettings::default(), &mut |_| std::ops::ControlFlow::Continue(())).unwrap();
    let burst = report.channels[0].stretches.iter().find(|stretch| stretch.cycles.is_some()).unwrap();
    vec![("cycles_found", f64::from(burst.cycles.unwrap())), ("droop_db", burst.droop_db.unwrap())]
}

fn onset_of_a_burst(g: &Given) -> Results {
    let onset_db = pukka_core::live::onset_db(g.get("step_db"), g.get("grew_db"));
    vec![("onset_db", onset_db), ("power_w", g.get("lower_w") * 10f64.powf(onset_db / 10.0))]
}

fn power_of_a_trace(g: &Given) -> Results {
    let samples: Vec<f64> =
        (0..48_000).map(|n| g.get("rms_v") * 2f64.sqrt() * (std::f64::consts::TAU * f64::from(n) / 48.0).sin()).collect();
    let channels = vec![ChannelSetting { scale_u_ratio: g.get("scale_u_ratio"), ..ChannelSetting::default() }];
    let (load_ohm, load_u_ratio) = (Some(g.get("load_ohm")), g.get("load_u_ratio"));
    let asked = TraceSettings { channels, load_ohm, load_u_ratio, ..TraceSettings::default() };
    let mut source = Memory::new(48_000.0, vec![samples], None, None).unwrap();
    let report = read(&mut source, &asked, &mut |_| std::ops::ControlFlow::Continue(())).unwrap();
    let tone = &report.channels[0].stretches[0];
    vec![("power_w", tone.power_w.unwrap()), ("power_u_w", tone.power_u_w.unwrap())]
}

fn at(session: &Session, reference_v: f64) -> VoltageRow {
    let mut rows = view(session).at_volts;
    let row = rows.remove(0);
    assert!((reference_v - 14.4).abs() < 1e-9, "the example is at 14.4 V");
    row
}

fn brought(g: &Given, supply: &str) -> Results {
    let mut session = session(vec![json!({ "outputs": watts(g.get("power_w")), "end_v": g.get("end_v") })]);
    session.amplifier.supply_type = serde_json::from_value(json!(supply)).unwrap();
    let cell = at(&session, g.get("reference_v")).cells.pop().unwrap();
    let high = cell.high.as_ref().map_or(cell.low.value, |high| high.value);
    vec![("low_w", cell.low.value), ("high_w", high)]
}

fn told(session: &Session, of: &str) -> f64 {
    view(session)
        .tell
        .into_iter()
        .find(|tell| tell.figure.working.title == of)
        .unwrap_or_else(|| panic!("nothing is told of {of}"))
        .figure
        .value
}

fn expanded(session: &Session) -> f64 {
    first(session).expanded_uncertainty_w.unwrap()
}

fn outcome(power_w: f64, claim_w: f64, ratio: f64) -> Outcome {
    let mut session = session(vec![json!({ "outputs": watts(power_w), "end_v": 14.4 })]);
    session = with_meters(session, json!([meter("w", "power", ratio), meter("v", "supply_voltage", 0.0)]));
    session.claims = vec![claim("c", Wiring::Mono, 4.0, claim_w)];
    judge(&session).claims[0].outcome
}

/// Asks the program for what an example says.
#[allow(clippy::too_many_lines, reason = "a line an example")]
fn compute(name: &str, g: &Given) -> Option<Results> {
    let pair = |n: usize| json!({ "outputs": watts(g.get(&format!("power_{n}_w"))), "load_nominal_ohm": g.get(&format!("load_{n}_ohm")) });
    let ratio = || g.get("reading_ratio");
    Some(match name {
        "power-from-volts-rms" => one_output(g, "volts_rms"),
        "power-from-volts-peak" => one_output(g, "volts_peak"),
        "power-from-volts-peak-to-peak" => one_output(g, "volts_pp"),
        "power-of-outputs-on-dummy-loads" => {
            let driven = g.get("outputs_driven") as u8;
            vec![("power_w", first(&two_outputs(g, driven, [None, None])).total_w.unwrap())]
        }
        "power-of-groups" => vec![("power_w", first(&two_groups(g)).total_w.unwrap())],
        "clipped-sine" => clipped_sine(g.get("limit_over_amplitude")),
        "ramp-crosses-its-limit" => ramp_crossing(g),
        "onset-of-a-burst" => onset_of_a_burst(g),
        "power-of-a-trace" => power_of_a_trace(g),
        "burst-that-droops" => drooping_burst(g),
        "draw-heat-efficiency-sag" => {
            let run = json!({ "outputs": watts(g.get("power_w")), "end_v": g.get("end_v"), "current_a": g.get("current_a"), "rest_v": g.get("rest_v") });
            let run = first(&session(vec![run]));
            let (input, heat, sag) = (run.input_w.unwrap(), run.heat_w.unwrap(), run.sag_v.unwrap());
            vec![("input_w", input), ("efficiency_ratio", run.efficiency_ratio.unwrap()), ("heat_w", heat), ("sag_v", sag)]
        }
        "channel-balance" => vec![("balance_db", first(&two_outputs(g, 2, [None, None])).balance_db.unwrap().get())],
        "against-the-claim" => {
            let mut session = session(vec![json!({ "outputs": watts(g.get("power_w")), "end_v": 14.4 })]);
            session.claims = vec![claim("c", Wiring::Mono, 4.0, g.get("claim_w"))];
            let verdict = judge(&session).claims.remove(0);
            vec![("as_read_ratio", verdict.as_read_ratio.unwrap()), ("shortfall_db", verdict.shortfall_db.unwrap().get())]
        }
        "headroom-and-price" => {
            let runs = [("certified", "certified_w"), ("dynamic", "dynamic_w")];
            let mut session = session(runs.map(|(mode, watts_of)| json!({ "mode": mode, "outputs": watts(g.get(watts_of)) })).into());
            session.amplifier.price =
                serde_json::from_value(json!({ "amount": g.get("price"), "currency": "GBP", "on": "2026-10-02" })).unwrap();
            vec![("headroom_db", told(&session, "Headroom")), ("price_of_a_watt", told(&session, "Price of a watt"))]
        }
        "bass-loss" => {
            let at = |name: &str, tone: f64| json!({ "tone_hz": tone, "outputs": watts(g.get(name)) });
            let session = session(vec![at("certified_40_hz_w", 40.0), at("certified_1_khz_w", 1_000.0)]);
            vec![("bass_loss_db", told(&session, "Bass loss"))]
        }
        "fade" => {
            let hold = json!({ "seconds": 30.0, "outputs": watts(g.get("held_w")) });
            let session = session(vec![json!({ "outputs": watts(g.get("power_w")), "hold": hold })]);
            vec![("fade_db", figures(&session, &session.runs[0]).unwrap().fade.unwrap().value)]
        }
        "brought-unregulated" => brought(g, "unregulated"),
        "brought-not-known" => brought(g, "unknown"),
        "measured-exponent" => {
            let point = |n: usize| (g.get(&format!("power_{n}_w")), g.get(&format!("end_{n}_v")));
            vec![("exponent", MeasuredExponent::from(point(2), point(1)).exponent)]
        }
        "uncertainty-of-watts" => {
            let session = session(vec![json!({ "outputs": watts(g.get("power_w")) })]);
            vec![("expanded_w", expanded(&with_meters(session, json!([meter("w", "power", ratio())]))))]
        }
        "uncertainty-from-volts" => {
            let run = json!({ "load_measured_ohm": g.get("load_ohm"), "outputs": [{ "volts_rms": g.get("volts_rms") }] });
            let meters = json!([meter("v", "voltage", g.get("volts_ratio")), meter("r", "resistance", g.get("load_ratio"))]);
            let session = with_meters(session(vec![run]), meters);
            vec![("power_w", first(&session).total_w.unwrap()), ("expanded_w", expanded(&session))]
        }
        "uncertainty-on-one-meter" => {
            vec![("expanded_w", expanded(&with_meters(two_outputs(g, 2, [None, None]), json!([meter("w", "power", ratio())]))))]
        }
        "uncertainty-on-two-meters" => {
            let meters = json!([meter("a", "power", ratio()), meter("b", "power", ratio())]);
            vec![("expanded_w", expanded(&with_meters(two_outputs(g, 2, [Some("a"), Some("b")]), meters)))]
        }
        "uncertainty-of-efficiency" => {
            let run = json!({ "outputs": watts(g.get("power_w")), "end_v": g.get("end_v"), "current_a": g.get("current_a") });
            let meters = json!([
                meter("w", "power", g.get("power_ratio")),
                meter("v", "supply_voltage", g.get("volts_ratio")),
                meter("a", "current", g.get("amps_ratio"))
            ]);
            let session = with_meters(session(vec![run]), meters);
            let efficiency = figures(&session, &session.runs[0]).unwrap().efficiency.unwrap();
            let said = efficiency.working.inputs.iter().find(|input| input.symbol == "U").unwrap().value.clone();
            assert!(said.starts_with("2.0"), "as shown: {said}");
            // Shown to one digit only: the sum itself, of relative limits over √3.
            let squares: f64 = ["power_ratio", "volts_ratio", "amps_ratio"].iter().map(|name| (g.get(name) / 3f64.sqrt()).powi(2)).sum();
            vec![("expanded_points", 2.0 * efficiency.value * squares.sqrt())]
        }
        "uncertainty-when-brought" => {
            let run = json!({ "outputs": watts(g.get("power_w")), "end_v": g.get("end_v") });
            let meters = json!([meter("w", "power", g.get("power_ratio")), meter("v", "supply_voltage", g.get("volts_ratio"))]);
            let session = with_meters(session(vec![run]), meters);
            let total = pukka_core::evidence::total(&session, &session.runs[0]).unwrap();
            let band = pukka_core::evidence::band::band(
                &session,
                pukka_core::evidence::band::Sample::of(&session, &session.runs[0], &total),
                g.get("reference_v"),
            );
            vec![("brought_w", band.low_w), ("expanded_w", band.low_expanded_w)]
        }
        "uncertainty-of-a-mean" => {
            let runs = (1..=3).map(|n| json!({ "outputs": watts(g.get(&format!("power_{n}_w"))), "end_v": 14.4 })).collect();
            let meters = json!([meter("w", "power", ratio()), meter("v", "supply_voltage", 0.0)]);
            let mut session = with_meters(session(runs), meters);
            session.policy.repeats = Repeats::Mean;
            session.claims = vec![claim("c", Wiring::Mono, 4.0, 445.0)];
            let row = view(&session).rows.remove(0);
            // The ± of its bar is of the bar's own scale.
            let bar = row.bars.iter().find(|bar| bar.mode == Mode::Certified).unwrap().clone();
            vec![("mean_w", bar.total.value), ("expanded_w", bar.plus_minus / bar.fraction * bar.total.value)]
        }
        "what-the-fuses-allow" => {
            let mut amplifier = mono_1100().amplifier;
            amplifier.class = serde_json::from_value(json!("AB")).unwrap();
            amplifier.fuses_a = serde_json::from_value(json!([g.get("fuses_a")])).unwrap();
            vec![("ceiling_w", ceiling_w(&amplifier, g.get("supply_v")).unwrap())]
        }
        "source-resistance" => {
            let sag = |n: usize| Sag { sag_v: g.get(&format!("sag_{n}_v")), current_a: g.get(&format!("current_{n}_a")) };
            let found = source_ohm::fit(&[sag(1), sag(2)]).unwrap();
            vec![("source_mohm", 1e3 * found.ohm), ("scatter_mohm", 1e3 * found.scatter_ohm.unwrap())]
        }
        "a-lead" => {
            let lead = json!({ "name": "a lead", "length_m": g.get("length_m"), "section_mm2": g.get("section_mm2") });
            let (drop, heat) = drop_and_heat(&serde_json::from_value(lead).unwrap(), g.get("current_a"));
            vec![("drop_v", drop.value), ("heat_w", heat.value)]
        }
        "stored-energy" => {
            let mut session =
                session(vec![json!({ "load_nominal_ohm": 1.0, "load_measured_ohm": g.get("load_ohm"), "tone_hz": g.get("tone_hz"),
                "outputs": [{ "power_w": g.get("power_w") }], "end_v": 14.0 })]);
            session.amplifier.inside =
                serde_json::from_value(json!({ "capacitors": [{ "uf": g.get("capacitance_uf"), "count": 1, "place": "rails" }] })).unwrap();
            let found = inside_figures(&session);
            vec![("stored_j", found.stored.unwrap().value), ("burst_j", found.burst.unwrap().value)]
        }
        "awg" => vec![("section_mm2", awg_mm2(g.get("awg")))],
        "gain" => {
            let driven = driven_volts(g.get("onset_v"), g.get("drive_db")).value;
            assert!((drive_db(g.get("onset_v"), driven).value - g.get("drive_db")).abs() < 1e-9, "and back");
            vec![("target_v", target_volts(g.get("power_w"), g.get("load_ohm")).value), ("driven_v", driven)]
        }
        "load-line" => {
            let point = |n: usize| Point { load_ohm: g.get(&format!("load_{n}_ohm")), output_w: g.get(&format!("power_{n}_w")) };
            let line = LoadLine::fit(&[point(1), point(2)]).unwrap();
            vec![("out_ohm", line.out_ohm), ("open_v", line.open_v), ("power_w", line.output_w(g.get("load_ohm")))]
        }
        "level-steps" => {
            let step = |n: usize, db: f64| json!({ "level_db": db, "outputs": watts(g.get(&format!("power_{n}_w"))), "thd_ratio": g.get(&format!("thd_{n}_ratio")) });
            let run = json!({ "method": "steps", "limit_ratio": g.get("limit_ratio"), "steps": [step(1, -3.0), step(2, 0.0)] });
            vec![("power_w", first(&session(vec![run])).total_w.unwrap())]
        }
        "counted-cycles" => {
            let end = |name: &str| json!({ "volts_peak": g.get(name) });
            let cycles = json!({ "count": 20, "first": end("first_volts_peak"), "last": end("last_volts_peak") });
            let run = json!({ "mode": "dynamic", "load_measured_ohm": g.get("load_ohm"), "cycles": cycles });
            let run = first(&session(vec![run]));
            vec![("power_w", run.total_w.unwrap()), ("best_w", run.best_w.unwrap())]
        }
        "between-two-loads" => {
            let mut session = session(vec![pair(1), pair(2)]);
            session.claims = vec![claim("c", Wiring::Mono, g.get("load_ohm"), 1_000.0)];
            let verdict = judge(&session).claims.remove(0);
            assert!(verdict.interpolated);
            vec![("power_w", verdict.as_read_ratio.unwrap() * 1_000.0)]
        }
        "which-outcome" => {
            let is = |name: &str, wanted: Outcome| f64::from(u8::from(outcome(g.get(name), g.get("claim_w"), ratio()) == wanted));
            vec![
                ("holds", is("power_holds_w", Outcome::Holds)),
                ("within", is("power_within_w", Outcome::HoldsWithin)),
                ("short", is("power_short_w", Outcome::Short)),
                ("far_short", is("power_far_short_w", Outcome::FarShort)),
            ]
        }
        _ => return None,
    })
}

struct Example {
    name: String,
    given: BTreeMap<String, f64>,
    /// Name, figure, half of the last digit printed.
    gives: Vec<(String, f64, f64)>,
}

fn examples(document: &str) -> Vec<Example> {
    let mut found: Vec<Example> = Vec::new();
    let mut inside = false;
    for line in document.lines() {
        if let Some(name) = line.strip_prefix("```example ") {
            found.push(Example { name: name.trim().to_owned(), given: BTreeMap::new(), gives: Vec::new() });
            inside = true;
        } else if line.starts_with("```") {
            inside = false;
        } else if inside {
            let example = found.last_mut().unwrap();
            let (name, rest) = line.trim_start_matches("→ ").split_once(" = ").unwrap_or_else(|| panic!("{}: {line:?}", example.name));
            let figure = rest.split(' ').next().unwrap();
            let value: f64 = figure.parse().unwrap_or_else(|_| panic!("{}: {figure:?} is no figure", example.name));
            if line.starts_with('→') {
                let decimals = figure.split_once('.').map_or(0, |(_, after)| after.len());
                example.gives.push((name.to_owned(), value, 0.5 * 10f64.powi(-i32::try_from(decimals).unwrap()) * (1.0 + 1e-9)));
            } else {
                example.given.insert(name.to_owned(), value);
            }
        }
    }
    found
}

#[test]
fn the_program_gives_every_figure_of_the_document() {
    let document = include_str!("../../../../docs/method.md");
    let all = examples(document);
    let names: BTreeSet<&str> = all.iter().map(|example| example.name.as_str()).collect();
    assert_eq!(names.len(), all.len(), "no example twice");
    assert!(all.len() >= 28, "{} examples", all.len());
    for example in &all {
        let results =
            compute(&example.name, &Given(&example.given)).unwrap_or_else(|| panic!("no one computes the example {}", example.name));
        assert!(!example.gives.is_empty(), "{} says nothing", example.name);
        for (name, figure, half) in &example.gives {
            let (_, got) = results.iter().find(|(known, _)| known == name).unwrap_or_else(|| panic!("{} has no {name}", example.name));
            assert!((got - figure).abs() <= *half, "{}: {name} is {got}, the document says {figure}", example.name);
        }
    }
}

#[test]
fn an_example_that_is_wrong_would_be_seen() {
    let [example] =
        examples("```example awg\nawg = 8\n→ section_mm2 = 8.466 mm²\n```").try_into().unwrap_or_else(|_| panic!("one example"));
    let results = compute(&example.name, &Given(&example.given)).unwrap();
    let (_, figure, half) = &example.gives[0];
    assert!((results[0].1 - figure).abs() > *half);
    assert!(Given(&example.given).has("awg"));
}
