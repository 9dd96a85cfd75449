import { useMemo } from "react";
import type { Schemas } from "@/api/client";
import { writePercent } from "@/ui/numbers";
import { Plot } from "./plot";

type Round = Schemas["Round"];

const total = (round: Round) => round.power_w.reduce((sum, watts) => sum + watts, 0);

/** Watts against distortion, and the supply over time. */
export function RampPlots({ rounds, limit }: { rounds: Round[]; limit: number }) {
  const distortion = useMemo(() => {
    const points = rounds
      .filter((round) => round.thd_ratio != null && round.thd_ratio > 0 && total(round) > 0)
      .map((round) => [total(round), 100 * (round.thd_ratio ?? 0)] as const)
      .sort((a, b) => a[0] - b[0]);
    return [points.map(([watts]) => watts), points.map(([, thd]) => thd), points.map(() => 100 * limit)];
  }, [rounds, limit]);
  const supply = useMemo(
    () => [rounds.map((r) => r.t_ms / 1000), rounds.map((r) => r.supply_v ?? null), rounds.map((r) => r.supply_a ?? null)],
    [rounds],
  );
  const power = useMemo(() => [rounds.map((r) => r.t_ms / 1000), rounds.map(total)], [rounds]);
  const hasThd = (distortion[0]?.length ?? 0) > 0;
  return (
    <div className="grid gap-2.5 xl:grid-cols-2">
      {hasThd ? (
        <Plot
          title="Distortion, %, against watts"
          x="W"
          log
          lines={[
            { label: "measured", colour: "verdigris", points: true },
            { label: `limit ${writePercent(limit)} %`, colour: "copper", dash: [6, 4] },
          ]}
          data={distortion}
        />
      ) : (
        <Plot title="Watts over time" x="s" lines={[{ label: "watts", colour: "verdigris" }]} data={power} />
      )}
      <Plot
        title="Supply over time"
        x="s"
        right="amps"
        lines={[
          { label: "volts", colour: "ink" },
          { label: "amps", colour: "copper", dash: [5, 3], scale: "amps" },
        ]}
        data={supply}
      />
    </div>
  );
}
