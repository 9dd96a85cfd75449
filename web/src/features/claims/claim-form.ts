import type { Path, UseFormSetError } from "react-hook-form";
import type { Schemas } from "@/api/client";
import { readFields } from "@/ui/form-errors";
import { readNumber, writeNumber, writePercent, type Unit } from "@/ui/numbers";
import { isMixed, readGroups, wiringKey, wiringOf, wiringsFor, writeGroups } from "@/ui/wirings";

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
    load: claim?.wiring?.kind === "mixed" ? writeGroups(claim.wiring.groups.map((group) => group.load_ohm)) : writeNumber(claim?.load_ohm),
    power: claim?.group_power_w?.length ? writeGroups(claim.group_power_w) : writeNumber(claim?.power_w),
    per: from?.per ?? "output",
    kind: from?.kind ?? "rms",
    // What was not printed stays not printed.
    supply: writeNumber(from?.supply_v),
    thd: writePercent(from?.thd_limit_ratio),
    tone: writeTone(from),
    used: claim?.used ?? true,
  };
}

/** The tone of a claim; of a mixed wiring that of each group, where they differ. */
function writeTone(from: Claim | undefined): string {
  const own = from?.tone_hz;
  const groups = from?.wiring?.kind === "mixed" ? from.wiring.groups.map((group) => group.tone_hz ?? own) : [];
  return groups.some((tone) => tone !== own) ? writeGroups(groups.map((tone) => tone ?? 0)) : writeNumber(own);
}

/** The claim that the fields say, or null with what is wrong put next to them. */
export function claimOf(fields: ClaimFields, id: string, setError: UseFormSetError<ClaimFields>): Claim | null {
  const mixed = isMixed(fields.wiring);
  const figures = (field: Path<ClaimFields>, text: string, unit: Unit): [Path<ClaimFields>, () => number[]] => [
    field,
    () => {
      if (mixed) return readGroups(fields.wiring, text, unit);
      const one = readNumber(text, unit);
      return one === null ? [] : [one];
    },
  ];
  const number = (field: Path<ClaimFields>, text: string, unit: Unit): [Path<ClaimFields>, () => number | null] => [
    field,
    () => readNumber(text, unit),
  ];
  // Of several in total one figure is enough: it is the total.
  const total = mixed && fields.per === "total" && !fields.power.includes("+");
  const read = readFields<ClaimFields, Record<"load" | "power" | "tone", number[]> & Record<"supply" | "thd", number | null>>(
    {
      load: figures("load", fields.load, "Ω"),
      power: figures("power", fields.power, "W"),
      tone: figures("tone", fields.tone, "Hz"),
      supply: number("supply", fields.supply, "V"),
      thd: number("thd", fields.thd, "%"),
    },
    setError,
  );
  if (!read) return null;
  const byGroup = mixed && !total && read.power.length > 0;
  return {
    id,
    source: fields.source.trim(),
    wiring: wiringOf(fields.wiring, read.load, read.tone),
    setting: fields.setting.trim() || null,
    load_ohm: read.load[0] ?? null,
    power_w: byGroup ? null : (read.power[0] ?? null),
    group_power_w: byGroup ? read.power : [],
    per: fields.per,
    kind: fields.kind,
    supply_v: read.supply,
    thd_limit_ratio: read.thd === null ? null : read.thd / 100,
    tone_hz: read.tone[0] ?? null,
    used: fields.used,
  };
}

const PATHS: Record<string, Path<ClaimFields>> = {
  source: "source",
  wiring: "wiring",
  setting: "setting",
  load_ohm: "load",
  power_w: "power",
  group_power_w: "power",
  supply_v: "supply",
  thd_limit_ratio: "thd",
  tone_hz: "tone",
};

/** The field that a refusal is about; the loads of a mixed wiring are typed as its load. */
export const claimField = (path: string) =>
  path.includes("load_ohm") ? "load" : path.startsWith("wiring") ? "wiring" : (PATHS[path.replace(/\[\d+\]$/, "")] ?? null);
