import { useState } from "react";
import { Controller, useForm, useWatch } from "react-hook-form";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { Dialog } from "@/ui/dialog";
import type { Option } from "@/ui/choice";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { placeErrors } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";
import { wiringOptions } from "@/ui/wiring-options";
import { isMixed } from "@/ui/wirings";
import { SenseFlags } from "./sense-flags";
import { useSense } from "./use-sense";
import { claimField, claimOf, fieldsOf, type ClaimFields } from "./claim-form";

type ClaimView = Schemas["ClaimView"];
type Claim = Schemas["Claim"];

const PER: readonly Option[] = [
  ["output", "of each output"],
  ["total", "in total"],
];

const KINDS: readonly Option[] = [
  ["rms", "RMS"],
  ["max", "max or peak"],
  ["unstated", "not stated"],
];

interface Props {
  amplifierId: string;
  amplifier: Schemas["Amplifier"];
  /** The line to change; null adds one. */
  row: ClaimView | null;
  /** The line before it: most of a manual's lines share most of their words. */
  like: Claim | undefined;
  onClose: () => void;
}

/** Enter or change one claim line. Enter saves; a saved new line makes room for the next. */
export function ClaimDialog({ amplifierId, amplifier, row, like, onClose }: Props) {
  const { tell } = useNotice();
  const [left, setLeft] = useState<string[]>([]);
  const form = useForm<ClaimFields>({ defaultValues: fieldsOf(row?.claim ?? null, like, amplifier.channels) });
  const { register, control, formState, setError, setFocus, reset } = form;
  const error = (field: keyof ClaimFields) => formState.errors[field]?.message;
  const save = useWrite(
    (claim: Claim): Promise<ClaimView> =>
      row
        ? data(api.PATCH("/api/claims/{id}", { params: { path: { id: row.id }, header: atRevision(row.revision) }, body: claim }))
        : data(api.POST("/api/amplifiers/{id}/claims", { params: { path: { id: amplifierId } }, body: claim })),
    [amplifierId],
  );
  const typed = useWatch({ control }) as ClaimFields;
  const mixed = isMixed(typed.wiring);
  const found = useSense(
    amplifierId,
    claimOf(typed, row?.id ?? "", () => undefined),
    row?.id ?? null,
  );
  const submit = (again: boolean) =>
    form.handleSubmit((fields) => {
      setLeft([]);
      const claim = claimOf(fields, row?.id ?? "", setError);
      if (!claim || save.isPending) return;
      save.mutate(claim, {
        onSuccess: () => {
          tell({ says: row ? "Claim changed." : "Claim added.", look: "plain", undo: true });
          if (!again) return onClose();
          reset({ ...fields, load: "", power: "" });
          setFocus("load");
        },
        onError: (refusal) => setLeft(placeErrors(refusal, claimField, setError)),
      });
    });
  return (
    <Dialog open onClose={onClose} title={row ? "Change a claim" : "Add a claim"}>
      <form noValidate className="grid gap-3.5" onSubmit={(event) => void submit(false)(event)}>
        <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
          <TextField
            label="Load"
            unit="Ω"
            hint={mixed ? "of each group: 4 + 2" : undefined}
            inputMode="decimal"
            autoFocus
            error={error("load")}
            {...register("load")}
          />
          <TextField
            label="Watts"
            unit="W"
            hint={mixed ? "of each group: 75 + 300" : undefined}
            inputMode="decimal"
            error={error("power")}
            {...register("power")}
          />
          <FormChoice label="Watts are" control={control} name="per" options={PER} />
          <FormChoice label="Kind" control={control} name="kind" options={KINDS} />
          <FormChoice
            label="Wired as"
            className="col-span-2"
            error={error("wiring")}
            control={control}
            name="wiring"
            options={[["", "not given"], ...wiringOptions(amplifier.channels, true)]}
          />
          <TextField label="At" unit="V" inputMode="decimal" error={error("supply")} {...register("supply")} />
          <TextField label="Distortion limit" unit="%" inputMode="decimal" error={error("thd")} {...register("thd")} />
          <TextField label="Where it is printed" className="col-span-2" error={error("source")} {...register("source")} />
          <TextField label="Tone, if named" unit="Hz" inputMode="decimal" error={error("tone")} {...register("tone")} />
          <TextField label="Switch setting" hint="if it has one" error={error("setting")} {...register("setting")} />
        </div>
        <Controller
          control={control}
          name="used"
          render={({ field }) => <Check label="The verdict uses this line" checked={field.value} onChange={field.onChange} />}
        />
        {found.length > 0 && (
          <div className="grid gap-1.5" aria-live="polite">
            <SenseFlags found={found} />
          </div>
        )}
        {left.map((says) => (
          <p key={says} role="alert" className="rounded-md bg-stop-wash px-3 py-2">
            {says}
          </p>
        ))}
        <div className="flex flex-wrap justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          {!row && <Button onClick={() => void submit(true)()}>Save, and another</Button>}
          <Button type="submit" look="main" disabled={save.isPending}>
            Save the claim
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
