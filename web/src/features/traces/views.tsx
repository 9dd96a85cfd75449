import type { Schemas } from "@/api/client";
import { writeDigits } from "@/ui/numbers";
import { Chart, type Series } from "./chart";

type View = Schemas["StretchView"];

const plain = (value: number) => writeDigits(value, 3);
const inKilo = (hz: number) => (hz >= 1_000 ? `${plain(hz / 1_000)}k` : plain(hz));

function Card({ title, note, children }: { title: string; note?: string | undefined; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="min-w-0 rounded-lg border border-line bg-sheet px-3 py-2.5">
      <h3 className="flex items-baseline justify-between gap-3 text-step font-firm">
        {title}
        {note && <span className="text-note font-normal text-ink2">{note}</span>}
      </h3>
      {children}
    </section>
  );
}

/** What a stretch looks like from near: its cycle and its spectrum, its ramp, its response, the supply under it. */
export function StretchViews({ view, limit }: { view: View; limit: number }) {
  const { stretch, spectrum, cycles } = view;
  return (
    <div className="grid gap-3 md:grid-cols-2">
      {cycles && <OneCycle cycles={cycles} flat={stretch.flat_ratio} />}
      {stretch.points && stretch.points.length > 1 && <RampChart points={stretch.points} limit={limit} />}
      {stretch.response && <ResponseChart response={stretch.response} corners={view.corners} />}
      {spectrum.lines.length > 0 && stretch.kind !== "sweep" && (
        <Card title="Spectrum" note="dB below the tone">
          <Chart
            label={`Spectrum: ${spectrum.harmonics
              .map((line, n) => `harmonic ${String(n + 1)} ${line.db.toFixed(0)} dB`)
              .slice(0, 6)
              .join(", ")}`}
            logX
            series={[{ look: "line", points: spectrum.lines.map((line) => [line.hz, line.db] as const) }]}
            x={inKilo}
            y={plain}
          />
        </Card>
      )}
      {stretch.supply?.sag && stretch.supply.sag.length > 2 && <SupplyChart stretch={stretch} sag={stretch.supply.sag} />}
    </div>
  );
}

function OneCycle({ cycles, flat }: { cycles: Schemas["TwoCycles"]; flat: number | null | undefined }) {
  const over = (list: readonly number[]) => list.map((value, n) => [(1_000 * cycles.seconds * n) / (list.length - 1), value] as const);
  const series: Series[] = [
    { look: "dashed", points: over(cycles.sine) },
    { look: "line", points: over(cycles.wave) },
  ];
  return (
    <Card
      title="Two cycles"
      note={flat == null ? "dashed: its fundamental alone" : `flat for ${(100 * flat).toFixed(0)}\u202f% of a cycle · dashed: a pure sine`}
    >
      <Chart label="Two cycles of the wave beside a pure sine" series={series} x={(ms) => `${plain(ms)} ms`} y={plain} />
    </Card>
  );
}

function RampChart({ points, limit }: { points: readonly Schemas["LevelPoint"][]; limit: number }) {
  const inWatts = points.every((point) => point.power_w != null);
  const shown = points.flatMap((point) =>
    point.thd_n_ratio == null ? [] : [[inWatts ? (point.power_w ?? 0) : point.rms, 100 * point.thd_n_ratio] as const],
  );
  return (
    <Card title={inWatts ? "Distortion against watts" : "Distortion against volts"} note="dotted: the limit">
      <Chart
        label="THD+N in percent against the level"
        logX
        logY
        limit={100 * limit}
        series={[{ look: "line", points: shown }]}
        x={(value) => `${inKilo(value)} ${inWatts ? "W" : "V"}`}
        y={(percent) => `${plain(percent)}\u202f%`}
      />
    </Card>
  );
}

function ResponseChart({ response, corners }: { response: Schemas["Response"]; corners: readonly Schemas["CornerSaid"][] }) {
  return (
    <Card title="Response" note="dotted: −3 dB">
      <Chart
        label="Magnitude in decibels against frequency"
        logX
        limit={-3}
        series={[{ look: "line", points: response.points.map((point) => [point.hz, point.db] as const) }]}
        x={inKilo}
        y={plain}
      />
      <ul className="mt-1 grid gap-1 text-step">
        {corners.map((corner) => (
          <li key={corner.kind} className={corner.within === false ? "text-stop" : "text-ink2"}>
            {corner.says}
          </li>
        ))}
      </ul>
    </Card>
  );
}

function SupplyChart({ stretch, sag }: { stretch: Schemas["Stretch"]; sag: readonly Schemas["SupplyPoint"][] }) {
  return (
    <Card title="Supply under it" note={stretch.supply?.mean_a == null ? undefined : `${plain(stretch.supply.mean_a)} A in the mean`}>
      <Chart
        label="Supply volts over the stretch"
        series={[{ look: "line", points: sag.map((point) => [1_000 * (point.at_s - stretch.from_s), point.v] as const) }]}
        x={(ms) => `${plain(ms)} ms`}
        y={(v) => v.toFixed(2)}
      />
    </Card>
  );
}
