import { lazy, Suspense, useState, type ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Flag, type FlagLook } from "@/ui/flag";
import { Suspicion } from "../verdict/suspicion";
import { READINGS } from "./readings";
import type { Settling } from "./settle-dialog";

const SettleDialog = lazy(async () => ({ default: (await import("./settle-dialog")).SettleDialog }));

export type Check = Schemas["Check"];

const LOOKS: Record<Schemas["Severity"], FlagLook> = { stop: "stop", doubt: "doubt", note: "note" };

/** It has to be dealt with: no note, and not accepted. */
export const isOpen = (check: Check) => !check.settled && check.severity !== "note";

/** A run that is kept out of use, or doubted, has to be dealt with as well. */
export const isDoubted = (run: Schemas["RunBrief"]) => run.checks.some(isOpen);

const RANKS: Record<Schemas["Severity"], number> = { stop: 0, doubt: 1, note: 2 };
const rank = (check: Check) => (check.settled ? 3 : RANKS[check.severity]);

/** The gravest first, then those that follow it. */
export function byGravity(checks: readonly Check[]): { worst: Check | undefined; others: Check[] } {
  const [worst, ...others] = [...checks].sort((a, b) => rank(a) - rank(b));
  return { worst, others };
}

interface About {
  sessionId: string;
  /** The run as it is logged; nothing while it is typed. */
  runId: string | undefined;
  meters: string[];
  onCorrect: () => void;
}

/** A doubt in a sentence; on a run that is logged, with the ways to settle it. */
export function CheckFlag({ check, about, large = false }: { check: Check; about: About; large?: boolean }) {
  const [settling, setSettling] = useState<Settling | null>(null);
  const { sessionId, runId, meters, onCorrect } = about;
  return (
    <Flag
      code={check.code}
      look={check.settled ? "note" : LOOKS[check.severity]}
      title={check.title}
      large={large}
      roomy={runId === undefined}
      said={check.title + check.says}
    >
      {check.says} <span className="text-ink2">{check.remedy}</span>
      {check.settled && <b className="ml-1.5 font-semibold">Accepted: {check.accepted}.</b>}
      {runId !== undefined && isOpen(check) && (
        <span className="mt-1 flex flex-wrap gap-x-3 gap-y-1 text-note font-semibold">
          <Act onClick={onCorrect}>Correct the line</Act>
          {check.strikes.map((what) => (
            <Act key={what} onClick={() => setSettling({ runId, kind: "strike", what })}>
              Strike the {READINGS[what] ?? what}
            </Act>
          ))}
          {check.code === "meters-disagree" && meters.length > 0 && (
            <Act onClick={() => setSettling({ runId, kind: "meter", what: meters[0] ?? "" })}>Strike a meter</Act>
          )}
          <Act onClick={() => setSettling({ runId, kind: "accept", what: check.code })}>Accept it</Act>
        </span>
      )}
      {settling && (
        <Suspense>
          <SettleDialog sessionId={sessionId} settling={settling} meters={meters} onClose={() => setSettling(null)} />
        </Suspense>
      )}
    </Flag>
  );
}

/** What else is doubted, and which reading is the likely culprit. */
export function Checks({ checks, about, suspects }: { checks: Check[]; about: About; suspects: boolean }) {
  return (
    <div className="mt-2 grid gap-1.5 empty:hidden">
      {checks.map((check, i) => (
        // By its place: what is doubted changes with every key, and the sentences change where they stand.
        <CheckFlag key={i} check={check} about={about} />
      ))}
      {suspects && <Suspicion sessionId={about.sessionId} asked />}
    </div>
  );
}

function Act({ onClick, children }: { onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" className="rounded underline underline-offset-3 hover:bg-hair" onClick={onClick}>
      {children}
    </button>
  );
}
