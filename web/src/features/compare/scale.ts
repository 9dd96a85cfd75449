import { DIGITS, logTicks } from "@/ui/axis";

/** A logarithmic axis: from, to, and where a value lies between, as a part. */
export interface Axis {
  from: number;
  to: number;
  ticks: number[];
  at: (value: number) => number;
}

/** An axis that holds all values with some room at either end, its ticks at 1, 2 and 5 times the powers of ten. */
export function axisOf(values: readonly number[]): Axis {
  const sound = values.filter((value) => Number.isFinite(value) && value > 0);
  const [least, most] = sound.length === 0 ? [1, 10] : [Math.min(...sound), Math.max(...sound)];
  const [from, to] = [least / 1.25, most * 1.25];
  const few = logTicks(from, to);
  // A short span has few of those: all nine digits then.
  const ticks = few.length < 3 ? logTicks(from, to, DIGITS) : few;
  const span = Math.log(to / from);
  return { from, to, ticks, at: (value) => Math.log(value / from) / span };
}

/** Prices of a watt whose lines cross the picture, three at the most: 1, 2 and 5 times the powers of ten. */
export function watts(priceAxis: Axis, wattAxis: Axis): number[] {
  const least = priceAxis.from / wattAxis.to;
  const most = priceAxis.to / wattAxis.from;
  const middle = Math.sqrt(least * most);
  return logTicks(least, most)
    .filter((each) => each > least && each < most)
    .sort((a, b) => Math.abs(Math.log(a / middle)) - Math.abs(Math.log(b / middle)))
    .slice(0, 3)
    .sort((a, b) => a - b);
}

/** The two ends of a line of one price a watt, where it enters and leaves the picture: parts of both axes. */
export function lineOf(each: number, priceAxis: Axis, wattAxis: Axis): { x1: number; y1: number; x2: number; y2: number } {
  const low = Math.max(priceAxis.from, each * wattAxis.from);
  const high = Math.min(priceAxis.to, each * wattAxis.to);
  return { x1: priceAxis.at(low), y1: wattAxis.at(low / each), x2: priceAxis.at(high), y2: wattAxis.at(high / each) };
}

/** Those of rising values whose places are so far apart that their names do not run into one another, from the last one down. */
export function apart(values: readonly number[], place: (value: number) => number, least: number): number[] {
  const kept: number[] = [];
  for (const value of [...values].reverse()) {
    const before = kept.at(-1);
    if (before === undefined || place(before) - place(value) >= least) kept.push(value);
  }
  return kept;
}
