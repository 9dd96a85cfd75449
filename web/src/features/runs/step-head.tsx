import type { Cell, Rung } from "../ladder/place";
import { minutes } from "./minutes";
import { useRestTimer } from "./rest-row";

const LIMITS: Record<Cell["mode"], string> = {
  certified: "up to the distortion limit",
  clipping: "past the limit",
  dynamic: "a burst",
};

/** One thing to do, said large. It takes the same room at every run, so that the line below it stays where it is. */
export function StepHead({ sessionId, rung, cell, metre }: { sessionId: string; rung: Rung; cell: Cell; metre: boolean }) {
  return (
    <div className="flex h-[62px] flex-col justify-end gap-x-3.5 metre:h-[74px] sm:h-[42px] sm:flex-row sm:items-baseline sm:justify-start sm:low:h-[34px]">
      <h2
        className="min-w-0 truncate text-4xl leading-tight font-strong tracking-[-0.01em] metre:text-metre max-sm:text-3xl sm:low:text-3xl"
        style={{ fontStretch: "112%" }}
      >
        {rung.label}, {cell.mode}
      </h2>
      <span className="min-w-0 truncate text-lg text-ink2 metre:text-2xl max-sm:text-step sm:shrink-[4]">
        {rung.words} · {LIMITS[cell.mode]}
      </span>
      {metre && <MetreTimer sessionId={sessionId} />}
    </div>
  );
}

/** How long to rest, to be read from across the room. */
function MetreTimer({ sessionId }: { sessionId: string }) {
  const { rest, left } = useRestTimer(sessionId);
  if (!rest) return null;
  return (
    <b role="timer" className="num ml-auto text-metre leading-tight font-semibold whitespace-nowrap">
      {left > 0 ? minutes(left) : rest.ready ? <span className="text-verdigris">ready</span> : <span className="text-ochre">rest</span>}
    </b>
  );
}
