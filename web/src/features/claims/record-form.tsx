import { X } from "lucide-react";
import { useFieldArray, useWatch, type UseFormReturn } from "react-hook-form";
import { Button } from "@/ui/button";
import type { Option } from "@/ui/choice";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { FormTick } from "@/ui/form-tick";
import type { AmplifierFields } from "./amplifier-form-fields";
import type { ControlKind } from "./amplifier-form-fields";

const KINDS: [ControlKind, string][] = [
  ["low-pass", "low-pass"],
  ["high-pass", "high-pass, subsonic"],
  ["boost", "boost"],
  ["phase", "phase"],
  ["gain", "gain"],
];

const CONDITIONS: readonly Option[] = [
  ["", "not noted"],
  ["new", "new"],
  ["used", "used"],
  ["repaired", "repaired"],
];

const TOPOLOGIES: readonly Option[] = [
  ["", "unknown"],
  ["half-bridge", "half bridge"],
  ["full-bridge", "full bridge"],
];

const group = "grid gap-3 sm:grid-cols-2 lg:grid-cols-4";

/** The rest of what is taken in: how it is built, connected and controlled, and in what state it came. */
export function RecordForm({ form }: { form: UseFormReturn<AmplifierFields> }) {
  const { register, formState, control } = form;
  const [provenance, state] = useWatch({ control, name: ["provenance", "state"] });
  const error = (field: keyof AmplifierFields) => formState.errors[field]?.message;
  return (
    <>
      {provenance === "lent" && (
        <fieldset className={group}>
          <legend className="mb-2 font-firm">The loan</legend>
          <TextField label="Lent by" error={error("lentBy")} {...register("lentBy")} />
          <TextField label="Back by" type="date" error={error("backBy")} {...register("backBy")} />
        </fieldset>
      )}
      <fieldset className={group}>
        <legend className="mb-2 font-firm">Condition</legend>
        <FormChoice label="Condition" control={control} name="state" options={CONDITIONS} />
        <TextField
          label={state === "repaired" ? "What was repaired" : "History"}
          className="sm:col-span-1 lg:col-span-2"
          error={error("history")}
          {...register("history")}
        />
        <TextField label="Year made" inputMode="numeric" error={error("year")} {...register("year")} />
        <FormTick label="First power-up was through a current limit" className="sm:col-span-2" control={control} name="limited" />
      </fieldset>
      <fieldset className={group}>
        <legend className="mb-2 font-firm">Construction</legend>
        <TextField label="Serial number" error={error("serial")} {...register("serial")} />
        <FormChoice label="Output stage" control={control} name="topology" options={TOPOLOGIES} />
        <TextField
          label="Fuses in the outputs"
          unit="A"
          hint="separate from the supply fuses"
          error={error("outputFuses")}
          {...register("outputFuses")}
        />
        <TextField
          label="Rail capacitors rated"
          unit="V"
          inputMode="decimal"
          hint="once the lid is off"
          error={error("railV")}
          {...register("railV")}
        />
        <TextField label="Length" unit="mm" inputMode="decimal" error={error("length")} {...register("length")} />
        <TextField label="Width" unit="mm" inputMode="decimal" error={error("width")} {...register("width")} />
        <TextField label="Height" unit="mm" inputMode="decimal" error={error("height")} {...register("height")} />
        <TextField label="Weight" unit="kg" inputMode="decimal" error={error("weight")} {...register("weight")} />
      </fieldset>
      <fieldset className={group}>
        <legend className="mb-2 font-firm">Connections</legend>
        <TextField label="Power terminals take" hint="53 mm², or 1/0 AWG" error={error("powerTerminal")} {...register("powerTerminal")} />
        <TextField
          label="Speaker terminals take"
          hint="8 mm², or 8 AWG"
          error={error("speakerTerminal")}
          {...register("speakerTerminal")}
        />
        <TextField label="Inputs" hint="separated by ;" error={error("inputs")} {...register("inputs")} />
        <TextField label="Supplied with it" hint="separated by ;" error={error("accessories")} {...register("accessories")} />
        <Controls form={form} />
      </fieldset>
      <TextField label="Notes" error={error("notes")} {...register("notes")} />
    </>
  );
}

function Controls({ form }: { form: UseFormReturn<AmplifierFields> }) {
  const { register, control, formState } = form;
  const { fields, append, remove } = useFieldArray({ control, name: "controls" });
  return (
    <div className="grid content-start gap-2 sm:col-span-2 lg:col-span-4">
      <span className="text-sm text-ink2">Controls in the signal path</span>
      {fields.map((field, i) => {
        const error = formState.errors.controls?.[i];
        return (
          <div key={field.id} className="grid grid-cols-2 items-start gap-2 sm:grid-cols-[1.4fr_1fr_1fr_1.6fr_auto_40px]">
            <FormChoice label="Control" control={control} name={`controls.${i}.kind`} options={KINDS} />
            <TextField label="From" unit="Hz" inputMode="decimal" error={error?.from?.message} {...register(`controls.${i}.from`)} />
            <TextField label="To" unit="Hz" inputMode="decimal" error={error?.to?.message} {...register(`controls.${i}.to`)} />
            <TextField
              label="or its range in words"
              placeholder="0 to 12 dB"
              error={error?.range?.message}
              {...register(`controls.${i}.range`)}
            />
            <FormTick label="can be off" className="mt-7" control={control} name={`controls.${i}.out`} />
            <button
              type="button"
              aria-label={`Remove control ${String(i + 1)}`}
              className="mt-6 justify-self-start rounded p-2 hover:bg-hair"
              onClick={() => remove(i)}
            >
              <X size={16} aria-hidden />
            </button>
          </div>
        );
      })}
      <Button
        size="low"
        className="justify-self-start"
        onClick={() => append({ kind: fields.length === 0 ? "low-pass" : "high-pass", from: "", to: "", range: "", out: false })}
      >
        Add a control
      </Button>
    </div>
  );
}
