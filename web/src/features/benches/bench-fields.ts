import type { Path, UseFormSetError } from "react-hook-form";
import type { Schemas } from "@/api/client";
import { readNumber, writeNumber, writePercent } from "@/ui/numbers";

type Profile = Schemas["BenchProfile"];
export type Quantity = Schemas["Quantity"];

/** A bench as its form holds it: text as typed. */
export interface BenchFields {
  name: string;
  kind: Schemas["SupplyKind"];
  limit: string;
  fuse: string;
  source: string;
  supercapacitors: boolean;
  loads: { nominal: string; measured: string; tolerance: string; continuous: string; short: string; count: string }[];
  meters: { id: string; name: string; quantity: Quantity; ratio: string; absolute: string; checked: string }[];
  leads: { name: string; length: string; section: string }[];
}

const milli = (ohm: number | null | undefined) => (ohm == null ? "" : String(Math.round(ohm * 1e7) / 1e4));

export function benchFieldsOf(profile: Profile | null): BenchFields {
  return {
    name: profile?.name ?? "",
    kind: profile?.supply.kind ?? "battery",
    limit: writeNumber(profile?.supply.current_limit_a),
    fuse: writeNumber(profile?.supply.lead_fuse_a),
    source: milli(profile?.supply.source_ohm),
    supercapacitors: profile?.supply.supercapacitors ?? false,
    loads:
      profile?.loads?.map((load) => ({
        nominal: writeNumber(load.nominal_ohm),
        measured: writeNumber(load.measured_ohm),
        tolerance: writePercent(load.tolerance_ratio),
        continuous: writeNumber(load.continuous_w),
        short: writeNumber(load.ten_second_w),
        count: String(load.count),
      })) ?? [],
    meters:
      profile?.meters?.map((meter) => ({
        id: meter.id,
        name: meter.name ?? "",
        quantity: meter.quantity,
        ratio: writePercent(meter.reading_ratio),
        absolute: writeNumber(meter.absolute),
        checked: meter.last_checked_on ?? "",
      })) ?? [],
    leads:
      profile?.leads?.map((lead) => ({ name: lead.name, length: writeNumber(lead.length_m), section: writeNumber(lead.section_mm2) })) ??
      [],
  };
}

type At = Path<BenchFields>;

/** Reads numbers field by field; what cannot be read is put next to it. */
class Reader {
  sound = true;

  constructor(private readonly setError: UseFormSetError<BenchFields>) {}

  fail(at: At, message: string) {
    this.sound = false;
    this.setError(at, { message });
  }

  number(at: At, text: string, scale = 1): number | null {
    try {
      const value = readNumber(text);
      return value === null ? null : value * scale;
    } catch (error) {
      this.fail(at, (error as Error).message);
      return null;
    }
  }

  needed(at: At, text: string, what: string, scale = 1): number {
    const value = this.number(at, text, scale);
    if (value === null && text.trim() === "") this.fail(at, what);
    return value ?? 0;
  }
}

/** The resistors that the fields say, or null with what is wrong put next to them. */
export function loadsOf(fields: BenchFields, setError: UseFormSetError<BenchFields>): Schemas["LoadResistor"][] | null {
  const read = new Reader(setError);
  const loads = fields.loads.map((load, i) => ({
    nominal_ohm: read.needed(`loads.${i}.nominal`, load.nominal, "How many ohms?"),
    measured_ohm: read.number(`loads.${i}.measured`, load.measured),
    tolerance_ratio: read.number(`loads.${i}.tolerance`, load.tolerance, 0.01),
    continuous_w: read.number(`loads.${i}.continuous`, load.continuous),
    ten_second_w: read.number(`loads.${i}.short`, load.short),
    count: read.needed(`loads.${i}.count`, load.count, "How many?"),
  }));
  return read.sound ? loads : null;
}

/** The bench that the fields say; sections of leads are read by the program, which knows AWG. */
export async function benchOf(
  fields: BenchFields,
  setError: UseFormSetError<BenchFields>,
  section: (text: string) => Promise<number>,
): Promise<Profile | null> {
  const read = new Reader(setError);
  const loads = loadsOf(fields, setError);
  const meters = fields.meters.map((meter, i) => ({
    id: meter.id.trim() || `m${String(i + 1)}`,
    name: meter.name.trim() || null,
    quantity: meter.quantity,
    reading_ratio: read.needed(`meters.${i}.ratio`, meter.ratio, "± how much of the reading?", 0.01),
    absolute: read.number(`meters.${i}.absolute`, meter.absolute) ?? 0,
    last_checked_on: meter.checked || null,
  }));
  const leads: Schemas["Lead"][] = [];
  for (const [i, lead] of fields.leads.entries()) {
    const length = read.needed(`leads.${i}.length`, lead.length, "How long, each way?");
    try {
      leads.push({ name: lead.name, length_m: length, section_mm2: Math.round((await section(lead.section)) * 100) / 100 });
    } catch (error) {
      read.fail(`leads.${i}.section`, (error as Error).message);
    }
  }
  const supply = {
    kind: fields.kind,
    current_limit_a: read.number("limit", fields.limit),
    lead_fuse_a: read.number("fuse", fields.fuse),
    source_ohm: read.number("source", fields.source, 1e-3),
    supercapacitors: fields.supercapacitors,
  };
  return read.sound && loads ? { name: fields.name.trim(), supply, loads, meters, leads } : null;
}

const PARTS: Record<string, string> = {
  nominal_ohm: "nominal",
  measured_ohm: "measured",
  tolerance_ratio: "tolerance",
  continuous_w: "continuous",
  ten_second_w: "short",
  reading_ratio: "ratio",
  length_m: "length",
  section_mm2: "section",
  last_checked_on: "checked",
};

const SUPPLY: Record<string, At> = {
  name: "name",
  "supply.current_limit_a": "limit",
  "supply.lead_fuse_a": "fuse",
  "supply.source_ohm": "source",
};

/** The field that a refusal is about. */
export function benchField(path: string): At | null {
  const row = /^(loads|meters|leads)\[(\d+)\]\.(\w+)$/.exec(path);
  if (!row) return SUPPLY[path] ?? null;
  const [, list = "", i = "", part = ""] = row;
  return `${list}.${Number(i)}.${PARTS[part] ?? part}` as At;
}
