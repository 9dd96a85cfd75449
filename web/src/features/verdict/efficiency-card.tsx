import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

/** Certified efficiency against load, highest load first. */
export function EfficiencyCard({ drawn }: { drawn: Schemas["DrawnVerdict"] }) {
  const { efficiency: chart, view } = drawn;
  const points = view.loads.flatMap((row) => (row.efficiency ? [{ ...row, efficiency: row.efficiency }] : []));
  const last = points.at(-1);
  const first = points[0];
  const hottest = points.reduce<(typeof points)[number] | null>(
    (most, point) => (point.heat && point.heat.value > (most?.heat?.value ?? 0) ? point : most),
    null,
  );
  const falls = first && last && last.efficiency.value < first.efficiency.value;
  return (
    <section className="rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="text-note font-firm text-ink2">
        {points.length > 1 && falls ? "Efficiency falls as the load drops" : "Efficiency by load"}
      </h3>
      {chart ? (
        <>
          <div className="relative mt-2">
            <div dangerouslySetInnerHTML={{ __html: chart.svg }} />
            {points.map((point, i) => {
              const at = chart.points[i];
              return (
                at && (
                  <span
                    key={point.words + point.load}
                    className="absolute -translate-x-1/2 -translate-y-[29px] text-note"
                    style={{ left: `${String(at.x * 100)}%`, top: `${String(at.y * 100)}%` }}
                  >
                    <Figure figure={point.efficiency} unit={false} />
                  </span>
                )
              );
            })}
          </div>
          {hottest?.heat && (
            <p className="mt-1 text-sm text-ink2">
              <Figure figure={hottest.heat} className="text-ink" /> heat in the amplifier at {hottest.load}, {hottest.wiring}
            </p>
          )}
        </>
      ) : (
        <p className="mt-2 text-ink2">No certified run has supply volts and amps yet.</p>
      )}
    </section>
  );
}
