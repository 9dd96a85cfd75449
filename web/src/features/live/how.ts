/** How a run is driven, as it is chosen. */
export type How = "ramp" | "burst" | "20" | "8" | "1" | "steps" | "watch";

export const HOW: Record<How, string> = {
  ramp: "raise the level to the limit",
  burst: "bursts up to their distortion limit",
  "20": "20 counted cycles, first and last",
  "8": "8 counted cycles, first and last",
  "1": "a single cycle",
  steps: "level steps",
  watch: "watch only: I raise the level",
};
