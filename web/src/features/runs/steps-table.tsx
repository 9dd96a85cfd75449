import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";

/** Rows of level steps as they were typed; together they become the run. */
export function StepsTable({ rows, pending, onFinish }: { rows: Schemas["StepLine"][]; pending: boolean; onFinish: () => void }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label="Level steps" className="mt-3 rounded-lg border border-copper bg-sheet px-4 py-2.5">
      <div className="flex items-center justify-between gap-3">
        <h3 className="text-note font-firm text-ink2">Level steps so far, not yet a run</h3>
        <Button look="main" size="compact" disabled={pending} onClick={onFinish}>
          Make a run of them
        </Button>
      </div>
      <ul className="num mt-1 grid text-base">
        {rows.map((row) => (
          <li key={row.entry + String(row.step.level_db)} className="border-t border-hair py-1 first:border-t-0">
            {row.entry}
          </li>
        ))}
      </ul>
    </section>
  );
}

export const useFinishSteps = (sessionId: string) =>
  useWrite(
    (body: Schemas["StepsToFinish"]) => data(api.POST("/api/sessions/{id}/steps", { params: { path: { id: sessionId } }, body })),
    [sessionId],
  );
