//! Rest between runs: long enough, the supply steady, the heatsink cool. By the slope of the rest voltage, not by a fixed one.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::kernel::units::more_than;
use crate::record::session::{Policy, Run};

/// The supply at rest, as read.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RestReading {
    /// Time of it.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Volts.
    pub volts: f64,
}

/// Whether the next run may start.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Rest {
    /// Rested, steady and cool.
    pub ready: bool,
    /// Seconds of rest that are left by the clock alone.
    pub wait_s: f64,
    /// Distance that the rest voltage moved in the last window; nothing when it was not read often enough.
    pub moved_v: Option<f64>,
    /// Conditions still open, in sentences; when it is ready, that it is.
    pub says: Vec<String>,
    /// Doubts that stand against a start: seconds left, a supply that moves, heat. A supply that nobody read is not among it.
    pub asks: Vec<String>,
}

/// A rest voltage older than two windows says nothing of now.
const FRESH_WINDOWS: f64 = 2.0;

fn seconds(from: Timestamp, to: Timestamp) -> f64 {
    to.duration_since(from).as_secs_f64()
}

/// The state of rest after the last run. Before the first run there is nothing to rest from.
#[must_use]
pub fn rest(policy: &Policy, last: Option<&Run>, readings: &[RestReading], now: Timestamp) -> Rest {
    let Some(last) = last else {
        return Rest { ready: true, wait_s: 0.0, moved_v: None, says: vec!["Nothing was run yet.".into()], asks: Vec::new() };
    };
    // A clock that was put back leaves the last run in the future: it counts as made now.
    let since = seconds(last.at, now).max(0.0);
    let wait_s = (policy.rest_s - since).max(0.0);
    let moved_v = moved(policy, last.at, readings, now);
    let mut says = Vec::new();
    if wait_s > 0.0 {
        says.push(format!("{} s of rest left.", format::fixed(wait_s.ceil(), 0)));
    }
    match moved_v {
        Some(moved) if moved >= policy.rest_move_v => says.push(format!(
            "The rest voltage still moves: {} V in {} s, and {} V is steady.",
            format::fixed(moved, 3),
            format::fixed(policy.rest_window_s, 0),
            format::as_read(policy.rest_move_v)
        )),
        Some(_) | None => {}
    }
    if let Some(heatsink) = last.temperature_c.map(|c| c.get()).filter(|c| more_than(*c, policy.heatsink_stop_c.get())) {
        says.push(format!(
            "The heatsink was at {} °C; runs stop at {} °C: let it cool.",
            format::as_read(heatsink),
            format::as_read(policy.heatsink_stop_c.get())
        ));
    }
    let asks = says.clone();
    if moved_v.is_none() {
        says.push(format!(
            "Read the rest voltage twice, {} s apart, to see that it is steady: 14.55r.",
            format::fixed(policy.rest_window_s, 0)
        ));
    }
    let ready = says.is_empty();
    if ready {
        says.push("Rested, steady and cool.".into());
    }
    Rest { ready, wait_s, moved_v, says, asks }
}

/// Largest less smallest rest voltage over the window that ends at the newest reading.
fn moved(policy: &Policy, since: Timestamp, readings: &[RestReading], now: Timestamp) -> Option<f64> {
    let after: Vec<&RestReading> = readings.iter().filter(|reading| reading.at >= since).collect();
    let newest = after.iter().max_by_key(|reading| reading.at)?;
    if seconds(newest.at, now) > FRESH_WINDOWS * policy.rest_window_s {
        return None;
    }
    let far = |reading: &&&RestReading| seconds(reading.at, newest.at) >= policy.rest_window_s;
    let start = after.iter().filter(far).max_by_key(|reading| reading.at)?;
    let window = after.iter().filter(|reading| reading.at >= start.at);
    let (low, high) = window.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), r| (low.min(r.volts), high.max(r.volts)));
    Some(high - low)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kernel::units::Celsius;
    use crate::record::session::examples;

    fn at(second: i64) -> Timestamp {
        "2026-11-20T10:00:00Z".parse::<Timestamp>().unwrap() + jiff::SignedDuration::from_secs(second)
    }

    fn of(readings: &[(i64, f64)], now: i64) -> Rest {
        let mut run = examples::mono_1100().runs[0].clone();
        run.at = at(0);
        let readings: Vec<RestReading> = readings.iter().map(|(s, volts)| RestReading { at: at(*s), volts: *volts }).collect();
        rest(&Policy::default(), Some(&run), &readings, at(now))
    }

    #[test]
    fn rested_and_steady_by_the_slope() {
        assert!(!of(&[(20, 14.50), (55, 14.51)], 59).ready, "a second of the clock is left");
        assert!(of(&[(20, 14.50), (55, 14.51)], 60).ready);
        // 14.50 V is no worse than 14.60 V: what counts is that it stands still.
        let moving = of(&[(20, 14.40), (40, 14.43), (55, 14.46)], 61);
        assert_eq!((moving.ready, moving.moved_v.map(|v| (v * 100.0).round())), (false, Some(6.0)));
        assert!(of(&[(20, 14.40), (40, 14.43), (55, 14.46), (70, 14.465), (90, 14.47)], 91).ready, "the window is the last 30 s");
    }

    #[test]
    fn one_reading_or_an_old_one_does_not_tell() {
        assert_eq!(of(&[(55, 14.5)], 61).moved_v, None);
        assert_eq!(of(&[(20, 14.50), (55, 14.51)], 200).moved_v, None);
        let unread = of(&[], 61);
        assert!(unread.says[0].contains("14.55r") && unread.asks.is_empty() && !of(&[], 59).asks.is_empty());
        assert_eq!(of(&[(-40, 14.5), (-5, 14.5), (30, 14.5)], 61).moved_v, None, "before the run does not count");
    }

    #[test]
    fn a_clock_put_back_waits_the_whole_rest_and_no_longer() {
        assert_eq!(of(&[], -3_600).wait_s, 60.0);
    }

    #[test]
    fn hot_is_not_ready() {
        let mut run = examples::mono_1100().runs[0].clone();
        run.at = at(0);
        run.temperature_c = Some(Celsius::new(76.0).unwrap());
        let readings = [RestReading { at: at(60), volts: 14.5 }, RestReading { at: at(95), volts: 14.5 }];
        let state = rest(&Policy::default(), Some(&run), &readings, at(100));
        assert!(!state.ready && state.says[0].contains("76 °C"), "{:?}", state.says);
        assert!(rest(&Policy::default(), None, &[], at(0)).ready);
    }
}
