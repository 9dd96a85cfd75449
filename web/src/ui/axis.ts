const STEPS = [1, 2, 5];
/** All nine digits of a power of ten. */
export const DIGITS = [1, 2, 3, 4, 5, 6, 7, 8, 9];

/** Ticks of a logarithmic scale, both ends among them: some digits times the powers of ten, 1, 2 and 5 when left out. */
export function logTicks(from: number, to: number, digits: readonly number[] = STEPS): number[] {
  const all: number[] = [];
  for (let power = Math.floor(Math.log10(from)); power <= Math.ceil(Math.log10(to)); power++) {
    for (const digit of digits) {
      const tick = digit * 10 ** power;
      if (tick >= from && tick <= to) all.push(tick);
    }
  }
  return all;
}

/** Ticks of a plain scale of about `count` parts, their step 1, 2 or 5 times a power of ten. */
export function ticks(from: number, to: number, count: number): number[] {
  const rough = (to - from) / count;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * (STEPS.find((n) => n * power >= rough) ?? 10);
  const all: number[] = [];
  for (let at = Math.ceil(from / step) * step; at <= to + step * 1e-9; at += step) all.push(Math.abs(at) < step * 1e-6 ? 0 : at);
  return all;
}
