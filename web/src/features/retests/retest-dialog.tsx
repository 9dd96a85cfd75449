import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { problemsOf } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";

const OCCASIONS = ["to look for drift", "after a repair", "warm, after an hour of work", "on another supply"];

/** One more session of an amplifier. */
export function RetestDialog({
  amplifierId,
  onClose,
  onOpened,
}: {
  amplifierId: string;
  onClose: () => void;
  onOpened: (line: Schemas["SessionLine"]) => void;
}) {
  const { tell } = useNotice();
  const [occasion, setOccasion] = useState("");
  const [error, setError] = useState<string>();
  const open = useWrite((words: string) =>
    data(
      api.POST("/api/amplifiers/{id}/sessions", {
        params: { path: { id: amplifierId } },
        body: { occasion: words.trim() || null },
      }),
    ),
  );
  const submit = () =>
    open.mutate(occasion, {
      onSuccess: (line) => {
        tell({ says: "A retest is open, and in hand.", look: "plain", undo: true });
        onOpened(line);
        onClose();
      },
      onError: (why) => setError(problemsOf(why, "occasion")[0]?.says),
    });
  return (
    <Dialog open onClose={onClose} title="Retest" width="max-w-[560px]">
      <Form className="grid gap-3" onSubmit={submit}>
        <p>
          Bench, plan, gain and claims are carried over. Readings, rest voltages and reasons for open gates are not: they are asked for
          again. The session before stays as it is.
        </p>
        <TextField
          label="Why it is tested again"
          hint="may stay empty"
          value={occasion}
          maxLength={200}
          error={error}
          onChange={(event) => setOccasion(event.target.value)}
        />
        <div className="flex flex-wrap gap-1.5">
          {OCCASIONS.map((words) => (
            <Button key={words} size="low" onClick={() => setOccasion(words)}>
              {words}
            </Button>
          ))}
        </div>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={open.isPending}>
            Open a retest
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
