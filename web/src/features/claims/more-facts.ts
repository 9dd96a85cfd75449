import type { Schemas } from "@/api/client";
import { writeFuses, writePercent } from "@/ui/numbers";
import { PROVENANCES } from "./amplifier-words";

type Amplifier = Schemas["Amplifier"];

/** Ownership, with who lent it and by when it goes back. */
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

function capacitorWords(row: NonNullable<Schemas["Inside"]["capacitors"]>[number]): string {
  const each = [
    row.uf != null && `${String(row.uf)}\u202fµF`,
    row.rated_v != null && `${String(row.rated_v)}\u202fV`,
    row.rated_c != null && `${String(row.rated_c)}\u202f°C`,
  ];
  const words = [`${String(row.count)} × ${each.filter(Boolean).join(" ") || "not read"}`, row.place, row.fake && "looks fake"];
  return words.filter(Boolean).join(", ");
}

function tourWords(tour: Amplifier["tour"]): string {
  const words = [tour?.remote, tour?.lights, tour?.manual, tour?.warranty, tour?.cooling, tour?.water_rating, tour?.stood_out];
  return [...words, ...(tour?.data_port?.map((line) => `${line.name}: ${line.value}`) ?? [])].filter(Boolean).join("; ");
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
    ["Signal to noise", amplifier.signal_to_noise_db != null && `${String(amplifier.signal_to_noise_db)}\u202fdB, as printed`],
    ["Distortion", amplifier.printed_thd_ratio != null && `${writePercent(amplifier.printed_thd_ratio)}\u202f%, as printed`],
    ["Capacitors", inside?.capacitors?.map(capacitorWords).join("; ")],
    ["Devices", inside?.devices?.map((row) => [`${String(row.count)} × ${row.part}`, row.place].filter(Boolean).join(", ")).join("; ")],
    ["Inside", [inside?.board, inside?.cooling, inside?.note].filter(Boolean).join("; ")],
    ["Tour", tourWords(amplifier.tour)],
    ["Likes", amplifier.likes?.join("; ")],
    ["Consider", amplifier.consider?.join("; ")],
    ["Kin", amplifier.relations?.map((kin) => `${kin.kind.replace("-", " ")}: ${kin.name}`).join("; ")],
    [
      "Prices",
      amplifier.prices
        ?.map((price) => [`${price.kind} ${String(price.amount)} ${price.currency}`, price.on].filter(Boolean).join(", "))
        .join("; "),
    ],
    ["Missing", amplifier.accessories_missing?.join(", ")],
    ["Supplied with", amplifier.accessories?.join(", ")],
    ["Notes", amplifier.notes],
  ];
  return all.filter((fact): fact is [string, string] => typeof fact[1] === "string" && fact[1] !== "");
}
