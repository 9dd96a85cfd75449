//! The draw that is predicted after one run, against the draw that was read, on ten benches that look like real ones: class AB and
//! D, from 8 to 0.5 Ω. Gates use the upper end: it must not be far above the draw, and almost never below it.

use pukka_core::evidence::rungs::rungs;
use pukka_core::predict::known::Prior;
use pukka_core::predict::prediction::predict_mode;
use pukka_core::record::session::{Mode, Session};
use serde_json::{Value, json};

/// A bench: class, supply type, and what was read at each load: ohms, watts clean, volts, amps; watts clipping, volts, amps.
type Row = (f64, [f64; 3], [f64; 3]);
const BENCHES: [(&str, &str, &[Row]); 10] = [
    (
        "D",
        "unregulated",
        &[
            (4.0, [447.0, 14.38, 41.2], [462.0, 14.33, 45.9]),
            (2.0, [771.0, 14.19, 76.9], [806.0, 14.11, 84.0]),
            (1.0, [1068.0, 13.96, 124.6], [1124.0, 13.88, 134.2]),
        ],
    ),
    (
        "D",
        "regulated",
        &[
            (4.0, [512.0, 13.9, 44.6], [588.0, 13.8, 53.1]),
            (2.0, [905.0, 13.6, 84.3], [1030.0, 13.4, 101.8]),
            (1.0, [1460.0, 13.0, 153.0], [1620.0, 12.8, 181.0]),
        ],
    ),
    (
        "D",
        "unregulated",
        &[
            (8.0, [128.0, 13.9, 11.1], [151.0, 13.9, 13.2]),
            (4.0, [236.0, 13.7, 21.3], [280.0, 13.6, 26.1]),
            (2.0, [395.0, 13.4, 39.9], [468.0, 13.2, 49.6]),
        ],
    ),
    (
        "D",
        "unregulated",
        &[
            (2.0, [1210.0, 14.0, 112.0], [1390.0, 13.9, 134.0]),
            (1.0, [2050.0, 13.7, 206.0], [2330.0, 13.5, 248.0]),
            (0.5, [2980.0, 13.1, 347.0], [3320.0, 12.9, 410.0]),
        ],
    ),
    (
        "D",
        "regulated",
        &[
            (4.0, [158.0, 14.1, 14.3], [181.0, 14.0, 17.0]),
            (2.0, [262.0, 13.9, 25.6], [297.0, 13.8, 30.6]),
            (1.0, [341.0, 13.6, 39.2], [383.0, 13.5, 46.9]),
        ],
    ),
    (
        "AB",
        "unregulated",
        &[
            (8.0, [41.5, 14.0, 5.1], [54.0, 13.9, 6.2]),
            (4.0, [74.0, 13.8, 9.8], [95.0, 13.7, 11.8]),
            (2.0, [118.0, 13.5, 18.0], [149.0, 13.4, 21.3]),
        ],
    ),
    ("AB", "unregulated", &[(4.0, [152.0, 13.9, 18.1], [196.0, 13.8, 21.9]), (2.0, [251.0, 13.5, 34.4], [322.0, 13.3, 41.3])]),
    (
        "AB",
        "regulated",
        &[
            (4.0, [101.0, 14.2, 12.3], [131.0, 14.1, 14.9]),
            (2.0, [172.0, 13.9, 23.6], [218.0, 13.8, 28.0]),
            (1.0, [238.0, 13.5, 38.9], [296.0, 13.3, 46.0]),
        ],
    ),
    ("GH", "unregulated", &[(4.0, [218.0, 13.9, 23.9], [267.0, 13.8, 28.6]), (2.0, [371.0, 13.6, 44.7], [446.0, 13.4, 53.9])]),
    (
        "D",
        "unregulated",
        &[
            (4.0, [57.0, 14.1, 5.6], [66.0, 14.1, 6.6]),
            (2.0, [98.0, 14.0, 10.2], [112.0, 13.9, 12.2]),
            (1.0, [151.0, 13.8, 17.4], [172.0, 13.7, 20.9]),
        ],
    ),
];

fn run(id: &str, mode: &str, load: f64, [watts, volts, amps]: [f64; 3]) -> Value {
    json!({ "id": id, "at": "2026-11-20T10:04:00Z", "wiring": { "kind": "mono" }, "load_nominal_ohm": load, "mode": mode, "tone_hz": 40.0,
            "outputs": [{ "power_w": watts }], "rest_v": 14.5, "end_v": volts, "current_a": amps })
}

/// A session with claims near what it makes, a source resistance from its own sag, and one certified run.
fn after_one_run((class, supply, rows): &(&str, &str, &[Row]), first: usize) -> Session {
    let claims: Vec<Value> = rows
        .iter()
        .enumerate()
        .map(|(i, (load, clean, _))| {
            json!({ "id": format!("c{i}"), "source": "manual", "wiring": { "kind": "mono" }, "load_ohm": load, "per": "output", "kind": "rms",
                    "power_w": (clean[0] * 1.05).round(), "supply_v": 14.4 })
        })
        .collect();
    let (load, clean, _) = rows[first];
    serde_json::from_value(json!({
        "format": "pukka-session", "version": 1,
        "amplifier": { "make": "Quillmoor", "model": "Bench", "class": class, "purpose": "subwoofer", "supply_type": supply, "channels": 1,
                       "provenance": "bought" },
        "claims": claims, "plan": { "rest_v": 14.5 }, "runs": [run("one", "certified", load, clean)]
    }))
    .unwrap()
}

/// Predicted upper end over the draw read, after one run, for loads up to one halving away, clean and clipping.
fn ratios() -> Vec<f64> {
    let mut all = Vec::new();
    for bench in &BENCHES {
        for first in 0..bench.2.len() {
            let session = after_one_run(bench, first);
            let known = Prior::of(&session, &[]);
            for (i, (load, clean, clipping)) in bench.2.iter().enumerate() {
                if i == first || (load / bench.2[first].0).log2().abs() > 1.01 {
                    continue;
                }
                let rung = rungs(&session).into_iter().find(|rung| rung.id.load_ohm.get() == *load).unwrap();
                for (mode, read) in [(Mode::Certified, clean), (Mode::Clipping, clipping)] {
                    all.push(predict_mode(&known, &rung, mode).unwrap().high_a / read[2]);
                }
            }
        }
    }
    all.sort_by(f64::total_cmp);
    all
}

#[test]
fn the_upper_end_of_the_draw_is_near_and_hardly_ever_too_low() {
    let all = ratios();
    let at = |part: f64| all[((all.len() - 1) as f64 * part).round() as usize];
    let under = all.iter().filter(|ratio| **ratio < 1.0).count();
    let (median, ninety, most, least) = (at(0.5), at(0.9), at(1.0), at(0.0));
    println!(
        "{} predictions: median {median:.2}, 90th percentile {ninety:.2}, most {most:.2}; read above it {under} times, least {least:.2}",
        all.len()
    );
    assert!((1.05..=1.35).contains(&median), "median {median}");
    assert!(most <= 1.5, "{most}: a gate would be shut for nothing");
    assert!(under * 8 < all.len() && least >= 0.90, "{under} of {} below the draw read, the worst {least}", all.len());
}
