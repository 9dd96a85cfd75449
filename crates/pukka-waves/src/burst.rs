//! A burst of whole cycles: where it begins and ends to the sample, and each of its cycles.

use crate::distortion::{DENSE, Tools};
use crate::interpolate::STEPS;
use crate::report::Cycle;
use crate::sine::{Sine, fit, fit_at};

/// A quieter tone beside a burst tells its frequency, if it is at least this part of it.
const GOES_ON: f64 = 0.03;

/// A burst, to the sample.
#[derive(Debug, Clone, PartialEq)]
pub struct Burst {
    /// First sample, inside the window it was looked for in.
    pub from: f64,
    /// Behind its last.
    pub to: f64,
    /// Frequency.
    pub hz: f64,
    /// Whole cycles.
    pub cycles: u32,
    /// Each of them.
    pub each: Vec<Cycle>,
}

/// Looks for a burst in a window that holds it with a period and more on either side. `rough` is where it lies to within a period.
#[must_use]
pub fn burst(tools: &Tools, samples: &[f64], rate_hz: f64, near_hz: f64, rough: (usize, usize)) -> Option<Burst> {
    let period = rate_hz / near_hz;
    let inside = |from: f64, to: f64| -> &[f64] {
        let (from, to) = (from.max(0.0) as usize, (to.max(0.0) as usize).min(samples.len()));
        if from < to { &samples[from..to] } else { &[] }
    };
    let (rough_from, rough_to) = (rough.0 as f64, rough.1 as f64);
    let counted = (rough_to - rough_from) / period;
    // Of three cycles and more the inner ones tell the frequency; of fewer, the time it lasts.
    let inner = inside(rough_from + period / 2.0, rough_to - period / 2.0);
    // Where the tone goes on more quietly before it, that tells the frequency of one cycle too.
    let earlier = fit(inside(rough_from - 3.75 * period, rough_from - period / 4.0), rate_hz, near_hz);
    let loudest = samples.iter().fold(0.0f64, |most, x| most.max(x.abs()));
    let goes_on = earlier.filter(|sine| sine.amplitude() > GOES_ON * loudest && (sine.hz / near_hz - 1.0).abs() < 0.1);
    let hz = match goes_on {
        _ if counted >= 3.0 => fit(inner, rate_hz, near_hz).map_or(near_hz, |sine| sine.hz),
        Some(sine) => sine.hz,
        None => near_hz,
    };
    let by_time = counted < 3.0 && goes_on.is_none();
    let (start, end) = if !by_time {
        let between = |from: f64, to: f64| fit_at(inside(from, to), rate_hz, hz).map(|sine| (sine, from.max(0.0)));
        let before = between(rough_from - 3.0 * period, rough_from - period / 4.0);
        let after = between(rough_to + period / 4.0, rough_to + 3.0 * period);
        (
            edge(samples, rate_hz, rough_from, period, before, first_part(samples, rate_hz, hz, rough, period, true))?,
            edge(samples, rate_hz, rough_to, period, first_part(samples, rate_hz, hz, rough, period, false), after)?,
        )
    } else {
        heard(samples)?
    };
    let lasted = end as f64 - start as f64;
    let (cycles, hz) = whole_cycles(lasted, hz, rate_hz, by_time)?;
    let (from, period) = (start as f64, rate_hz / hz);
    // Of its own samples only: the wave does not go on smoothly at its ends.
    let end = ((from + f64::from(cycles) * period).ceil() as usize + 1).min(samples.len());
    let each = cycle_figures(tools, &samples[start..end.max(start)], 0.0, period, cycles);
    Some(Burst { from, to: from + f64::from(cycles) * period, hz, cycles, each })
}

/// From the first to the last sample that stands out of what is there before: of a cycle or two, whose frequency nothing else tells.
fn heard(samples: &[f64]) -> Option<(usize, usize)> {
    let most = samples.iter().fold(0.0f64, |most, x| most.max(x.abs()));
    let ends = samples.len() / 8;
    let quiet = samples.iter().take(ends).chain(samples.iter().rev().take(ends)).fold(0.0f64, |most, x| most.max(x.abs()));
    let stands_out = |x: &f64| x.abs() > (0.02 * most).max(1.5 * quiet);
    let (from, to) = (samples.iter().position(stands_out)?, samples.iter().rposition(stands_out)?);
    // The wave passes zero a little before and behind them.
    (to > from).then(|| (from.saturating_sub(1), to + 1))
}

/// Number of cycles in a stretch; of very few the time they last tells their frequency.
fn whole_cycles(lasted: f64, hz: f64, rate_hz: f64, by_time: bool) -> Option<(u32, f64)> {
    let cycles = (lasted * hz / rate_hz).round().max(1.0);
    (lasted > 0.0).then(|| (cycles as u32, if by_time { cycles * rate_hz / lasted } else { hz }))
}

/// The sine at the beginning of a burst, or at its end.
fn first_part(samples: &[f64], rate_hz: f64, hz: f64, rough: (usize, usize), period: f64, start: bool) -> Option<(Sine, f64)> {
    let (from, to) = (rough.0 as f64, rough.1 as f64);
    let length = (to - from).min(2.0 * period).max(period * 0.75);
    let (a, b) = if start { (from + period / 8.0, from + length) } else { (to - length, to - period / 8.0) };
    let (a, b) = (a.max(0.0), b.min(samples.len() as f64));
    let part = samples.get(a as usize..b as usize)?;
    fit_at(part, rate_hz, hz).map(|sine| (sine, a.floor()))
}

/// Place where one wave gives way to another, and what either of them is: the sine, and the sample it counts from.
#[must_use]
pub fn change(samples: &[f64], rate_hz: f64, guess: f64, within: f64, before: (Sine, f64), after: (Sine, f64)) -> Option<usize> {
    edge(samples, rate_hz, guess, within / 1.25, Some(before), Some(after))
}

/// Place where one wave gives way to another, within a period of a guess: the place that leaves least of the samples unexplained.
fn edge(samples: &[f64], rate_hz: f64, guess: f64, period: f64, before: Option<(Sine, f64)>, after: Option<(Sine, f64)>) -> Option<usize> {
    let from = (guess - 1.25 * period).max(0.0) as usize;
    let to = ((guess + 1.25 * period) as usize).min(samples.len());
    if from >= to {
        return None;
    }
    let misses = |wave: Option<(Sine, f64)>| -> Vec<f64> {
        let own = &samples[from..to];
        match wave {
            Some((sine, start)) => own.iter().zip(sine.from(from as f64 - start, rate_hz)).map(|(x, wave)| (x - wave).powi(2)).collect(),
            None => own.iter().map(|x| x * x).collect(),
        }
    };
    let (before, after) = (misses(before), misses(after));
    // Explained by what comes behind all along; then ever more of it by what came before.
    let mut cost: f64 = after.iter().sum();
    let (mut best, mut at) = (cost, from);
    for (n, (before, after)) in before.iter().zip(&after).enumerate() {
        cost += before - after;
        if cost < best {
            (best, at) = (cost, from + n + 1);
        }
    }
    Some(at)
}

fn cycle_figures(tools: &Tools, samples: &[f64], from: f64, period: f64, cycles: u32) -> Vec<Cycle> {
    let dense = period >= DENSE;
    let per_sample = if dense { 1 } else { STEPS };
    let (last, steps) = (samples.len() * per_sample, per_sample as f64);
    (0..cycles)
        .map(|n| {
            let start = ((from + f64::from(n) * period) * steps).round() as usize;
            let end = (((from + f64::from(n + 1) * period) * steps).round() as usize).min(last);
            let (mut square, mut peak) = (0.0, 0.0f64);
            for at in start..end {
                let value = if dense { samples[at] } else { tools.fine.value(samples, at / STEPS, at % STEPS) };
                square += value * value;
                peak = peak.max(value.abs());
            }
            Cycle { peak, rms: (square / (end - start).max(1) as f64).sqrt() }
        })
        .collect()
}
