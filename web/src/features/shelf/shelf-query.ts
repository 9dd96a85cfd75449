import type { operations } from "@/api/generated/schema";
import { useAddress } from "@/ui/use-address";

type Asked = NonNullable<operations["listAmplifiers"]["parameters"]["query"]>;
export type SortBy = NonNullable<Asked["sort"]>;

/** Filters of the shelf that take several values. */
export type Several = "verdict" | "stage" | "class" | "purpose" | "tag";

const NUMBERS = ["price_most", "clean_least"] as const;
export type Least = (typeof NUMBERS)[number];

/** What is asked of the shelf. It stands in the address: Back, a reload and a bookmark find it again. */
export function useShelfQuery() {
  const { text, set, keep } = useAddress();
  const listed = (name: Several) => text(name).split(",").filter(Boolean);
  const asked: Asked = {};
  for (const name of ["find", "verdict", "stage", "class", "purpose", "tag"] as const) {
    if (text(name) !== "") asked[name] = text(name);
  }
  for (const name of NUMBERS) {
    const value = Number(text(name));
    if (text(name) !== "" && Number.isFinite(value) && value >= 0) asked[name] = value;
  }
  if (text("archived") === "true") asked.archived = true;
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
    clear: () => keep(["sort", "descending"]),
  };
}

export type ShelfAsks = ReturnType<typeof useShelfQuery>;
