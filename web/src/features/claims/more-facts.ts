import type { Schemas } from "@/api/client";
import { writeFuses } from "@/ui/numbers";
import { PROVENANCES } from "./amplifier-words";

type Amplifier = Schemas["Amplifier"];

/** Whose it is, with who lent it and by when it goes back. */
export function provenanceWords(amplifier: Amplifier): string {
  const { loan } = amplifier;
  const parts = [PROVENANCES[amplifier.provenance], loan?.lent_by && `by ${loan.lent_by}`, loan?.back_by && `back by ${loan.back_by}`];
  return parts.filter(Boolean).join(", ");
}

function controlWords(control: Schemas["Control"]): string {
  const ends = [control.from_hz, control.to_hz].filter((hz) => hz != null).map(String);
  const range = ends.length > 0 ? `${[...new Set(ends)].join(" to ")}\u202fHz` : (control.range ?? "");
  return [control.kind, range].filter(Boolean).join(" ");
}

/** The rest of the record: only what was noted. */
export function moreFacts(amplifier: Amplifier, terminals: string | null | undefined): [string, string][] {
  const { size, condition, inside } = amplifier;
  const all: [string, string | null | undefined | false][] = [
    ["Serial", amplifier.serial],
    ["Made in", amplifier.year?.toString()],
    ["Condition", condition && [condition.state, condition.history].filter(Boolean).join(": ")],
    ["Output stage", amplifier.topology?.replace("-", " ")],
    ["Output fuses", amplifier.output_fuses_a?.length ? `${writeFuses(amplifier.output_fuses_a).replace("x", "×")}\u202fA` : null],
    ["Rail capacitors", inside?.rail_capacitor_v != null && `rated ${String(inside.rail_capacitor_v)}\u202fV`],
    ["Terminals", terminals],
    ["Inputs", amplifier.inputs?.join(", ")],
    ["Controls", amplifier.controls?.map(controlWords).join("; ")],
    ["Size", size && `${String(size.length_mm)} × ${String(size.width_mm)} × ${String(size.height_mm)}\u202fmm`],
    ["Weight", amplifier.weight_kg != null && `${String(amplifier.weight_kg)}\u202fkg`],
    ["Came with", amplifier.accessories?.join(", ")],
    ["Notes", amplifier.notes],
  ];
  return all.filter((fact): fact is [string, string] => typeof fact[1] === "string" && fact[1] !== "");
}
