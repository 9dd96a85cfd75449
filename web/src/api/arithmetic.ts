import { api, data } from "./client";

/** A section as people write it, `50 mm²` or `1/0 AWG`, in mm²: the program knows the gauges. */
export const readSection = async (text: string) =>
  (await data(api.GET("/api/arithmetic/lead", { params: { query: { length_m: 1, section: text, current_a: 1 } } }))).section_mm2;
