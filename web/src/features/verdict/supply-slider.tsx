import { useId, useState } from "react";
import type { Schemas } from "@/api/client";

/** What would follow if the supply, which nobody read, had ended at a voltage. */
export function SupplySlider({ points }: { points: Schemas["IfSupply"][] }) {
  const [at, setAt] = useState(Math.floor(points.length / 2));
  const id = useId();
  const point = points[Math.min(at, points.length - 1)];
  const ends = [points[0], points[points.length - 1]].map((end) => (end ? `${end.volts.toFixed(1)}\u202fV` : ""));
  if (!point) return null;
  return (
    <div className="no-print mt-2">
      <label htmlFor={id} className="block text-sm font-semibold">
        If the supply was …
      </label>
      <input
        id={id}
        type="range"
        className="mt-1 block h-6 w-full accent-copper"
        min={0}
        max={points.length - 1}
        value={at}
        aria-valuetext={point.says}
        onChange={(event) => setAt(Number(event.target.value))}
      />
      <span className="flex justify-between text-sm text-ink2">
        <span>{ends[0]}</span>
        <span>{ends[1]}</span>
      </span>
      <output htmlFor={id} className="mt-0.5 block font-mono text-sm">
        {point.says}
      </output>
    </div>
  );
}
