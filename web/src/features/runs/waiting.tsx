import { X } from "lucide-react";
import type { LineState } from "./line-state";
import type { Place } from "../ladder/place";

/** What was typed and is not logged: on its way, refused, or waiting behind another line. */
export function Waiting({
  state,
  nameOf,
  onTakeBack,
  onDrop,
}: {
  state: LineState;
  /** A place in words: wiring, load, mode. */
  nameOf: (place: Place) => string;
  onTakeBack: () => void;
  onDrop: (index: number) => void;
}) {
  const { sent, refused, waiting } = state;
  return (
    <div className="text-step">
      {sent && !sent.unknown && (
        <p role="status" className="pt-1.5 text-ink2">
          Logging {nameOf(sent.place)}: <span className="num">{sent.line}</span>
        </p>
      )}
      {sent?.unknown && (
        <p role="alert" className="mt-1.5 rounded-md bg-ochre-wash px-3 py-2">
          <b>The connection broke.</b> Whether <span className="num">{sent.line}</span> was logged at {nameOf(sent.place)} is not known yet:
          the program is asked until it answers. What you type now is kept.
        </p>
      )}
      {refused && (
        <div role="alert" className="mt-1.5 flex flex-wrap items-center gap-x-3 gap-y-1 rounded-md bg-stop-wash px-3 py-2">
          <span className="min-w-0">
            <b>Not logged at {nameOf(refused.place)}:</b> <span className="num">{refused.line}</span>.{" "}
            {[refused.says, ...refused.doubts].join(" ")}
          </span>
          <button type="button" className="rounded-md border border-edge bg-sheet px-2.5 py-1 font-semibold" onClick={onTakeBack}>
            Back into the line
          </button>
        </div>
      )}
      {waiting.length > 0 && (
        <ul aria-label="Typed for the following runs" className="mt-1.5 flex flex-wrap items-center gap-2">
          <li className="text-ink2">Then:</li>
          {waiting.map((line, i) => (
            <li key={`${String(i)} ${line}`} className="num flex items-center gap-1 rounded-md border border-edge bg-sheet px-2 py-0.5">
              {line}
              <button type="button" aria-label={`Discard ${line}`} className="rounded hover:bg-hair" onClick={() => onDrop(i)}>
                <X size={14} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
