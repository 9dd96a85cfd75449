//! One pass over a recording: how loud it is every quarter of a millisecond, where it touches its full scale, where it jumps.

use std::ops::ControlFlow;
use std::sync::mpsc::{channel, sync_channel};

use crate::traces::source::{Recording, Source, SourceError};

/// Frames that are handed over together, and how often before they are waited for.
const TOGETHER: usize = 16_384;
const AHEAD: usize = 4;
/// Samples that are looked at side by side.
const LANES: usize = 8;
/// Pieces a second.
const HOPS_A_SECOND: f64 = 4_000.0;
/// Touches of full scale nearer to one another than this are one.
const ONE_TOUCH_S: f64 = 0.010;

/// A piece of one channel.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Hop {
    sum: f32,
    square: f32,
    /// Lowest and highest sample.
    pub low: f32,
    /// Highest.
    pub high: f32,
    /// Largest bend from sample to sample: the second difference.
    pub bend: f32,
}

/// A stretch of time, in samples.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Span {
    /// First sample.
    pub from: u64,
    /// Behind the last.
    pub to: u64,
}

/// The levels of one channel.
#[derive(Debug, Clone)]
pub struct Level {
    /// Pieces.
    pub hops: Vec<Hop>,
    /// Sums of samples and of their squares up to each piece.
    sums: Vec<(f64, f64)>,
    /// Place where it touches its full scale.
    pub over: Vec<Span>,
}

/// The levels of a recording.
#[derive(Debug, Clone)]
pub struct Levels {
    /// Samples of a piece.
    pub hop: usize,
    /// A channel each.
    pub channels: Vec<Level>,
}

impl Level {
    /// Mean square about the mean, over pieces.
    #[must_use]
    pub fn mean_square(&self, from: usize, to: usize, hop: usize) -> f64 {
        let to = to.min(self.hops.len());
        if from >= to {
            return 0.0;
        }
        let n = ((to - from) * hop) as f64;
        let (a, b) = (self.sums[from], self.sums[to]);
        let mean = (b.0 - a.0) / n;
        ((b.1 - a.1) / n - mean * mean).max(0.0)
    }

    /// A part of it, as if there were nothing else.
    #[must_use]
    pub fn part(&self, from: usize, to: usize) -> Self {
        let (from, to) = (from.min(self.hops.len()), to.min(self.hops.len()));
        Self { hops: self.hops[from..to].to_vec(), sums: self.sums[from..=to].to_vec(), over: Vec::new() }
    }

    /// Mean over pieces.
    #[must_use]
    pub fn mean(&self, from: usize, to: usize, hop: usize) -> f64 {
        let to = to.min(self.hops.len());
        if from >= to { 0.0 } else { (self.sums[to].0 - self.sums[from].0) / ((to - from) * hop) as f64 }
    }

    /// Largest value either way, of the samples themselves.
    #[must_use]
    pub fn peak(&self, from: usize, to: usize) -> f64 {
        let pieces = &self.hops[from.min(self.hops.len())..to.min(self.hops.len())];
        pieces.iter().map(|hop| f64::from(hop.high).abs().max(f64::from(hop.low).abs())).fold(0.0, f64::max)
    }
}

/// Samples of a piece at a rate.
#[must_use]
pub fn hop_of(rate_hz: f64) -> usize {
    ((rate_hz / HOPS_A_SECOND).round() as usize).max(1)
}

struct Gathering {
    hops: Vec<Hop>,
    left: Vec<f32>,
    before: [f32; 2],
    over: Vec<Span>,
}

/// Reads a recording once. `progress` hears how many frames were read, and may end it.
///
/// # Errors
/// [`SourceError`].
pub fn levels(source: &mut dyn Source, progress: &mut dyn FnMut(u64) -> ControlFlow<()>) -> Result<Levels, SourceError> {
    let recording = source.recording();
    let hop = hop_of(recording.rate_hz);
    let room = (recording.frames as usize / hop).min(1 << 24) + 1;
    let mut all: Vec<Gathering> = (0..recording.channels)
        .map(|_| Gathering { hops: Vec::with_capacity(room), left: Vec::new(), before: [0.0; 2], over: Vec::new() })
        .collect();
    let touches = touch(&recording);
    // What is read is looked at by another thread, while this one reads on.
    let (to_gather, blocks) = sync_channel::<Vec<Vec<f32>>>(AHEAD);
    let (give_back, used) = channel::<Vec<Vec<f32>>>();
    let all = std::thread::scope(|scope| {
        let gathering = scope.spawn(move || {
            let mut done = 0u64;
            for block in blocks {
                for (gathered, samples) in all.iter_mut().zip(&block) {
                    if let Some(touch) = touches {
                        add_touches(gathered, samples, done, touch, recording.rate_hz);
                    }
                    gathered.add(samples, hop);
                }
                done += block.first().map_or(0, Vec::len) as u64;
                let _ = give_back.send(block);
            }
            all
        });
        let mut done = 0u64;
        let mut next: Vec<Vec<f32>> = vec![Vec::new(); recording.channels];
        let read = source.blocks(&mut |block| {
            next.iter_mut().zip(block).for_each(|(next, samples)| next.extend_from_slice(samples));
            done += block.first().map_or(0, Vec::len) as u64;
            if next.first().is_some_and(|samples| samples.len() >= TOGETHER) {
                let mut empty = used.try_recv().unwrap_or_else(|_| vec![Vec::new(); recording.channels]);
                empty.iter_mut().for_each(Vec::clear);
                let _ = to_gather.send(std::mem::replace(&mut next, empty));
            }
            progress(done)
        });
        let _ = to_gather.send(next);
        drop(to_gather);
        let all = gathering.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
        read.map(|()| all)
    })?;
    let channels = all.into_iter().map(Gathering::level).collect();
    Ok(Levels { hop, channels })
}

/// The value from which on a sample touches its full scale.
fn touch(recording: &Recording) -> Option<f32> {
    let full = recording.full_scale?;
    Some((full - recording.least_step().unwrap_or(0.0) * 1.5).max(0.0) as f32)
}

fn add_touches(gathered: &mut Gathering, samples: &[f32], done: u64, touch: f32, rate_hz: f64) {
    if samples.iter().fold(0.0f32, |most, x| most.max(x.abs())) < touch {
        return;
    }
    let near = (ONE_TOUCH_S * rate_hz) as u64;
    for (i, _) in samples.iter().enumerate().filter(|(_, x)| x.abs() >= touch) {
        let at = done + i as u64;
        match gathered.over.last_mut() {
            Some(last) if at <= last.to + near => last.to = at + 1,
            _ => gathered.over.push(Span { from: at, to: at + 1 }),
        }
    }
}

impl Gathering {
    fn add(&mut self, samples: &[f32], hop: usize) {
        let mut rest = samples;
        if !self.left.is_empty() {
            let taken = (hop - self.left.len()).min(rest.len());
            self.left.extend_from_slice(&rest[..taken]);
            rest = &rest[taken..];
            if self.left.len() < hop {
                return;
            }
            let whole = std::mem::take(&mut self.left);
            self.piece(&whole);
        }
        let pieces = rest.chunks_exact(hop);
        self.left.extend_from_slice(pieces.remainder());
        for piece in pieces {
            self.piece(piece);
        }
    }

    fn piece(&mut self, samples: &[f32]) {
        // Eight side by side, as sums one after another would wait for each other.
        let (mut sums, mut squares) = ([0.0f32; LANES], [0.0f32; LANES]);
        let (mut lows, mut highs, mut bends) = ([f32::INFINITY; LANES], [f32::NEG_INFINITY; LANES], [0.0f32; LANES]);
        let groups = samples.chunks_exact(LANES);
        let rest = groups.remainder();
        for group in groups {
            for lane in 0..LANES {
                let x = group[lane];
                sums[lane] += x;
                squares[lane] += x * x;
                lows[lane] = if x < lows[lane] { x } else { lows[lane] };
                highs[lane] = if x > highs[lane] { x } else { highs[lane] };
            }
        }
        for (lane, x) in rest.iter().enumerate() {
            sums[lane] += x;
            squares[lane] += x * x;
            lows[lane] = lows[lane].min(*x);
            highs[lane] = highs[lane].max(*x);
        }
        let [mut a, mut b] = self.before;
        // Before the first sample nothing is known to bend.
        if self.hops.is_empty() {
            (a, b) = (2.0 * samples[0] - samples.get(1).copied().unwrap_or(samples[0]), samples[0]);
        }
        // The first two bend with what is before them; the others with their neighbours.
        for x in samples.iter().take(2) {
            bends[0] = bends[0].max((x - 2.0 * b + a).abs());
            (a, b) = (b, *x);
        }
        for (i, three) in samples.windows(3).enumerate() {
            let bent = (three[2] - 2.0 * three[1] + three[0]).abs();
            let lane = i % LANES;
            bends[lane] = if bent > bends[lane] { bent } else { bends[lane] };
        }
        self.before = match samples {
            [.., a, b] => [*a, *b],
            _ => [a, b],
        };
        self.hops.push(Hop {
            sum: sums.iter().sum(),
            square: squares.iter().sum(),
            low: lows.into_iter().fold(f32::INFINITY, f32::min),
            high: highs.into_iter().fold(f32::NEG_INFINITY, f32::max),
            bend: bends.into_iter().fold(0.0, f32::max),
        });
    }

    fn level(self) -> Level {
        let mut sums = Vec::with_capacity(self.hops.len() + 1);
        let mut so_far = (0.0, 0.0);
        sums.push(so_far);
        for hop in &self.hops {
            so_far = (so_far.0 + f64::from(hop.sum), so_far.1 + f64::from(hop.square));
            sums.push(so_far);
        }
        Level { hops: self.hops, sums, over: self.over }
    }
}
