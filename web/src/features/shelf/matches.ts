import type { Schemas } from "@/api/client";

/** Whether every word typed is somewhere in the name or the state, accents and case aside. */
export function matches(summary: Schemas["Summary"], wanted: string): boolean {
  const plain = (text: string) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
  const text = plain(`${summary.name} ${summary.state} ${summary.subtitle}`);
  return plain(wanted)
    .split(/\s+/)
    .every((word) => text.includes(word));
}
