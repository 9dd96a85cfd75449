import type { Schemas } from "@/api/client";
import { Check } from "@/ui/check";
import { Disclosure } from "@/ui/disclosure";
import { useTicks } from "./use-ticks";

/** What to see to before the first run: ticked for this session, and not for the next. */
export function Checklist({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const { isTicked, tick, done } = useTicks(sessionId, view);
  const all = view.cautions_read;
  return (
    <section aria-label="Before the first run" className="rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="flex items-baseline justify-between text-note font-firm text-ink2">
        Before the first run
        <span className="font-normal">{all ? "all checked" : `${String(done)} of ${String(view.cautions.length)}`}</span>
      </h3>
      <ul className="mt-2 grid gap-2">
        {view.cautions.map((caution) => (
          <li key={caution.code} className="flex items-start gap-2">
            <Check label="" name={caution.title} checked={isTicked(caution.code)} onChange={(ticked) => tick(caution.code, ticked)} />
            <Disclosure className="min-w-0 flex-1" says={caution.title}>
              <p className="mt-1 text-note leading-snug text-ink2">{caution.says}</p>
            </Disclosure>
          </li>
        ))}
      </ul>
    </section>
  );
}
