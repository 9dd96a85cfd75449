import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

/** The supply, run by run: each bar hangs from rest to the voltage of the reading. */
export function SagsCard({ drawn }: { drawn: Schemas["DrawnVerdict"] }) {
  const { sags: chart, view } = drawn;
  const deepest = view.sags.reduce<(typeof view.sags)[number] | null>(
    (most, row) => (row.sag.value > (most?.sag.value ?? 0) ? row : most),
    null,
  );
  if (!chart) return null;
  return (
    <section className="rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="text-note font-firm text-ink2">The supply, from rest to under load</h3>
      <div className="mt-2" dangerouslySetInnerHTML={{ __html: chart.svg }} />
      {deepest && (
        <p className="mt-1 text-sm text-ink2">
          <Figure figure={deepest.sag} className="text-ink" /> of sag at most, at {deepest.load}, {deepest.mode}
        </p>
      )}
    </section>
  );
}
