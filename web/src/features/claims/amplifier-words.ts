import type { Schemas } from "@/api/client";

type Amplifier = Schemas["Amplifier"];

export const CLASSES: Record<Amplifier["class"], string> = {
  AB: "AB",
  D: "D",
  GH: "G or H",
  other: "another, or not known",
};

export const PURPOSES: Record<Amplifier["purpose"], string> = {
  "full-range": "full range, tested at 1 kHz",
  subwoofer: "subwoofers, tested at 40 Hz",
};

export const SUPPLIES: Record<Amplifier["supply_type"], string> = {
  regulated: "regulated",
  unregulated: "unregulated",
  unknown: "not known",
};

export const PROVENANCES: Record<Amplifier["provenance"], string> = {
  bought: "Bought",
  lent: "Lent by a reader",
  supplied: "Supplied by its maker",
  "own-product": "Our own product",
  "sold-by-us": "Sold by us",
};
