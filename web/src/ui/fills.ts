import type { Schemas } from "@/api/client";

/** What a bar of each mode is filled with: solid, hatched, dotted. */
export const FILLS: Record<Schemas["Mode"], string> = {
  certified: "fill-certified",
  clipping: "fill-clipping",
  dynamic: "fill-dynamic",
};
