import type { Path, UseFormSetError } from "react-hook-form";
import type { Schemas } from "@/api/client";
import { readFields } from "@/ui/form-errors";
import type { AmplifierFields } from "./amplifier-form-fields";
import { recordField, recordFieldsOf, recordOf, type ReadSection } from "./record-fields";
import { readFuses, readNumber, writeFuses, writeNumber } from "@/ui/numbers";
import { wiringKey, wiringOf, wiringsFor } from "@/ui/wirings";

type Amplifier = Schemas["Amplifier"];

export function fieldsOf(amplifier: Amplifier | null): AmplifierFields {
  return {
    make: amplifier?.make ?? "",
    model: amplifier?.model ?? "",
    class: amplifier?.class ?? "D",
    purpose: amplifier?.purpose ?? "full-range",
    supply: amplifier?.supply_type ?? "unknown",
    channels: String(amplifier?.channels ?? 1),
    fuses: writeFuses(amplifier?.fuses_a ?? []),
    outside: writeNumber(amplifier?.recommended_fuse_a),
    maxSupply: writeNumber(amplifier?.max_supply_v),
    floors: amplifier?.floors?.map((floor) => ({ wiring: wiringKey(floor.wiring), load: String(floor.load_ohm) })) ?? [],
    price: writeNumber(amplifier?.price?.amount),
    currency: amplifier?.price?.currency ?? "GBP",
    on: amplifier?.price?.on ?? "",
    provenance: amplifier?.provenance ?? "bought",
    ...recordFieldsOf(amplifier),
    outputFuses: writeFuses(amplifier?.output_fuses_a ?? []),
  };
}

/** The amplifier that the fields say, or null with what is wrong put next to them. */
export async function amplifierOf(
  fields: AmplifierFields,
  setError: UseFormSetError<AmplifierFields>,
  section: ReadSection,
  before: Amplifier | null,
): Promise<Amplifier | null> {
  const read = readFields<AmplifierFields, ReadAmplifier>(
    {
      channels: ["channels", () => whole(fields.channels)],
      fuses: ["fuses", () => readFuses(fields.fuses)],
      outputFuses: ["outputFuses", () => readFuses(fields.outputFuses)],
      outside: ["outside", () => readNumber(fields.outside, "A")],
      maxSupply: ["maxSupply", () => readNumber(fields.maxSupply, "V")],
      price: ["price", () => readNumber(fields.price, "money")],
    },
    setError,
  );
  const floors = readFloors(fields, setError);
  const record = await recordOf(fields, setError, section, before);
  if (!read || !floors || !record) return null;
  return {
    ...record,
    make: fields.make.trim(),
    model: fields.model.trim(),
    class: fields.class,
    purpose: fields.purpose,
    supply_type: fields.supply,
    channels: read.channels,
    fuses_a: read.fuses,
    recommended_fuse_a: read.outside,
    output_fuses_a: read.outputFuses,
    max_supply_v: read.maxSupply,
    floors,
    price: read.price === null ? null : { amount: read.price, currency: fields.currency, on: fields.on || null },
    provenance: fields.provenance,
  };
}

interface ReadAmplifier extends Record<string, unknown> {
  channels: number;
  fuses: number[];
  outputFuses: number[];
  outside: number | null;
  maxSupply: number | null;
  price: number | null;
}

function whole(text: string): number {
  const n = readNumber(text);
  if (n === null || !Number.isInteger(n) || n < 1 || n > 16) throw new Error("An amplifier has 1 to 16 channels.");
  return n;
}

function readFloors(fields: AmplifierFields, setError: UseFormSetError<AmplifierFields>) {
  const floors: NonNullable<Amplifier["floors"]> = [];
  let sound = true;
  const [usual = { kind: "mono" as const }] = wiringsFor(Number(fields.channels));
  fields.floors.forEach((floor, i) => {
    try {
      const load = readNumber(floor.load, "Ω");
      if (load !== null) floors.push({ wiring: wiringOf(floor.wiring) ?? usual, load_ohm: load });
    } catch (error) {
      sound = false;
      setError(`floors.${i}.load`, { message: (error as Error).message });
    }
  });
  return sound ? floors : null;
}

const PATHS: Record<string, Path<AmplifierFields>> = {
  make: "make",
  model: "model",
  channels: "channels",
  recommended_fuse_a: "outside",
  max_supply_v: "maxSupply",
  "price.amount": "price",
  "price.currency": "currency",
  "price.on": "on",
};

export function amplifierField(path: string): Path<AmplifierFields> | null {
  const floor = /^floors\[(\d+)\]/.exec(path);
  if (floor) return `floors.${Number(floor[1])}.load`;
  if (path.startsWith("fuses_a")) return "fuses";
  return PATHS[path] ?? recordField(path);
}
