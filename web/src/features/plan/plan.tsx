import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { Empty } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { AddLoadDialog } from "../ladder/add-load";
import { OrderChoice } from "./order-choice";
import { PlanAside } from "./plan-aside";
import { PlanRow } from "./plan-row";
import { PrepareDialog } from "./prepare-dialog";

interface Props {
  sessionId: string;
  view: Schemas["LadderView"];
  channels: number;
}

/** The ladder as a plan: what each rung will ask, and what stands in its way. */
export function Plan({ sessionId, view, channels }: Props) {
  const navigate = useNavigate();
  const [open, setOpen] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  const [preparing, setPreparing] = useState(false);
  const { ladder } = view;
  const start = () => void navigate("../runs", { relative: "path" });
  useKeys({ l: () => setAdding(true), s: () => setPreparing(true), Enter: start });
  const fuses = ladder.rungs.find((rung) => rung.expected?.fuses_a)?.expected?.fuses_a;
  const wirings = new Set(ladder.rungs.map((rung) => rung.words));
  const rest = view.settings.rest_v;
  return (
    <div className="grid flex-1 grid-cols-1 content-start lg:grid-cols-[1fr_360px] lg:content-stretch">
      <main className="min-w-0 px-4 py-[18px] sm:px-5">
        <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2">
          <h2 className="wide text-2xl font-strong">What each load will ask of the bench</h2>
          <OrderChoice sessionId={sessionId} view={view} />
        </div>
        {ladder.rungs.length === 0 ? (
          <div className="mt-4">
            <Empty title="Nothing to plan yet.">
              <p>Each claimed load becomes a rung of the ladder. Enter the claims first, or add a load by hand.</p>
              <Button look="main" onClick={() => setAdding(true)}>
                Add a load
              </Button>
            </Empty>
          </div>
        ) : (
          <>
            <div className="mt-3 hidden grid-cols-[104px_150px_1fr_1fr_1fr] gap-x-4 text-sm text-ink2 lg:grid">
              <span>Load</span>
              <span>Runs</span>
              <span>Output expected</span>
              <span>Draw{fuses ? ` against the fuses, ${fuses.text}\u202fA` : ", at most"}</span>
              <span>Supply at the end{rest == null ? "" : `, from ${rest.toFixed(1)}\u202fV`}</span>
            </div>
            {ladder.rungs.map((rung, i) => (
              <PlanRow
                key={rung.key}
                sessionId={sessionId}
                rung={rung}
                named={wirings.size > 1 && rung.words !== ladder.rungs[i - 1]?.words}
                revision={view.revisions[rung.key] ?? 0}
                target={view.targets[rung.key]}
                frozen={view.armed != null}
                open={open === rung.key}
                onOpen={() => setOpen(open === rung.key ? null : rung.key)}
              />
            ))}
            <div className="mt-4 flex flex-wrap items-center gap-3 border-t border-line pt-3.5">
              <Button onClick={() => setAdding(true)}>
                Add a load <Kbd>L</Kbd>
              </Button>
              <span className="text-note text-ink2">
                {ladder.planned} runs, {ladder.minutes}, highest ohms first.
              </span>
            </div>
          </>
        )}
      </main>
      <PlanAside sessionId={sessionId} view={view} onStart={start} onPrepare={() => setPreparing(true)} />
      {adding && (
        <AddLoadDialog
          sessionId={sessionId}
          channels={channels}
          onClose={() => setAdding(false)}
          onAdded={(key) => {
            setAdding(false);
            setOpen(key);
          }}
        />
      )}
      {preparing && <PrepareDialog sessionId={sessionId} view={view} onClose={() => setPreparing(false)} />}
    </div>
  );
}
