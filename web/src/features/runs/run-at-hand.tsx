import { useQueryClient } from "@tanstack/react-query";
import { useLayoutEffect, useRef } from "react";
import { flushSync } from "react-dom";
import type { Schemas } from "@/api/client";
import { refresh, useRun } from "@/api/queries";
import { Flag } from "@/ui/flag";
import { useNotice } from "@/ui/notice";
import { useHome } from "@/ui/use-keys";
import { Checks } from "./checks";
import { EntryLine } from "./entry-line";
import { isAhead } from "./line-state";
import { doubtsOf, type Logged } from "./line-store";
import type { Opened } from "./opened";
import { Outcome } from "./outcome";
import { placeKey, samePlace, type Cell, type Place, type Rung } from "../ladder/place";
import { Repeats } from "./repeats";
import { StepsTable, useFinishSteps } from "./steps-table";
import { Understood } from "./understood";
import { useLine } from "./use-line";
import { usePreview } from "./use-preview";
import { Waiting } from "./waiting";

type Brief = Schemas["RunBrief"];

const KEPT: Record<Exclude<Schemas["About"], "run">, string> = {
  step: "The step is kept; Enter on an empty line makes the steps a run.",
  idle: "The idle draw is kept with the session.",
  rest: "The rest voltage is kept.",
  efficiency: "The efficiency is kept with the run just logged.",
};

/** A run that is kept out of use, or doubted, wants to be seen to as well. */
const isDoubted = (run: Brief) => run.checks.some((check) => !check.settled && check.severity !== "note");

/** The run at hand: the line, what it comes to, and Enter. The line is there whatever stands in the way of the run. */
export function RunAtHand({
  sessionId,
  rung,
  cell,
  closed,
  view,
  nameOf,
  onOpen,
  go,
}: {
  sessionId: string;
  rung: Rung;
  cell: Cell;
  /** Why nothing can be logged now. */
  closed: string | null;
  view: Schemas["LadderView"];
  /** A place in words: wiring, load, mode. */
  nameOf: (place: Place) => string;
  onOpen: (opened: Opened) => void;
  go: { to: (next: Place) => void; onward: () => void };
}) {
  // Past a gate without a reason.
  const happened = cell.shut;
  const onCorrect = (run: Brief) => onOpen({ kind: "correct", run });
  const { tell } = useNotice();
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const place: Place = { rung: rung.key, mode: cell.mode };
  const steps = view.step_rows[placeKey(place)] ?? [];
  const finish = useFinishSteps(sessionId);
  const finishSteps = (sure: boolean) => {
    if (finish.isPending) return;
    finish.mutate(
      { ...place, happened, unless_doubted: !sure },
      {
        onSuccess: (done) => {
          tell({ says: `${nameOf(place)}: the steps are one run now.`, look: "plain", undo: true });
          if (done.next) go.to(done.next);
        },
        onError: (refusal) => line.tell(refusal.message, doubtsOf(refusal)),
      },
    );
  };
  const onLogged = (done: Logged, from: Place) => {
    const out = done.ungated ? ", out of the verdict until there is a reason" : "";
    tell({ says: done.about === "run" ? `${nameOf(from)} logged${out}.` : KEPT[done.about], look: "plain", undo: true });
    // Whoever has gone on to another run meanwhile stays there.
    const { next } = done;
    // At once, so that no key falls between the line that was logged and the next one.
    if (done.about === "run" && next && samePlace(from, place)) flushSync(() => go.to(next));
    void refresh(client, [sessionId]);
  };
  const onBlank = () => {
    if (steps.length > 0) finishSteps((state.why?.doubts.length ?? 0) > 0);
    else if (cell.runs.length > 0) go.onward();
    else line.tell("nothing is typed. + leaves this run for later and goes on.");
  };
  const line = useLine({ sessionId, place, closed, happened, onLogged, onBlank });
  const { state, text } = line;
  const ahead = isAhead(state);
  useHome(input, state.sent !== null);
  const { preview, error } = usePreview(sessionId, rung.key, cell.mode, ahead ? "" : text);
  const used = cell.runs.find((run) => run.used) ?? cell.runs.at(-1);
  const empty = text.trim() === "";
  const logged = useRun(sessionId, empty ? used?.id : undefined);
  const at = placeKey(place);
  useLayoutEffect(() => {
    // Not out of the hands of who ticks, or fills a form.
    if (document.activeElement === document.body || document.activeElement?.closest("[data-ladder]")) {
      input.current?.focus({ preventScroll: true });
    }
  }, [at, closed]);
  const shown = preview ?? logged.data;
  const figures = empty ? (logged.data?.figures ?? null) : (preview?.figures ?? null);
  const why = state.why && state.why.line === text ? state.why : null;
  const open = closed === null;
  return (
    <>
      {open && happened && (
        <div className="mt-3">
          <Flag look="stop" title="Ungated.">
            What is logged here stays out of the verdict until a reason is given for it.
          </Flag>
        </div>
      )}
      <EntryLine
        key="line"
        line={text}
        segments={preview?.segments ?? []}
        outputs={rung.outputs}
        mode={cell.mode}
        input={input}
        closed={closed}
        onChange={line.change}
        onEnter={line.enter}
      />
      <Waiting state={state} nameOf={nameOf} onTakeBack={line.takeBack} onDrop={line.drop} />
      <Understood
        segments={preview?.segments ?? []}
        notYet={why?.says ?? null}
        unread={error}
        asksAgain={(why?.doubts.length ?? 0) > 0}
        doubts={why?.doubts.filter((doubt) => !preview?.checks.some((check) => doubt.startsWith(check.title))) ?? []}
        place={nameOf(place)}
        onChoose={(next) => {
          line.change(next);
          input.current?.focus({ preventScroll: true });
        }}
      />
      {open && (
        <>
          {empty && used && <p className="-mt-4 text-step text-ink2">Logged already; type again to repeat it.</p>}
          <Checks
            sessionId={sessionId}
            checks={figures ? (shown?.checks ?? []) : []}
            runId={empty ? used?.id : undefined}
            meters={view.meters}
            onCorrect={() => used && onCorrect(used)}
          />
          <Outcome figures={figures} />
          <StepsTable rows={steps} pending={finish.isPending} onFinish={() => finishSteps((why?.doubts.length ?? 0) > 0)} />
          {empty &&
            cell.runs
              .filter((run) => run.id !== used?.id && isDoubted(run))
              .map((run) => (
                <section key={run.id} aria-label={`About the run of ${run.total}`} className="mt-3">
                  <h3 className="text-note font-firm text-ink2">About the run of {run.total}, which is not the one used</h3>
                  <Checks sessionId={sessionId} checks={run.checks} runId={run.id} meters={view.meters} onCorrect={() => onCorrect(run)} />
                </section>
              ))}
          <Repeats sessionId={sessionId} cell={cell} onOpen={onOpen} />
        </>
      )}
    </>
  );
}
