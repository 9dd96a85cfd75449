import { useRef, useState, type RefObject } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useRun, useWrite } from "@/api/queries";
import { Flag } from "@/ui/flag";
import { useNotice } from "@/ui/notice";
import { Checks } from "./checks";
import { EntryLine } from "./entry-line";
import { Outcome } from "./outcome";
import type { Cell, Place, Rung } from "./place";
import { Repeats } from "./repeats";
import { StepsTable, useFinishSteps } from "./steps-table";
import { Understood } from "./understood";
import { usePreview } from "./use-preview";

const LOGGED: Record<Exclude<Schemas["About"], "run">, string> = {
  step: "The step is kept; Enter on an empty line makes the steps a run.",
  idle: "The idle draw is kept with the session.",
  rest: "The rest voltage is kept.",
};

/** A run that is kept out of use, or doubted, wants to be seen to as well. */
const isDoubted = (run: Schemas["RunBrief"]) => run.checks.some((check) => !check.settled && check.severity !== "note");

const loggedRun = (label: string, mode: string, ungated: boolean) =>
  `${label}, ${mode} logged${ungated ? ", out of the verdict until there is a reason" : ""}.`;

/** The run at hand: the line, what it comes to, and Enter. */
export function RunAtHand({
  sessionId,
  rung,
  cell,
  line: input,
  happened,
  meters,
  steps,
  onCorrect,
  onHistory,
  onRamp,
  onLogged,
  onOnward,
}: {
  sessionId: string;
  rung: Rung;
  cell: Cell;
  line: RefObject<HTMLInputElement | null>;
  /** Past a gate without a reason. */
  happened: boolean;
  /** Meters of the bench, by their ids. */
  meters: string[];
  /** Level steps typed here and in no run yet. */
  steps: Schemas["StepLine"][];
  onCorrect: (run: Schemas["RunBrief"]) => void;
  onHistory: (run: Schemas["RunBrief"]) => void;
  onRamp: (run: Schemas["RunBrief"]) => void;
  onLogged: (next: Place | null) => void;
  onOnward: () => void;
}) {
  const { tell } = useNotice();
  const [line, setLine] = useState("");
  const [tried, setTried] = useState<string | null>(null);
  // One key a reading: Enter pressed twice is one log.
  const key = useRef(crypto.randomUUID());
  const { preview, error } = usePreview(sessionId, rung.key, cell.mode, line);
  const used = cell.runs.find((run) => run.used) ?? cell.runs.at(-1);
  const logged = useRun(sessionId, line === "" ? used?.id : undefined);
  const log = useWrite((body: Schemas["RunToLog"]) =>
    data(
      api.POST("/api/sessions/{id}/runs", {
        params: { path: { id: sessionId } },
        headers: { "Idempotency-Key": key.current },
        body,
      }),
    ),
  );
  const change = (next: string) => {
    setLine(next);
    setTried(null);
    if (next !== line) key.current = crypto.randomUUID();
  };
  const finish = useFinishSteps(sessionId);
  const finishSteps = () => {
    if (finish.isPending) return;
    finish.mutate(
      { rung: rung.key, mode: cell.mode, happened },
      {
        onSuccess: (done) => {
          tell({ says: "The steps are one run now.", look: "plain", undo: true });
          onLogged(done.next ?? null);
        },
        onError: (refusal) => setTried(refusal.message),
      },
    );
  };
  const enter = () => {
    if (line.trim() === "" && steps.length > 0) return finishSteps();
    if (line.trim() === "") return onOnward();
    if (log.isPending) return;
    log.mutate(
      { rung: rung.key, mode: cell.mode, line, happened },
      {
        onSuccess: (done) => {
          tell({
            says: done.about === "run" ? loggedRun(rung.label, cell.mode, done.ungated) : LOGGED[done.about],
            look: "plain",
            undo: true,
          });
          setLine("");
          setTried(null);
          key.current = crypto.randomUUID();
          if (done.about === "run") onLogged(done.next ?? null);
        },
        onError: (refusal) => setTried(refusal.message),
      },
    );
  };
  const shown = preview ?? logged.data;
  const figures = line.trim() === "" ? (logged.data?.figures ?? null) : (preview?.figures ?? null);
  return (
    <>
      {happened && (
        <div className="mt-3">
          <Flag look="stop" title="Ungated.">
            What is logged here stays out of the verdict until a reason is given for it.
          </Flag>
        </div>
      )}
      <EntryLine
        line={line}
        segments={preview?.segments ?? []}
        outputs={rung.outputs}
        mode={cell.mode}
        input={input}
        onChange={change}
        onEnter={enter}
      />
      <Understood
        segments={preview?.segments ?? []}
        notYet={tried ?? error}
        onChoose={(next) => {
          change(next);
          input.current?.focus();
        }}
      />
      {line === "" && used && <p className="-mt-4 text-[13.5px] text-ink2">Logged already; type again to repeat it.</p>}
      <Outcome figures={figures} />
      <StepsTable rows={steps} pending={finish.isPending} onFinish={finishSteps} />
      <Checks
        sessionId={sessionId}
        checks={figures ? (shown?.checks ?? []) : []}
        runId={line.trim() === "" ? used?.id : undefined}
        meters={meters}
        onCorrect={() => used && onCorrect(used)}
      />
      {line.trim() === "" &&
        cell.runs
          .filter((run) => run.id !== used?.id && isDoubted(run))
          .map((run) => (
            <section key={run.id} aria-label={`About the run of ${run.total}`} className="mt-3">
              <h3 className="text-[13px] font-[650] text-ink2">About the run of {run.total}, which is not the one used</h3>
              <Checks sessionId={sessionId} checks={run.checks} runId={run.id} meters={meters} onCorrect={() => onCorrect(run)} />
            </section>
          ))}
      <Repeats sessionId={sessionId} cell={cell} onCorrect={onCorrect} onHistory={onHistory} onRamp={onRamp} />
    </>
  );
}
