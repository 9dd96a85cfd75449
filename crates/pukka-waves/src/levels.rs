//! One pass over a recording: how loud it is every quarter of a millisecond, where it touches its full scale, where it jumps.

use std::ops::{ControlFlow, Range};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};

use crate::source::{Recording, Source, SourceError};

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
    /// The two samples before the next one; nothing where the recording begins.
    before: Option<[f32; 2]>,
    over: Vec<Span>,
    /// Sample that the first piece begins with.
    from: u64,
    /// Value from which on a sample touches its full scale.
    touch: f32,
    /// Touches so many samples apart are one.
    near: u64,
}

/// Recordings of fewer frames are read by one thread: a second one would cost more than it saves.
const WORTH_TWO: u64 = 262_144;

/// How far two threads have read, and whether they are to stop.
#[derive(Default)]
struct Reading {
    frames: AtomicU64,
    stopped: AtomicBool,
}

impl Reading {
    /// Adds what was read, and tells `progress` how much that is in all, unless it is to stop.
    fn heard(&self, frames: u64, progress: &mut dyn FnMut(u64) -> ControlFlow<()>) -> ControlFlow<()> {
        let done = self.frames.fetch_add(frames, Ordering::Relaxed) + frames;
        if self.stopped.load(Ordering::Relaxed) { ControlFlow::Break(()) } else { progress(done) }
    }

    /// Reads a part; where that fails, the other part need not be read to its end.
    fn part(
        &self,
        source: &mut dyn Source,
        part: Range<u64>,
        progress: &mut dyn FnMut(u64) -> ControlFlow<()>,
    ) -> Result<Vec<Gathering>, SourceError> {
        let read = gathered(source, part, &mut |frames| self.heard(frames, progress));
        self.stopped.fetch_or(read.is_err(), Ordering::Relaxed);
        read
    }
}

/// Reads a recording once: either half by a thread of its own, where it is long and can be had twice. `progress` hears how many
/// frames were read, and may end it.
///
/// # Errors
/// [`SourceError`].
pub fn levels(source: &mut dyn Source, progress: &mut dyn FnMut(u64) -> ControlFlow<()>) -> Result<Levels, SourceError> {
    let recording = source.recording();
    let hop = hop_of(recording.rate_hz);
    let second = (recording.frames >= WORTH_TWO).then(|| source.again()).flatten();
    let middle = if second.is_some() { recording.frames / 2 / hop as u64 * hop as u64 } else { u64::MAX };
    let reading = Reading::default();
    let (first, second) = std::thread::scope(|scope| {
        let helper = second.map(|mut second| {
            let reading = &reading;
            // Whoever asked is told by the first half alone.
            scope.spawn(move || reading.part(second.as_mut(), middle..u64::MAX, &mut |_| ControlFlow::Continue(())))
        });
        let first = reading.part(source, 0..middle, progress);
        (first, helper.map(|helper| helper.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))))
    });
    let all = match (first, second) {
        (first, None) => first?,
        (Ok(first), Some(Ok(second))) => first.into_iter().zip(second).map(|(first, second)| first.and(second)).collect(),
        // One was only stopped because of the other.
        (Err(SourceError::Stopped), Some(Err(why))) | (Err(why), _) | (Ok(_), Some(Err(why))) => return Err(why),
    };
    Ok(Levels { hop, channels: all.into_iter().map(Gathering::level).collect() })
}

/// Reads a part of a recording, from a frame on that a piece begins with.
fn gathered(
    source: &mut dyn Source,
    Range { start: from, end: to }: Range<u64>,
    heard: &mut dyn FnMut(u64) -> ControlFlow<()>,
) -> Result<Vec<Gathering>, SourceError> {
    let recording = source.recording();
    let hop = hop_of(recording.rate_hz);
    let mut all = (0..recording.channels)
        .map(|channel| {
            let before = if from < 2 { Vec::new() } else { source.window(channel, from - 2, 2)? };
            Ok(Gathering::new(&recording, from, before.first_chunk::<2>().map(|two| two.map(|x| x as f32))))
        })
        .collect::<Result<Vec<_>, SourceError>>()?;
    let (mut done, mut whole) = (from, false);
    let read = source.blocks(from, &mut |block| {
        let frames = block.first().map_or(0, Vec::len);
        let own = frames.min(usize::try_from(to - done).unwrap_or(usize::MAX));
        for (gathered, samples) in all.iter_mut().zip(block) {
            gathered.add(&samples[..own], hop);
        }
        done += own as u64;
        whole = done == to;
        if heard(own as u64).is_break() {
            whole = false;
            return ControlFlow::Break(());
        }
        if whole { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    });
    match read {
        Err(SourceError::Stopped) if whole => {}
        read => read?,
    }
    // What is left at the end is no piece, and may touch the full scale all the same.
    for gathered in &mut all {
        let left = std::mem::take(&mut gathered.left);
        gathered.touches(&left, hop);
    }
    Ok(all)
}

/// The value from which on a sample touches its full scale.
fn touch(recording: &Recording) -> Option<f32> {
    let full = recording.full_scale?;
    Some((full - recording.least_step().unwrap_or(0.0) * 1.5).max(0.0) as f32)
}

/// Sum, sum of squares, lowest and highest: eight side by side, as sums one after another would wait for each other.
fn extremes(samples: &[f32]) -> (f32, f32, f32, f32) {
    let (mut sums, mut squares) = ([0.0f32; LANES], [0.0f32; LANES]);
    let (mut lows, mut highs) = ([f32::INFINITY; LANES], [f32::NEG_INFINITY; LANES]);
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
    let (plus, lower, higher) = (|a, b| a + b, |a: f32, b: f32| if a < b { a } else { b }, |a: f32, b: f32| if a > b { a } else { b });
    (folded(sums, plus), folded(squares, plus), folded(lows, lower), folded(highs, higher))
}

/// One of eight, half by half: one after another each would wait for the one before.
fn folded([a, b, c, d, e, f, g, h]: [f32; LANES], two: impl Fn(f32, f32) -> f32) -> f32 {
    two(two(two(a, e), two(c, g)), two(two(b, f), two(d, h)))
}

fn bent(a: f32, b: f32, c: f32) -> f32 {
    (c - 2.0 * b + a).abs()
}

/// The largest second difference of neighbours.
fn most_bent(samples: &[f32]) -> f32 {
    let Some(behind) = samples.get(2..) else { return 0.0 };
    let mut most = [0.0f32; LANES];
    let groups = || samples.chunks_exact(LANES).zip(samples[1..].chunks_exact(LANES)).zip(behind.chunks_exact(LANES));
    for ((a, b), c) in groups() {
        for lane in 0..LANES {
            let bent = bent(a[lane], b[lane], c[lane]);
            most[lane] = if bent > most[lane] { bent } else { most[lane] };
        }
    }
    let rest = &samples[behind.len() / LANES * LANES..];
    let rest = rest.windows(3).map(|three| bent(three[0], three[1], three[2])).fold(0.0, f32::max);
    folded(most, |a, b| if a > b { a } else { b }).max(rest)
}

impl Gathering {
    fn new(recording: &Recording, from: u64, before: Option<[f32; 2]>) -> Self {
        let room = (recording.frames.saturating_sub(from) as usize / hop_of(recording.rate_hz)).min(1 << 24) + 1;
        Self {
            hops: Vec::with_capacity(room),
            left: Vec::new(),
            before,
            over: Vec::new(),
            from,
            touch: touch(recording).unwrap_or(f32::INFINITY),
            near: (ONE_TOUCH_S * recording.rate_hz) as u64,
        }
    }

    fn add(&mut self, samples: &[f32], hop: usize) {
        let mut rest = samples;
        if !self.left.is_empty() {
            let taken = (hop - self.left.len()).min(rest.len());
            self.left.extend_from_slice(&rest[..taken]);
            rest = &rest[taken..];
            if self.left.len() < hop {
                return;
            }
            let mut whole = std::mem::take(&mut self.left);
            self.piece(&whole);
            whole.clear();
            self.left = whole;
        }
        let pieces = rest.chunks_exact(hop);
        self.left.extend_from_slice(pieces.remainder());
        for piece in pieces {
            self.piece(piece);
        }
    }

    fn piece(&mut self, samples: &[f32]) {
        let (sum, square, low, high) = extremes(samples);
        if high.max(-low) >= self.touch {
            self.touches(samples, samples.len());
        }
        // The first two bend with what is before them; before the first sample nothing is known to bend.
        let step = || samples[0] - samples.get(1).copied().unwrap_or(samples[0]);
        let [mut a, mut b] = self.before.unwrap_or_else(|| [samples[0] + 2.0 * step(), samples[0] + step()]);
        let mut bend = most_bent(samples);
        for x in samples.iter().take(2) {
            bend = bend.max(bent(a, b, *x));
            (a, b) = (b, *x);
        }
        self.before = Some(match samples {
            [.., a, b] => [*a, *b],
            _ => [a, b],
        });
        self.hops.push(Hop { sum, square, low, high, bend });
    }

    /// Notes where samples behind the pieces so far touch their full scale.
    fn touches(&mut self, samples: &[f32], hop: usize) {
        let start = self.from + (self.hops.len() * hop) as u64;
        let touch = self.touch;
        for (i, _) in samples.iter().enumerate().filter(|(_, x)| x.abs() >= touch) {
            let at = start + i as u64;
            self.touched(Span { from: at, to: at + 1 });
        }
    }

    fn touched(&mut self, span: Span) {
        match self.over.last_mut() {
            Some(last) if span.from <= last.to + self.near => last.to = span.to,
            _ => self.over.push(span),
        }
    }

    /// With the part that comes behind it.
    fn and(mut self, behind: Self) -> Self {
        self.hops.extend(behind.hops);
        behind.over.into_iter().for_each(|span| self.touched(span));
        self
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
