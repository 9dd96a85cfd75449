/** The wave of one channel at several resolutions, each of half as many pieces as the one before: lows and highs of pieces. */
export interface Pyramid {
  /** Samples of a piece of the finest level. */
  piece: number;
  levels: readonly { low: Float32Array; high: Float32Array }[];
}

/** Reads what the program sends: of each piece its lowest and its highest sample and its rms, channel behind channel. */
export function pyramids(sent: ArrayBuffer, pieces: number, piece: number): Pyramid[] {
  const all = new Float32Array(sent);
  const channels = pieces === 0 ? 0 : Math.floor(all.length / (3 * pieces));
  return Array.from({ length: channels }, (_, channel) => {
    const low = new Float32Array(pieces);
    const high = new Float32Array(pieces);
    for (let n = 0; n < pieces; n++) {
      const at = 3 * (channel * pieces + n);
      low[n] = all[at] ?? 0;
      high[n] = all[at + 1] ?? 0;
    }
    return built(piece, low, high);
  });
}

/** Of samples themselves, where somebody looks closer than the pieces are. */
export const ofSamples = (samples: Float32Array): Pyramid => built(1, samples, samples);

function built(piece: number, low: Float32Array, high: Float32Array): Pyramid {
  const levels = [{ low, high }];
  for (let last = levels[0]; last && last.low.length > 1; last = levels.at(-1)) {
    const half = Math.ceil(last.low.length / 2);
    const next = { low: new Float32Array(half), high: new Float32Array(half) };
    for (let n = 0; n < half; n++) {
      const [a, b] = [2 * n, Math.min(2 * n + 1, last.low.length - 1)];
      next.low[n] = Math.min(last.low[a] ?? 0, last.low[b] ?? 0);
      next.high[n] = Math.max(last.high[a] ?? 0, last.high[b] ?? 0);
    }
    levels.push(next);
  }
  return { piece, levels };
}

/** Lowest and highest sample of a stretch, of samples from and to: exact at its ends, quick in between. */
export function extremes({ piece, levels }: Pyramid, from: number, to: number): [low: number, high: number] {
  const finest = levels[0];
  if (!finest || finest.low.length === 0) return [0, 0];
  const last = finest.low.length - 1;
  let a = Math.max(0, Math.min(last, Math.floor(from / piece)));
  let b = Math.max(a, Math.min(last, Math.ceil(to / piece) - 1));
  let [low, high] = [Infinity, -Infinity];
  const take = (level: { low: Float32Array; high: Float32Array }, n: number) => {
    low = Math.min(low, level.low[n] ?? Infinity);
    high = Math.max(high, level.high[n] ?? -Infinity);
  };
  for (const level of levels) {
    // Ends that do not fill a piece of the next level are taken here; what is left between them goes on there.
    if (a > b) break;
    if (a % 2 === 1) take(level, a++);
    if (a <= b && b % 2 === 0) take(level, b--);
    if (a > b) break;
    a >>= 1;
    b >>= 1;
  }
  return [low, high];
}

/** Lowest and highest of each column of a picture of samples from and to. */
export function columns(pyramid: Pyramid, from: number, to: number, count: number): [low: number, high: number][] {
  const wide = (to - from) / count;
  return Array.from({ length: count }, (_, n) => extremes(pyramid, from + n * wide, from + (n + 1) * wide));
}

/** A part of a recording that is in sight, in seconds. */
export interface Sight {
  from: number;
  to: number;
}

/** Moves a sight so that it stays inside a recording and is no narrower than `least`. */
export function inside({ from, to }: Sight, seconds: number, least: number): Sight {
  const wide = Math.min(seconds, Math.max(least, to - from));
  const start = Math.max(0, Math.min(seconds - wide, from));
  return { from: start, to: start + wide };
}

/** A sight zoomed by a factor about a place that stays where it is. */
export const zoomed = ({ from, to }: Sight, about: number, by: number): Sight => ({
  from: about - (about - from) * by,
  to: about + (to - about) * by,
});

/** A sight moved along by a part of itself. */
export const along = ({ from, to }: Sight, part: number): Sight => ({ from: from + part * (to - from), to: to + part * (to - from) });
