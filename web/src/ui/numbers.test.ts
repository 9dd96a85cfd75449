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

  it.each([
    ["9.5 in", "mm", 241.3],
    ['9,5"', "mm", 241.3],
    ["24 cm", "mm", 240],
    ["5.3 lb", "kg", 2.404039561],
    ["800g", "kg", 0.8],
    ["1%", "%", 1],
    ["0,5 %", "%", 0.5],
    ["£129.99", "money", 129.99],
    ["139 EUR", "money", 139],
    ["0.1 V", "V", 0.1],
    ["100 mV", "V", 0.1],
    ["4 Ω", "Ω", 4],
    ["2.67 ohms", "Ω", 2.67],
    ["0.003 ohm", "mΩ", 3],
    ["1.2 kW", "W", 1200],
    ["1 kHz", "Hz", 1000],
    ["-5 dB", "dB", -5],
    ["14.4", "V", 14.4],
    ["", "V", null],
  ] as const)("reads %j as %s", (text, unit, value) => expect(readNumber(text, unit)).toBe(value));

  it.each([
    ["5 kg", "V"],
    ["£5", "V"],
    ["3 x 4", "mm"],
  ] as const)("refuses %j as %s", (text, unit) => expect(() => readNumber(text, unit)).toThrow(/is not/));

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
