import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { GateForm } from "../ladder/gate-form";
import type { Cell, Rung } from "../ladder/place";

interface Gated {
  rung: Rung;
  cell: Cell;
  shut: Schemas["GateFinding"][];
}

/** Gates of the plan that are shut, a rung each: they stay shut unless somebody says why not. */
export function PlanGates({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const [opening, setOpening] = useState<Gated | null>(null);
  const gated = view.ladder.rungs.flatMap((rung) => {
    const cell = rung.cells.find((candidate) => candidate.planned && candidate.shut && candidate.runs.length === 0);
    return cell ? [{ rung, cell, shut: cell.gates.filter((gate) => !gate.open) }] : [];
  });
  const wirings = new Set(view.ladder.rungs.map((rung) => rung.words));
  const name = (rung: Rung) => (wirings.size > 1 ? `${rung.label}, ${rung.words}` : rung.label);
  return (
    <>
      {gated.map(({ rung, cell, shut }) => (
        <section key={rung.key} aria-label={`Gated: ${rung.label}`} className="rounded-md bg-stop-wash px-3 py-2.5 text-step leading-snug">
          {shut.map((gate) => (
            <div key={gate.code} className="mb-1.5">
              <b className="font-bold">{gate.title.startsWith(rung.label) ? gate.title : `${name(rung)}: ${gate.title}`}</b> {gate.says}
            </div>
          ))}
          <Button size="compact" className="mt-1" onClick={() => setOpening({ rung, cell, shut })}>
            {shut.some((gate) => gate.asks_consent) ? "Record consent" : "Give a reason"}
          </Button>
          <span className="ml-2 text-sm text-ink2">or leave it shut</span>
        </section>
      ))}
      {opening && (
        <Dialog open onClose={() => setOpening(null)} title={`Open ${opening.rung.label}, ${opening.cell.mode}`} width="max-w-[620px]">
          <div className="mb-3 grid gap-1.5">
            {opening.shut.map((gate) => (
              <p key={gate.code}>
                <b>{gate.title}</b> {gate.says}
              </p>
            ))}
          </div>
          <GateForm
            sessionId={sessionId}
            place={{ rung: opening.rung.key, mode: opening.cell.mode }}
            gates={opening.shut}
            onOpened={() => setOpening(null)}
          >
            <Button onClick={() => setOpening(null)}>Keep it shut</Button>
          </GateForm>
        </Dialog>
      )}
    </>
  );
}
