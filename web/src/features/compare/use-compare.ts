import { useAddress } from "@/ui/use-address";
import { useTyped } from "@/ui/use-typed";
import type { operations } from "@/api/generated/schema";

type Asked = NonNullable<operations["getWorth"]["parameters"]["query"]>;

/** Most amplifiers side by side. */
export const MOST = 8;

const DAY = /^\d{4}-\d{2}-\d{2}$/;
/** Filters that are numbers, each with the least it can be. */
const NUMBERS = [
  ["price_least", 0],
  ["price_most", 0],
  ["outputs", 1],
  ["load", 0.1],
  ["claim_near", 1],
] as const;

const idsOf = (list: string) => list.split(",").filter(Boolean).slice(0, MOST);

/** With one more, or without it; a ninth is none. */
export function toggled(ids: readonly string[], id: string): readonly string[] {
  if (ids.includes(id)) return ids.filter((one) => one !== id);
  return ids.length < MOST ? [...ids, id] : ids;
}

/** What is compared. It stands in the address, so that a link shows the same. */
export function useCompare() {
  const { text, set, keep } = useAddress();
  // Ticks come faster than an address changes: each starts from where the last one left it.
  const chosen = useTyped(text("ids"), (list) => set("ids", list));
  const ids = idsOf(chosen.typed);
  const asked: Asked = {};
  for (const name of ["find", "class", "purpose"] as const) if (text(name) !== "") asked[name] = text(name);
  for (const name of ["tested_from", "tested_until"] as const) if (DAY.test(text(name))) asked[name] = text(name);
  for (const [name, least] of NUMBERS) {
    const value = Number(text(name));
    if (text(name) !== "" && Number.isFinite(value) && value >= least) asked[name] = value;
  }
  return {
    asked,
    filtered: Object.keys(asked).length > 0,
    text,
    set,
    ids,
    volts: text("volts") === "" ? 14.4 : Number(text("volts")),
    per: text("per") === "output" ? ("output" as const) : ("total" as const),
    toggle: (id: string) => chosen.setTyped((list) => toggled(idsOf(list), id).join(",")),
    clearFilters: () => keep(["ids", "volts", "per"]),
    clear: () => chosen.setTyped(""),
  };
}

export type Compare = ReturnType<typeof useCompare>;
