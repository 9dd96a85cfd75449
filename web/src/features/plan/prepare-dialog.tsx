import { useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { type Schemas } from "@/api/client";
import { useBenches } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import type { Option } from "@/ui/choice";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { FormTick } from "@/ui/form-tick";
import { placeErrors, readFields } from "@/ui/form-errors";
import { readNumber, writeNumber, type Unit } from "@/ui/numbers";
import { DriveHelp } from "./drive-help";
import { useSettings } from "./use-settings";

interface Fields {
  bench: string;
  rest: string;
  idle: string;
  idleV: string;
  source: string;
  onset: string;
  raised: string;
  drive: string;
  filters: boolean;
  boost: boolean;
  benchReason: string;
  toneOrder: Schemas["ToneOrder"];
  never: boolean;
}

const TONE_ORDERS: readonly Option[] = [
  ["tone", "after all loads of the first"],
  ["load", "at each load, after the first"],
];

const PATHS: Record<string, keyof Fields> = {
  bench_id: "bench",
  bench_reason: "benchReason",
  rest_v: "rest",
  "idle.current_a": "idle",
  "idle.supply_v": "idleV",
  "gain.source": "source",
  "gain.onset_v": "onset",
  "gain.extra_drive_db": "drive",
};

/** What is prepared once for a session: its bench, the supply at rest, the idle draw, and the three steps of the gain. */
export function PrepareDialog({ sessionId, view, onClose }: { sessionId: string; view: Schemas["LadderView"]; onClose: () => void }) {
  const [left, setLeft] = useState<string[]>([]);
  const benches = useBenches();
  const { settings } = view;
  const form = useForm<Fields>({
    defaultValues: {
      bench: settings.bench_id ?? "",
      rest: writeNumber(settings.rest_v),
      idle: writeNumber(settings.idle?.current_a),
      idleV: writeNumber(settings.idle?.supply_v),
      source: settings.gain?.source ?? "",
      onset: writeNumber(settings.gain?.onset_v),
      raised: "",
      drive: writeNumber(settings.gain?.extra_drive_db),
      filters: settings.gain?.filters_out ?? false,
      boost: settings.gain?.boost_off ?? false,
      benchReason: "",
      toneOrder: settings.tone_order ?? "tone",
      never: settings.never_below_floor ?? false,
    },
  });
  const { register, formState, setError, control, setValue } = form;
  const { change, pending } = useSettings(sessionId, view);
  const [onset, raised, drive] = useWatch({ control, name: ["onset", "raised", "drive"] });
  const submit = form.handleSubmit((fields) => {
    const number = (field: "rest" | "idle" | "idleV" | "onset" | "drive", unit: Unit): [keyof Fields, () => number | null] => [
      field,
      () => readNumber(fields[field], unit),
    ];
    const read = readFields<Fields, Record<"rest" | "idle" | "idleV" | "onset" | "drive", number | null>>(
      {
        rest: number("rest", "V"),
        idle: number("idle", "A"),
        idleV: number("idleV", "V"),
        onset: number("onset", "V"),
        drive: number("drive", "dB"),
      },
      setError,
    );
    if (!read) return;
    setLeft([]);
    const gain = {
      source: fields.source.trim() || null,
      onset_v: read.onset,
      extra_drive_db: read.drive,
      filters_out: fields.filters,
      boost_off: fields.boost,
    };
    const blank = gain.source === null && gain.onset_v === null && gain.extra_drive_db === null && !gain.filters_out && !gain.boost_off;
    change(
      {
        bench_id: fields.bench || null,
        rest_v: read.rest,
        idle: read.idle === null ? null : { current_a: read.idle, supply_v: read.idleV },
        gain: blank ? null : gain,
        tone_order: fields.toneOrder,
        never_below_floor: fields.never,
        ...(fields.benchReason.trim() === "" ? {} : { bench_reason: fields.benchReason.trim() }),
      },
      { onDone: onClose, onError: (refusal) => setLeft(placeErrors(refusal, (path) => PATHS[path] ?? null, setError)) },
    );
  });
  const error = (field: keyof Fields) => formState.errors[field]?.message;
  return (
    <Dialog open onClose={onClose} title="Prepare the bench" width="max-w-[680px]">
      <form noValidate className="grid gap-4" onSubmit={(event) => void submit(event)}>
        <fieldset className="grid gap-3 sm:grid-cols-4">
          <legend className="mb-1.5 font-firm">Supply</legend>
          <FormChoice
            label="Bench"
            hint={view.bench_open ? undefined : "runs were made on it: give a reason below"}
            error={error("bench")}
            control={control}
            name="bench"
            options={[
              ["", "none"],
              ...(settings.bench_id ? [[settings.bench_id, view.bench_name ?? ""] as const] : []),
              ...(benches.data?.benches ?? [])
                .filter((bench) => bench.id !== settings.bench_id)
                .map((bench) => [bench.id, bench.profile.name] as const),
            ]}
          />
          <TextField label="At rest" unit="V" inputMode="decimal" autoFocus error={error("rest")} {...register("rest")} />
          <TextField label="Idle draw" unit="A" inputMode="decimal" hint="no tone" error={error("idle")} {...register("idle")} />
          <TextField label="Idle, at" unit="V" inputMode="decimal" error={error("idleV")} {...register("idleV")} />
          {!view.bench_open && (
            <TextField
              label="Correct the bench as it is now: reason"
              hint="reads its meters, loads and supply again and updates every figure; leave empty to keep it as it was"
              className="sm:col-span-4"
              error={error("benchReason")}
              {...register("benchReason")}
            />
          )}
        </fieldset>
        <fieldset className="grid items-end gap-3 sm:grid-cols-2">
          <legend className="mb-1.5 font-firm">Rules</legend>
          <FormChoice label="Second tone" control={control} name="toneOrder" options={TONE_ORDERS} />
          <FormTick label="House rule: never below the floor, in this and later sessions" control={control} name="never" />
        </fieldset>
        <fieldset className="grid gap-3 sm:grid-cols-2">
          <legend className="mb-1.5 font-firm">Gain, in three steps</legend>
          <TextField
            label="1. Source: up until it distorts, one notch back"
            placeholder="47 of 50"
            error={error("source")}
            {...register("source")}
          />
          <TextField
            label="2. Amplifier: gain up to clip onset; output then"
            unit="V"
            inputMode="decimal"
            error={error("onset")}
            {...register("onset")}
          />
          <TextField label="3. Extra drive" unit="dB" inputMode="decimal" error={error("drive")} {...register("drive")} />
          <TextField
            label="or output raised from onset to"
            unit="V"
            inputMode="decimal"
            hint="the same voltmeter, before and after"
            {...register("raised")}
          />
          <DriveHelp onset={onset} raised={raised} drive={drive} onTake={(db) => setValue("drive", db)} />
          <FormTick label="Filters clear of the tone" control={control} name="filters" />
          <FormTick label="Boost off" control={control} name="boost" />
        </fieldset>
        {left.map((says) => (
          <p key={says} role="alert" className="rounded-md bg-stop-wash px-3 py-2">
            {says}
          </p>
        ))}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={pending}>
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
