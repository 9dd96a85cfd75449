import type { Path, UseFormSetError } from "react-hook-form";
import type { Schemas } from "@/api/client";
import { readNumber, writeNumber, type Unit } from "@/ui/numbers";
import type { AmplifierFields, RecordFields } from "./amplifier-form-fields";

type Amplifier = Schemas["Amplifier"];

/** Lines of a list, one a line or set apart by commas. */
const lines = (text: string) =>
  text
    .split(/[\n;]/)
    .map((line) => line.trim())
    .filter((line) => line !== "");

export function recordFieldsOf(amplifier: Amplifier | null): RecordFields {
  return {
    serial: amplifier?.serial ?? "",
    year: writeNumber(amplifier?.year),
    topology: amplifier?.topology ?? "",
    outputFuses: "",
    inputs: amplifier?.inputs?.join("; ") ?? "",
    controls:
      amplifier?.controls?.map((control) => ({
        kind: control.kind,
        from: writeNumber(control.from_hz),
        to: writeNumber(control.to_hz),
        range: control.range ?? "",
        out: control.can_be_out ?? false,
      })) ?? [],
    powerTerminal: writeNumber(amplifier?.terminals?.power_mm2),
    speakerTerminal: writeNumber(amplifier?.terminals?.speaker_mm2),
    length: writeNumber(amplifier?.size?.length_mm),
    width: writeNumber(amplifier?.size?.width_mm),
    height: writeNumber(amplifier?.size?.height_mm),
    weight: writeNumber(amplifier?.weight_kg),
    accessories: amplifier?.accessories?.join("; ") ?? "",
    state: amplifier?.condition?.state ?? "",
    history: amplifier?.condition?.history ?? "",
    limited: amplifier?.condition?.limited_first_power_up ?? false,
    lentBy: amplifier?.loan?.lent_by ?? "",
    backBy: amplifier?.loan?.back_by ?? "",
    railV: writeNumber(amplifier?.inside?.rail_capacitor_v),
    notes: amplifier?.notes ?? "",
  };
}

/** Reads a section as people write it: the program knows AWG. */
export type ReadSection = (text: string) => Promise<number>;

/** The rest of the record that the fields say, or null with what is wrong put next to them. */
export async function recordOf(
  fields: AmplifierFields,
  setError: UseFormSetError<AmplifierFields>,
  section: ReadSection,
  before: Amplifier | null,
): Promise<Partial<Amplifier> | null> {
  let sound = true;
  const fail = (at: Path<AmplifierFields>, error: unknown) => {
    sound = false;
    setError(at, { message: (error as Error).message });
  };
  const number = (at: Path<AmplifierFields>, text: string, unit?: Unit) => {
    try {
      return readNumber(text, unit);
    } catch (error) {
      fail(at, error);
      return null;
    }
  };
  const copper = async (at: Path<AmplifierFields>, text: string) => {
    if (text.trim() === "") return null;
    try {
      return Math.round((await section(text)) * 100) / 100;
    } catch (error) {
      fail(at, error);
      return null;
    }
  };
  const controls = fields.controls.map((control, i) => ({
    kind: control.kind,
    from_hz: number(`controls.${i}.from`, control.from, "Hz"),
    to_hz: number(`controls.${i}.to`, control.to, "Hz"),
    range: control.range.trim() || null,
    can_be_out: control.out,
  }));
  const terminals = {
    power_mm2: await copper("powerTerminal", fields.powerTerminal),
    speaker_mm2: await copper("speakerTerminal", fields.speakerTerminal),
  };
  const sides = {
    length_mm: number("length", fields.length, "mm"),
    width_mm: number("width", fields.width, "mm"),
    height_mm: number("height", fields.height, "mm"),
  };
  const given = Object.values(sides).filter((side) => side !== null).length;
  if (given > 0 && given < 3) fail("length", new Error("A size has three sides: length, width and height."));
  const rail = number("railV", fields.railV, "V");
  const record: Partial<Amplifier> = {
    serial: fields.serial.trim() || null,
    year: number("year", fields.year),
    topology: fields.topology || null,
    inputs: lines(fields.inputs),
    controls,
    terminals: terminals.power_mm2 === null && terminals.speaker_mm2 === null ? null : terminals,
    size: given === 3 ? (sides as Schemas["Size"]) : null,
    weight_kg: number("weight", fields.weight, "kg"),
    accessories: lines(fields.accessories),
    condition:
      fields.state === "" ? null : { state: fields.state, history: fields.history.trim() || null, limited_first_power_up: fields.limited },
    loan:
      fields.provenance === "lent" && (fields.lentBy || fields.backBy)
        ? { ...before?.loan, lent_by: fields.lentBy.trim() || null, back_by: fields.backBy || null }
        : null,
    // What the form has no field for stays as it is.
    inside: rail === null && !before?.inside ? null : { ...before?.inside, rail_capacitor_v: rail },
    notes: fields.notes.trim() || null,
  };
  return sound ? record : null;
}

const PATHS: Record<string, Path<AmplifierFields>> = {
  serial: "serial",
  year: "year",
  "terminals.power_mm2": "powerTerminal",
  "terminals.speaker_mm2": "speakerTerminal",
  "size.length_mm": "length",
  "size.width_mm": "width",
  "size.height_mm": "height",
  weight_kg: "weight",
  "condition.history": "history",
  "loan.lent_by": "lentBy",
  "loan.back_by": "backBy",
  "inside.rail_capacitor_v": "railV",
  notes: "notes",
};

/** The field that a refusal is about. */
export function recordField(path: string): Path<AmplifierFields> | null {
  const control = /^controls\[(\d+)\]\.(from_hz|to_hz|range)$/.exec(path);
  if (control) return `controls.${Number(control[1])}.${control[2] === "from_hz" ? "from" : control[2] === "to_hz" ? "to" : "range"}`;
  if (path.startsWith("inputs")) return "inputs";
  if (path.startsWith("accessories")) return "accessories";
  if (path.startsWith("output_fuses_a")) return "outputFuses";
  return PATHS[path] ?? null;
}
