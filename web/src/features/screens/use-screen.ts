import { useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { useAmplifier, useLadder, useRun } from "@/api/queries";
import { writePercent } from "@/ui/numbers";
import { cellAt, lastLogged, type Cell, type Ladder, type Rung } from "../ladder/place";
import { useChanges } from "../live/use-changes";
import { isRunning, useLive } from "../live/use-live";

/** A figure on a screen: what it is, its digits, its unit. */
export interface Shown {
  name: string;
  text: string;
  unit: string;
  warn?: boolean;
}

/** What a screen beside the bench shows: the run that is driven now, else the one that was logged last. */
export interface Screen {
  amplifier: string;
  ladder: Ladder;
  sessionId: string;
  place: { rung: Rung; cell: Cell } | null;
  live: boolean;
  figures: Shown[];
  /** Share of the claim, 1 where it is met; null where nothing is claimed there. */
  ofClaim: number | null;
  /** What the driven run says of itself. */
  says: string | null;
}

const whole = (value: number) => (value >= 100 ? value.toFixed(0) : value.toFixed(1));

function readNow(round: Schemas["Round"], limit: number): Shown[] {
  const watts = round.power_w.reduce((sum, one) => sum + one, 0);
  const all: [string, string | null, string, boolean][] = [
    ["output", whole(watts), "W", false],
    ["supply", round.supply_v == null ? null : round.supply_v.toFixed(2), "V", false],
    ["draw", round.supply_a == null ? null : round.supply_a.toFixed(1), "A", false],
    [
      "distortion",
      round.thd_ratio == null ? null : writePercent(Number(round.thd_ratio.toPrecision(2))),
      "%",
      (round.thd_ratio ?? 0) > limit,
    ],
  ];
  return all.flatMap(([name, text, unit, warn]) => (text === null ? [] : [{ name, text, unit, warn }]));
}

function logged(run: Schemas["RunView"] | undefined): Shown[] {
  const figures = run?.figures;
  if (!figures) return [];
  const all: [string, Schemas["Figure"] | null | undefined][] = [
    ["output", figures.total],
    ["of the claim", figures.against],
    ["efficiency", figures.efficiency],
    ["sag", figures.sag],
  ];
  return all.flatMap(([name, figure]) => (figure ? [{ name, text: figure.text, unit: figure.unit }] : []));
}

/** Null while it is not known yet. */
export function useScreen(): Screen | null {
  useChanges();
  const { id = "" } = useParams();
  const amplifier = useAmplifier(id);
  const sessionId = amplifier.data?.session_id;
  const ladder = useLadder(sessionId);
  const seen = useLive();
  const live = isRunning(seen) && seen.live?.session_id === sessionId ? seen.live : null;
  const last = ladder.data && lastLogged(ladder.data.ladder);
  const where = live?.place ?? last;
  const place = ladder.data && where ? cellAt(ladder.data.ladder, where) : null;
  const runs = place?.cell.runs ?? [];
  const used = live ? undefined : (runs.find((run) => run.used) ?? runs.at(-1));
  const run = useRun(sessionId ?? "", used?.id);
  if (!amplifier.data || !ladder.data || !sessionId) return null;
  const round = live && seen.seq === live.seq ? seen.rounds.at(-1) : undefined;
  const watts = round ? round.power_w.reduce((sum, one) => sum + one, 0) : run.data?.figures?.total.value;
  const claim = place?.rung.claim_w;
  return {
    amplifier: amplifier.data.summary.name,
    ladder: ladder.data.ladder,
    sessionId,
    place,
    live: live !== null,
    figures: live ? (round ? readNow(round, live.limit_ratio) : []) : logged(run.data),
    ofClaim: claim == null || watts === undefined ? null : watts / claim,
    says: live?.says ?? null,
  };
}
