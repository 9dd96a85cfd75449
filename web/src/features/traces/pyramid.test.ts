import { expect, it } from "vitest";
import { along, columns, extremes, inside, ofSamples, pyramids, zoomed } from "./pyramid";

const wave = Float32Array.from({ length: 1_003 }, (_, n) => Math.sin(n * n * 0.37) * (n % 17));

function plainly(from: number, to: number): [number, number] {
  const part = wave.slice(from, to);
  return [Math.min(...part), Math.max(...part)];
}

it("finds the extremes of any stretch as a plain look through it does", () => {
  const pyramid = ofSamples(wave);
  for (let from = 0; from < 1_000; from += 7) {
    for (let to = from + 1; to <= 1_003; to += 31) expect(extremes(pyramid, from, to)).toEqual(plainly(from, to));
  }
  expect(extremes(pyramid, 2_000, 3_000)).toEqual(plainly(1_002, 1_003));
});

it("loses no sample, however far one is from the wave", () => {
  const spike = new Float32Array(100_000);
  spike[77_777] = -5;
  const shown = columns(ofSamples(spike), 0, 100_000, 300);
  expect(Math.min(...shown.map(([low]) => low))).toBe(-5);
  expect(shown.filter(([low]) => low === -5)).toHaveLength(1);
});

it("reads what the program sends, channel behind channel", () => {
  const sent = Float32Array.from([-1, 1, 0.5, -2, 2, 1, 10, 11, 10.5, 12, 13, 12.5]);
  const [first, second] = pyramids(sent.buffer, 2, 256);
  expect(first && extremes(first, 0, 512)).toEqual([-2, 2]);
  expect(first && extremes(first, 0, 256)).toEqual([-1, 1]);
  expect(second && extremes(second, 300, 400)).toEqual([12, 13]);
  expect(pyramids(new ArrayBuffer(0), 0, 1)).toEqual([]);
});

it("keeps a sight inside of its recording", () => {
  expect(inside({ from: -1, to: 1 }, 10, 0.1)).toEqual({ from: 0, to: 2 });
  expect(inside({ from: 9, to: 12 }, 10, 0.1)).toEqual({ from: 7, to: 10 });
  expect(inside({ from: 3, to: 3 }, 10, 0.1)).toEqual({ from: 3, to: 3.1 });
  expect(inside({ from: -5, to: 50 }, 10, 0.1)).toEqual({ from: 0, to: 10 });
  expect(zoomed({ from: 2, to: 6 }, 4, 0.5)).toEqual({ from: 3, to: 5 });
  expect(along({ from: 2, to: 6 }, 0.5)).toEqual({ from: 4, to: 8 });
});
