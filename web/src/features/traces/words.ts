import type { Schemas } from "@/api/client";

type Kind = Schemas["StretchKind"];

/** Kinds of stretch, as a list names them. */
export const KINDS: Record<Kind, string> = {
  quiet: "Quiet",
  tone: "Tone",
  burst: "Burst",
  ramp: "Ramp",
  sweep: "Sweep",
  steps: "Steps",
};

/** What a channel can be of. */
export const SUBJECTS = [
  ["output", "output"],
  ["supply-volts", "supply volts"],
  ["supply-amps", "supply amps"],
  ["generator", "generator"],
  ["unused", "unused"],
] as const;

export const unitOf = (kind: string) => (kind === "supply-amps" ? "A" : "V");

export const subjectOf = (channel: Schemas["TraceChannel"]) =>
  channel.kind === "output"
    ? channel.output
      ? `output ${channel.output}`
      : "output"
    : (SUBJECTS.find(([kind]) => kind === channel.kind)?.[1] ?? channel.kind);

const inHertz = (hz: number) => `${hz >= 100 ? hz.toFixed(0) : hz.toFixed(1)} Hz`;

/** "20 cycles of 1000 Hz", "A tone of 40.0 Hz". */
export function titleOf(stretch: Schemas["Stretch"]): string {
  const tone = stretch.frequency_hz == null ? "" : ` of ${inHertz(stretch.frequency_hz)}`;
  if (stretch.kind === "burst") {
    const cycles = stretch.cycles ?? 0;
    return `${String(cycles)} ${cycles === 1 ? "cycle" : "cycles"}${tone}`;
  }
  return (
    { quiet: "Silence", tone: "A tone", ramp: "A rising level", steps: "A staircase of levels", sweep: "A sweep" }[stretch.kind] + tone
  );
}

/** The kinds of recording that are read, by the ends of their names. */
export const ENDINGS = [".wav", ".flac", ".aif", ".aiff", ".caf", ".csv", ".txt"] as const;

export const isRecording = (name: string) => ENDINGS.some((ending) => name.toLowerCase().endsWith(ending));
