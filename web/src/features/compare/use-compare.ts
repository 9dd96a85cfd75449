import { useAddress } from "@/ui/use-address";
import { useTyped } from "@/ui/use-typed";
import type { operations } from "@/api/generated/schema";

type Asked = NonNullable<operations["getWorth"]["parameters"]["query"]>;

/** Most amplifiers side by side. */
export const MOST = 8;

const idsOf = (list: string) => list.split(",").filter(Boolean).slice(0, MOST);

/** With one more, or without it; a ninth is none. */
export function toggled(ids: readonly string[], id: string): readonly string[] {
  if (ids.includes(id)) return ids.filter((one) => one !== id);
  return ids.length < MOST ? [...ids, id] : ids;
}

/** What is compared. It stands in the address, so that a link shows the same. */
export function useCompare() {
  const { text, set } = useAddress();
  // Ticks come faster than an address changes: each starts from where the last one left it.
  const chosen = useTyped(text("ids"), (list) => set("ids", list));
  const ids = idsOf(chosen.typed);
  const asked: Asked = {};
  for (const name of ["find", "class", "purpose"] as const) if (text(name) !== "") asked[name] = text(name);
  const most = Number(text("price_most"));
  if (text("price_most") !== "" && Number.isFinite(most) && most >= 0) asked.price_most = most;
  return {
    asked,
    text,
    set,
    ids,
    volts: text("volts") === "" ? 14.4 : Number(text("volts")),
    per: text("per") === "output" ? ("output" as const) : ("total" as const),
    toggle: (id: string) => chosen.setTyped((list) => toggled(idsOf(list), id).join(",")),
    clear: () => chosen.setTyped(""),
  };
}

export type Compare = ReturnType<typeof useCompare>;
