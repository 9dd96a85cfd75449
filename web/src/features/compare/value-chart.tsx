import { useLayoutEffect, useRef, useState } from "react";
import type { Schemas } from "@/api/client";
import { inThousands } from "@/ui/numbers";
import { apart, axisOf, lineOf, watts } from "./scale";

type Row = Schemas["WorthRow"];

/** Room that the picture is drawn for before it knows its own. */
const USUAL = 780;
const HEIGHT = 270;
const [LEFT, RIGHT, TOP, BOTTOM] = [62, 18, 14, 30];

/** Clean watts against price, both in decades, with lines of one price a watt. A press on an amplifier puts it beside the others. */
export function ValueChart({
  rows,
  ids,
  money,
  toggle,
}: {
  rows: readonly Row[];
  ids: readonly string[];
  money: (amount: number) => string;
  toggle: (id: string) => void;
}) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(USUAL);
  useLayoutEffect(() => {
    const box = frame.current;
    if (!box) return;
    // Drawn at its own size, so that letters keep theirs.
    const seen = new ResizeObserver(() => setWidth(Math.max(280, box.clientWidth)));
    seen.observe(box);
    return () => seen.disconnect();
  }, []);
  // One that was not tested stands at what is claimed for it, and is drawn as such.
  const points = rows.flatMap((row) => {
    const w = row.clean_w ?? (row.claims_only ? row.headline_w : null);
    return w != null && row.price != null && row.price > 0 ? [{ row, w, p: row.price }] : [];
  });
  if (points.length === 0) {
    return (
      <div ref={frame}>
        <p className="p-4 text-ink2">No amplifier with a price, and clean watts at a claimed load.</p>
      </div>
    );
  }
  const [price, power] = [axisOf(points.map(({ p }) => p)), axisOf(points.map(({ w }) => w))];
  const x = (part: number) => LEFT + part * (width - LEFT - RIGHT);
  const y = (part: number) => HEIGHT - BOTTOM - part * (HEIGHT - TOP - BOTTOM);
  // Names of ticks that would run into one another are left out; their lines stay.
  const named = new Set(apart(price.ticks, (tick) => x(price.at(tick)), 42));
  return (
    <div ref={frame}>
      <svg viewBox={`0 0 ${String(width)} ${String(HEIGHT)}`} className="block w-full" role="group" aria-label="Clean watts against price">
        {power.ticks.map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={width - RIGHT} y1={y(power.at(tick))} y2={y(power.at(tick))} className="stroke-hair" />
            <text x={LEFT - 8} y={y(power.at(tick)) + 4} textAnchor="end" className="num fill-ink2 text-[12px]">
              {inThousands(tick)}
            </text>
          </g>
        ))}
        <text x={LEFT - 8} y={TOP + 2} textAnchor="end" className="num fill-ink2 text-[12px]">
          W
        </text>
        {price.ticks.map((tick) => (
          <g key={tick}>
            <line x1={x(price.at(tick))} x2={x(price.at(tick))} y1={TOP} y2={HEIGHT - BOTTOM} className="stroke-hair" />
            <text x={x(price.at(tick))} y={HEIGHT - 10} textAnchor="middle" className="num fill-ink2 text-[12px]">
              {named.has(tick) && money(tick)}
            </text>
          </g>
        ))}
        {watts(price, power).map((each) => {
          const line = lineOf(each, price, power);
          return (
            <g key={each}>
              <line
                x1={x(line.x1)}
                y1={y(line.y1)}
                x2={x(line.x2)}
                y2={y(line.y2)}
                strokeDasharray="2 5"
                className="stroke-ink2"
                strokeLinecap="round"
              />
              <text x={x(line.x2) - 4} y={y(line.y2) + (line.y2 > 0.98 ? 16 : -6)} textAnchor="end" className="num fill-ink2 text-[12px]">
                {money(each)} a watt
              </text>
            </g>
          );
        })}
        {points.map(({ row, w, p }) => {
          const on = ids.includes(row.id);
          const [cx, cy] = [x(price.at(p)), y(power.at(w))];
          const late = cx > width - 230;
          const says = `${row.name}: ${row.clean ?? `${inThousands(w)} W claimed, not tested`}${row.clean == null ? "" : "\u202fW"} for ${row.price_words ?? ""}`;
          return (
            <g
              key={row.id}
              role="button"
              tabIndex={-1}
              aria-pressed={on}
              aria-label={says}
              className="cursor-pointer"
              onClick={() => toggle(row.id)}
            >
              <title>{says}</title>
              <circle cx={cx} cy={cy} r={14} fill="transparent" />
              <circle
                cx={cx}
                cy={cy}
                r={on ? 7 : 5}
                strokeWidth={2}
                strokeDasharray={row.clean_w == null ? "2.5 2.5" : undefined}
                className={
                  row.clean_w == null ? "fill-sheet stroke-ink2" : on ? "fill-verdigris stroke-verdigris" : "fill-sheet stroke-verdigris"
                }
              />
              {on && (
                <text
                  x={cx + (late ? -12 : 12)}
                  y={cy + 4.5}
                  textAnchor={late ? "end" : "start"}
                  className="fill-ink stroke-sheet text-[13px] font-semibold"
                  strokeWidth={4}
                  paintOrder="stroke"
                >
                  {row.name}
                </text>
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
