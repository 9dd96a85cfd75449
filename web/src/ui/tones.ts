import type { Schemas } from "@/api/client";

/** How the line of an amplifier's state is set, by how it came out. */
export const TONES: Record<Schemas["Tone"], string> = {
  plain: "text-ink2",
  proved: "font-semibold text-verdigris",
  doubt: "font-semibold text-ochre",
  failed: "font-semibold text-stop",
};
