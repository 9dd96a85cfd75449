import { useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { type Schemas } from "@/api/client";
import { queries, useBenches } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ChoiceField, TextField, TickField } from "@/ui/field";
import { Figure } from "@/ui/figure";
import { placeErrors, readFields } from "@/ui/form-errors";
import { readNumber, writeNumber } from "@/ui/numbers";
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
}

const PATHS: Record<string, keyof Fields> = {
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
    },
  });
  const { register, formState, setError, control, setValue } = form;
  const { change, pending } = useSettings(sessionId, view);
  const [onset, raised, drive] = useWatch({ control, name: ["onset", "raised", "drive"] });
  const submit = form.handleSubmit((fields) => {
    const number = (field: "rest" | "idle" | "idleV" | "onset" | "drive"): [keyof Fields, () => number | null] => [
      field,
      () => readNumber(fields[field]),
    ];
    const read = readFields<Fields, Record<"rest" | "idle" | "idleV" | "onset" | "drive", number | null>>(
      { rest: number("rest"), idle: number("idle"), idleV: number("idleV"), onset: number("onset"), drive: number("drive") },
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
          <ChoiceField
            label="Bench"
            hint={view.bench_open ? undefined : "runs were made on it: it stays"}
            disabled={!view.bench_open}
            {...register("bench")}
          >
            <option value="">none</option>
            {settings.bench_id && <option value={settings.bench_id}>{view.bench_name}</option>}
            {benches.data?.benches
              .filter((bench) => bench.id !== settings.bench_id)
              .map((bench) => (
                <option key={bench.id} value={bench.id}>
                  {bench.profile.name}
                </option>
              ))}
          </ChoiceField>
          <TextField label="At rest" unit="V" inputMode="decimal" autoFocus error={error("rest")} {...register("rest")} />
          <TextField label="Idle draw" unit="A" inputMode="decimal" hint="no tone" error={error("idle")} {...register("idle")} />
          <TextField label="Idle, at" unit="V" inputMode="decimal" error={error("idleV")} {...register("idleV")} />
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
            label="or raised from the onset to"
            unit="V"
            inputMode="decimal"
            hint="the same voltmeter, before and after"
            {...register("raised")}
          />
          <DriveHelp onset={onset} raised={raised} drive={drive} onTake={(db) => setValue("drive", db)} />
          <TickField label="Filters out of the tone’s way" {...register("filters")} />
          <TickField label="Boost off" {...register("boost")} />
        </fieldset>
        {left.map((says) => (
          <p key={says} role="alert" className="rounded-md bg-stop-wash px-3 py-2">
            {says}
          </p>
        ))}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={pending}>
            Keep it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

const tryNumber = (text: string): number | null => {
  try {
    return readNumber(text);
  } catch {
    return null;
  }
};

/** Extra drive from two voltages, and the voltage for an extra drive. */
function DriveHelp({ onset, raised, drive, onTake }: { onset: string; raised: string; drive: string; onTake: (db: string) => void }) {
  const from = tryNumber(onset);
  const to = tryNumber(raised);
  const db = tryNumber(drive);
  const query = from === null ? null : to !== null ? { from_v: from, to_v: to } : db !== null ? { from_v: from, db } : null;
  const asked = queries.useQuery(
    "get",
    "/api/arithmetic/drive",
    { params: { query: query ?? { from_v: 1 } } },
    { enabled: query !== null, retry: false },
  );
  const found = query && asked.data;
  return (
    <p className="min-h-8 self-center text-step text-ink2 sm:col-span-2" aria-live="polite">
      {!found ? (
        "The two voltages give the decibels, and the decibels give the voltage."
      ) : to !== null ? (
        <>
          That is <Figure figure={found} /> of extra drive.{" "}
          <Button size="compact" onClick={() => onTake(String(Math.round(found.value * 100) / 100))}>
            Take it
          </Button>
        </>
      ) : (
        <>
          Raise it to <Figure figure={found} />.
        </>
      )}
    </p>
  );
}
