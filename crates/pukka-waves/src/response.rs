//! A frequency that moves: magnitude against frequency, corners, slopes.

use crate::report::{Boost, Response, ResponsePoint};

/// Points a decade at most.
pub(super) const POINTS_A_DECADE: f64 = 48.0;
/// Below the level between the corners by so much is a corner, in power a half.
const CORNER_DB: f64 = 3.010_3;
/// A slope is taken between these levels under the passband.
const SLOPE_DB: (f64, f64) = (6.0, 24.0);

/// A boost stands so far above the passband at least.
const BOOST_DB: f64 = 1.0;

/// A response against a generator, from points in order of frequency, their decibels as they are.
#[must_use]
pub fn against_generator(points: Vec<ResponsePoint>) -> Option<Response> {
    of_points(points)
}

/// A response from frequencies and their levels: 1 kHz is 0 dB, or where there is none of it the highest level.
#[must_use]
pub fn against_one_kilohertz(seen: Vec<(f64, f64)>) -> Option<Response> {
    let mut points = in_order(seen);
    let reference = at(&points, 1_000.0).unwrap_or_else(|| points.iter().map(|point| point.db).fold(f64::NEG_INFINITY, f64::max));
    points.iter_mut().for_each(|point| point.db -= reference);
    of_points(points)
}

/// Points in order of frequency, those nearer to one another than 48 a decade left out.
#[must_use]
pub fn in_order(mut seen: Vec<(f64, f64)>) -> Vec<ResponsePoint> {
    seen.retain(|(hz, level)| hz.is_finite() && *hz > 0.0 && level.is_finite() && *level > 0.0);
    seen.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut points: Vec<ResponsePoint> = Vec::new();
    for (hz, level) in seen {
        let near = points.last().is_some_and(|last| (hz / last.hz).log10() * POINTS_A_DECADE < 1.0);
        if !near {
            points.push(ResponsePoint { hz, db: 20.0 * level.log10(), coherence: None });
        }
    }
    points
}

/// Corners, slopes and boost of points in order of frequency; nothing of fewer than three.
fn of_points(points: Vec<ResponsePoint>) -> Option<Response> {
    if points.len() < 3 {
        return None;
    }
    let pass = passband(&points);
    let (low_corner_hz, high_corner_hz) = corners(&points, pass);
    let low_slope_db_octave = low_corner_hz.and_then(|corner| slope(points.iter().rev().filter(|point| point.hz < corner), pass));
    let high_slope_db_octave = high_corner_hz.and_then(|corner| slope(points.iter().filter(|point| point.hz > corner), pass));
    let boost = boost(&points, pass);
    Some(Response { points, low_corner_hz, high_corner_hz, low_slope_db_octave, high_slope_db_octave, boost })
}

/// The highest point above the passband, between its neighbours by a parabola over the logarithm of frequency.
fn boost(points: &[ResponsePoint], pass: f64) -> Option<Boost> {
    let (i, top) = points.iter().enumerate().max_by(|a, b| a.1.db.total_cmp(&b.1.db))?;
    if top.db < pass + BOOST_DB {
        return None;
    }
    let whole = Boost { hz: top.hz, db: top.db - pass };
    let (Some(before), Some(behind)) = (i.checked_sub(1).and_then(|i| points.get(i)), points.get(i + 1)) else { return Some(whole) };
    let (a, b) = ((before.hz / top.hz).ln(), (behind.hz / top.hz).ln());
    let (left, right) = (before.db - top.db, behind.db - top.db);
    // Through three points, of which the middle one is the origin: y = u·x² + v·x.
    let u = (left / a - right / b) / (a - b);
    let v = left / a - u * a;
    if u >= 0.0 {
        return Some(whole);
    }
    let x = (-v / (2.0 * u)).clamp(a, b);
    Some(Boost { hz: top.hz * x.exp(), db: whole.db + u * x * x + v * x })
}

/// The level at a frequency, between the points on either side.
fn at(points: &[ResponsePoint], hz: f64) -> Option<f64> {
    let pair = points.windows(2).find(|pair| pair[0].hz <= hz && hz <= pair[1].hz)?;
    let part = (hz / pair[0].hz).ln() / (pair[1].hz / pair[0].hz).ln();
    Some(pair[0].db + part * (pair[1].db - pair[0].db))
}

/// The level that most of it has, within half a decibel: what is flat. A boost and a slope have fewer points of one level.
fn passband(points: &[ResponsePoint]) -> f64 {
    let near = |level: f64| points.iter().map(|point| point.db).filter(move |db| (db - level).abs() <= 0.5);
    let flattest = points.iter().map(|point| point.db).max_by(|a, b| near(*a).count().cmp(&near(*b).count()).then(a.total_cmp(b)));
    let mut flat: Vec<f64> = flattest.map(|level| near(level).collect()).unwrap_or_default();
    flat.sort_by(f64::total_cmp);
    flat.get(flat.len() / 2).copied().unwrap_or(0.0)
}

fn corners(points: &[ResponsePoint], pass: f64) -> (Option<f64>, Option<f64>) {
    let under = |point: &ResponsePoint| point.db < pass - CORNER_DB;
    let crossing = |pair: &[ResponsePoint]| {
        let part = (pass - CORNER_DB - pair[0].db) / (pair[1].db - pair[0].db);
        pair[0].hz * (pair[1].hz / pair[0].hz).powf(part)
    };
    let low = points.windows(2).find(|pair| under(&pair[0]) && !under(&pair[1])).filter(|_| points.first().is_some_and(under));
    let high = points.windows(2).rev().find(|pair| !under(&pair[0]) && under(&pair[1])).filter(|_| points.last().is_some_and(under));
    (low.map(crossing), high.map(crossing))
}

/// Decibels an octave, by least squares over the points that lie well under the passband and not in the noise.
fn slope<'a>(beyond: impl Iterator<Item = &'a ResponsePoint>, pass: f64) -> Option<f64> {
    let used: Vec<(f64, f64)> =
        beyond.map(|point| (point.hz.log2(), point.db)).filter(|(_, db)| (pass - SLOPE_DB.1..=pass - SLOPE_DB.0).contains(db)).collect();
    if used.len() < 3 {
        return None;
    }
    let n = used.len() as f64;
    let (x, y) = used.iter().fold((0.0, 0.0), |(x, y), point| (x + point.0 / n, y + point.1 / n));
    let (xy, xx) = used.iter().fold((0.0, 0.0), |(xy, xx), point| (xy + (point.0 - x) * (point.1 - y), xx + (point.0 - x).powi(2)));
    (xx > 0.0).then(|| (xy / xx).abs())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn corners_and_slopes_of_second_order_filters() {
        // Butterworth, 80 Hz and 2 kHz: |H|² = 1/(1 + (f0/f)⁴), 1/(1 + (f/f1)⁴).
        let level = |hz: f64| (1.0 / (1.0 + (80.0 / hz).powi(4)) / (1.0 + (hz / 2_000.0).powi(4))).sqrt();
        let seen: Vec<(f64, f64)> = (0..200).map(|i| 10.0 * 10f64.powf(f64::from(i) / 60.0)).map(|hz| (hz, level(hz))).collect();
        let found = against_one_kilohertz(seen).unwrap();
        assert!((found.low_corner_hz.unwrap() / 80.0 - 1.0).abs() < 0.02, "{found:?}");
        assert!((found.high_corner_hz.unwrap() / 2_000.0 - 1.0).abs() < 0.02);
        assert!((found.low_slope_db_octave.unwrap() - 12.0).abs() < 1.0 && (found.high_slope_db_octave.unwrap() - 12.0).abs() < 1.0);
        assert_eq!(found.boost, None);
        assert!(against_one_kilohertz(vec![(100.0, 1.0)]).is_none());
    }

    #[test]
    fn a_boost_has_its_centre_and_its_height() {
        // A resonance, 45 Hz, 9 dB, Q 2: |H|² = 1 + (G² − 1)/(1 + Q²·(f/f0 − f0/f)²), G = 10^(9/20).
        let gain = 10f64.powf(9.0 / 10.0) - 1.0;
        let level = |hz: f64| (1.0 + gain / (1.0 + 4.0 * (hz / 45.0 - 45.0 / hz).powi(2))).sqrt();
        let seen: Vec<(f64, f64)> = (0..160).map(|i| 10.0 * 10f64.powf(f64::from(i) / 48.0)).map(|hz| (hz, level(hz))).collect();
        let boost = against_one_kilohertz(seen).unwrap().boost.unwrap();
        assert!((boost.hz / 45.0 - 1.0).abs() < 0.01 && (boost.db - 9.0).abs() < 0.1, "{boost:?}");
    }
}
