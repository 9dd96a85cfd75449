import { readNumber } from "@/ui/numbers";

export const SHAPES = { sine: "sine", burst: "standard burst", counted: "counted cycles", steps: "level steps" } as const;
export type ShapeName = keyof typeof SHAPES;

/** A tone as it is set on the page: all but the shape as typed. */
export interface Tone {
  shape: ShapeName;
  level: string;
  cycles: string;
  /** Samples a second and bits of a file. */
  format: string;
}

const USUAL_DBFS = -6;

/** Level in dBFS; the usual one while a number is half typed. */
export function levelOf({ level }: Tone): number {
  try {
    return readNumber(level.replace("−", "-")) ?? USUAL_DBFS;
  } catch {
    return USUAL_DBFS;
  }
}

/** Where the tone is to be had, with more about its form. */
export function toneAddress(tone: Tone, hz: number, more: Record<string, string>): string {
  const query = new URLSearchParams({ hz: String(hz), level: String(levelOf(tone)), shape: tone.shape });
  if (tone.shape === "counted") query.set("cycles", tone.cycles);
  return `/api/tones.wav?${query.toString()}&${new URLSearchParams(more).toString()}`;
}
