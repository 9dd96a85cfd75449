import type { Schemas } from "@/api/client";
import { api, data } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Check } from "@/ui/check";
import { useNotice } from "@/ui/notice";

/** What to see to before the first run: ticked for this session, not for ever. */
export function Checklist({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const { tell } = useNotice();
  const tick = useWrite((body: Schemas["Tick"]) =>
    data(api.POST("/api/sessions/{id}/ticks", { params: { path: { id: sessionId } }, body })),
  );
  const done = view.cautions.filter((caution) => view.ticked.includes(caution.code)).length;
  const all = view.cautions_read;
  return (
    <section aria-label="Before the first run" className="rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="flex items-baseline justify-between text-[13px] font-[650] text-ink2">
        Before the first run
        <span className="font-normal">{all ? "seen to" : `${String(done)} of ${String(view.cautions.length)}`}</span>
      </h3>
      <ul className="mt-2 grid gap-2">
        {view.cautions.map((caution) => (
          <li key={caution.code} className="flex items-start gap-2">
            <Check
              label=""
              name={caution.title}
              checked={view.ticked.includes(caution.code) || (all && done === 0)}
              onChange={(ticked) =>
                tick.mutate({ code: caution.code, ticked }, { onError: (error) => tell({ says: error.message, look: "stop" }) })
              }
            />
            <details className="group">
              <summary className="cursor-pointer list-none leading-snug underline-offset-3 group-open:font-semibold hover:underline">
                {caution.title}
              </summary>
              <p className="mt-1 text-[13px] leading-snug text-ink2">{caution.says}</p>
            </details>
          </li>
        ))}
      </ul>
    </section>
  );
}
