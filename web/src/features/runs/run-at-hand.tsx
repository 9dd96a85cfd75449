import { useQueryClient } from "@tanstack/react-query";
import { useLayoutEffect, useRef, type ReactNode } from "react";
import { flushSync } from "react-dom";
import type { Schemas } from "@/api/client";
import { refresh, useRun } from "@/api/queries";
import { LiveFigures, LiveWords } from "@/features/live/live-panel";
import type { Seen } from "@/features/live/live-stream";
import { useLinked } from "@/features/live/use-live";
import { Flag } from "@/ui/flag";
import { useNotice } from "@/ui/notice";
import { speak } from "@/ui/speech";
import { useHome } from "@/ui/use-keys";
import { Actions, MetreSwitch } from "./actions";
import { byGravity, CheckFlag, Checks, isDoubted, isOpen } from "./checks";
import { EntryLine } from "./entry-line";
import { Facts } from "./facts";
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
import { useSpokenDoubts } from "./use-spoken-doubts";
import { Waiting } from "./waiting";
import { AlsoBeforehand, Beforehand, Worst } from "./worst";

type Brief = Schemas["RunBrief"];

const KEPT: Record<Exclude<Schemas["About"], "run">, string> = {
  step: "Step saved. Enter on an empty line turns the steps into a run.",
  idle: "Idle draw saved with the session.",
  rest: "Rest voltage saved.",
  efficiency: "Efficiency saved with the run just logged.",
};

/** The run at hand: the line, what it comes to, and Enter. The line is there whatever stands in the way of the run. */
export function RunAtHand({
  at,
  closed,
  nameOf,
  onOpen,
  go,
  live,
  undo,
  metre,
  children,
}: {
  at: { amplifierId: string; sessionId: string; view: Schemas["LadderView"]; rung: Rung; cell: Cell };
  /** Why nothing can be logged now. */
  closed: string | null;
  /** A place in words: wiring, load, mode. */
  nameOf: (place: Place) => string;
  onOpen: (opened: Opened) => void;
  go: { to: (next: Place) => void; onward: () => void };
  /** The run as it is driven here; null while none is. */
  live: Seen | null;
  undo: { next: Schemas["ActView"] | undefined; take: () => void };
  /** Large enough to be read from three metres. */
  metre: { on: boolean; toggle: () => void };
  /** What has to be dealt with before the run, and what stands below its result. */
  children: ReactNode;
}) {
  const { amplifierId, sessionId, view, rung, cell } = at;
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
          tell({ says: `${nameOf(place)}: the steps are now one run.`, look: "plain", undo: true });
          if (done.next) go.to(done.next);
        },
        onError: (refusal) => line.tell(refusal.message, doubtsOf(refusal)),
      },
    );
  };
  const onLogged = (done: Logged, from: Place) => {
    const out = done.ungated ? ", out of the verdict until there is a reason" : "";
    const says = done.about === "run" ? `${nameOf(from)} logged${out}.` : KEPT[done.about];
    tell({ says, look: "plain", undo: true });
    speak(says);
    // Whoever has gone on to another run meanwhile stays there.
    const { next } = done;
    // At once, so that no key falls between the line that was logged and the next one.
    if (done.about === "run" && next && samePlace(from, place)) flushSync(() => go.to(next));
    void refresh(client, [sessionId]);
  };
  const onBlank = () => {
    if (steps.length > 0) finishSteps((state.why?.doubts.length ?? 0) > 0);
    else if (cell.runs.length > 0) go.onward();
    else line.tell("nothing typed. + skips this run for now.");
  };
  const line = useLine({ sessionId, place, closed, happened, onLogged, onBlank });
  const { state, text } = line;
  useHome(input, state.sent !== null);
  const { preview, error, askAhead } = usePreview(sessionId, place, isAhead(state) ? null : text, view);
  const used = cell.runs.find((run) => run.used) ?? cell.runs.at(-1);
  const empty = text.trim() === "";
  const logged = useRun(sessionId, empty ? used?.id : undefined);
  const where = placeKey(place);
  useLayoutEffect(() => {
    // Not out of the hands of who ticks, or fills a form.
    if (document.activeElement === document.body || document.activeElement?.closest("[data-ladder]")) {
      input.current?.focus({ preventScroll: true });
    }
  }, [where, closed]);
  const shown = preview ?? logged.data;
  const figures = empty ? (logged.data?.figures ?? null) : (preview?.figures ?? null);
  const why = state.why && state.why.line === text ? state.why : null;
  const linked = useLinked() !== false;
  const stale = !empty && (!linked || error !== null);
  const checks = figures && closed === null ? (shown?.checks ?? []) : [];
  const { worst, others } = byGravity(checks);
  const runId = empty ? used?.id : undefined;
  const about = { sessionId, runId, meters: view.meters, onCorrect: () => used && onCorrect(used) };
  const doubts = why?.doubts ?? [];
  const sure = doubts.length > 0;
  useSpokenDoubts(doubts);
  const open = closed === null;
  const ungated = open && happened;
  const allLogged = view.ladder.planned > 0 && view.ladder.logged === view.ladder.planned;
  return (
    <>
      <EntryLine
        key="line"
        line={text}
        segments={preview?.segments ?? []}
        outputs={rung.outputs}
        mode={cell.mode}
        input={input}
        closed={closed}
        onAhead={askAhead}
        onChange={(next) => {
          askAhead(next);
          line.change(next);
        }}
        onEnter={line.enter}
      />
      <Understood
        segments={preview?.segments ?? []}
        notYet={why?.says ?? null}
        unread={error}
        stale={stale}
        asksAgain={sure}
        doubts={doubts.filter((doubt) => !preview?.checks.some((check) => doubt.startsWith(check.title)))}
        place={nameOf(place)}
        onChoose={(next) => {
          line.change(next);
          input.current?.focus({ preventScroll: true });
        }}
      />
      {live ? <LiveFigures seen={live} /> : <Outcome figures={open ? figures : null} stale={stale} />}
      <Worst>
        {live ? (
          <LiveWords seen={live} />
        ) : worst ? (
          <CheckFlag check={worst} about={about} large />
        ) : ungated ? (
          <Ungated />
        ) : (
          empty && !(open && used) && <Beforehand cell={cell} halt={view.halt} closed={closed} />
        )}
      </Worst>
      <Waiting state={state} nameOf={nameOf} onTakeBack={line.takeBack} onDrop={line.drop} />
      <Actions
        onLog={line.enter}
        onNext={go.onward}
        onWrong={() => onOpen({ kind: "incident" })}
        onUndo={undo.take}
        undo={undo.next}
        open={open}
        running={live?.live?.method.kind ?? null}
        verdict={allLogged && empty ? `/amplifiers/${amplifierId}/verdict` : null}
      >
        <MetreSwitch on={metre.on} toggle={metre.toggle} />
      </Actions>
      {children}
      {!live && <Facts rung={rung} />}
      {!live && <AlsoBeforehand cell={cell} />}
      {open && (
        <>
          {empty && used && <p className="mt-2 text-step text-ink2">Logged already; type again to repeat it.</p>}
          {worst && ungated && <Ungated />}
          <Checks checks={others} about={about} suspects={runId !== undefined && checks.some(isOpen)} />
          <StepsTable rows={steps} pending={finish.isPending} onFinish={() => finishSteps(sure)} />
          {empty &&
            cell.runs
              .filter((run) => run.id !== used?.id && isDoubted(run))
              .map((run) => (
                <section key={run.id} aria-label={`About the run of ${run.total}`} className="mt-3">
                  <h3 className="text-note font-firm text-ink2">About the run of {run.total}, which is not the one used</h3>
                  <Checks checks={run.checks} about={{ ...about, runId: run.id, onCorrect: () => onCorrect(run) }} suspects={false} />
                </section>
              ))}
          <Repeats sessionId={sessionId} cell={cell} onOpen={onOpen} />
        </>
      )}
    </>
  );
}

function Ungated() {
  return (
    <Flag look="stop" title="Ungated." large>
      Readings logged here stay out of the verdict until a reason is given.
    </Flag>
  );
}
