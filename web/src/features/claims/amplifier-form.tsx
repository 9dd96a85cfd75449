import { useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { Button, buttonClass } from "@/ui/button";
import { optionsOf, type Option } from "@/ui/choice";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { readSection } from "@/api/arithmetic";
import { placeErrors } from "@/ui/form-errors";
import { CLASSES, PROVENANCES, PURPOSES, SUPPLIES } from "./amplifier-words";
import { amplifierField, amplifierOf, fieldsOf } from "./amplifier-fields";
import type { AmplifierFields } from "./amplifier-form-fields";
import { FloorFields } from "./floor-fields";
import { RecordForm } from "./record-form";

type Amplifier = Schemas["Amplifier"];

const CURRENCIES: Option[] = ["GBP", "EUR", "USD", "CHF", "SEK", "PLN"].map((code) => [code, code]);

/** Take in an amplifier, or change it. Nothing typed is lost when something has to be mended. */
export function AmplifierForm({
  before,
  back,
  save,
  label,
}: {
  before: Amplifier | null;
  /** Where Cancel goes. */
  back: string;
  save: (amplifier: Amplifier) => Promise<void>;
  label: string;
}) {
  const [left, setLeft] = useState<string[]>([]);
  const form = useForm<AmplifierFields>({ defaultValues: fieldsOf(before) });
  const { register, control, formState, setError } = form;
  const channels = useWatch({ control, name: "channels" });
  const error = (field: keyof AmplifierFields) => formState.errors[field]?.message;
  const submit = form.handleSubmit(async (fields) => {
    setLeft([]);
    const amplifier = await amplifierOf(fields, setError, readSection, before);
    if (!amplifier) return;
    try {
      await save(amplifier);
    } catch (refusal) {
      setLeft(placeErrors(refusal, amplifierField, setError));
    }
  });
  const group = "grid gap-3 sm:grid-cols-2 lg:grid-cols-4";
  return (
    <form noValidate className="grid gap-5" onSubmit={(event) => void submit(event)}>
      <fieldset className={group}>
        <legend className="mb-2 font-firm">Identity</legend>
        <TextField label="Make" autoFocus error={error("make")} {...register("make")} />
        <TextField label="Model" error={error("model")} {...register("model")} />
        <TextField label="Channels" inputMode="numeric" error={error("channels")} {...register("channels")} />
        <FormChoice label="Class" control={control} name="class" options={optionsOf(CLASSES)} />
        <FormChoice label="Made for" className="sm:col-span-2" control={control} name="purpose" options={optionsOf(PURPOSES)} />
        <FormChoice
          label="Internal supply"
          hint="regulated: its rails hold as the battery sags"
          className="sm:col-span-2"
          control={control}
          name="supply"
          options={optionsOf(SUPPLIES)}
        />
      </fieldset>
      <fieldset className={group}>
        <legend className="mb-2 font-firm">Limits</legend>
        <TextField label="Fuses on board" unit="A" hint="3 x 35, or 25 + 30" error={error("fuses")} {...register("fuses")} />
        <TextField label="Recommended fuse outside" unit="A" inputMode="decimal" error={error("outside")} {...register("outside")} />
        <TextField label="Maximum supply" unit="V" inputMode="decimal" error={error("maxSupply")} {...register("maxSupply")} />
        <FloorFields control={control} register={register} errors={formState.errors} channels={Number(channels)} />
      </fieldset>
      <fieldset className={group}>
        <legend className="mb-2 font-firm">Ownership</legend>
        <FormChoice label="How you got it" control={control} name="provenance" options={optionsOf(PROVENANCES)} />
        <TextField label="Price" inputMode="decimal" error={error("price")} {...register("price")} />
        <FormChoice label="Currency" error={error("currency")} control={control} name="currency" options={CURRENCIES} />
        <TextField label="Date" type="date" error={error("on")} {...register("on")} />
      </fieldset>
      <RecordForm form={form} />
      {left.map((says) => (
        <p key={says} role="alert" className="rounded-md bg-stop-wash px-3 py-2">
          {says}
        </p>
      ))}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={formState.isSubmitting}>
          {label}
        </Button>
        <Link className={buttonClass()} to={back}>
          Cancel
        </Link>
      </div>
    </form>
  );
}
