import type { Path, UseFormSetError } from "react-hook-form";
import type { Schemas } from "@/api/client";
import { readNumber, writeNumber, writePercent, type Unit } from "@/ui/numbers";

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
  steps: string;
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
    steps: profile?.step_box_ohm?.map((step) => writeNumber(step)).join("; ") ?? "",
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

/** What the fixed part of a meter's limits is in. */
const ABSOLUTE: Record<Quantity, Unit> = { power: "W", voltage: "V", current: "A", resistance: "Ω", supply_voltage: "V" };

/** Reads numbers field by field; what cannot be read is put next to it. */
class Reader {
  sound = true;

  constructor(private readonly setError: UseFormSetError<BenchFields>) {}

  fail(at: At, message: string) {
    this.sound = false;
    this.setError(at, { message });
  }

  number(at: At, text: string, unit?: Unit, scale = 1): number | null {
    try {
      const value = readNumber(text, unit);
      return value === null ? null : value * scale;
    } catch (error) {
      this.fail(at, (error as Error).message);
      return null;
    }
  }

  needed(at: At, text: string, what: string, unit?: Unit, scale = 1): number {
    const value = this.number(at, text, unit, scale);
    if (value === null && text.trim() === "") this.fail(at, what);
    return value ?? 0;
  }
}

/** The resistors that the fields say, or null with what is wrong put next to them. */
export function loadsOf(fields: BenchFields, setError: UseFormSetError<BenchFields>): Schemas["LoadResistor"][] | null {
  const read = new Reader(setError);
  const loads = fields.loads.map((load, i) => ({
    nominal_ohm: read.needed(`loads.${i}.nominal`, load.nominal, "How many ohms?", "Ω"),
    measured_ohm: read.number(`loads.${i}.measured`, load.measured, "Ω"),
    tolerance_ratio: read.number(`loads.${i}.tolerance`, load.tolerance, "%", 0.01),
    continuous_w: read.number(`loads.${i}.continuous`, load.continuous, "W"),
    ten_second_w: read.number(`loads.${i}.short`, load.short, "W"),
    count: read.needed(`loads.${i}.count`, load.count, "How many?"),
  }));
  return read.sound ? loads : null;
}

/** Steps of a load box, "8; 4; 2.67", or null with what is wrong put next to them. */
export function stepsOf(text: string, setError: UseFormSetError<BenchFields>): number[] | null {
  const read = new Reader(setError);
  const parts = text.split(/[;/]|,\s|\s+(?=[\d.])/).filter((part) => part.trim() !== "");
  const steps = parts.map((part) => read.number("steps", part, "Ω")).filter((step) => step !== null);
  return read.sound ? steps : null;
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
    reading_ratio: read.needed(`meters.${i}.ratio`, meter.ratio, "± how much of the reading?", "%", 0.01),
    absolute: read.number(`meters.${i}.absolute`, meter.absolute, ABSOLUTE[meter.quantity]) ?? 0,
    last_checked_on: meter.checked || null,
  }));
  const leads: Schemas["Lead"][] = [];
  for (const [i, lead] of fields.leads.entries()) {
    const length = read.needed(`leads.${i}.length`, lead.length, "How long, each way?", "m");
    try {
      leads.push({ name: lead.name, length_m: length, section_mm2: Math.round((await section(lead.section)) * 100) / 100 });
    } catch (error) {
      read.fail(`leads.${i}.section`, (error as Error).message);
    }
  }
  const supply = {
    kind: fields.kind,
    current_limit_a: read.number("limit", fields.limit, "A"),
    lead_fuse_a: read.number("fuse", fields.fuse, "A"),
    source_ohm: read.number("source", fields.source, "mΩ", 1e-3),
    supercapacitors: fields.supercapacitors,
  };
  const step_box_ohm = stepsOf(fields.steps, setError);
  return read.sound && loads && step_box_ohm ? { name: fields.name.trim(), supply, loads, step_box_ohm, meters, leads } : null;
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
  if (path.startsWith("step_box_ohm")) return "steps";
  const row = /^(loads|meters|leads)\[(\d+)\]\.(\w+)$/.exec(path);
  if (!row) return SUPPLY[path] ?? null;
  const [, list = "", i = "", part = ""] = row;
  return `${list}.${Number(i)}.${PARTS[part] ?? part}` as At;
}
