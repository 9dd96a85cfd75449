import type { Schemas } from "@/api/client";
import { Check } from "@/ui/check";
import { useTicks } from "./use-ticks";

/** What to see to before the first run: ticked for this session, not for ever. */
export function Checklist({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const { isTicked, tick, done } = useTicks(sessionId, view);
  const all = view.cautions_read;
  return (
    <section aria-label="Before the first run" className="rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="flex items-baseline justify-between text-note font-firm text-ink2">
        Before the first run
        <span className="font-normal">{all ? "seen to" : `${String(done)} of ${String(view.cautions.length)}`}</span>
      </h3>
      <ul className="mt-2 grid gap-2">
        {view.cautions.map((caution) => (
          <li key={caution.code} className="flex items-start gap-2">
            <Check label="" name={caution.title} checked={isTicked(caution.code)} onChange={(ticked) => tick(caution.code, ticked)} />
            <details className="group">
              <summary className="cursor-pointer list-none leading-snug underline-offset-3 group-open:font-semibold hover:underline">
                {caution.title}
              </summary>
              <p className="mt-1 text-note leading-snug text-ink2">{caution.says}</p>
            </details>
          </li>
        ))}
      </ul>
    </section>
  );
}
