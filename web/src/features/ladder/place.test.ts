import { describe, expect, it } from "vitest";
import { cellAt, lastLogged, MODES, moved, nextFree, placeKey, samePlace, type Ladder, type Mode, type Place } from "./place";

/** Rungs by their keys, each cell with the moments of its runs. */
function ladderOf(rungs: Record<string, Partial<Record<Mode, string[]>>>): Ladder {
  const shown = Object.entries(rungs).map(([key, cells]) => ({
    key,
    cells: MODES.map((mode) => ({ mode, runs: (cells[mode] ?? []).map((at) => ({ at })) })),
  }));
  const order: Place[] = shown.flatMap(({ key }) => MODES.map((mode) => ({ rung: key, mode })));
  return { rungs: shown, order } as unknown as Ladder;
}

const LADDER = ladderOf({
  "4Ω": { certified: ["2026-11-20T10:00:00Z"], clipping: ["2026-11-20T10:05:00Z"] },
  "2Ω": { certified: ["2026-11-20T10:20:00Z", "2026-11-20T10:09:00Z"] },
  "1Ω": {},
});
const at = (rung: string, mode: Mode): Place => ({ rung, mode });

describe("places on the ladder", () => {
  it("walks one step, and stays at the edge", () => {
    expect(moved(LADDER, at("4Ω", "certified"), 1, 0)).toEqual(at("2Ω", "certified"));
    expect(moved(LADDER, at("2Ω", "clipping"), 0, 1)).toEqual(at("2Ω", "dynamic"));
    expect(moved(LADDER, at("4Ω", "certified"), -1, -1)).toEqual(at("4Ω", "certified"));
    expect(moved(LADDER, at("1Ω", "dynamic"), 1, 1)).toEqual(at("1Ω", "dynamic"));
  });

  it("goes on to the next place without a reading, and round to the start", () => {
    expect(nextFree(LADDER, at("4Ω", "certified"))).toEqual(at("4Ω", "dynamic"));
    expect(nextFree(LADDER, at("4Ω", "dynamic"))).toEqual(at("2Ω", "clipping"));
    expect(nextFree(LADDER, at("1Ω", "dynamic"))).toEqual(at("4Ω", "dynamic"));
    const full = ladderOf({ "4Ω": { certified: ["a"], clipping: ["b"], dynamic: ["c"] } });
    expect(nextFree(full, at("4Ω", "certified"))).toBeNull();
  });

  it("finds what was logged last by its moment, not by its place", () => {
    expect(lastLogged(LADDER)).toEqual(at("2Ω", "certified"));
    expect(lastLogged(ladderOf({ "4Ω": {} }))).toBeNull();
  });

  it("knows a cell, and none that is not there", () => {
    expect(cellAt(LADDER, at("2Ω", "certified"))?.cell.runs).toHaveLength(2);
    expect(cellAt(LADDER, at("8", "certified"))).toBeNull();
    expect(samePlace(at("2Ω", "certified"), at("2Ω", "clipping"))).toBe(false);
    expect(placeKey(at("mono@2@40", "dynamic"))).toBe("mono@2@40 dynamic");
  });
});
