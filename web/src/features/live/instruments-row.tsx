import { lazy, Suspense, useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "@/api/client";
import { useInstruments, useRest, useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { useKeys } from "@/ui/use-keys";
import type { Cell, Place, Rung } from "../ladder/place";
import { BeforeRow } from "../runs/before-row";
import { HOW, type How } from "./how";
import { More } from "@/ui/more";

const HowOptions = lazy(async () => ({ default: (await import("./how-options")).HowOptions }));
const StartDialog = lazy(async () => ({ default: (await import("./start-dialog")).StartDialog }));

const USUAL_STEPS = "-12 -10 -8 -6 -5 -4 -3 -2 -1 0";

function methodOf(how: How, levels_db: number[]): Schemas["LiveMethod"] {
  if (how === "steps") return { kind: "steps", levels_db };
  if (how === "20" || how === "8" || how === "1") return { kind: "burst", cycles: Number(how) };
  return { kind: how };
}

/** Which instruments are connected; with an analyser Pukka drives the run, or watches it. */
export function InstrumentsRow({
  sessionId,
  rung,
  cell,
  closed,
  nameOf,
}: {
  sessionId: string;
  rung: Rung;
  cell: Cell;
  /** No run can be started now: one is under way, or something stands in the way. */
  closed: boolean;
  /** A place in words: wiring, load, mode. */
  nameOf: (place: Place) => string;
}) {
  const { tell } = useNotice();
  const { data: instruments } = useInstruments();
  const ready = (role: Schemas["Role"]) => instruments?.links.find((link) => link.role === role)?.state?.kind === "ready";
  const drives = ready("generator") && ready("analyser");
  const offered: How[] = [
    ...(drives ? (cell.mode === "dynamic" ? (["burst", "20", "8", "1"] as const) : (["ramp", "steps"] as const)) : []),
    "watch",
  ];
  const [chosen, setChosen] = useState<How | null>(null);
  const [steps, setSteps] = useState(USUAL_STEPS);
  const [choosing, setChoosing] = useState(false);
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
    start.mutate(methodOf(how, levels_db), {
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
  };
  const offers = !closed && (ready("analyser") || ready("voltmeter") || ready("ammeter"));
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
  const links = instruments?.links.filter((link) => link.address != null) ?? [];
  const connected = links.filter((link) => link.state?.kind === "ready").length;
  return (
    <BeforeRow
      name="Instruments"
      label="Live"
      action={
        offers && (
          <Button look="main" size="compact" disabled={start.isPending} onClick={press}>
            Run it <Kbd>D</Kbd>
          </Button>
        )
      }
      more={
        offers &&
        choosing && (
          <div className="min-h-[38px] pb-1 pl-[86px]">
            <Suspense>
              <HowOptions how={how} offered={offered} setHow={setChosen} steps={steps} setSteps={setSteps} />
            </Suspense>
          </div>
        )
      }
    >
      {links.length === 0 ? (
        <>
          None linked.{" "}
          <Link to="/set-up/instruments" className="underline underline-offset-3">
            Link one
          </Link>
        </>
      ) : connected === links.length ? (
        connected === 1 ? (
          "1 connected"
        ) : (
          `All ${String(connected)} connected`
        )
      ) : (
        <b className="font-semibold text-ochre">
          {connected} of {links.length} connected
        </b>
      )}
      {offers && (
        <>
          : {HOW[how]} <More opened={choosing} words="change" onToggle={() => setChoosing(!choosing)} />
        </>
      )}
      {asks && (
        <Suspense>
          <StartDialog
            name={nameOf(place)}
            reasons={asks}
            onClose={() => setAsks(null)}
            onStart={() => {
              setAsks(null);
              go();
            }}
          />
        </Suspense>
      )}
    </BeforeRow>
  );
}
