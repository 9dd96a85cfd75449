import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";

export interface Line {
  label: string;
  /** Name of a colour of the theme. */
  colour: "verdigris" | "copper" | "ink" | "ink2";
  /** Points instead of a line. */
  points?: boolean;
  dash?: number[];
  scale?: string;
}

const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();

/** A dense line plot over the theme's colours; the first row of the data is its x. */
export function Plot({
  title,
  x,
  lines,
  data,
  log = false,
  right,
  height = 190,
}: {
  title: string;
  x: string;
  lines: Line[];
  data: (number | null)[][];
  log?: boolean;
  /** Name of a second scale, at the right. */
  right?: string;
  height?: number;
}) {
  const box = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const shape = JSON.stringify([x, lines, log, right, height]);
  useEffect(() => {
    const at = box.current;
    if (!at) return;
    const axis = {
      stroke: colour("ink2"),
      grid: { stroke: colour("hair"), width: 1 },
      ticks: { show: false },
      font: "12px Figures, monospace",
    };
    const made = new uPlot(
      {
        width: at.clientWidth,
        height,
        legend: { show: false },
        cursor: { show: false },
        scales: { x: { time: false }, y: log ? { distr: 3 } : {} },
        axes: [
          { ...axis, label: x, labelSize: 18, size: 30, labelFont: "12px Archivo, sans-serif" },
          { ...axis, size: 52 },
          ...(right ? [{ ...axis, scale: right, side: 1 as const, size: 46, grid: { show: false } }] : []),
        ],
        series: [
          {},
          ...lines.map((line) => ({
            label: line.label,
            scale: line.scale ?? "y",
            stroke: colour(line.colour),
            width: 1.5,
            ...(line.dash ? { dash: line.dash } : {}),
            ...(line.points
              ? { paths: () => null, points: { show: true, size: 4, fill: colour(line.colour) } }
              : { points: { show: false } }),
          })),
        ],
      },
      data as uPlot.AlignedData,
      at,
    );
    plot.current = made;
    const watch = new ResizeObserver(() => made.setSize({ width: at.clientWidth, height }));
    watch.observe(at);
    return () => {
      watch.disconnect();
      made.destroy();
      plot.current = null;
    };
    // The shape is what the plot is built of; its data is set below.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shape]);
  useEffect(() => plot.current?.setData(data as uPlot.AlignedData), [data]);
  return (
    <figure className="min-w-0 rounded-lg border border-line bg-sheet px-3 py-2">
      <figcaption className="flex flex-wrap items-baseline gap-x-4 text-note font-firm text-ink2">
        {title}
        {lines.length > 1 &&
          lines.map((line) => (
            <span key={line.label} className="flex items-center gap-1.5 font-normal">
              <svg width="22" height="6" aria-hidden>
                <line
                  x1="0"
                  y1="3"
                  x2="22"
                  y2="3"
                  stroke={`var(--color-${line.colour})`}
                  strokeWidth="2"
                  strokeDasharray={line.dash?.join(" ")}
                />
              </svg>
              {line.label}
            </span>
          ))}
      </figcaption>
      <div ref={box} className="mt-1 w-full" role="img" aria-label={title} />
    </figure>
  );
}
