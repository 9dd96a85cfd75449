import { useState } from "react";
import { useForm } from "react-hook-form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { TextField } from "@/ui/field";
import { placeErrors } from "@/ui/form-errors";
import { Kbd } from "@/ui/kbd";
import { useKeys } from "@/ui/use-keys";
import type { Cell, Rung } from "./place";

interface Fields {
  reason: string;
  by: string;
}

const BY = "pukka-by";

/** A run that can hurt the amplifier asks for a reason and a name before it starts. */
export function GatePanel({
  sessionId,
  rung,
  cell,
  onHappened,
}: {
  sessionId: string;
  rung: Rung;
  cell: Cell;
  /** The run was made already: log it all the same, out of the verdict until there is a reason. */
  onHappened: () => void;
}) {
  const [left, setLeft] = useState<string[]>([]);
  const { register, handleSubmit, formState, setError, setFocus } = useForm<Fields>({
    defaultValues: { reason: "", by: localStorage.getItem(BY) ?? "" },
  });
  const open = useWrite((body: Schemas["GateReason"]) =>
    data(api.POST("/api/sessions/{id}/gates", { params: { path: { id: sessionId } }, body })),
  );
  const give = () => setFocus("reason");
  useKeys({ g: give, Enter: give });
  const submit = handleSubmit((fields) => {
    localStorage.setItem(BY, fields.by);
    open.mutate(
      { rung: rung.key, mode: cell.mode, ...fields },
      {
        onError: (refusal) => setLeft(placeErrors(refusal, (path) => (path === "reason" || path === "by" ? path : null), setError)),
      },
    );
  });
  return (
    <section aria-label="Gated" className="mt-4 rounded-lg border-2 border-stop bg-stop-wash px-4 py-3.5">
      {cell.gates
        .filter((gate) => gate.reason == null)
        .map((gate) => (
          <div key={gate.code} className="mb-2.5">
            <b className="wide block text-lg leading-snug font-bold">{gate.title}</b>
            <p>{gate.says}</p>
          </div>
        ))}
      <form noValidate className="mt-3 grid gap-3" onSubmit={(event) => void submit(event)}>
        <div className="grid gap-3 sm:grid-cols-[1fr_200px]">
          <TextField label="Why it is run all the same" error={formState.errors.reason?.message} {...register("reason")} />
          <TextField label="Who says so" error={formState.errors.by?.message} {...register("by")} />
        </div>
        {left.map((says) => (
          <p key={says} role="alert">
            {says}
          </p>
        ))}
        <div className="flex flex-wrap gap-2">
          <Button type="submit" look="stop" disabled={open.isPending}>
            Open the gate
          </Button>
          <Button look="quiet" onClick={onHappened}>
            It was run already: log it without a reason
          </Button>
        </div>
        <p className="text-sm text-ink2">
          <Kbd>G</Kbd> to give a reason; it goes onto the sheet with the name. Arrow keys leave this run shut and go on.
        </p>
      </form>
    </section>
  );
}
