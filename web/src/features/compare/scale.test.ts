import { describe, expect, it } from "vitest";
import { apart, axisOf, lineOf, watts } from "./scale";
import { toggled } from "./use-compare";

describe("a logarithmic axis", () => {
  it("holds its values and is ticked at 1, 2 and 5", () => {
    const axis = axisOf([50, 300]);
    expect(axis.ticks).toEqual([50, 100, 200]);
    expect(axis.at(50)).toBeGreaterThan(0);
    expect(axis.at(300)).toBeLessThan(1);
    expect(axis.at(Math.sqrt(50 * 300))).toBeCloseTo(0.5);
  });

  it("is there without any value, or with bad ones", () => {
    expect(axisOf([]).ticks.length).toBeGreaterThan(0);
    expect(axisOf([0, -1, NaN, 100]).at(100)).toBeCloseTo(0.5);
  });
});

describe("lines of one price a watt", () => {
  it("are at most three, and run from edge to edge", () => {
    const [price, power] = [axisOf([50, 300]), axisOf([200, 1100])];
    const all = watts(price, power);
    expect(all).toEqual([0.1, 0.2, 0.5]);
    for (const each of all) {
      const line = lineOf(each, price, power);
      // The slope is one in decades, whatever the picture's shape.
      const decades = (from: number, to: number, axis: typeof price) => (to - from) * Math.log10(axis.to / axis.from);
      expect(decades(line.x1, line.x2, price)).toBeCloseTo(decades(line.y1, line.y2, power));
      expect(Math.min(line.x1, line.y1)).toBeCloseTo(0);
      expect(Math.max(line.x2, line.y2)).toBeCloseTo(1);
    }
  });
});

it("names no two ticks that would run into one another", () => {
  expect(apart([60, 70, 80, 90, 100, 200], (tick) => tick, 25)).toEqual([200, 100, 70]);
});

it("ticks one more, or takes it away, and a ninth is none", () => {
  expect(toggled(["a"], "b")).toEqual(["a", "b"]);
  expect(toggled(["a", "b"], "a")).toEqual(["b"]);
  const eight = ["a", "b", "c", "d", "e", "f", "g", "h"];
  expect(toggled(eight, "i")).toEqual(eight);
});
