import { describe, expect, it } from "vitest";
import { readFuses, readNumber, writeFuses, writeNumber, writePercent } from "./numbers";

describe("numbers as people type them", () => {
  it.each([
    ["14.38", 14.38],
    ["14,38", 14.38],
    [" 1\u202f100 ", 1100],
    [".5", 0.5],
    ["-2,5", -2.5],
    ["0,100", 0.1],
    ["", null],
    ["   ", null],
  ])("reads %j", (text, value) => expect(readNumber(text)).toBe(value));

  it.each(["1,100", "1.100", "13.960"])("asks which of two numbers %j is", (text) => expect(() => readNumber(text)).toThrow(/or/));

  it.each(["12 V", "1.2.3", "1,2,3", "--1", "½", "1e3"])("refuses %j", (text) => expect(() => readNumber(text)).toThrow(/is not a number/));

  it("writes without binary dust, and reads the same again", () => {
    expect(writePercent(0.0099)).toBe("0.99");
    expect(writeNumber(0.1 + 0.2)).toBe("0.3");
    expect(writeNumber(null)).toBe("");
    for (const value of [0, 0.01, 3.91, 1100, 123456.5]) expect(readNumber(writeNumber(value))).toBe(value);
  });
});

describe("fuses", () => {
  it("reads them as they are noted, and writes them the short way", () => {
    expect(readFuses("3 x 35")).toEqual([35, 35, 35]);
    expect(readFuses("25 + 25 + 30 A")).toEqual([25, 25, 30]);
    expect(readFuses("2×40; 30")).toEqual([40, 40, 30]);
    expect(readFuses("")).toEqual([]);
    for (const fuses of [[], [60], [35, 35, 35], [25, 30]]) expect(readFuses(writeFuses(fuses))).toEqual(fuses);
  });

  it("refuses what is none", () => {
    expect(() => readFuses("3 x")).toThrow();
    expect(() => readFuses("big")).toThrow(/is not a number/);
  });
});
