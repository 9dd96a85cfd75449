import { useSearchParams } from "react-router";
import type { operations } from "@/api/generated/schema";

type Asked = NonNullable<operations["listAmplifiers"]["parameters"]["query"]>;
export type SortBy = NonNullable<Asked["sort"]>;

/** Filters of the shelf that take several values. */
export type Several = "verdict" | "stage" | "class" | "purpose";

const NUMBERS = ["price_most", "clean_least"] as const;
export type Least = (typeof NUMBERS)[number];

/** What is asked of the shelf. It stands in the address: Back, a reload and a bookmark find it again. */
export function useShelfQuery() {
  const [params, setParams] = useSearchParams();
  const text = (name: string) => params.get(name) ?? "";
  const listed = (name: Several) => text(name).split(",").filter(Boolean);
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
  const asked: Asked = {};
  for (const name of ["find", "verdict", "stage", "class", "purpose"] as const) {
    if (text(name) !== "") asked[name] = text(name);
  }
  for (const name of NUMBERS) {
    const value = Number(text(name));
    if (text(name) !== "" && Number.isFinite(value) && value >= 0) asked[name] = value;
  }
  if (text("sort") !== "") asked.sort = text("sort") as SortBy;
  if (text("descending") !== "") asked.descending = text("descending") === "true";
  const filtered = Object.keys(asked).some((name) => name !== "sort" && name !== "descending");
  return {
    asked,
    filtered,
    text,
    set,
    listed,
    toggle: (name: Several, value: string) => {
      const known = listed(name);
      set(name, (known.includes(value) ? known.filter((one) => one !== value) : [...known, value]).join(","));
    },
    clear: () =>
      setParams((before) => new URLSearchParams([...before].filter(([name]) => name === "sort" || name === "descending")), {
        replace: true,
      }),
  };
}

export type ShelfAsks = ReturnType<typeof useShelfQuery>;
