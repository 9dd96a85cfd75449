import { useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { placeErrors, readFields } from "@/ui/form-errors";
import { readNumber, type Unit } from "@/ui/numbers";
import { wiringOptions } from "@/ui/wiring-options";
import { isMixed, readGroups, wiringKey, wiringOf, wiringsFor } from "@/ui/wirings";

interface Fields {
  wiring: string;
  load: string;
  tone: string;
  setting: string;
}

interface Props {
  sessionId: string;
  channels: number;
  /** Called with the key of the new rung. */
  onAdded: (key: string) => void;
}

const PATHS: Record<string, keyof Fields> = {
  "set.wiring": "wiring",
  "set.load_ohm": "load",
  "set.wiring.groups": "wiring",
  "set.tone_hz": "tone",
  "set.setting": "setting",
};

export function AddLoad(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button look="main" onClick={() => setOpen(true)}>
        Add a load
      </Button>
      {open && <AddLoadDialog {...props} onClose={() => setOpen(false)} />}
    </>
  );
}

/** A load that no claim names: the third channel alone, 50 Hz as a low-end check, one rung further down. */
export function AddLoadDialog({ sessionId, channels, onAdded, onClose }: Props & { onClose: () => void }) {
  const [left, setLeft] = useState<string[]>([]);
  const wirings = wiringsFor(channels);
  const [usual = { kind: "mono" as const }] = wirings;
  const { register, control, handleSubmit, formState, setError } = useForm<Fields>({
    defaultValues: { wiring: wiringKey(usual), load: "", tone: "", setting: "" },
  });
  const add = useWrite(
    (set: Schemas["PlannedRung"]) =>
      data(
        api.PUT("/api/sessions/{id}/rungs", {
          params: { path: { id: sessionId }, header: atRevision(0) },
          body: { rung: null, set },
        }),
      ),
    [sessionId],
  );
  const submit = handleSubmit((fields) => {
    const mixed = isMixed(fields.wiring);
    const figures = (text: string, unit: Unit) => (mixed ? readGroups(fields.wiring, text, unit) : listOf(readNumber(text, unit)));
    const read = readFields<Fields, { load: [number, ...number[]]; tone: number[] }>(
      {
        load: ["load", () => required(figures(fields.load, "Ω"))],
        tone: ["tone", () => figures(fields.tone, "Hz")],
      },
      setError,
    );
    if (!read || add.isPending) return;
    add.mutate(
      {
        wiring: wiringOf(fields.wiring, read.load, read.tone) ?? usual,
        load_ohm: read.load[0],
        tone_hz: read.tone[0] ?? null,
        setting: fields.setting.trim() || null,
      },
      {
        onSuccess: (place) => onAdded(place.rung),
        onError: (refusal) => setLeft(placeErrors(refusal, (path) => PATHS[path] ?? null, setError)),
      },
    );
  });
  const eachGroup = isMixed(useWatch({ control, name: "wiring" })) ? "of each group: 4 + 2" : undefined;
  const error = (field: keyof Fields) => formState.errors[field]?.message;
  return (
    <Dialog open onClose={onClose} title="Add a load" width="max-w-[460px]">
      <form noValidate className="grid gap-3" onSubmit={(event) => void submit(event)}>
        <div className="grid grid-cols-2 gap-3">
          <TextField label="Load" unit="Ω" hint={eachGroup} inputMode="decimal" autoFocus error={error("load")} {...register("load")} />
          <FormChoice label="Wired as" error={error("wiring")} control={control} name="wiring" options={wiringOptions(channels, true)} />
          <TextField
            label="Tone"
            unit="Hz"
            inputMode="decimal"
            hint={eachGroup ?? "the usual one when empty"}
            error={error("tone")}
            {...register("tone")}
          />
          <TextField label="Switch setting" hint="if it has one" error={error("setting")} {...register("setting")} />
        </div>
        {left.map((says) => (
          <p key={says} role="alert" className="rounded-md bg-stop-wash px-3 py-2">
            {says}
          </p>
        ))}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={add.isPending}>
            Add to the ladder
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

const listOf = (value: number | null) => (value === null ? [] : [value]);

function required(loads: number[]): [number, ...number[]] {
  const [first, ...others] = loads;
  if (first === undefined) throw new Error("Which load?");
  return [first, ...others];
}
