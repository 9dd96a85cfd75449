import { useState, type ReactNode } from "react";
import { useForm } from "react-hook-form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { TextField } from "@/ui/field";
import { placeErrors } from "@/ui/form-errors";
import { useKeys } from "@/ui/use-keys";
import { day } from "@/ui/dates";

interface Fields {
  reason: string;
  by: string;
  second: string;
  owner: string;
  on: string;
  pays: string;
}

const BY = "pukka-by";

const PATHS: Record<string, keyof Fields> = {
  reason: "reason",
  by: "by",
  second_reason: "second",
  "owner_consent.by": "owner",
  "owner_consent.on": "on",
  "owner_consent.who_pays": "pays",
};

/** What opens the gates before a run: a reason and a name; on a borrowed amplifier who agreed and who pays. */
export function GateForm({
  sessionId,
  place,
  gates,
  onOpened,
  children,
}: {
  sessionId: string;
  place: Schemas["Place"];
  /** The gates still shut. */
  gates: Schemas["GateFinding"][];
  onOpened?: () => void;
  /** Other things to do instead. */
  children?: ReactNode;
}) {
  const [left, setLeft] = useState<string[]>([]);
  const consent = gates.some((gate) => gate.asks_consent);
  const second = gates.some((gate) => gate.asks_second_reason);
  const { register, handleSubmit, formState, setError, setFocus } = useForm<Fields>({
    defaultValues: {
      reason: "",
      by: localStorage.getItem(BY) ?? "",
      second: "",
      owner: "",
      on: day(new Date()),
      pays: "",
    },
  });
  const open = useWrite(
    (body: Schemas["GateReason"]) => data(api.POST("/api/sessions/{id}/gates", { params: { path: { id: sessionId } }, body })),
    [sessionId],
  );
  const give = () => setFocus("reason");
  useKeys({ g: give, Enter: give });
  const submit = handleSubmit((fields) => {
    localStorage.setItem(BY, fields.by);
    setLeft([]);
    open.mutate(
      {
        place,
        opening: {
          reason: fields.reason,
          by: fields.by,
          second_reason: second ? fields.second : null,
          owner_consent: consent ? { by: fields.owner, on: fields.on, who_pays: fields.pays } : null,
        },
      },
      {
        onSuccess: onOpened,
        onError: (refusal) => setLeft(placeErrors(refusal, (path) => PATHS[path.replace("opening.", "")] ?? null, setError)),
      },
    );
  });
  const error = (field: keyof Fields) => formState.errors[field]?.message;
  return (
    <form noValidate className="grid gap-3" onSubmit={(event) => void submit(event)}>
      <div className="grid gap-3 sm:grid-cols-[1fr_180px]">
        <TextField label="Why run it anyway" error={error("reason")} {...register("reason")} />
        <TextField label="Your name" error={error("by")} {...register("by")} />
        {second && (
          <TextField
            label="A second reason: why on this supply"
            className="sm:col-span-2"
            error={error("second")}
            {...register("second")}
          />
        )}
      </div>
      {consent && (
        <fieldset className="grid gap-3 rounded-md border border-edge px-3 pt-1 pb-3 sm:grid-cols-[1fr_150px_1fr]">
          <legend className="px-1 text-sm font-semibold">Borrowed: the owner’s consent</legend>
          <TextField label="Who consented" error={error("owner")} {...register("owner")} />
          <TextField label="Date" type="date" error={error("on")} {...register("on")} />
          <TextField label="Who pays if it dies" error={error("pays")} {...register("pays")} />
        </fieldset>
      )}
      {left.map((says) => (
        <p key={says} role="alert">
          {says}
        </p>
      ))}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="stop" disabled={open.isPending}>
          Open the gate
        </Button>
        {children}
      </div>
    </form>
  );
}
