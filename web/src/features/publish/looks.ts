import type { operations } from "@/api/generated/schema";

export type Looks = NonNullable<operations["getPublication"]["parameters"]["query"]>;
export type Shape = NonNullable<Looks["shape"]>;
export type Theme = NonNullable<Looks["theme"]>;

export const SHAPES: readonly [Shape, string][] = [
  ["16x9", "16 : 9"],
  ["1x1", "1 : 1"],
  ["9x16", "9 : 16"],
];

/** Width and height, so that a card has its room before it is there. */
export const SIZES: Record<Shape, [number, number]> = { "16x9": [1920, 1080], "1x1": [1080, 1080], "9x16": [1080, 1920] };

export const THEMES: readonly [Theme, string][] = [
  ["light", "Light"],
  ["dark", "Dark"],
  ["clear", "Clear background"],
];

/** The address of a card, or of everything, with these looks. */
export function addressOf(session: string, file: string, looks: Looks) {
  const asked = new URLSearchParams(Object.entries(looks).map(([name, value]) => [name, String(value)]));
  return `/api/sessions/${session}/${file}?${asked.toString()}`;
}
