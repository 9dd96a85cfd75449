import { useState } from "react";
import { useForm } from "react-hook-form";
import { readSection } from "@/api/arithmetic";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import type { Option } from "@/ui/choice";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import { FormTick } from "@/ui/form-tick";
import { Figure } from "@/ui/figure";
import { placeErrors } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";
import { benchField, benchFieldsOf, benchOf, type BenchFields } from "./bench-fields";
import { LeadRows } from "./lead-rows";
import { LoadRows } from "./load-rows";
import { MeterRows } from "./meter-rows";
import { TryLoad } from "./try-load";

type BenchView = Schemas["BenchView"];

const SUPPLIES: readonly Option[] = [
  ["battery", "a battery bank"],
  ["supply", "a mains-powered supply"],
  ["both", "both together"],
];

/** One bench. Nothing typed is lost when something has to be mended. */
export function BenchForm({ bench, onSaved }: { bench: BenchView | null; onSaved: (id: string | null) => void }) {
  const { tell } = useNotice();
  const [opened] = useState(bench?.revision ?? 0);
  const [left, setLeft] = useState<string[]>([]);
  const form = useForm<BenchFields>({ defaultValues: benchFieldsOf(bench?.profile ?? null) });
  const { register, formState, setError, control } = form;
  // After its own write the form goes on from the revision that came back.
  const [revision, setRevision] = useState(opened);
  const save = useWrite((body: Schemas["BenchProfile"]) =>
    bench
      ? data(api.PATCH("/api/benches/{id}", { params: { path: { id: bench.id }, header: atRevision(revision) }, body }))
      : data(api.POST("/api/benches", { body })),
  );
  const remove = useWrite((row: BenchView) =>
    data(api.DELETE("/api/benches/{id}", { params: { path: { id: row.id }, header: atRevision(revision) } })),
  );
  const submit = form.handleSubmit(async (fields) => {
    setLeft([]);
    const profile = await benchOf(fields, setError, readSection);
    if (!profile) return;
    try {
      const kept = await save.mutateAsync(profile);
      setRevision(kept.revision);
      tell({ says: `${kept.profile.name} saved.`, look: "plain", undo: true });
      onSaved(kept.id);
    } catch (refusal) {
      setLeft(placeErrors(refusal, benchField, setError));
    }
  });
  const onRemove = (row: BenchView) =>
    remove.mutate(row, {
      onSuccess: () => {
        tell({ says: `${row.profile.name} deleted; its sessions keep their copy.`, look: "plain", undo: true });
        onSaved(null);
      },
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
  const error = (field: keyof BenchFields) => formState.errors[field]?.message;
  return (
    <form noValidate className="grid max-w-[1060px] gap-6" onSubmit={(event) => void submit(event)}>
      <h1 className="wide text-2xl font-strong">{bench ? bench.profile.name : "A new bench"}</h1>
      <fieldset className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <legend className="mb-2 font-firm">The supply</legend>
        <TextField label="Name of the bench" autoFocus={!bench} error={error("name")} {...register("name")} />
        <FormChoice label="Supply" control={control} name="kind" options={SUPPLIES} />
        <TextField label="Current limit" unit="A" inputMode="decimal" hint="if it has one" error={error("limit")} {...register("limit")} />
        <TextField label="Fuse in its lead" unit="A" inputMode="decimal" error={error("fuse")} {...register("fuse")} />
        <TextField
          label="Source resistance"
          unit="mΩ"
          inputMode="decimal"
          hint="used until three runs of a session give their own"
          error={error("source")}
          {...register("source")}
        />
        <div className="self-center text-step text-ink2 lg:col-span-2">
          {bench?.source_ohm ? (
            <>
              {`Its ${String(bench.source_runs)} steady runs so far show `}
              <Figure figure={bench.source_ohm} plusMinus />.
            </>
          ) : (
            "Its runs will give it: sag divided by amps."
          )}
        </div>
        <FormTick label="With supercapacitors" className="self-center" control={control} name="supercapacitors" />
      </fieldset>
      <LoadRows control={control} register={register} errors={formState.errors} />
      <TextField
        label="Steps of a load box"
        unit="Ω"
        hint="for each output, fixed and never combined: 8; 4; 2.67; 2"
        className="max-w-[420px]"
        error={error("steps")}
        {...register("steps")}
      />
      <TryLoad form={form} />
      <MeterRows control={control} register={register} errors={formState.errors} />
      <LeadRows control={control} register={register} errors={formState.errors} />
      {left.map((says) => (
        <p key={says} role="alert" className="rounded-md bg-stop-wash px-3 py-2">
          {says}
        </p>
      ))}
      <div className="flex flex-wrap items-center gap-2">
        <Button type="submit" look="main" disabled={formState.isSubmitting}>
          {bench ? "Keep the changes" : "Add the bench"}
        </Button>
        {bench && (
          <Button look="stop" disabled={remove.isPending} onClick={() => onRemove(bench)}>
            Delete
          </Button>
        )}
        <span className="text-sm text-ink2">Sessions with runs keep the bench as it was; those not begun follow.</span>
      </div>
    </form>
  );
}
