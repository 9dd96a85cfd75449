import type { Schemas } from "@/api/client";

export type Mark = Schemas["PhotoMark"];
export type Shape = Schemas["MarkShape"];

/** A place on a photo, as parts of its width and height. */
export interface Spot {
  x: number;
  y: number;
}

const inside = (part: number) => Math.min(1, Math.max(0, Math.round(part * 10_000) / 10_000));

/** A mark as a drag draws it: a ring from its middle to its edge, an arrow to its point, a label where it is let go. */
export function drawn(shape: Shape, from: Spot, to: Spot): Mark {
  if (shape === "label") return { shape, x: inside(to.x), y: inside(to.y), label: "A" };
  return { shape, x: inside(from.x), y: inside(from.y), to_x: inside(to.x), to_y: inside(to.y) };
}

/** A mark in the middle, for hands without a pointer: the arrow keys take it from there. */
export function inTheMiddle(shape: Shape): Mark {
  return drawn(shape, { x: 0.5, y: 0.5 }, shape === "label" ? { x: 0.5, y: 0.5 } : { x: 0.6, y: 0.5 });
}

/** Moved as a whole, or only its far end. */
export function moved(mark: Mark, by: Spot, endOnly: boolean): Mark {
  const end = mark.to_x == null || mark.to_y == null ? {} : { to_x: inside(mark.to_x + by.x), to_y: inside(mark.to_y + by.y) };
  return endOnly ? { ...mark, ...end } : { ...mark, ...end, x: inside(mark.x + by.x), y: inside(mark.y + by.y) };
}

const STEP = 0.01;

/** Step of an arrow key; null of any other. */
export function stepOf(key: string): Spot | null {
  const steps: Record<string, Spot> = {
    ArrowLeft: { x: -STEP, y: 0 },
    ArrowRight: { x: STEP, y: 0 },
    ArrowUp: { x: 0, y: -STEP },
    ArrowDown: { x: 0, y: STEP },
  };
  return steps[key] ?? null;
}

/** Labels in order: A, B, … Z, then A2. The first that is free. */
export function freeLabel(marks: readonly Mark[]): string {
  const taken = new Set(marks.map((mark) => mark.label));
  for (let n = 0; ; n++) {
    const label = String.fromCharCode(65 + (n % 26)) + (n < 26 ? "" : String(Math.floor(n / 26) + 1));
    if (!taken.has(label)) return label;
  }
}
