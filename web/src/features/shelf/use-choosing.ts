import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import type { ShelfAsks } from "./shelf-query";

/** Amplifiers that are chosen to do something to all of them at once; nothing while none is to be chosen. */
export function useChoosing(shelf: ShelfAsks) {
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  return {
    chosen,
    begin: () => setChosen(new Set()),
    end: () => setChosen(null),
    toggle: (id: string) =>
      setChosen((before) => {
        const next = new Set(before);
        if (!next.delete(id)) next.add(id);
        return next;
      }),
    /** As many as one answer of the program holds. */
    all: async () => {
      const found: Schemas["Shelf"] = await data(api.GET("/api/amplifiers", { params: { query: { ...shelf.asked, limit: MOST_CHOSEN } } }));
      setChosen(new Set(found.amplifiers.map((item) => item.id)));
    },
  };
}

export const MOST_CHOSEN = 1_000;

export type Choosing = ReturnType<typeof useChoosing>;
