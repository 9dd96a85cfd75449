import { useState } from "react";
import { Form } from "@/ui/form";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { TextField } from "@/ui/field";
import { useSettings } from "../plan/use-settings";
import { day } from "@/ui/dates";

/** After a death the session goes on when a repair or a replacement is noted, with its date. */
export function RepairForm({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const { change, pending } = useSettings(sessionId, view);
  const [on, setOn] = useState(() => day(new Date()));
  const [what, setWhat] = useState("");
  const [says, setSays] = useState<string | null>(null);
  return (
    <Form
      className="mt-3 grid items-end gap-2 sm:grid-cols-[150px_1fr_auto]"
      onSubmit={() => {
        change({ repairs: [...(view.settings.repairs ?? []), { on, what }] }, { onError: (error) => setSays(error.message) });
      }}
    >
      <TextField label="Repaired or replaced on" type="date" value={on} onChange={(event) => setOn(event.target.value)} />
      <TextField label="What was done" value={what} error={says ?? undefined} onChange={(event) => setWhat(event.target.value)} />
      <Button type="submit" disabled={pending}>
        Continue
      </Button>
    </Form>
  );
}
