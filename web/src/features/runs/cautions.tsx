import { TriangleAlert } from "lucide-react";
import { useEffect, useRef } from "react";
import type { Schemas } from "@/api/client";
import { useTicks } from "@/features/plan/use-ticks";
import { Check } from "@/ui/check";

/** What hurts people here, before a session's first run: seen to and ticked one by one. */
export function Cautions({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const box = useRef<HTMLUListElement>(null);
  const { isTicked, tick, done } = useTicks(sessionId, view);
  const toNext = () => box.current?.querySelector<HTMLElement>("[role=checkbox][aria-checked=false]")?.focus({ preventScroll: true });
  useEffect(toNext, [done]);
  return (
    <section aria-label="Before the first run" className="mt-4 rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="flex items-center gap-2 font-bold">
        <TriangleAlert size={18} className="text-stop" aria-hidden /> Before the first run
        <span className="ml-auto text-sm font-normal text-ink2">
          {done} of {view.cautions.length} checked. Space ticks one and goes to the next
        </span>
      </h3>
      <ul ref={box} className="mt-2.5 grid gap-x-6 gap-y-2.5 xl:grid-cols-2">
        {view.cautions.map((caution) => (
          <li key={caution.code} className="flex items-start gap-2.5">
            <Check label="" name={caution.title} checked={isTicked(caution.code)} onChange={(on) => tick(caution.code, on)} />
            <span>
              <b className="block leading-snug font-semibold">{caution.title}</b>
              <span className="text-note leading-snug text-ink2">{caution.says}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
