import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

/** What the parts inside say beside the watts. */
export function InsideFigures({ figures }: { figures: Schemas["InsideFigures"] }) {
  const parts: [string, Schemas["Figure"] | null | undefined][] = [
    ["in the rail capacitors", figures.stored],
    ["the energy of a burst", figures.bursts_stored],
    ["rail capacitance", figures.uf_a_watt],
    ["output devices", figures.device_a_a_watt],
  ];
  const known = parts.filter((part): part is [string, Schemas["Figure"]] => part[1] != null);
  if (known.length === 0) return null;
  return (
    <dl aria-label="What the parts say" className="grid grid-cols-2 gap-y-2 sm:grid-cols-4">
      {known.map(([name, figure]) => (
        <div key={name} className="border-l-[3px] border-hair px-3.5">
          <dt className="text-sm text-ink2">{name}</dt>
          <dd className="num text-xl font-semibold">
            <Figure figure={figure} />
          </dd>
        </div>
      ))}
    </dl>
  );
}
