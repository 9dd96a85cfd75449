import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { RepairForm } from "./repair-form";

/** An incident stopped the plan: what happened, what to do, and going on with a reason. */
export function HaltPanel({ sessionId, view, halt }: { sessionId: string; view: Schemas["LadderView"]; halt: Schemas["Halt"] }) {
  const { tell } = useNotice();
  const [reason, setReason] = useState("");
  const [says, setSays] = useState<string | null>(null);
  const goOn = useWrite(
    () =>
      data(
        api.POST("/api/sessions/{id}/runs/{run}/remarks", {
          params: { path: { id: sessionId, run: halt.run } },
          body: { kind: "accept", what: "incident", reason },
        }),
      ),
    [sessionId],
  );
  return (
    <section aria-label="The plan has stopped" className="mt-3 rounded-lg border-2 border-stop bg-stop-wash px-4 py-3">
      <h3 className="wide text-lg font-bold">{halt.last ? "The session is over." : "The plan has stopped."}</h3>
      <p className="mt-0.5 font-semibold">{halt.says}</p>
      <ol className="mt-2 grid list-decimal gap-1 pl-5">
        {halt.steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </ol>
      {halt.last && <RepairForm sessionId={sessionId} view={view} />}
      {!halt.last && (
        <Form
          className="mt-3 grid items-end gap-2 sm:grid-cols-[1fr_auto]"
          onSubmit={() => {
            goOn.mutate(undefined, {
              onSuccess: () => tell({ says: "The plan continues.", look: "plain", undo: true }),
              onError: (error) => setSays(error.message),
            });
          }}
        >
          <TextField
            label="What you found and did about it"
            value={reason}
            error={says ?? undefined}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button type="submit" look="stop" disabled={goOn.isPending}>
            Continue
          </Button>
        </Form>
      )}
    </section>
  );
}
