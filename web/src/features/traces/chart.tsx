import { useLayoutEffect, useRef, useState } from "react";
import { logTicks, ticks } from "@/ui/axis";

export interface Series {
  points: readonly (readonly [x: number, y: number])[];
  look: "line" | "dashed" | "quiet";
}

const [LEFT, RIGHT, TOP, BOTTOM] = [46, 12, 12, 26];
const LOOKS = {
  line: "stroke-verdigris",
  dashed: "stroke-copper [stroke-dasharray:5_5]",
  quiet: "stroke-ink2",
};

/** Ticks of a logarithmic scale; the powers of ten alone where it is long. */
const decades = (from: number, to: number) => {
  const all = logTicks(from, to);
  return all.length > 7 ? all.filter((tick) => Math.log10(tick) % 1 === 0) : all;
};

/** A small chart: lines over a plain or a logarithmic scale, with a few marks. */
export function Chart({
  label,
  series,
  logX = false,
  logY = false,
  x: xWords,
  y: yWords,
  height = 170,
  limit,
}: {
  label: string;
  series: readonly Series[];
  logX?: boolean;
  logY?: boolean;
  x: (value: number) => string;
  y: (value: number) => string;
  height?: number;
  /** A level that is drawn across. */
  limit?: number | undefined;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [wide, setWide] = useState(380);
  useLayoutEffect(() => {
    const at = box.current;
    if (!at) return;
    const seen = new ResizeObserver(() => setWide(Math.max(160, at.clientWidth)));
    seen.observe(at);
    return () => seen.disconnect();
  }, []);
  const sound = series.map((one) => ({
    ...one,
    points: one.points.filter(([px, py]) => Number.isFinite(px) && Number.isFinite(py) && (!logX || px > 0) && (!logY || py > 0)),
  }));
  const all = sound.flatMap((one) => one.points);
  if (all.length < 2) return <p className="py-4 text-step text-ink2">Nothing to draw here.</p>;
  const xs = all.map(([px]) => px);
  const ys = [...all.map(([, py]) => py), ...(limit === undefined ? [] : [limit])];
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  let [y0, y1] = [Math.min(...ys), Math.max(...ys)];
  if (y1 - y0 < 1e-9 * Math.max(1, Math.abs(y1))) [y0, y1] = [y0 - 0.5, y1 + 0.5];
  else if (!logY) [y0, y1] = [y0 - 0.06 * (y1 - y0), y1 + 0.06 * (y1 - y0)];
  const part = (value: number, from: number, to: number, log: boolean) =>
    log ? Math.log(value / from) / Math.log(to / from) : (value - from) / (to - from);
  const x = (value: number) => LEFT + part(value, x0, x1, logX) * (wide - LEFT - RIGHT);
  const y = (value: number) => height - BOTTOM - part(value, y0, y1, logY) * (height - TOP - BOTTOM);
  const path = (points: Series["points"]) =>
    points.map(([px, py], n) => `${n === 0 ? "M" : "L"}${x(px).toFixed(1)} ${y(py).toFixed(1)}`).join("");
  return (
    <div ref={box} className="min-w-0">
      <svg viewBox={`0 0 ${String(wide)} ${String(height)}`} className="block w-full" role="img" aria-label={label}>
        {(logY ? decades(y0, y1) : ticks(y0, y1, 4)).map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={wide - RIGHT} y1={y(tick)} y2={y(tick)} className="stroke-hair" />
            <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" className="num fill-ink2 text-[12px]">
              {yWords(tick)}
            </text>
          </g>
        ))}
        {(logX ? decades(x0, x1) : ticks(x0, x1, 5)).map((tick) => (
          <text key={tick} x={x(tick)} y={height - 8} textAnchor="middle" className="num fill-ink2 text-[12px]">
            {xWords(tick)}
          </text>
        ))}
        {limit !== undefined && (
          <line x1={LEFT} x2={wide - RIGHT} y1={y(limit)} y2={y(limit)} className="stroke-stop [stroke-dasharray:2_5]" strokeWidth={1.5} />
        )}
        {sound.map((one, n) => (
          <path
            key={n}
            d={path(one.points)}
            className={`fill-none ${LOOKS[one.look]}`}
            strokeWidth={one.look === "line" ? 1.75 : 1.5}
            strokeLinejoin="round"
          />
        ))}
      </svg>
    </div>
  );
}
