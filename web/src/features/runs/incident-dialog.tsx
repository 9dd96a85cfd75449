import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { readNumber } from "@/ui/numbers";
import { useNotice } from "@/ui/notice";
import type { Cell, Rung } from "./place";

const KINDS: [Schemas["Incident"], string, string][] = [
  ["protection", "Protection", "1"],
  ["fuse", "Fuse opened", "2"],
  ["smoke", "Smoke", "3"],
  ["died", "Died", "4"],
];

/** What went wrong, with load, mode and volts filled in. First the level down and the supply off, then this. */
export function IncidentDialog({ sessionId, rung, cell, onClose }: { sessionId: string; rung: Rung; cell: Cell; onClose: () => void }) {
  const { tell } = useNotice();
  const [volts, setVolts] = useState(rung.expected?.end_v?.text ?? rung.set.rest_v?.toFixed(2) ?? "");
  const [note, setNote] = useState("");
  const [says, setSays] = useState<string | null>(null);
  const log = useWrite((incident: Schemas["Incident"]) =>
    data(
      api.POST("/api/sessions/{id}/incidents", {
        params: { path: { id: sessionId } },
        body: { rung: rung.key, mode: cell.mode, incident, end_v: readNumber(volts), note: note.trim() === "" ? null : note },
      }),
    ),
  );
  const send = (incident: Schemas["Incident"]) => {
    if (log.isPending) return;
    log.mutate(incident, {
      onSuccess: () => {
        tell({ says: "It is in the incident log, and the plan has stopped.", look: "plain", undo: true });
        onClose();
      },
      onError: (error) => setSays(error.message),
    });
  };
  return (
    <Dialog open onClose={onClose} title={`Something went wrong at ${rung.label}, ${cell.mode}`} width="max-w-[600px]">
      <div
        className="grid gap-3"
        onKeyDown={(event) => {
          const kind = KINDS.find(([, , key]) => key === event.key);
          if (kind && !(event.target instanceof HTMLInputElement)) send(kind[0]);
        }}
      >
        <p className="rounded-md bg-stop-wash px-3 py-2 font-semibold">Level to zero and the supply off first. Then this.</p>
        <div className="grid grid-cols-2 gap-2 sm:grid-cols-4">
          {KINDS.map(([kind, word, key], i) => (
            <Button
              key={kind}
              look="stop"
              autoFocus={i === 0}
              className="justify-center py-3"
              disabled={log.isPending}
              onClick={() => send(kind)}
            >
              {word} <span className="num text-sm opacity-80">{key}</span>
            </Button>
          ))}
        </div>
        <div className="grid gap-3 sm:grid-cols-[150px_1fr]">
          <TextField
            label="Supply at that moment"
            unit="V"
            inputMode="decimal"
            value={volts}
            onChange={(event) => setVolts(event.target.value)}
          />
          <TextField label="What was seen, heard, smelt" value={note} onChange={(event) => setNote(event.target.value)} />
        </div>
        {says && <p role="alert">{says}</p>}
      </div>
    </Dialog>
  );
}
