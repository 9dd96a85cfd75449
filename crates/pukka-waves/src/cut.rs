//! Cuts a channel by its envelope: quiet, tone, burst, ramp, sweep, steps.

use crate::levels::Level;
use crate::sums::mean;

/// Kind of stretch.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, serde::Serialize, serde::Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum StretchKind {
    /// Nothing, or nearly.
    #[default]
    Quiet,
    /// A steady tone.
    Tone,
    /// Whole cycles between lower levels.
    Burst,
    /// A level that rises or falls steadily by more than 3 dB.
    Ramp,
    /// A frequency that moves.
    Sweep,
    /// A staircase of steady levels.
    Steps,
}

/// A piece of a channel, in hops.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Piece {
    /// Format.
    pub kind: StretchKind,
    /// First hop.
    pub from: usize,
    /// Behind the last.
    pub to: usize,
    /// Level, decibels of the channel's loudest.
    pub level_db: f64,
}

/// So far below the loudest the envelope is taken for flat.
const FLOOR_DB: f64 = -60.0;
/// From here down it is quiet.
const QUIET_DB: f64 = -50.0;
/// A change of level within two windows that is an edge.
const EDGE_DB: f64 = 4.0;
/// A burst stands out by so much, and has so many cycles at most.
const BURST_DB: f64 = 6.0;
const BURST_CYCLES: f64 = 100.0;
/// A steady tone moves by no more than this in all.
const STEADY_DB: f64 = 0.2;
/// A ramp by more than this.
const RAMP_DB: f64 = 3.0;
/// Cycles and hops over which slow changes are looked at.
const SLOW_CYCLES: f64 = 8.0;
const SLOW_HOPS: usize = 100;

/// The envelope of a channel.
pub struct Envelope<'a> {
    level: &'a Level,
    hop: usize,
    /// Hops of one window: a whole period at least.
    pub window: usize,
    /// Hops of one period.
    period: f64,
    db: Vec<f64>,
    /// Likewise as a ratio of mean squares.
    ratio: Vec<f64>,
    /// Mean square of its loudest window.
    loudest: f64,
}

impl<'a> Envelope<'a> {
    /// Of a channel whose tone has this period, in samples.
    #[must_use]
    pub fn new(level: &'a Level, hop: usize, period: f64) -> Self {
        let period = period / hop as f64;
        // So many periods that they end where a hop does, nearly: what is left over would ripple.
        let whole = (1..=16).map(f64::from).find(|n| {
            let span = n * period;
            span >= 1.0 && (span - span.round()).abs() / span < 0.04
        });
        let window = (whole.unwrap_or_else(|| (4.0 / period).ceil().max(1.0)) * period).round().max(1.0) as usize;
        // At the ends the window stands still, so that it is a whole one everywhere.
        let last = level.hops.len().saturating_sub(window);
        let squares: Vec<f64> = (0..level.hops.len())
            .map(|k| k.saturating_sub(window / 2).min(last))
            .map(|from| level.mean_square(from, from + window, hop))
            .collect();
        let most = squares.iter().copied().fold(f64::MIN_POSITIVE, f64::max);
        let mut envelope = Self { level, hop, window, period, db: Vec::new(), ratio: squares, loudest: most };
        envelope.scale(1.0 / most);
        envelope
    }

    /// Counts the levels of several envelopes from the loudest of all.
    pub fn of_one_channel(envelopes: &mut [Self]) {
        let most = envelopes.iter().map(|envelope| envelope.loudest).fold(0.0, f64::max);
        for envelope in envelopes {
            if envelope.loudest < most {
                envelope.scale(envelope.loudest / most);
                envelope.loudest = most;
            }
        }
    }

    /// Takes every level down by a ratio of mean squares.
    fn scale(&mut self, by: f64) {
        let floor = 10f64.powf(FLOOR_DB / 10.0);
        self.ratio.iter_mut().for_each(|ratio| *ratio = (*ratio * by).max(floor));
        self.db = self.ratio.iter().map(|ratio| 10.0 * ratio.log10()).collect();
    }

    fn cycles(&self, from: usize, to: usize) -> f64 {
        (to - from) as f64 / self.period
    }

    /// Level over hops, decibels of the loudest window.
    fn level_db(&self, from: usize, to: usize) -> f64 {
        let inner = self.inner(from, to);
        10.0 * mean(&self.ratio[inner.0..inner.1]).max(1e-30).log10()
    }

    /// A piece without its edges, or its middle where it is short.
    fn inner(&self, from: usize, to: usize) -> (usize, usize) {
        let (a, b) = (from + self.window, to.saturating_sub(self.window));
        if a < b {
            return (a, b);
        }
        let middle = usize::midpoint(from, to).min(self.db.len().saturating_sub(1));
        (middle, (middle + 1).min(self.db.len()))
    }

    /// Places where the level changes at once.
    fn edges(&self) -> Vec<usize> {
        let (n, w) = (self.db.len(), self.window);
        let change = |k: usize| self.db[(k + w).min(n - 1)] - self.db[k.saturating_sub(w)];
        let mut edges: Vec<usize> = Vec::new();
        let mut k = 0;
        while k < n {
            if change(k).abs() < EDGE_DB {
                k += 1;
                continue;
            }
            // One run of one direction: the edge is where it changes most, in the middle of a flat top.
            let up = change(k) > 0.0;
            let mut end = k;
            while end < n && change(end).abs() >= EDGE_DB && (change(end) > 0.0) == up {
                end += 1;
            }
            let most = (k..end).map(|at| change(at).abs()).fold(0.0, f64::max);
            let top: Vec<usize> = (k..end).filter(|at| change(*at).abs() >= most - 0.05).collect();
            // A slope that goes on and on is no edge.
            if end - k <= 6 * w.max(2) {
                edges.push(usize::midpoint(top[0], top[top.len() - 1]));
            }
            k = end;
        }
        (0..edges.len())
            .map(|i| {
                let before = i.checked_sub(1).map_or(0, |i| edges[i]);
                self.sharpened(edges[i], before, edges.get(i + 1).copied().unwrap_or(n))
            })
            .collect()
    }

    /// Place where between its neighbours an edge parts two levels best: the place from which either side is likeliest, each a wave of one
    /// mean square.
    fn sharpened(&self, edge: usize, before: usize, behind: usize) -> usize {
        let w = self.window.max(2);
        let (a, b) = (edge.saturating_sub(2 * w).max(before), (edge + 2 * w).min(behind));
        let least = 1e-12 * self.level.mean_square(0, self.level.hops.len(), self.hop).max(f64::MIN_POSITIVE);
        let cost = |from: usize, to: usize| (to - from) as f64 * (self.level.mean_square(from, to, self.hop) + least).ln();
        let places = (edge.saturating_sub(w).max(a + 1))..(edge + w + 1).min(b);
        places.min_by(|x, y| (cost(a, *x) + cost(*x, b)).total_cmp(&(cost(a, *y) + cost(*y, b)))).unwrap_or(edge)
    }

    /// The pieces of the channel, in order; frequencies are not looked at yet.
    #[must_use]
    pub fn pieces(&self) -> Vec<Piece> {
        if self.db.is_empty() {
            return Vec::new();
        }
        let mut cuts = vec![0];
        cuts.extend(self.edges().into_iter().filter(|at| *at > 0 && *at < self.db.len()));
        cuts.push(self.db.len());
        cuts.sort_unstable();
        cuts.dedup();
        let rough: Vec<Piece> = cuts
            .windows(2)
            .map(|ends| Piece { kind: StretchKind::Tone, from: ends[0], to: ends[1], level_db: self.level_db(ends[0], ends[1]) })
            .collect();
        let mut pieces = Vec::new();
        for (i, piece) in rough.iter().enumerate() {
            let beside = |other: Option<&Piece>| other.is_some_and(|other| piece.level_db - other.level_db >= BURST_DB);
            let stands_out = beside(i.checked_sub(1).and_then(|before| rough.get(before))) && beside(rough.get(i + 1));
            if piece.level_db <= QUIET_DB {
                pieces.push(Piece { kind: StretchKind::Quiet, ..*piece });
            } else if stands_out && self.cycles(piece.from, piece.to) <= BURST_CYCLES {
                pieces.push(Piece { kind: StretchKind::Burst, ..*piece });
            } else {
                pieces.extend(self.slow(*piece));
            }
        }
        self.without_slivers(pieces)
    }

    /// Drops pieces that are shorter than a period and no burst into what is beside them: an edge that was seen twice.
    fn without_slivers(&self, pieces: Vec<Piece>) -> Vec<Piece> {
        let mut kept: Vec<Piece> = Vec::with_capacity(pieces.len());
        let mut sliver: Option<usize> = None;
        for piece in pieces {
            let short = piece.kind == StretchKind::Tone && self.cycles(piece.from, piece.to) < 1.0;
            match (short, kept.last_mut()) {
                (true, Some(last)) if last.kind == StretchKind::Tone => last.to = piece.to,
                (true, _) => sliver = sliver.or(Some(piece.from)),
                // Noise has edges of its own, which are nobody's.
                (false, Some(last)) if last.kind == StretchKind::Quiet && piece.kind == StretchKind::Quiet && sliver.is_none() => {
                    last.to = piece.to;
                }
                (false, _) => kept.push(Piece { from: sliver.take().unwrap_or(piece.from), ..piece }),
            }
        }
        match (sliver, kept.last_mut()) {
            (Some(_), Some(last)) => last.to = self.db.len(),
            // Less than a cycle is all there is.
            (Some(from), None) => kept.push(Piece { kind: StretchKind::Tone, from, to: self.db.len(), level_db: 0.0 }),
            _ => {}
        }
        kept
    }

    /// A piece without edges: steady, or a ramp with what is steady before and behind it, or a staircase.
    fn slow(&self, piece: Piece) -> Vec<Piece> {
        let block = ((SLOW_CYCLES * self.period).ceil() as usize).max(SLOW_HOPS).max(self.window);
        let (from, to) = (piece.from + self.window / 2, piece.to.saturating_sub(self.window / 2));
        let count = to.saturating_sub(from) / block;
        if count < 3 {
            return vec![piece];
        }
        let db = |i: usize| {
            let square = self.level.mean_square(from + i * block, from + (i + 1) * block, self.hop);
            10.0 * square.max(1e-300).log10()
        };
        let levels: Vec<f64> = (0..count).map(db).collect();
        let (least, most) = levels.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), x| (low.min(*x), high.max(*x)));
        let moved = levels[count - 1] - levels[0];
        if most - least <= STEADY_DB || moved.abs() <= RAMP_DB {
            return vec![piece];
        }
        // What stays at the level it begins or ends with is no part of the ramp.
        let head = levels.iter().take_while(|level| (*level - levels[0]).abs() <= STEADY_DB / 2.0).count();
        let tail = levels.iter().rev().take_while(|level| (*level - levels[count - 1]).abs() <= STEADY_DB / 2.0).count();
        let steps: Vec<f64> = levels.windows(2).map(|pair| (pair[1] - pair[0]).abs()).collect();
        let all: f64 = steps.iter().sum();
        let mut sorted = steps;
        sorted.sort_by(|a, b| b.total_cmp(a));
        let few = (sorted.len() / 4).max(1);
        let is_staircase = count >= 12 && sorted.iter().take(few).sum::<f64>() > 0.95 * all;
        if is_staircase {
            return vec![Piece { kind: StretchKind::Steps, ..piece }];
        }
        let (ramp_from, ramp_to) =
            (if head >= 4 { from + head * block } else { piece.from }, if tail >= 4 { to - tail * block } else { piece.to });
        let tone = |from: usize, to: usize| Piece { kind: StretchKind::Tone, from, to, level_db: self.level_db(from, to) };
        let parts = [
            tone(piece.from, ramp_from),
            Piece { kind: StretchKind::Ramp, from: ramp_from, to: ramp_to, ..piece },
            tone(ramp_to, piece.to),
        ];
        parts.into_iter().filter(|part| part.to > part.from).collect()
    }
}
