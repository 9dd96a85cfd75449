//! Uncertainty against chance: 20,000 draws evenly inside the meters' limits. The stated U has to be twice the standard deviation
//! found, within 2 %, and has to cover 95 % of the draws at least.
//!
//! Ref: JCGM 101:2008, propagation of distributions by a Monte Carlo method.

use pukka_core::evidence::band::{Sample, band};
use pukka_core::evidence::{figures, total};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::session::Session;
use pukka_core::record::session::examples::mono_1100;
use serde_json::{Value, json};

const DRAWS: usize = 20_000;

/// A small generator of even numbers in 0 … 1, so that the draws are the same every time.
struct Even(u64);

impl Even {
    fn next(&mut self) -> f64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }

    /// One in evenly inside ± a fraction of it.
    fn off(&mut self, ratio: f64) -> f64 {
        1.0 + (2.0 * self.next() - 1.0) * ratio
    }
}

/// A session of one run, read as given by meters of these limits.
fn session(outputs: Value, meters: Value) -> Session {
    let mut session = mono_1100();
    session.bench.meters = serde_json::from_value(meters).unwrap();
    session.runs.truncate(1);
    let run = &mut session.runs[0];
    run.outputs = serde_json::from_value(outputs).unwrap();
    session.amplifier.channels = u8::try_from(run.outputs.len()).unwrap();
    if run.outputs.len() > 1 {
        run.wiring = Wiring::Channels { driven: session.amplifier.channels };
    }
    session
}

fn meter(id: &str, quantity: &str, ratio: f64) -> Value {
    json!({ "id": id, "quantity": quantity, "reading_ratio": ratio })
}

fn expanded(session: &Session) -> f64 {
    total(session, &session.runs[0]).unwrap().expanded_w()
}

fn agrees(what: &str, expanded: f64, seed: u64, mut draw: impl FnMut(&mut Even) -> f64) {
    let mut even = Even(seed);
    let drawn: Vec<f64> = (0..DRAWS).map(|_| draw(&mut even)).collect();
    let mean = drawn.iter().sum::<f64>() / DRAWS as f64;
    let twice = 2.0 * (drawn.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / (DRAWS as f64 - 1.0)).sqrt();
    assert!((expanded / twice - 1.0).abs() < 0.02, "{what}: stated {expanded}, found {twice}");
    let covered = drawn.iter().filter(|x| (**x - mean).abs() <= expanded).count();
    assert!(covered as f64 >= 0.95 * DRAWS as f64, "{what}: {covered} of {DRAWS} inside");
}

#[test]
fn direct_watts() {
    let read = session(json!([{ "power_w": 447.0 }]), json!([meter("w", "power", 0.01)]));
    agrees("watts", expanded(&read), 1, |even| 447.0 * even.off(0.01));
    let absolute = json!([{ "id": "w", "quantity": "power", "reading_ratio": 0.01, "absolute": 2.0 }]);
    let read = session(json!([{ "power_w": 447.0 }]), absolute);
    agrees("watts, with an absolute part", expanded(&read), 2, |even| 447.0 + 6.47 * (even.off(1.0) - 1.0));
}

#[test]
fn from_volts() {
    let load = mono_1100().runs[0].load_measured_ohm.unwrap().get();
    let rms = session(json!([{ "volts_rms": 41.8 }]), json!([]));
    agrees("volts rms", expanded(&rms), 3, |even| (41.8 * even.off(0.01)).powi(2) / (load * even.off(0.01)));
    let peak = session(json!([{ "volts_peak": 59.1 }]), json!([]));
    agrees("volts peak off a screen", expanded(&peak), 4, |even| (59.1 * even.off(0.03)).powi(2) / (2.0 * load * even.off(0.01)));
    let peak_to_peak = session(json!([{ "volts_pp": 118.2 }]), json!([meter("s", "voltage", 0.02), meter("r", "resistance", 0.004)]));
    agrees("volts peak to peak", expanded(&peak_to_peak), 5, |even| (118.2 * even.off(0.02)).powi(2) / (8.0 * load * even.off(0.004)));
}

#[test]
fn several_outputs_on_one_meter_and_on_several() {
    let watts = [110.0, 95.0, 102.0, 88.0];
    let outputs =
        |meters: [&str; 4]| -> Value { watts.iter().zip(meters).map(|(w, meter)| json!({ "power_w": w, "meter": meter })).collect() };
    let four = json!([meter("a", "power", 0.02), meter("b", "power", 0.02), meter("c", "power", 0.02), meter("d", "power", 0.02)]);
    let one = session(outputs(["a"; 4]), four.clone());
    agrees("four on one meter", expanded(&one), 6, |even| {
        let off = even.off(0.02);
        watts.iter().map(|w| w * off).sum()
    });
    let each = session(outputs(["a", "b", "c", "d"]), four.clone());
    agrees("four on four meters", expanded(&each), 7, |even| watts.iter().map(|w| w * even.off(0.02)).sum());
    let pairs = session(outputs(["a", "a", "b", "b"]), four);
    agrees("two and two", expanded(&pairs), 8, |even| {
        let (a, b) = (even.off(0.02), even.off(0.02));
        (watts[0] + watts[1]) * a + (watts[2] + watts[3]) * b
    });
}

#[test]
fn efficiency() {
    let meters = json!([meter("w", "power", 0.02), meter("v", "supply_voltage", 0.005), meter("i", "current", 0.02)]);
    let read = session(json!([{ "power_w": 447.0 }]), meters);
    let run = &read.runs[0];
    let (volts, amps) = (run.end_v.unwrap().get(), run.current_a.unwrap().get());
    let shown = figures(&read, run).unwrap().efficiency.unwrap();
    // Shown to a tenth of a point: its own sum is what is tried, and what is shown is that sum.
    let relative = total(&read, run).unwrap().relative_u();
    let u = (relative.powi(2) + ((0.005f64).powi(2) + (0.02f64).powi(2)) / 3.0).sqrt();
    let points = 2.0 * u * shown.value;
    assert_eq!(shown.plus_minus.as_deref(), Some(format!("{points:.1}").as_str()));
    agrees("efficiency", points, 9, |even| 100.0 * 447.0 * even.off(0.02) / (volts * even.off(0.005) * amps * even.off(0.02)));
}

#[test]
fn brought_to_the_claims_voltage() {
    let meters = json!([meter("w", "power", 0.01), meter("v", "supply_voltage", 0.005)]);
    let read = session(json!([{ "power_w": 447.0 }]), meters);
    let volts = read.runs[0].end_v.unwrap().get();
    let brought = band(&read, Sample::of(&read, &read.runs[0], &total(&read, &read.runs[0]).unwrap()), 14.4);
    agrees("brought to 14.4 V", brought.low_expanded_w, 10, |even| 447.0 * even.off(0.01) * (14.4 / (volts * even.off(0.005))).powi(2));
}
