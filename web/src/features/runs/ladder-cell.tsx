import { useEffect, useRef } from "react";
import type { Schemas } from "@/api/client";
import type { Cell, Mode, Rung } from "../ladder/place";
import { FILLS } from "@/ui/fills";
import { isOpen } from "./checks";

/** One mode of a rung: what was read, or what is to come, or what is in the way. */
export function LadderCell({
  rung,
  cell,
  now,
  then,
  onGo,
}: {
  rung: Rung;
  cell: Cell;
  /** It is the run at hand. */
  now: boolean;
  /** It comes next. */
  then: boolean;
  onGo: () => void;
}) {
  const ref = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (now) showInside(ref.current);
  }, [now]);
  const { figures } = cell;
  // Kinds of burst beside the one whose figure stands in the cell.
  const shown = cell.bursts.find((burst) => burst.shown);
  const others = cell.bursts.filter((burst) => !burst.shown).slice(0, 2);
  const gated = cell.shut && !figures;
  const look = now
    ? "border-2 border-copper bg-field px-[8px] py-[3px]"
    : figures
      ? "border border-line bg-sheet px-[9px] py-1 hover:border-edge"
      : gated
        ? "gated border border-line px-[9px] py-1 text-ink2 hover:border-edge"
        : "border border-dashed border-line px-[9px] py-1 text-ink3 hover:border-edge";
  const doubts = cell.runs.flatMap((run) => run.checks.filter(isOpen));
  return (
    <button
      ref={ref}
      type="button"
      aria-current={now ? "true" : undefined}
      className={`relative flex min-h-[62px] flex-col items-stretch justify-start overflow-hidden rounded-md text-left ${look}`}
      onClick={onGo}
    >
      <span className="sr-only">
        {rung.label}, {cell.mode}: {figures ? "" : cell.shut ? "" : "not run yet"}
      </span>
      {figures ? (
        <>
          <span className="flex items-baseline gap-1">
            <b className="num text-lead leading-tight font-firm">{figures.power}</b>
            <span className="text-note text-ink2">W</span>
            <Mark cell={cell} shown={shown?.words.replace("standard burst", "").replace(/ cycles?/, " cy")} doubts={doubts} />
          </span>
          {others.length > 0 ? (
            <small className="mb-3 text-xs leading-tight text-ink2">
              {others.map((burst) => (
                <span key={burst.words} className="block truncate">
                  {burst.words} <span className="num">{burst.power ?? "to run"}</span>
                </span>
              ))}
            </small>
          ) : (
            <small className="mb-3 truncate text-xs leading-tight text-ink2">
              {cell.runs.some((run) => run.ungated) ? <b className="font-semibold text-stop">ungated</b> : figures.under}
            </small>
          )}
          <Bar mode={cell.mode} fraction={figures.fraction} claim={rung.claim_fraction ?? null} />
        </>
      ) : (
        <Waiting rung={rung} cell={cell} now={now} then={then} gated={gated} />
      )}
    </button>
  );
}

/** Whether the figure is doubted, or one of several, at its right. */
function Mark({ cell, shown, doubts }: { cell: Cell; shown: string | undefined; doubts: Schemas["Check"][] }) {
  const stop = doubts.some((check) => check.severity === "stop");
  if (doubts.length > 0) {
    return (
      <b className={`ml-auto text-body leading-none font-extrabold ${stop ? "text-stop" : "text-ochre"}`}>
        {stop ? "!" : "?"}
        <span className="sr-only">
          {stop ? "stop" : "doubt"}: {doubts[0]?.title}
        </span>
      </b>
    );
  }
  if (cell.runs.length > 1) return <small className="ml-auto text-fine text-ink2">{shown ?? `of ${String(cell.runs.length)}`}</small>;
  return null;
}

/** Scrolls the ladder to a cell, and never the page: what is typed and read there stays where it is. */
function showInside(cell: HTMLElement | null) {
  const ladder = cell?.closest<HTMLElement>("[data-ladder]");
  if (!cell || !ladder || ladder.scrollHeight <= ladder.clientHeight) return;
  const [at, inside] = [cell.getBoundingClientRect(), ladder.getBoundingClientRect()];
  if (at.top < inside.top) ladder.scrollTop -= inside.top - at.top + 8;
  else if (at.bottom > inside.bottom) ladder.scrollTop += at.bottom - inside.bottom + 8;
}

function Waiting({ rung, cell, now, then, gated }: { rung: Rung; cell: Cell; now: boolean; then: boolean; gated: boolean }) {
  return (
    <>
      {now && <b className="block text-copper">Now</b>}
      {gated ? (
        <>
          {!now && <b className="block text-note">Gated</b>}
          <small className="line-clamp-2 text-xs leading-snug text-ink2">{cell.gates.find((gate) => gate.reason == null)?.title}</small>
        </>
      ) : now ? (
        rung.claim && <small className="block text-xs leading-snug text-ink2">claim {rung.claim}</small>
      ) : (
        then && <small className="block pt-3 text-xs">then this</small>
      )}
    </>
  );
}

function Bar({ mode, fraction, claim }: { mode: Mode; fraction: number; claim: number | null }) {
  return (
    <span className="absolute inset-x-[9px] bottom-1.5 block h-[5px] rounded-[1px] bg-hair">
      <i className={`absolute inset-y-0 left-0 ${FILLS[mode]}`} style={{ width: `${String(fraction * 100)}%` }} />
      {claim !== null && <u className="absolute -inset-y-1 w-0.5 bg-ink" style={{ left: `${String(claim * 100)}%` }} />}
    </span>
  );
}
