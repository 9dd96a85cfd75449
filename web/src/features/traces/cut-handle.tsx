import type { KeyboardEvent } from "react";

/** A nudge of a cut by the keyboard, seconds; with Shift ten times as far. */
export const NUDGE_S = 0.001;
/** Rows above and below the wave. */
export const [TOP, BOTTOM] = [26, 24];

/** An end of a stretch that can be moved. */
export function CutHandle({
  label,
  at,
  x,
  seconds,
  most,
  onMoved,
}: {
  label: string;
  at: number;
  x: number;
  seconds: (clientX: number) => number;
  most: number;
  onMoved: (s: number) => void;
}) {
  const onKey = (event: KeyboardEvent) => {
    const way = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    if (way === 0) return;
    event.preventDefault();
    event.stopPropagation();
    onMoved(at + way * NUDGE_S * (event.shiftKey ? 10 : 1));
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={at}
      aria-valuemin={0}
      aria-valuemax={most}
      aria-valuetext={`${at.toFixed(4)} seconds`}
      className="absolute w-5 -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: `${String(x)}px`, top: `${String(TOP)}px`, bottom: `${String(BOTTOM)}px` }}
      onKeyDown={onKey}
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (event.currentTarget.hasPointerCapture(event.pointerId)) onMoved(seconds(event.clientX));
      }}
    >
      <span aria-hidden className="mx-auto block h-full w-0.5 bg-copper" />
      <span aria-hidden className="absolute top-1/2 left-1/2 h-7 w-2.5 -translate-1/2 rounded bg-copper" />
    </div>
  );
}
