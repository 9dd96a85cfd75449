import { useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { Button, buttonClass } from "@/ui/button";
import { ChoiceField, TextField } from "@/ui/field";
import { readSection } from "@/api/arithmetic";
import { placeErrors } from "@/ui/form-errors";
import { CLASSES, PROVENANCES, PURPOSES, SUPPLIES } from "./amplifier-words";
import { amplifierField, amplifierOf, fieldsOf } from "./amplifier-fields";
import type { AmplifierFields } from "./amplifier-form-fields";
import { FloorFields } from "./floor-fields";
import { RecordForm } from "./record-form";

type Amplifier = Schemas["Amplifier"];

const Options = ({ words }: { words: Record<string, string> }) =>
  Object.entries(words).map(([value, text]) => (
    <option key={value} value={value}>
      {text}
    </option>
  ));

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
        <legend className="mb-2 font-firm">What it is</legend>
        <TextField label="Make" autoFocus error={error("make")} {...register("make")} />
        <TextField label="Model" error={error("model")} {...register("model")} />
        <TextField label="Channels" inputMode="numeric" error={error("channels")} {...register("channels")} />
        <ChoiceField label="Class" {...register("class")}>
          <Options words={CLASSES} />
        </ChoiceField>
        <ChoiceField label="Made for" className="sm:col-span-2" {...register("purpose")}>
          <Options words={PURPOSES} />
        </ChoiceField>
        <ChoiceField
          label="Its supply is"
          hint="regulated: its rails hold as the battery sags"
          className="sm:col-span-2"
          {...register("supply")}
        >
          <Options words={SUPPLIES} />
        </ChoiceField>
      </fieldset>
      <fieldset className={group}>
        <legend className="mb-2 font-firm">What it bears</legend>
        <TextField label="Fuses on board" unit="A" hint="3 x 35, or 25 + 30" error={error("fuses")} {...register("fuses")} />
        <TextField label="Recommended fuse outside" unit="A" inputMode="decimal" error={error("outside")} {...register("outside")} />
        <TextField label="Maximum supply" unit="V" inputMode="decimal" error={error("maxSupply")} {...register("maxSupply")} />
        <FloorFields control={control} register={register} errors={formState.errors} channels={Number(channels)} />
      </fieldset>
      <fieldset className={group}>
        <legend className="mb-2 font-firm">Whose it is</legend>
        <ChoiceField label="How it came here" {...register("provenance")}>
          <Options words={PROVENANCES} />
        </ChoiceField>
        <TextField label="Price" inputMode="decimal" error={error("price")} {...register("price")} />
        <ChoiceField label="Currency" error={error("currency")} {...register("currency")}>
          {["GBP", "EUR", "USD", "CHF", "SEK", "PLN"].map((code) => (
            <option key={code}>{code}</option>
          ))}
        </ChoiceField>
        <TextField label="On the day" type="date" error={error("on")} {...register("on")} />
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
