import { useSearchParams } from "react-router";
import type { operations } from "@/api/generated/schema";

type Asked = NonNullable<operations["getWorth"]["parameters"]["query"]>;

/** Most amplifiers side by side. */
export const MOST = 8;

/** What is compared. It stands in the address, so that a link shows the same. */
export function useCompare() {
  const [params, setParams] = useSearchParams();
  const text = (name: string) => params.get(name) ?? "";
  const set = (name: string, value: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === "") next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const ids = text("ids").split(",").filter(Boolean).slice(0, MOST);
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
    toggle: (id: string) => set("ids", (ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id]).join(",")),
  };
}

export type Compare = ReturnType<typeof useCompare>;
