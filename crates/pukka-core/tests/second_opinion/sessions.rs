//! Sessions by chance: plausible amplifiers and benches, with everything in them that the judgement turns on.

use serde_json::{Value, json};

/// A small generator of even numbers, so that a session is the same every time.
pub struct Chance(u64);

impl Chance {
    pub fn new(seed: u64) -> Self {
        let mut chance = Self(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) ^ 0x5bd1_e995);
        chance.part();
        chance
    }

    fn part(&mut self) -> f64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }

    fn is(&mut self, odds: f64) -> bool {
        self.part() < odds
    }

    fn within(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.part()
    }

    fn count(&mut self, low: usize, high: usize) -> usize {
        self.within(low as f64, high as f64 + 1.0) as usize
    }

    fn of<T: Clone>(&mut self, these: &[T]) -> T {
        these[self.count(0, these.len() - 1).min(these.len() - 1)].clone()
    }
}

fn rounded(value: f64, decimals: i32) -> f64 {
    let scale = 10f64.powi(decimals);
    (value * scale).round() / scale
}

fn outputs_of(wiring: &Value) -> usize {
    ["driven", "pairs"].iter().find_map(|n| wiring[n].as_u64()).unwrap_or(1) as usize
}

/// A bench with an amplifier on it: what its runs and claims are made from.
struct Truth {
    wirings: Vec<Value>,
    loads: Vec<f64>,
    own_hz: f64,
    into_four_w: f64,
    exponent: f64,
}

impl Truth {
    /// Power that an output really gives.
    fn watts(&self, wiring: &Value, ohm: f64, volts: f64, mode: &str) -> f64 {
        let bridged = wiring["kind"] == "bridged";
        let (each, pair) = if bridged { (ohm / 2.0, 2.0) } else { (ohm, 1.0) };
        let more = match mode {
            "certified" => 1.0,
            "clipping" => 1.25,
            _ => 1.3,
        };
        self.into_four_w * (4.0 / each).powf(0.8) * pair * more * (volts / 14.4).powf(self.exponent)
    }
}

fn claim(chance: &mut Chance, truth: &Truth, n: usize) -> Value {
    let strapped = json!({ "kind": "strapped", "amplifiers": 2 });
    let wiring = if chance.is(0.05) { strapped } else { chance.of(&truth.wirings) };
    let ohm = chance.of(&[truth.loads.as_slice(), &[3.0, 4.0 / 0.98, 2.042]].concat());
    let kind = chance.of(&["rms", "rms", "rms", "unstated", "max"]);
    let per = chance.of(&["output", "output", "total"]);
    let outputs = outputs_of(&wiring) as f64;
    let off = chance.of(&[0.8, 0.93, 0.99, 1.0, 1.01, 1.03, 1.08, 1.2, 1.45, 2.0]);
    let slip = if chance.is(0.1) { outputs } else { 1.0 };
    let watts = truth.watts(&wiring, ohm, 14.4, "certified") * off * if per == "total" { outputs } else { slip };
    let (max, anywhere, any_load) = (kind == "max", chance.is(0.4), chance.is(0.4));
    json!({ "id": format!("c{n}"), "source": "manual", "kind": kind, "setting": null, "thd_limit_ratio": 0.01, "power_w": rounded(watts, 1),
        "wiring": if max && anywhere { Value::Null } else { wiring }, "per": if max && anywhere { "total" } else { per },
        "load_ohm": if max && any_load || chance.is(0.03) { Value::Null } else { json!(ohm) },
        "supply_v": chance.of(&[json!(14.4), json!(14.4), json!(13.8), json!(12.5), Value::Null]),
        "tone_hz": chance.of(&[Value::Null, Value::Null, Value::Null, json!(1000.0), json!(50.0)]), "used": chance.is(0.94) })
}

fn output(chance: &mut Chance, how: &str, watts: f64, ohm: f64, meters: &[Value]) -> Value {
    let mut output = match how {
        "rms" => json!({ "volts_rms": rounded((watts * ohm).sqrt(), 2) }),
        "peak" => json!({ "volts_peak": rounded((2.0 * watts * ohm).sqrt(), 2) }),
        "pp" => json!({ "volts_pp": rounded((8.0 * watts * ohm).sqrt(), 2) }),
        "both" => {
            let off = chance.of(&[1.0, 1.0, 1.02, 1.05, 1.12]);
            json!({ "power_w": rounded(watts, 1), "volts_rms": rounded((watts * ohm).sqrt() * off, 2) })
        }
        _ => json!({ "power_w": rounded(watts, 1) }),
    };
    let quantity = if how == "watts" { "power" } else { "voltage" };
    let fitting: Vec<&Value> = meters.iter().filter(|meter| meter["quantity"] == quantity).collect();
    if how != "both" && !fitting.is_empty() && chance.is(0.4) {
        output["meter"] = chance.of(&fitting)["id"].clone();
    }
    output
}

fn steps(chance: &mut Chance, outputs: &[Value], volts: f64, amps: &Value) -> Value {
    let inside = chance.of(&[0, 1, 2, 3, 3, 5]);
    let step = |chance: &mut Chance, i: usize| {
        let level = 10f64.powf((i as f64 - inside.max(1) as f64 + 0.5) / 10.0);
        let scaled: Vec<Value> = outputs.iter().map(|output| scale(output, level)).collect();
        let thd = if i < inside { 0.002 * (1.0 + 0.3 * i as f64) } else { 0.015 * (1.0 + i as f64) };
        let mut step = json!({ "level_db": i as f64 - 8.0, "outputs": scaled, "thd_ratio": thd });
        if chance.is(0.5) {
            step["end_v"] = json!(volts + 0.1 * (5.0 - i as f64));
        }
        if let (true, Some(amps)) = (chance.is(0.5), amps.as_f64()) {
            step["current_a"] = json!(amps * level);
        }
        step
    };
    (0..5).map(|i| step(chance, i)).collect()
}

fn scale(output: &Value, level: f64) -> Value {
    let mut scaled = output.clone();
    for (name, by) in [("power_w", level), ("volts_rms", level.sqrt()), ("volts_peak", level.sqrt()), ("volts_pp", level.sqrt())] {
        if let Some(value) = output[name].as_f64() {
            scaled[name] = json!(value * by);
        }
    }
    scaled
}

fn run(chance: &mut Chance, truth: &Truth, claims: &[Value], meters: &[Value], n: usize) -> Value {
    let aimed = chance.of(claims);
    let at_claim = chance.is(0.5) && aimed["wiring"].is_object();
    let wiring = if at_claim { aimed["wiring"].clone() } else { chance.of(&truth.wirings) };
    let asked = aimed["load_ohm"].as_f64().filter(|ohm| at_claim && truth.loads.contains(ohm));
    let ohm = asked.unwrap_or_else(|| chance.of(&truth.loads));
    let mode = chance.of(&["certified", "certified", "certified", "certified", "clipping", "dynamic"]);
    let near = chance.of(&[14.38, 14.4, 14.1, 13.9, 13.2, 12.7, 14.9, 15.6]) + chance.within(-0.15, 0.15);
    let volts = if chance.is(0.6) { rounded(near, 3) } else { chance.of(&[14.4, 13.4, 15.4, 13.9, 14.9, 12.8, 12.3, 11.5, 13.8]) };
    let measured = chance.is(0.4).then(|| rounded(ohm * chance.within(0.96, 1.04), 3));
    let exact = aimed["power_w"].as_f64().unwrap_or(100.0) * chance.of(&[1.0, 1.05, 0.95, 0.7, 0.9, 1.3]);
    let wild = if chance.is(0.05) { chance.of(&[0.5, 1.6, 2.2]) } else { 1.0 };
    let watts = if chance.is(0.15) { exact } else { truth.watts(&wiring, ohm, volts, mode) * chance.within(0.96, 1.04) } * wild;
    let how = match chance.of(&["watts", "watts", "watts", "rms", "peak", "pp", "both"]) {
        "peak" | "pp" if mode == "clipping" => "watts",
        how => how,
    };
    let driven = outputs_of(&wiring);
    let metered = chance.of(&[driven, driven, 1]);
    let outputs: Vec<Value> = (0..metered)
        .map(|_| {
            let each = watts * chance.of(&[1.0, 1.0, 0.93, 0.98, 1.02]);
            output(chance, how, each, measured.unwrap_or(ohm), meters)
        })
        .collect();
    let drawn = watts * driven as f64 / volts / if chance.is(0.04) { 1.1 } else { chance.within(0.5, 0.85) };
    let amps = if chance.is(0.1) { Value::Null } else { json!(rounded(drawn, 1)) };
    let mut run = json!({ "id": format!("r{n}"), "at": format!("2026-11-20T10:{n:02}:00Z"), "wiring": wiring, "setting": null,
        "load_nominal_ohm": ohm, "load_measured_ohm": measured, "mode": mode, "method": "ramp", "outputs": outputs,
        "tone_hz": chance.of(&[truth.own_hz, truth.own_hz, truth.own_hz, truth.own_hz, 50.0]),
        "rest_v": rounded(volts + chance.within(-0.02, 0.4), 2), "end_v": if chance.is(0.08) { Value::Null } else { json!(volts) },
        "current_a": amps, "valid": chance.is(0.95), "ungated": chance.is(0.04) });
    if chance.is(0.15) {
        run["end_v"] = Value::Null;
    }
    if chance.is(0.15) {
        run["rest_v"] = Value::Null;
    }
    if chance.is(0.25) {
        let truly = watts * driven as f64 / volts / amps.as_f64().unwrap_or(drawn);
        run["efficiency_read_ratio"] = json!(rounded((truly * chance.of(&[1.0, 1.0, 1.01, 0.98, 0.9, 0.5])).clamp(0.05, 1.0), 3));
    }
    if chance.is(0.03) {
        run["end_v"] = chance.of(&[json!(4.02), json!(17.4), json!(10.2)]);
    }
    if chance.is(0.1) {
        run["charger_on"] = json!(chance.is(0.6));
    }
    if chance.is(0.3) && how == "watts" {
        for output in run["outputs"].as_array_mut().into_iter().flatten() {
            let second = output["power_w"].as_f64().unwrap_or(1.0) * chance.of(&[1.0, 1.01, 1.03, 1.06, 1.06, 1.06]);
            output["also"] =
                json!([{ "power_w": rounded(second, 1), "meter": meters.iter().find(|meter| meter["id"] == "m2").map(|_| "m2") }]);
        }
    }
    if let (true, Some(amps)) = (chance.is(0.2), amps.as_f64()) {
        run["supply_also"] = json!([{ "current_a": rounded(amps * chance.of(&[1.0, 1.02, 1.06, 0.9]), 1) }]);
    }
    if chance.is(0.06) {
        run["struck"] = chance.of(&[json!(["current_a"]), json!(["end_v"]), json!(["current_a", "end_v"]), json!(["rest_v"])]);
    }
    if chance.is(0.06) && mode == "certified" {
        run["thd_ratio"] = chance.of(&[json!(0.008), json!(0.012), json!(0.0101)]);
    }
    if chance.is(0.1) {
        let code = chance.of(&["over-unity", "power-step", "distortion-over-limit", "load-mismatch"]);
        run["accepted"] = json!([{ "code": code, "reason": "looked at again" }]);
    }
    if chance.is(0.06) && n > 1 {
        (run["supersedes"], run["reason"]) = (json!(format!("r{}", n - 1)), json!("typed wrong"));
    }
    if chance.is(0.12) && mode == "certified" {
        run["method"] = json!("steps");
        run["steps"] = steps(chance, &outputs, volts, &run["current_a"].clone());
        run["outputs"] = json!([]);
    } else if chance.is(0.3) && mode == "dynamic" {
        let peak = (2.0 * watts * measured.unwrap_or(ohm)).sqrt();
        let first = rounded(peak * chance.within(0.98, 1.06), 2);
        let count = chance.of(&[20, 20, 8, 4, 1]);
        run["cycles"] = json!({ "count": count, "first": { "volts_peak": first } });
        if count > 1 {
            run["cycles"]["last"] = json!({ "volts_peak": rounded(peak, 2) });
        }
        run["outputs"] = json!([]);
    }
    run
}

/// A session file.
pub fn session(seed: u64) -> Value {
    let mut chance = Chance::new(seed);
    let chance = &mut chance;
    let channels = chance.of(&[1, 1, 2, 4]);
    let wirings = match channels {
        1 => vec![json!({ "kind": "mono" })],
        n => vec![json!({ "kind": "channels", "driven": n }), json!({ "kind": "bridged", "pairs": n / 2 })],
    };
    let (supply, purpose) = (chance.of(&["regulated", "unregulated", "unknown"]), chance.of(&["subwoofer", "full-range"]));
    let exponent = match supply {
        "regulated" => 0.0,
        "unregulated" => 2.0,
        _ => chance.within(0.0, 2.0),
    };
    // Few loads make repeats and pairs, many make ladders.
    let loads = if chance.is(0.5) { vec![4.0, 2.0] } else { vec![8.0, 4.0, 2.0, 1.0] };
    let own_hz = if purpose == "subwoofer" { 40.0 } else { 1_000.0 };
    let truth = Truth { wirings, loads, own_hz, into_four_w: chance.within(60.0, 400.0), exponent };
    let limits = [
        ("m1", "power", 0.01, 0.5),
        ("m2", "power", 0.02, 0.0),
        ("v1", "voltage", 0.01, 0.05),
        ("s1", "supply_voltage", 0.001, 0.02),
        ("o1", "resistance", 0.005, 0.01),
    ];
    let mut meters = Vec::new();
    for (id, quantity, ratio, absolute) in limits {
        if chance.is(0.45) {
            meters.push(json!({ "id": id, "quantity": quantity, "reading_ratio": ratio, "absolute": absolute }));
        }
    }
    let floors: Vec<Value> = if chance.is(0.3) {
        vec![json!({ "wiring": chance.of(&truth.wirings), "load_ohm": chance.of(&[1.0, 2.0, 4.0]) })]
    } else {
        Vec::new()
    };
    let claims: Vec<Value> = (1..=chance.count(1, 5)).map(|n| claim(chance, &truth, n)).collect();
    let runs: Vec<Value> = (1..=chance.count(1, 14)).map(|n| run(chance, &truth, &claims, &meters, n)).collect();
    let claims = if chance.is(0.03) { Vec::new() } else { claims };
    json!({ "format": "pukka-session", "version": 1,
        "amplifier": { "make": "Tolland & Pike", "model": "By Chance", "class": chance.of(&["AB", "D", "GH", "other"]), "purpose": purpose,
            "supply_type": supply, "channels": channels, "fuses_a": [35.0, 35.0, 35.0], "provenance": "bought",
            "floors": floors },
        "plan": { "rest_v": chance.of(&[Value::Null, json!(14.6), json!(13.2)]) },
        "claims": claims,
        "bench": { "supply": { "kind": "battery", "current_limit_a": chance.of(&[Value::Null, json!(60.0)]) }, "loads": [], "meters": meters },
        "policy": { "repeats": chance.of(&["best", "first", "mean"]), "thd_limit_ratio": 0.01 },
        "runs": runs })
}
