import type { Path, UseFormSetError } from "react-hook-form";
import type { Schemas } from "@/api/client";
import { readFields } from "@/ui/form-errors";
import { readNumber, writeNumber, writePercent, type Unit } from "@/ui/numbers";
import { wiringKey, wiringOf, wiringsFor } from "@/ui/wirings";

type Claim = Schemas["Claim"];

/** A claim as its form holds it: text as typed. */
export interface ClaimFields {
  source: string;
  wiring: string;
  setting: string;
  load: string;
  power: string;
  per: Claim["per"];
  kind: Claim["kind"];
  supply: string;
  thd: string;
  tone: string;
  used: boolean;
}

/** The fields of a claim; for a new one, those of the line before it, without its load and watts. */
export function fieldsOf(claim: Claim | null, like: Claim | undefined, channels: number): ClaimFields {
  const from = claim ?? like;
  const [usual = { kind: "mono" as const }] = wiringsFor(channels);
  return {
    source: from?.source ?? "manual",
    wiring: from ? (from.wiring ? wiringKey(from.wiring) : "") : wiringKey(usual),
    setting: from?.setting ?? "",
    load: writeNumber(claim?.load_ohm),
    power: writeNumber(claim?.power_w),
    per: from?.per ?? "output",
    kind: from?.kind ?? "rms",
    // What was not printed stays not printed.
    supply: writeNumber(from?.supply_v),
    thd: writePercent(from?.thd_limit_ratio),
    tone: writeNumber(from?.tone_hz),
    used: claim?.used ?? true,
  };
}

/** The claim that the fields say, or null with what is wrong put next to them. */
export function claimOf(fields: ClaimFields, id: string, setError: UseFormSetError<ClaimFields>): Claim | null {
  const number = (field: Path<ClaimFields>, text: string, unit: Unit): [Path<ClaimFields>, () => number | null] => [
    field,
    () => readNumber(text, unit),
  ];
  const read = readFields<ClaimFields, Record<"load" | "power" | "supply" | "thd" | "tone", number | null>>(
    {
      load: number("load", fields.load, "Ω"),
      power: number("power", fields.power, "W"),
      supply: number("supply", fields.supply, "V"),
      thd: number("thd", fields.thd, "%"),
      tone: number("tone", fields.tone, "Hz"),
    },
    setError,
  );
  if (!read) return null;
  return {
    id,
    source: fields.source.trim(),
    wiring: wiringOf(fields.wiring),
    setting: fields.setting.trim() || null,
    load_ohm: read.load,
    power_w: read.power,
    per: fields.per,
    kind: fields.kind,
    supply_v: read.supply,
    thd_limit_ratio: read.thd === null ? null : read.thd / 100,
    tone_hz: read.tone,
    used: fields.used,
  };
}

const PATHS: Record<string, Path<ClaimFields>> = {
  source: "source",
  wiring: "wiring",
  setting: "setting",
  load_ohm: "load",
  power_w: "power",
  supply_v: "supply",
  thd_limit_ratio: "thd",
  tone_hz: "tone",
};

export const claimField = (path: string) => (path.startsWith("wiring") ? "wiring" : (PATHS[path] ?? null));
