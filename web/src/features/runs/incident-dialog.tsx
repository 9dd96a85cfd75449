import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { readNumber } from "@/ui/numbers";
import { useNotice } from "@/ui/notice";
import type { Cell, Rung } from "../ladder/place";

const KINDS: [Schemas["Incident"], string][] = [
  ["protection", "Protection"],
  ["fuse", "Fuse opened"],
  ["smoke", "Smoke"],
  ["died", "Died"],
];

/** What went wrong, with load, mode and volts filled in. First the level down and the supply off, then this. */
export function IncidentDialog({ sessionId, rung, cell, onClose }: { sessionId: string; rung: Rung; cell: Cell; onClose: () => void }) {
  const { tell } = useNotice();
  const [volts, setVolts] = useState(rung.expected?.end_v?.text ?? rung.set.rest_v?.toFixed(2) ?? "");
  const [note, setNote] = useState("");
  const [incident, setIncident] = useState<Schemas["Incident"] | null>(null);
  const [says, setSays] = useState<string | null>(null);
  const log = useWrite(
    (incident: Schemas["Incident"]) =>
      data(
        api.POST("/api/sessions/{id}/incidents", {
          params: { path: { id: sessionId } },
          body: { rung: rung.key, mode: cell.mode, incident, end_v: readNumber(volts, "V"), note: note.trim() === "" ? null : note },
        }),
      ),
    [sessionId],
  );
  const send = () => {
    if (log.isPending) return;
    if (!incident) return setSays("Choose what happened, with the arrows or a click.");
    log.mutate(incident, {
      onSuccess: () => {
        tell({ says: "Logged as an incident; the plan has stopped.", look: "plain", undo: true });
        onClose();
      },
      onError: (error) => setSays(error.message),
    });
  };
  return (
    <Dialog open onClose={onClose} title={`Something went wrong at ${rung.label}, ${cell.mode}`} width="max-w-[600px]">
      <Form className="grid gap-3" onSubmit={send}>
        <p className="rounded-md bg-stop-wash px-3 py-2 font-semibold">Level to zero and the supply off first. Then this.</p>
        <fieldset className="grid grid-cols-2 gap-2 sm:grid-cols-4">
          <legend className="mb-1 text-sm text-ink2">What happened? Arrows choose, Enter logs it.</legend>
          {KINDS.map(([kind, word], i) => (
            <label
              key={kind}
              className="flex cursor-pointer items-center gap-2 rounded-md border border-stop bg-sheet px-3 py-3 font-semibold text-stop has-checked:bg-stop-wash has-focus-visible:outline-2 has-focus-visible:outline-copper"
            >
              <input
                type="radio"
                name="incident"
                className="size-4 accent-stop outline-none"
                autoFocus={i === 0}
                checked={incident === kind}
                onChange={() => {
                  setIncident(kind);
                  setSays(null);
                }}
              />
              {word}
            </label>
          ))}
        </fieldset>
        <div className="grid gap-3 sm:grid-cols-[150px_1fr]">
          <TextField
            label="Supply at that moment"
            unit="V"
            inputMode="decimal"
            value={volts}
            onChange={(event) => setVolts(event.target.value)}
          />
          <TextField label="What you saw, heard or smelt" value={note} onChange={(event) => setNote(event.target.value)} />
        </div>
        {says && (
          <p role="alert" className="font-semibold text-stop">
            {says}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="stop" disabled={log.isPending}>
            Log it
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
