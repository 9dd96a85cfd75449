import { TriangleAlert } from "lucide-react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { useNotice } from "@/ui/notice";

/** What hurts people here, once before a session's first run. */
export function Cautions({ sessionId, cautions }: { sessionId: string; cautions: Schemas["Caution"][] }) {
  const { tell } = useNotice();
  const read = useWrite(() => data(api.POST("/api/sessions/{id}/cautions", { params: { path: { id: sessionId } } })));
  return (
    <section aria-label="Before the first run" className="mt-4 rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="flex items-center gap-2 font-bold">
        <TriangleAlert size={18} className="text-stop" aria-hidden /> Before the first run
      </h3>
      <ul className="mt-2.5 grid gap-x-6 gap-y-2.5 xl:grid-cols-2">
        {cautions.map((caution) => (
          <li key={caution.title} className="border-l-[3px] border-ochre pl-3">
            <b className="block leading-snug font-semibold">{caution.title}</b>
            <span className="text-[13px] leading-snug text-ink2">{caution.says}</span>
          </li>
        ))}
      </ul>
      <Button
        look="main"
        autoFocus
        className="mt-4"
        disabled={read.isPending}
        onClick={() => read.mutate(undefined, { onError: (error) => tell({ says: error.message, look: "stop" }) })}
      >
        All of this is so: start the runs
      </Button>
    </section>
  );
}
