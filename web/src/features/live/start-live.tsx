import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useInstruments, useRest, useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { ChoiceField, TextField } from "@/ui/field";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { useKeys } from "@/ui/use-keys";
import type { Cell, Place, Rung } from "../ladder/place";
import { StartDialog } from "./start-dialog";

type How = "ramp" | "burst" | "steps" | "watch";

const WORDS: Record<How, string> = {
  ramp: "raise the level to the limit",
  burst: "bursts, until a dB more gives hardly more",
  steps: "level steps",
  watch: "only watch: I raise the level",
};

const USUAL_STEPS = "-12 -10 -8 -6 -5 -4 -3 -2 -1 0";

/** Lets Pukka drive the run, where an analyser is linked. */
export function StartLive({
  sessionId,
  rung,
  cell,
  nameOf,
}: {
  sessionId: string;
  rung: Rung;
  cell: Cell;
  /** A place in words: wiring, load, mode. */
  nameOf: (place: Place) => string;
}) {
  const { tell } = useNotice();
  const { data: instruments } = useInstruments();
  const ready = (role: Schemas["Role"]) => instruments?.links.find((link) => link.role === role)?.state?.kind === "ready";
  const drives = ready("generator");
  const offered: How[] = [...(drives ? (cell.mode === "dynamic" ? (["burst"] as const) : (["ramp", "steps"] as const)) : []), "watch"];
  const [chosen, setChosen] = useState<How | null>(null);
  const [steps, setSteps] = useState(USUAL_STEPS);
  const how = chosen && offered.includes(chosen) ? chosen : (offered[0] ?? "watch");
  const start = useWrite(
    (method: Schemas["LiveMethod"]) =>
      data(
        api.POST("/api/sessions/{id}/live", {
          params: { path: { id: sessionId } },
          body: { place: { rung: rung.key, mode: cell.mode }, method },
        }),
      ),
    [sessionId],
  );
  const go = () => {
    const levels_db = steps
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    start.mutate(how === "steps" ? { kind: "steps", levels_db } : { kind: how }, {
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
  };
  const offers = ready("analyser") === true;
  const place = { rung: rung.key, mode: cell.mode };
  // What can hurt asks once: a gate, a draw past the fuses, an amplifier that is hot or has not rested.
  const rest = useRest(sessionId, offers);
  const [asks, setAsks] = useState<string[] | null>(null);
  const ask = async () => {
    if (start.isPending || asks) return;
    // As it is at this moment: what is shown may be two seconds old.
    const { data: now } = await rest.refetch();
    const reasons = [...cell.asks, ...(now?.asks ?? [])];
    if (reasons.length > 0) setAsks(reasons);
    else go();
  };
  const press = () => void ask();
  useKeys(offers ? { d: press } : {});
  if (!offers) return null;
  return (
    <section aria-label="Live" className="mt-2 flex flex-wrap items-end gap-x-3 gap-y-2 rounded-lg border border-line bg-sheet px-3.5 py-2">
      <Button look="main" size="low" disabled={start.isPending} onClick={press}>
        Let Pukka run it <Kbd>D</Kbd>
      </Button>
      <ChoiceField label="How" className="w-[270px]" value={how} onChange={(event) => setChosen(event.target.value as How)}>
        {offered.map((one) => (
          <option key={one} value={one}>
            {WORDS[one]}
          </option>
        ))}
      </ChoiceField>
      {how === "steps" && (
        <TextField
          label="Levels, dB, lowest first"
          className="min-w-[220px] flex-1"
          value={steps}
          onChange={(event) => setSteps(event.target.value)}
        />
      )}
      {asks && (
        <StartDialog
          name={nameOf(place)}
          reasons={asks}
          onClose={() => setAsks(null)}
          onStart={() => {
            setAsks(null);
            go();
          }}
        />
      )}
    </section>
  );
}
