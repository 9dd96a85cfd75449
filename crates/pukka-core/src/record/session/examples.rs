//! Sessions to compute with in tests and docs: the Ferry Lane bench, invented makers only.

use serde_json::json;

use crate::kernel::problem::Problem;
use crate::kernel::wiring::Wiring;
use crate::record::claims::Claim;
use crate::record::session::{Mode, Run, Session};

/// A claim line, rms per output at 14.4 V, out of the manual.
///
/// # Panics
/// When the figures cannot be.
#[must_use]
pub fn claim(id: &str, wiring: Wiring, load_ohm: f64, power_w: f64) -> Claim {
    made(json!({
        "id": id, "source": "manual", "wiring": wiring, "load_ohm": load_ohm, "power_w": power_w, "per": "output", "kind": "rms",
        "supply_v": 14.4, "thd_limit_ratio": 0.01
    }))
}

/// A run with one output in watts.
///
/// # Panics
/// When the figures cannot be.
#[must_use]
pub fn run(id: &str, wiring: Wiring, load_ohm: f64, mode: Mode, power_w: f64, end_v: Option<f64>) -> Run {
    made(json!({
        "id": id, "at": "2026-11-20T10:04:00Z", "wiring": wiring, "load_nominal_ohm": load_ohm, "mode": mode, "tone_hz": 40.0,
        "outputs": [{ "power_w": power_w }], "rest_v": 14.6, "end_v": end_v
    }))
}

fn made<T: serde::de::DeserializeOwned>(value: serde_json::Value) -> T {
    serde_json::from_value(value).unwrap_or_else(|error| unreachable!("an example is wrong: {error}"))
}

/// Tolland & Pike Mono 1100, on loan, with nine runs.
///
/// # Panics
/// Never: the file is read by a test.
#[must_use]
pub fn mono_1100() -> Session {
    Session::read(include_bytes!("mono_1100.json"))
        .unwrap_or_else(|problems| unreachable!("the example is wrong: {:?}", problems.iter().map(Problem::clone).collect::<Vec<_>>()))
}
