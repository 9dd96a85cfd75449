import type { Schemas } from "@/api/client";

type Row = Schemas["SourceRow"];

const WIDTH = 560;
const HEIGHT = 150;
const LEFT = 44;
const FOOT = 20;

/** Source resistance of each bench, session by session, with its ±. */
export function SourceChart({ rows }: { rows: readonly Row[] }) {
  const times = rows.map((row) => Date.parse(row.on));
  const [first, last] = [Math.min(...times), Math.max(...times)];
  // A ± that is longer than the figures themselves is cut off, or nothing else could be read.
  const most = Math.max(...rows.map((row) => row.milliohm), 1);
  const top = 1.1 * Math.min(1.6 * most, Math.max(...rows.map((row) => row.milliohm + (row.plus_minus ?? 0))));
  const x = (on: string) =>
    last === first ? (LEFT + WIDTH) / 2 : LEFT + 8 + ((Date.parse(on) - first) / (last - first)) * (WIDTH - LEFT - 16);
  const y = (milliohm: number) => (HEIGHT - FOOT) * (1 - milliohm / top) + 6;
  const benches = [...new Set(rows.map((row) => row.bench ?? "no bench profile"))];
  const step = niceStep(top);
  const lines = Array.from({ length: Math.floor(top / step) + 1 }, (_, n) => n * step);
  return (
    <figure className="mt-3">
      <figcaption className="text-step font-semibold">Source resistance of the supply, mΩ, by its own runs</figcaption>
      <svg viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT + 6)}`} className="w-full" role="img" aria-label="Source resistance over time">
        {lines.map((line) => (
          <g key={line}>
            <line x1={LEFT} x2={WIDTH} y1={y(line)} y2={y(line)} className="stroke-hair" />
            <text x={LEFT - 6} y={y(line) + 4} textAnchor="end" className="fill-ink2 text-[11px]">
              {line.toFixed(step < 1 ? 1 : 0)}
            </text>
          </g>
        ))}
        {rows.map((row) => {
          const at = benches.indexOf(row.bench ?? "no bench profile");
          const off = row.plus_minus ?? 0;
          return (
            <g key={row.id}>
              <title>{`${row.name}, ${row.on}: ${row.milliohm.toFixed(1)} mΩ`}</title>
              <line
                x1={x(row.on)}
                x2={x(row.on)}
                y1={y(Math.min(top, row.milliohm + off))}
                y2={y(Math.max(0, row.milliohm - off))}
                className="stroke-ink3"
              />
              <circle
                cx={x(row.on)}
                cy={y(row.milliohm)}
                r="4"
                className={at === 0 ? "fill-copper" : "fill-sheet stroke-copper"}
                strokeWidth="2"
              />
            </g>
          );
        })}
        <text x={LEFT} y={HEIGHT + 4} className="fill-ink2 text-[11px]">
          {new Date(first).toISOString().slice(0, 10)}
        </text>
        <text x={WIDTH} y={HEIGHT + 4} textAnchor="end" className="fill-ink2 text-[11px]">
          {new Date(last).toISOString().slice(0, 10)}
        </text>
      </svg>
      <p className="text-note text-ink2">{benches.join("; ")}</p>
    </figure>
  );
}

function niceStep(top: number) {
  const rough = top / 4;
  const power = 10 ** Math.floor(Math.log10(rough));
  const found = [1, 2, 5, 10].find((digit) => digit * power >= rough) ?? 10;
  return found * power;
}
