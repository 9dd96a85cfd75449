import { Activity, History, Pencil, StickyNote, Undo2 } from "lucide-react";
import { memo, type ReactNode } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { useNotice } from "@/ui/notice";
import type { Cell } from "../ladder/place";
import type { Opened } from "./opened";

type Brief = Schemas["RunBrief"];

/** Everything logged in this place, as read: all are kept, one is used. The list is not drawn anew with every key. */
export const Repeats = memo(function Repeats({
  sessionId,
  cell,
  onOpen,
}: {
  sessionId: string;
  cell: Cell;
  onOpen: (opened: Opened) => void;
}) {
  const { tell } = useNotice();
  const takeBack = useWrite(
    (run: Brief) =>
      data(
        api.POST("/api/sessions/{id}/runs/{run}/withdrawal", {
          params: { path: { id: sessionId, run: run.id } },
          body: { reason: "withdrawn at the bench" },
        }),
      ),
    [sessionId],
  );
  if (cell.runs.length === 0) return null;
  const onTakeBack = (run: Brief) =>
    takeBack.mutate(run, {
      onSuccess: () => tell({ says: `${run.total} withdrawn; it stays in the records.`, look: "plain", undo: true }),
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
  return (
    <section aria-label="Logged here" className="mt-4 rounded-lg border border-line bg-sheet px-4 py-2.5">
      <div className="flex justify-between">
        <h3 className="text-note font-firm text-ink2">Logged here</h3>
        {cell.runs.length > 1 && <span className="text-sm text-ink2">best of {cell.runs.length} is used</span>}
      </div>
      <ul className="mt-1 grid">
        {cell.runs.map((run) => (
          <li key={run.id} className="flex flex-wrap items-center gap-x-4 gap-y-0.5 border-t border-hair py-1.5 first:border-t-0">
            <b className="num w-[76px] text-body font-semibold">{run.total}</b>
            <span className="num min-w-0 flex-1 truncate text-ink2">{run.line}</span>
            <span className="text-sm text-ink2">{run.ungated ? "ungated" : run.used ? "used" : "kept"}</span>
            <span className="flex">
              <RowButton onClick={() => onOpen({ kind: "correct", run })}>
                <Pencil size={14} aria-hidden /> Correct
              </RowButton>
              <RowButton onClick={() => onOpen({ kind: "note", run })}>
                <StickyNote size={14} aria-hidden /> Note
              </RowButton>
              {run.driven && (
                <RowButton onClick={() => onOpen({ kind: "ramp", run })}>
                  <Activity size={14} aria-hidden /> Ramp
                </RowButton>
              )}
              <RowButton onClick={() => onOpen({ kind: "history", run })}>
                <History size={14} aria-hidden /> History
              </RowButton>
              <RowButton onClick={() => onTakeBack(run)}>
                <Undo2 size={14} aria-hidden /> Withdraw
              </RowButton>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
});

function RowButton({ onClick, children }: { onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" className="flex items-center gap-1 rounded px-1.5 py-0.5 text-sm font-semibold hover:bg-hair" onClick={onClick}>
      {children}
    </button>
  );
}
