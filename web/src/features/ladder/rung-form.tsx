import { useEffect, useRef, useState, type FormEvent, type KeyboardEvent } from "react";
import { useForm } from "react-hook-form";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import type { Option } from "@/ui/choice";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { placeErrors, readFields } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";
import { readNumber, writeNumber, type Unit } from "@/ui/numbers";
import { readGroups, wiringKey, writeGroups } from "@/ui/wirings";
import type { Rung } from "./place";

interface Fields {
  rest: string;
  load: string;
  tone: string;
  drive: string;
  bank: string;
  bursts: string;
  charger: "" | "on" | "off";
}

const CHARGER: readonly Option[] = [
  ["", "not noted"],
  ["off", "off"],
  ["on", "on (raises the rest voltage)"],
];

type Bursts = Schemas["PlannedRung"]["bursts"];

const listOf = (value: number | null) => (value === null ? [] : [value]);

/** Kinds of burst: "standard", or how many cycles, set apart by commas. */
function readBursts(text: string): Bursts {
  const parts = text.split(/[,;\s]+/).filter((part) => part !== "");
  return parts.map((part) => {
    if ("standard".startsWith(part.toLowerCase())) return "standard";
    const count = readNumber(part.replace(/(?:cy|cycles?)$/i, ""));
    if (count === null || !Number.isInteger(count) || count < 1) throw new Error(`“${part}” is not a kind of burst: standard, 20, 8, 1.`);
    return count;
  });
}

const PATHS: Record<string, keyof Fields> = {
  "set.rest_v": "rest",
  "set.load_measured_ohm": "load",
  "set.group_loads_measured_ohm": "load",
  "set.tone_hz": "tone",
  "set.extra_drive_db": "drive",
  "set.bank": "bank",
  "set.bursts": "bursts",
};

/** What is set once for a rung and kept. Enter goes from field to field and saves behind the last; Esc leaves it as it was. */
export function RungForm({
  sessionId,
  rung,
  revision,
  onDone,
}: {
  sessionId: string;
  rung: Rung;
  revision: number;
  /** Called with the rung's key, which holds its tone; null when nothing was set. */
  onDone: (key: string | null) => void;
}) {
  const [opened] = useState({ revision, key: rung.key });
  const { tell } = useNotice();
  const [left, setLeft] = useState<string[]>([]);
  const box = useRef<HTMLFormElement>(null);
  const { set } = rung;
  const mixed = rung.wiring.kind === "mixed";
  const form = useForm<Fields>({
    defaultValues: {
      rest: writeNumber(set.rest_v),
      load: mixed ? writeGroups(set.group_loads_measured_ohm ?? []) : writeNumber(set.load_measured_ohm),
      tone: writeNumber(set.tone_hz),
      drive: writeNumber(set.extra_drive_db),
      bank: set.bank ?? "",
      bursts: set.bursts.join(", "),
      charger: set.charger_on == null ? "" : set.charger_on ? "on" : "off",
    },
  });
  const { register, formState, setError, control } = form;
  useEffect(() => box.current?.querySelector("input")?.select(), []);
  const save = useWrite(
    (body: Schemas["RungChange"]) =>
      data(
        api.PUT("/api/sessions/{id}/rungs", {
          params: { path: { id: sessionId }, header: atRevision(opened.revision) },
          body,
        }),
      ),
    [sessionId],
  );
  const submit = form.handleSubmit((fields) => {
    const number = (field: keyof Fields, unit: Unit): [keyof Fields, () => number | null] => [field, () => readNumber(fields[field], unit)];
    const read = readFields<Fields, Record<"rest" | "tone" | "drive", number | null> & { load: number[]; bursts: Bursts }>(
      {
        rest: number("rest", "V"),
        load: ["load", () => (mixed ? readGroups(wiringKey(rung.wiring), fields.load, "Ω") : listOf(readNumber(fields.load, "Ω")))],
        tone: number("tone", "Hz"),
        drive: number("drive", "dB"),
        bursts: ["bursts", () => readBursts(fields.bursts)],
      },
      setError,
    );
    if (!read || save.isPending) return;
    setLeft([]);
    const body: Schemas["RungChange"] = {
      rung: opened.key,
      set: {
        wiring: rung.wiring,
        setting: rung.setting ?? null,
        load_ohm: rung.load_ohm,
        tone_hz: read.tone,
        load_measured_ohm: mixed ? null : (read.load[0] ?? null),
        group_loads_measured_ohm: mixed ? read.load : [],
        rest_v: read.rest,
        extra_drive_db: read.drive,
        bank: fields.bank.trim() === "" ? null : fields.bank.trim(),
        charger_on: fields.charger === "" ? null : fields.charger === "on",
        modes: set.modes,
        bursts: read.bursts,
        made_of: set.made_of ?? null,
      },
    };
    save.mutate(body, {
      onSuccess: (place) => {
        tell({ says: `${rung.label} set.`, look: "plain", undo: true });
        onDone(place.rung);
      },
      onError: (refusal) => setLeft(placeErrors(refusal, (path) => PATHS[path] ?? null, setError)),
    });
  });
  const onKeyDown = (event: KeyboardEvent<HTMLFormElement>) => {
    if (event.key === "Escape") return onDone(null);
    if (event.key !== "Enter" || (event.target instanceof HTMLButtonElement && event.target.role !== "combobox")) return;
    const controls = [...(box.current?.querySelectorAll<HTMLElement>("input, [role=combobox]") ?? [])];
    const next = controls[controls.indexOf(event.target as HTMLElement) + 1];
    event.preventDefault();
    // A choice has the focus last, and Enter would open it: behind the last field it saves.
    if (!next) return void submit();
    next.focus();
    if (next instanceof HTMLInputElement) next.select();
  };
  const error = (field: keyof Fields) => formState.errors[field]?.message;
  return (
    <form
      ref={box}
      noValidate
      aria-label="Set up this load"
      className="mt-2 rounded-lg border border-edge bg-sheet px-3.5 py-3"
      onKeyDownCapture={onKeyDown}
      onSubmit={(event: FormEvent<HTMLFormElement>) => void submit(event)}
    >
      <div className="grid grid-cols-2 gap-2.5 sm:grid-cols-3 lg:grid-cols-2">
        <TextField label="Rest voltage" unit="V" inputMode="decimal" error={error("rest")} {...register("rest")} />
        <TextField
          label="Load, measured"
          unit="Ω"
          hint={mixed ? "of each group: 3.9 + 2.02" : undefined}
          inputMode="decimal"
          error={error("load")}
          {...register("load")}
        />
        <TextField label="Tone" unit="Hz" inputMode="decimal" error={error("tone")} {...register("tone")} />
        <TextField label="Extra drive" unit="dB" inputMode="decimal" placeholder="by mode" error={error("drive")} {...register("drive")} />
        <TextField label="Bank" placeholder="the one" error={error("bank")} {...register("bank")} />
        <TextField label="Kinds of burst" placeholder="standard, 20, 1" error={error("bursts")} {...register("bursts")} />
        <FormChoice label="Charger" control={control} name="charger" options={CHARGER} />
      </div>
      {left.map((says) => (
        <p key={says} role="alert" className="mt-2 rounded-md bg-stop-wash px-3 py-2">
          {says}
        </p>
      ))}
      <div className="mt-2.5 flex flex-wrap items-center gap-2">
        <Button type="submit" look="main" size="low" disabled={save.isPending}>
          Set
        </Button>
        <Button size="low" onClick={() => onDone(null)}>
          Cancel
        </Button>
        <span className="text-sm text-ink2">Rest voltage, bank, charger and drive carry over to the loads below.</span>
      </div>
    </form>
  );
}
