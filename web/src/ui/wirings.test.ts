import { describe, expect, it } from "vitest";
import { isMixed, loadWords, mixedWiringsFor, readGroups, wiringKey, wiringOf, wiringsFor, wiringWords, writeGroups } from "./wirings";

describe("wirings", () => {
  it("are the same behind a choice", () => {
    for (const wiring of wiringsFor(6)) expect(wiringOf(wiringKey(wiring))).toEqual(wiring);
  });

  it("mixed, have every channel at work", () => {
    expect(mixedWiringsFor(4).map(wiringWords)).toEqual(["2 channels + 1 bridged pair"]);
    expect(mixedWiringsFor(5).map(wiringWords)).toEqual([
      "3 channels + 1 bridged pair",
      "1 channel + 2 bridged pairs",
      "4 channels + 1 channel",
    ]);
    expect(mixedWiringsFor(2)).toEqual([]);
  });

  it("mixed, take loads, and tones where they differ", () => {
    const key = "mixed~channels-2~bridged-1";
    expect(isMixed(key) && !isMixed("channels-2")).toBe(true);
    const wiring = wiringOf(key, [4, 2], [1000, 40]);
    expect(wiring).toEqual({
      kind: "mixed",
      groups: [
        { wiring: { kind: "channels", driven: 2 }, load_ohm: 4 },
        { wiring: { kind: "bridged", pairs: 1 }, load_ohm: 2, tone_hz: 40 },
      ],
    });
    expect(wiring && wiringKey(wiring)).toBe(key);
    expect(loadWords(wiring, 4)).toBe("4 + 2\u202fΩ");
    expect(loadWords({ kind: "mono" }, null)).toBeNull();
  });

  it("mixed, are read a group", () => {
    const key = "mixed~channels-2~bridged-1";
    expect(readGroups(key, "4 + 2 Ω", "Ω")).toEqual([4, 2]);
    expect(readGroups(key, "4", "Ω")).toEqual([4, 4]);
    expect(readGroups(key, "  ", "Ω")).toEqual([]);
    expect(writeGroups([4, 2.67])).toBe("4 + 2.67");
    for (const text of ["4 + 2 + 1", "4 +", "+"]) expect(() => readGroups(key, text, "Ω")).toThrow(/each of the 2 groups/);
    expect(() => readGroups(key, "4 + two", "Ω")).toThrow(/not a number/);
  });
});
