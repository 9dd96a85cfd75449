import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { GateForm } from "../ladder/gate-form";
import type { Cell, Rung } from "../ladder/place";

/** A run that can hurt the amplifier asks for a reason and a name before it starts. */
export function GatePanel({
  sessionId,
  rung,
  cell,
  onHappened,
}: {
  sessionId: string;
  rung: Rung;
  cell: Cell;
  /** The run was made already: log it all the same, out of the verdict until there is a reason. */
  onHappened: () => void;
}) {
  const shut = cell.gates.filter((gate) => !gate.open);
  return (
    <section aria-label="Gated" className="mt-4 rounded-lg border-2 border-stop bg-stop-wash px-4 py-3.5">
      {shut.map((gate) => (
        <div key={gate.code} className="mb-2.5">
          <b className="wide block text-lg leading-snug font-bold">{gate.title}</b>
          <p>{gate.says}</p>
        </div>
      ))}
      {shut.some((gate) => gate.never) ? (
        <Button look="quiet" onClick={onHappened}>
          Already run: log it without a reason
        </Button>
      ) : (
        <>
          <GateForm sessionId={sessionId} place={{ rung: rung.key, mode: cell.mode }} gates={shut}>
            <Button look="quiet" onClick={onHappened}>
              Already run: log it without a reason
            </Button>
          </GateForm>
          <p className="mt-3 text-sm text-ink2">
            <Kbd>G</Kbd> to give a reason. {covers(shut, cell.mode)} The reason goes onto the sheet; names and who pays do not. Arrow keys
            leave this run shut and go on.
          </p>
        </>
      )}
    </section>
  );
}

/** What one reason is good for. */
function covers(shut: Schemas["GateFinding"][], mode: Schemas["Mode"]): string {
  if (!shut.some((gate) => gate.code === "below-floor")) return "One reason covers every mode of this load.";
  return mode === "dynamic" ? "It covers this burst only." : "It covers certified and clipping; a burst below the floor asks again.";
}
