import type { Schemas } from "@/api/client";

export type Ladder = Schemas["Ladder"];
export type Rung = Schemas["LadderRung"];
export type Cell = Schemas["Cell"];
export type Place = Schemas["Place"];
export type Mode = Schemas["Mode"];

export const MODES: readonly Mode[] = ["certified", "clipping", "dynamic"];

export const MODE_WORDS: Record<Mode, string> = { certified: "Certified", clipping: "Clipping", dynamic: "Dynamic" };

export const samePlace = (a: Place | null | undefined, b: Place | null | undefined) => a?.rung === b?.rung && a?.mode === b?.mode;

/** A place as a key, as the program keys level steps by it. */
export const placeKey = (place: Place) => `${place.rung} ${place.mode}`;

/** The cell at a place, with its rung. */
export function cellAt(ladder: Ladder, place: Place): { rung: Rung; cell: Cell } | null {
  const rung = ladder.rungs.find((candidate) => candidate.key === place.rung);
  const cell = rung?.cells.find((candidate) => candidate.mode === place.mode);
  return rung && cell ? { rung, cell } : null;
}

/** The place one step away on the ladder; the same when there is none. */
export function moved(ladder: Ladder, from: Place, down: number, right: number): Place {
  const row = ladder.rungs.findIndex((rung) => rung.key === from.rung);
  const column = MODES.indexOf(from.mode);
  const rung = ladder.rungs[Math.max(0, Math.min(ladder.rungs.length - 1, row + down))];
  const mode = MODES[Math.max(0, Math.min(MODES.length - 1, column + right))];
  return rung && mode ? { rung: rung.key, mode } : from;
}

/** The next place without a reading after this one, round to the start. */
export function nextFree(ladder: Ladder, from: Place): Place | null {
  const at = ladder.order.findIndex((place) => samePlace(place, from));
  const round = [...ladder.order.slice(at + 1), ...ladder.order.slice(0, at + 1)];
  return round.find((place) => cellAt(ladder, place)?.cell.runs.length === 0) ?? null;
}

/** The place that was logged last. */
export function lastLogged(ladder: Ladder): Place | null {
  let latest: { at: string; place: Place } | null = null;
  for (const rung of ladder.rungs) {
    for (const cell of rung.cells) {
      for (const run of cell.runs) {
        if (!latest || run.at >= latest.at) latest = { at: run.at, place: { rung: rung.key, mode: cell.mode } };
      }
    }
  }
  return latest?.place ?? null;
}
