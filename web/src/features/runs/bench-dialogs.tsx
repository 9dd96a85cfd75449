import { RampDialog } from "@/features/live/ramp-dialog";
import { AddLoadDialog } from "../ladder/add-load";
import { CorrectDialog } from "./correct-dialog";
import { NoteDialog } from "./note-dialog";
import { HistoryDialog } from "./history-dialog";
import { IncidentDialog } from "./incident-dialog";
import type { Cell, Place, Rung } from "../ladder/place";
import type { Opened } from "./opened";
import { SettleDialog } from "./settle-dialog";

export function BenchDialogs({
  opened,
  amplifierId,
  sessionId,
  channels,
  meters,
  rung,
  cell,
  onClose,
  onAdded,
}: {
  opened: Opened | null;
  amplifierId: string;
  sessionId: string;
  channels: number;
  meters: string[];
  rung: Rung;
  cell: Cell;
  onClose: () => void;
  onAdded: (place: Place) => void;
}) {
  switch (opened?.kind) {
    case "incident":
      return <IncidentDialog sessionId={sessionId} rung={rung} cell={cell} onClose={onClose} />;
    case "meter":
      return (
        <SettleDialog
          sessionId={sessionId}
          settling={{ runId: "", kind: "meter", what: meters[0] ?? "" }}
          meters={meters}
          onClose={onClose}
        />
      );
    case "load":
      return (
        <AddLoadDialog
          sessionId={sessionId}
          channels={channels}
          onClose={onClose}
          onAdded={(key) => onAdded({ rung: key, mode: "certified" })}
        />
      );
    case "correct":
      return <CorrectDialog sessionId={sessionId} run={opened.run} onClose={onClose} />;
    case "history":
      return <HistoryDialog sessionId={sessionId} runId={opened.run.id} onClose={onClose} />;
    case "note":
      return <NoteDialog sessionId={sessionId} amplifierId={amplifierId} run={opened.run} onClose={onClose} />;
    case "ramp":
      return <RampDialog sessionId={sessionId} runId={opened.run.id} onClose={onClose} />;
    case undefined:
      return null;
  }
}
