import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Flag, type FlagLook } from "@/ui/flag";
import { Suspicion } from "../verdict/suspicion";
import { READINGS } from "./readings";
import { SettleDialog, type Settling } from "./settle-dialog";

type Check = Schemas["Check"];

const LOOKS: Record<Schemas["Severity"], FlagLook> = { stop: "stop", doubt: "doubt", note: "note" };

/** What is doubted about a run, in sentences; on a run that is logged, with the ways to settle it. */
export function Checks({
  sessionId,
  checks,
  runId,
  meters,
  onCorrect,
}: {
  sessionId: string;
  checks: Check[];
  /** The run as it is logged; nothing while it is typed. */
  runId: string | undefined;
  meters: string[];
  onCorrect: () => void;
}) {
  const [settling, setSettling] = useState<Settling | null>(null);
  return (
    <div className="mt-3 grid gap-1.5">
      {checks.map((check) => (
        <Flag
          key={check.code + check.runs.join()}
          code={check.code}
          look={check.settled ? "note" : LOOKS[check.severity]}
          title={check.title}
        >
          {check.says} <span className="text-ink2">{check.remedy}</span>
          {check.settled && <b className="ml-1.5 font-semibold">Accepted: {check.accepted}.</b>}
          {runId !== undefined && !check.settled && check.severity !== "note" && (
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
        </Flag>
      ))}
      <Suspicion sessionId={sessionId} asked={runId !== undefined && checks.some((check) => !check.settled && check.severity !== "note")} />
      {settling && <SettleDialog sessionId={sessionId} settling={settling} meters={meters} onClose={() => setSettling(null)} />}
    </div>
  );
}

function Act({ onClick, children }: { onClick: () => void; children: React.ReactNode }) {
  return (
    <button type="button" className="rounded underline underline-offset-3 hover:bg-hair" onClick={onClick}>
      {children}
    </button>
  );
}
