import { X } from "lucide-react";
import { useFieldArray, type Control, type FieldErrors, type UseFormRegister } from "react-hook-form";
import { Button } from "@/ui/button";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { wiringOptions } from "@/ui/wiring-options";
import { wiringKey, wiringsFor } from "@/ui/wirings";
import type { AmplifierFields } from "./amplifier-form-fields";

/** The lowest load the maker allows, a line a wiring. */
export function FloorFields({
  control,
  register,
  errors,
  channels,
}: {
  control: Control<AmplifierFields>;
  register: UseFormRegister<AmplifierFields>;
  errors: FieldErrors<AmplifierFields>;
  channels: number;
}) {
  const { fields, append, remove } = useFieldArray({ control, name: "floors" });
  const wirings = wiringsFor(channels);
  const free = wirings.find((wiring) => !fields.some((field) => field.wiring === wiringKey(wiring)));
  return (
    <div className="grid content-start gap-2 sm:col-span-2 lg:col-span-4">
      <span className="text-sm text-ink2">Lowest load allowed: the floor</span>
      {fields.map((field, i) => (
        <div key={field.id} className="grid max-w-[420px] grid-cols-[1fr_130px_auto] items-start gap-2">
          <FormChoice label="Wired as" control={control} name={`floors.${i}.wiring`} options={wiringOptions(channels)} />
          <TextField
            label="Floor"
            unit="Ω"
            inputMode="decimal"
            error={errors.floors?.[i]?.load?.message}
            {...register(`floors.${i}.load`)}
          />
          <button
            type="button"
            aria-label={`Remove floor ${String(i + 1)}`}
            className="mt-6 rounded p-2 hover:bg-hair"
            onClick={() => remove(i)}
          >
            <X size={16} aria-hidden />
          </button>
        </div>
      ))}
      {free && (
        <Button size="low" className="justify-self-start" onClick={() => append({ wiring: wiringKey(free), load: "" })}>
          Add a floor
        </Button>
      )}
    </div>
  );
}
